"""The blocks of a pass in their order: the one place where it stands what a pass is.

The engine runs them, the costs and the taking apart of a pass add them up, every target writes them down. A new stage
is one entry in `STAGES`, one stage of the engine, and one piece of each target.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any

from ..debounce import METHODS
from ..document import Bench, ContactLine, Keep, SignalEvent
from ..document.parts import Encoder
from ..gestures import chords_wanted

LATE = ("change", "feed", "every")  # what is kept in a pass, in this order


class Stage(StrEnum):
    """What a block does."""

    FEED = "feed"  # the watchdog, before anything else
    BASE = "base"  # the loop itself; the counter is read
    READ = "read"  # a contact or another input is read and cleaned
    CHORD = "chord"  # two contacts together
    SIGNAL = "signal"  # what a kernel's tasks have for the loop is taken
    MACHINE = "machine"
    TASK = "task"
    KEEP = "keep"  # what outlives a reset is written
    DRIVE = "drive"
    SHOW = "show"  # a line of text is written
    TURN = "turn"  # a servo
    TRACE = "trace"  # what has changed is said on the serial line
    WAIT = "wait"  # a debounce method that holds the pass stands out its interval
    STAND = "stand"  # kept with delays, a state's time is stood out
    TAIL = "tail"  # the delay at the end
    GUARD = "guard"  # the watchdog looks, and is fed where the pass ends
    RESTART = "restart"  # the board restarts itself, if an action has asked for it
    SLEEP = "sleep"
    YIELD = "yield"  # under a kernel, the loop waits for its next turn


@dataclass(frozen=True, slots=True)
class Block:
    """One block. `takes_us` of a pass in which it has nothing to do; `of` is the id of what it is about, `subject` that
    itself: a contact or input, a pair of contacts, a machine, a task, a keep, an output. `owner` is the task of the
    kernel that it belongs to; none: the loop."""

    stage: Stage
    takes_us: int = 0
    of: str = ""
    subject: Any = None
    owner: str = ""


def _feed(bench: Bench) -> Iterator[Block]:
    if bench.firmware.guards and "start" in bench.firmware.watchdog.places:
        yield Block(Stage.FEED)


def _base(bench: Bench) -> Iterator[Block]:
    yield Block(Stage.BASE, bench.costs.base)


def _reads(bench: Bench) -> Iterator[Block]:
    cost = bench.costs
    for one in bench.readers:
        if isinstance(one, ContactLine):
            yield Block(Stage.READ, cost.read, one.id, one)
        else:
            polled = isinstance(one, Encoder) and one.read_by == "polling"
            yield Block(Stage.READ, 2 * cost.read if polled else cost.task, one.id, one)


def _chords(bench: Bench) -> Iterator[Block]:
    for pair in chords_wanted(bench):
        yield Block(Stage.CHORD, 0, " ".join(pair), pair)


def _signals(bench: Bench) -> Iterator[Block]:
    heard = (t.on for machine in bench.firmware.machines for t in machine.transitions)
    for ident in dict.fromkeys(on.signal for on in heard if isinstance(on, SignalEvent)):
        yield Block(Stage.SIGNAL, 0, ident)


def _machines(bench: Bench) -> Iterator[Block]:
    for machine in bench.firmware.machines:
        yield Block(Stage.MACHINE, bench.costs.step, machine.id, machine)


def _tasks(bench: Bench) -> Iterator[Block]:
    """The highest priority first; under a kernel they are not the loop's."""
    if bench.firmware.school != "kernel":
        for task in sorted(bench.firmware.tasks, key=lambda task: -task.priority):
            yield Block(Stage.TASK, bench.costs.task, task.id, task)


def _keeps(bench: Bench) -> Iterator[Block]:
    late: list[Keep] = [keep for keep in bench.firmware.keeps if keep.when in LATE]
    for keep in sorted(late, key=lambda keep: LATE.index(keep.when)):
        yield Block(Stage.KEEP, 0, keep.of, keep)


def _drives(bench: Bench) -> Iterator[Block]:
    for channel in bench.channels:
        yield Block(Stage.DRIVE, bench.costs.drive, channel.id, channel)


def _shows(bench: Bench) -> Iterator[Block]:
    written = {ident for machine in bench.firmware.machines for ident in bench.driven_by(machine)}
    for line in bench.text_lines:
        if line.id in written:
            yield Block(Stage.SHOW, bench.costs.drive, line.id, line)


def _turns(bench: Bench) -> Iterator[Block]:
    for part in bench.servos:
        if any(part.id in machine.driven for machine in bench.firmware.machines):
            yield Block(Stage.TURN, bench.costs.drive, part.id, part)


def _traces(bench: Bench) -> Iterator[Block]:
    if bench.firmware.serial.traces and bench.the_board.uart is not None:
        yield Block(Stage.TRACE)


def _waits(bench: Bench) -> Iterator[Block]:
    for line in bench.contacts:
        method = METHODS[bench.debounce(line.id).method]
        if method.by == "looking" or method.blocks:
            yield Block(Stage.WAIT, 0, line.id, line)


def _stands(bench: Bench) -> Iterator[Block]:
    if bench.firmware.school == "delays":
        yield Block(Stage.STAND)


def _tail(bench: Bench) -> Iterator[Block]:
    if tail_us := bench.firmware.loop.tail_delay_us:
        yield Block(Stage.TAIL, tail_us)


def _guard(bench: Bench) -> Iterator[Block]:
    if bench.firmware.guards:
        yield Block(Stage.GUARD)


def _restart(bench: Bench) -> Iterator[Block]:
    if bench.firmware.restarts:
        yield Block(Stage.RESTART)


def _sleep(bench: Bench) -> Iterator[Block]:
    """It sleeps a step of its watchdog, where that wakes it; until a pin does, it takes nothing of a pass."""
    if sleep := bench.firmware.sleep:
        by_watchdog = sleep.wakes == "watchdog"
        yield Block(Stage.SLEEP, bench.the_board.watchdog_step_us(sleep.each_us) if by_watchdog else sleep.each_us)


def _yield(bench: Bench) -> Iterator[Block]:
    if bench.firmware.school == "kernel":
        yield Block(Stage.YIELD)


STAGES: dict[Stage, Callable[[Bench], Iterator[Block]]] = {
    Stage.FEED: _feed,
    Stage.BASE: _base,
    Stage.READ: _reads,
    Stage.CHORD: _chords,
    Stage.SIGNAL: _signals,
    Stage.MACHINE: _machines,
    Stage.TASK: _tasks,
    Stage.KEEP: _keeps,
    Stage.DRIVE: _drives,
    Stage.TURN: _turns,
    Stage.SHOW: _shows,
    Stage.TRACE: _traces,
    Stage.WAIT: _waits,
    Stage.STAND: _stands,
    Stage.TAIL: _tail,
    Stage.GUARD: _guard,
    Stage.RESTART: _restart,
    Stage.SLEEP: _sleep,
    Stage.YIELD: _yield,
}


OWNED = (Stage.READ, Stage.CHORD, Stage.MACHINE, Stage.DRIVE, Stage.SHOW, Stage.TURN)


def owners_of(bench: Bench) -> dict[str, str]:
    """By contact, input, machine, output and line, the task of the kernel that it belongs to. What is driven belongs to
    the first machine that drives it, two contacts together to whom the first one belongs."""
    between = bench.firmware.kernel.between
    if bench.firmware.school != "kernel" or not between.owners:
        return {}
    found = dict(between.owners)
    for machine in bench.firmware.machines:
        if owner := between.owners.get(machine.id):
            for driven in bench.driven_by(machine):
                found.setdefault(driven, owner)
        else:
            found |= dict.fromkeys(bench.driven_by(machine), "")
    return {ident: owner for ident, owner in found.items() if owner}


def blocks_of(bench: Bench) -> tuple[Block, ...]:
    """Every block of a bench's pass, in order."""
    blocks = (block for stage in STAGES.values() for block in stage(bench))
    owners = owners_of(bench)
    if not owners:
        return tuple(blocks)
    return tuple(
        replace(block, owner=owners.get(block.of.split(" ")[0], "")) if block.stage in OWNED else block
        for block in blocks
    )
