"""A pass taken apart: every block with what it usually takes, and at the longest."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

from ..debounce import METHODS
from ..document import Bench, Channel, ContactLine, Machine, Measure, Press, Task, TextLine
from ..document.parts import Display
from ..engine import Kind, Run
from ..program import LATE, Program, Stage, program_of
from ..showing import write_us

DOES = {"compute": "works", "sample": "samples", "print": "prints", "send": "sends", "refresh": "refreshes"}


@dataclass(frozen=True)
class Block:
    """One block of a pass. `what` is what a run calls it where it holds the pass; `why` says what makes its longest."""

    kind: str
    of: str
    name: str
    usual_us: int
    longest_us: int
    what: str = ""
    why: str = ""


@dataclass(frozen=True)
class Anatomy:
    """All blocks of a pass in their order. The longest pass is that in which everything comes together."""

    blocks: tuple[Block, ...]

    @property
    def usual_us(self) -> int:
        """A pass with nothing to do."""
        return sum(block.usual_us for block in self.blocks)

    @property
    def longest_us(self) -> int:
        """A pass in which every block takes its longest."""
        return sum(block.longest_us for block in self.blocks)

    @property
    def longest(self) -> Block:
        """The block that adds most to the longest pass."""
        return max(self.blocks, key=lambda block: block.longest_us - block.usual_us)


def _held_us(bench: Bench, ident: str) -> int:
    return max(
        (
            one.hold_us
            for scenario in bench.scenarios
            for one in scenario.stimuli
            if isinstance(one, Press) and one.input == ident
        ),
        default=0,
    )


def serial_wait_us(bench: Bench, characters: int) -> int:
    """How long so many characters wait for room at the longest: the buffer full of those that went before."""
    serial = bench.firmware.serial
    others = sum(task.characters for task in bench.firmware.tasks if task.talks)
    waiting = min(serial.buffer_bytes, max(others - characters, 0))
    return round(max(waiting + characters - serial.buffer_bytes, 0) * serial.character_us)


Longest = tuple[int, str]  # µs that a block can take besides what it usually does, and why


def _read(bench: Bench, part: Any) -> Longest:
    if isinstance(part, ContactLine):
        debounce = bench.debounce(part.id)
        method = METHODS[debounce.method]
        if not (method.blocks and debounce.interval_us):
            return 0, ""
        held_us = _held_us(bench, part.id) if method.by == "looking" else 0
        return debounce.interval_us + held_us, "waits" + (" until it is released" if held_us else "")
    if isinstance(bench.firmware.readings.get(part.id), Measure) and bench.the_board.analogue:
        return bench.the_board.analogue.convert_us, "converts"
    return 0, ""


def _machine(bench: Bench, machine: Machine) -> Longest:
    if bench.firmware.school != "delays":
        return 0, ""
    waits = [
        getattr(transition.on, "after_us", 0) or 0
        for transition in machine.transitions
        if transition.on.kind == "timeout"
    ]
    stands_us = max(waits, default=0)
    return stands_us, "waits out its time" if stands_us else ""


def _task(bench: Bench, task: Task) -> Longest:
    run_us = task.run_us if task.blocking else min(task.run_us, task.slice_us)
    waits_us = serial_wait_us(bench, task.characters) if task.talks and task.blocking else 0
    return run_us + waits_us, DOES[task.does] + (", waits for room in the transmit buffer" if waits_us else "")


def _drive(bench: Bench, channel: Channel) -> Longest:
    drives = (row for machine in bench.firmware.machines for row in bench.drives_of(machine))
    held_us = max((drive.blocks_us for _, output, drive in drives if output == channel.id), default=0)
    return held_us, "holds the loop" if held_us else ""


def _show(bench: Bench, line: TextLine) -> Longest:
    if isinstance(line.part, Display):
        return write_us(line.part, line.columns), "writes its line"
    waits_us = serial_wait_us(bench, line.columns + 1)
    return waits_us, "waits for room in the transmit buffer" if waits_us else ""


# By stage of the program: what a run calls its blocks where they hold the pass, what they take at the longest.
LONGEST: dict[Stage, tuple[str, Callable[[Bench, Any], Longest]]] = {
    Stage.READ: ("debounce", _read),
    Stage.MACHINE: ("machine", _machine),
    Stage.TASK: ("task", _task),
    Stage.DRIVE: ("drive", _drive),
    Stage.SHOW: ("text", _show),
    Stage.TURN: ("turn", lambda bench, part: (0, "")),
}
WHOLE = {  # blocks that are about nothing but the loop: their name, what a run calls them, why they take what they take
    Stage.BASE: ("The loop itself", "", ""),
    Stage.TAIL: ("Delay at the end", "tail", "a delay"),
    Stage.SLEEP: ("Asleep", "sleep", "sleeps"),
}


def _keeping(bench: Bench) -> list[Block]:
    """All that is written to the store in a pass, as one block."""
    stored = [keep for keep in bench.firmware.keeps if keep.where == "store" and keep.when in LATE]
    if not stored or not (store := bench.the_board.store):
        return []
    length_us = sum(bench.kept_bytes(keep.of) * store.write_us for keep in stored)
    each = any(keep.when == "feed" for keep in stored)
    return [Block("keep", "", "Keeping", length_us if each else 0, length_us, "keeping", "writes what is kept")]


def anatomy(bench: Bench) -> Anatomy:
    """The blocks of a bench's pass that take time, as its loop style has them; what belongs to tasks of a kernel is not
    the loop's."""
    return _anatomy(program_of(bench))


@lru_cache(maxsize=2)  # several findings ask for that of the same program
def _anatomy(program: Program) -> Anatomy:
    bench = program.bench
    blocks: list[Block] = []
    for one in program.blocks:
        if one.owner:
            continue
        kind, of, usual_us = str(one.stage), one.of, one.takes_us
        if one.stage in WHOLE and usual_us:
            name, what, why = WHOLE[one.stage]
            blocks.append(Block(kind, "", name, usual_us, usual_us, what, why))
        elif one.stage in LONGEST:
            what, longest = LONGEST[one.stage]
            more_us, why = longest(bench, one.subject)
            called = f"{what} {of}" if one.stage is not Stage.READ or isinstance(one.subject, ContactLine) else ""
            blocks.append(Block(kind, of, one.subject.name, usual_us, usual_us + more_us, called, why))
        elif one.stage is Stage.KEEP and not any(block.kind == "keep" for block in blocks):
            blocks += _keeping(bench)
    return Anatomy(tuple(blocks))


def longest_of(bench: Bench, run: Run) -> tuple[int, Anatomy]:
    """The longest pass of a run: when it began, and its blocks as they were there."""
    passes = run.trace.signal(Kind.PASS)
    if not passes.times_us:
        return 0, anatomy(bench)
    place = max(range(len(passes.times_us)), key=lambda n: (passes.values[n][0], -n))
    at_us, length_us = passes.times_us[place], passes.values[place][0]
    blocked = run.trace.signal(Kind.BLOCKED)
    held: dict[str, int] = {}
    for from_us, (spent_us, what) in zip(blocked.times_us, blocked.values, strict=True):
        if at_us <= from_us < at_us + length_us:
            what = what.replace("serial ", "task ", 1)
            held[what] = held.get(what, 0) + spent_us
    whole = anatomy(bench)
    blocks = [
        replace(one, longest_us=one.usual_us + held.pop(one.what, 0) if one.what else one.usual_us)
        for one in whole.blocks
    ]
    blocks += [Block("fault", "", what, 0, spent_us, what, what) for what, spent_us in held.items()]
    return at_us, Anatomy(tuple(blocks))
