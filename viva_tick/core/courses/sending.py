"""Numbers that a scenario sends over the serial line, or says to a module that may not recognise it."""

from __future__ import annotations

from dataclasses import dataclass

from ..document import Command, Listen, Scenario
from ..document.parts import Commands
from ..seeds import stream

BITS_A_CHARACTER = 10  # start, eight, stop


@dataclass(frozen=True)
class Arrival:
    """`bytes_us` are when each byte of it is in the receive buffer; empty where the module did not recognise it."""

    sent_us: int
    number: int
    bytes_us: tuple[tuple[int, int], ...]


def active_words(part: Commands, reading: Listen) -> frozenset[int] | None:
    """The numbers that a module listens for at once, where it cannot for all: the first that the firmware has a name
    for. None: for all."""
    if not part.active_most or part.source == "typed":
        return None
    return frozenset([reading.number(n) for n, name in enumerate(reading.names) if name][: part.active_most])


def words_after(part: Commands, sent: tuple[int, ...]) -> frozenset[int] | None:
    """The numbers that a module listens for after it was sent these bytes; None where they mean nothing to it."""
    found = next((one for one in part.sets if one.bytes == sent), None)
    if found is None:
        return None
    return frozenset(part.number(part.names.index(word)) for word in found.words)


def sent(
    part: Commands,
    scenario: Scenario,
    seed: int,
    ending: tuple[int, ...] = (),
    active: frozenset[int] | None = None,
) -> tuple[Arrival, ...]:
    """Everything that is sent, in order of time; what comes while the line is busy waits for it. `ending` are the
    characters that the other end puts after a number; of `active` ones, if given, only those are recognised."""
    rng = stream("said", seed, part.id)
    byte_us = -(-BITS_A_CHARACTER * 1_000_000 // part.baud)
    arrivals = []
    free_us = 0
    commands = [one for one in scenario.stimuli if isinstance(one, Command) and one.input == part.id]
    for command in sorted(commands, key=lambda command: command.at_us):
        asleep = active is not None and command.number not in active
        if rng.random() * 100 >= part.hits_at(command.cm) or asleep:
            arrivals.append(Arrival(command.at_us, command.number, ()))
            continue
        typed = part.source == "typed"
        codes = [*(str(command.number).encode() if typed else [command.number & 0xFF]), *ending]
        begin_us = max(command.at_us, free_us)
        row = tuple((begin_us + byte_us * (place + 1), code) for place, code in enumerate(codes))
        free_us = row[-1][0]
        arrivals.append(Arrival(command.at_us, command.number, row))
    return tuple(arrivals)
