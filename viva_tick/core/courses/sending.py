"""Numbers that a scenario sends over the serial line, or says to a module that may not recognise it."""

from __future__ import annotations

from dataclasses import dataclass

from ..document import Command, Scenario
from ..document.parts import Commands
from ..seeds import stream

BITS_A_CHARACTER = 10  # start, eight, stop


@dataclass(frozen=True)
class Arrival:
    """`bytes_us` are when each byte of it is in the receive buffer; empty where the module did not recognise it."""

    sent_us: int
    number: int
    bytes_us: tuple[tuple[int, int], ...]


def sent(part: Commands, scenario: Scenario, seed: int, ending: tuple[int, ...] = ()) -> tuple[Arrival, ...]:
    """Everything that is sent, in order of time; what comes while the line is busy waits for it. `ending` are the
    characters that the other end puts after a number of one byte."""
    rng = stream("said", seed, part.id)
    byte_us = -(-BITS_A_CHARACTER * 1_000_000 // part.baud)
    arrivals = []
    free_us = 0
    commands = [one for one in scenario.stimuli if isinstance(one, Command) and one.input == part.id]
    for command in sorted(commands, key=lambda command: command.at_us):
        if rng.random() * 100 >= part.hit_percent:
            arrivals.append(Arrival(command.at_us, command.number, ()))
            continue
        typed = part.source == "typed"
        codes = [*str(command.number).encode(), 10] if typed else [command.number & 0xFF, *ending]
        begin_us = max(command.at_us, free_us)
        row = tuple((begin_us + byte_us * (place + 1), code) for place, code in enumerate(codes))
        free_us = row[-1][0]
        arrivals.append(Arrival(command.at_us, command.number, row))
    return tuple(arrivals)
