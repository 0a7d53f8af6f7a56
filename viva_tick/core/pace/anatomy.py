"""A pass taken apart: every block with what it usually takes, and at the longest."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ..debounce import METHODS
from ..document import Bench, ContactLine, Measure, Press
from ..document.parts import Encoder
from ..engine import Kind, Run
from ..program import asleep_us, in_its_school

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


def _drive_longest(bench: Bench) -> dict[str, int]:
    """For each output the longest that a drive of it holds the pass."""
    found: dict[str, int] = {}
    for machine in bench.firmware.machines:
        for _, output, drive in machine.drives:
            found[output] = max(found.get(output, 0), drive.blocks_us)
    return found


def serial_wait_us(bench: Bench, characters: int) -> int:
    """How long so many characters wait for room at the longest: the buffer full of those that went before."""
    serial = bench.firmware.serial
    others = sum(task.characters for task in bench.firmware.tasks if task.talks)
    waiting = min(serial.buffer_bytes, max(others - characters, 0))
    return round(max(waiting + characters - serial.buffer_bytes, 0) * serial.character_us)


def anatomy(bench: Bench) -> Anatomy:
    """The blocks of a bench's pass, in the school that it is kept in."""
    bench = in_its_school(bench)
    cost = bench.costs
    firmware = bench.firmware
    blocks = [Block("base", "", "The loop itself", cost.base, cost.base)]
    for part in bench.readers:
        if isinstance(part, ContactLine):
            debounce = bench.debounce(part.id)
            method = METHODS[debounce.method]
            longest_us, why = cost.read, ""
            if method.blocks and debounce.interval_us:
                held_us = _held_us(bench, part.id) if method.by == "looking" else 0
                longest_us += debounce.interval_us + held_us
                why = "waits" + (" until it is let go" if held_us else "")
            blocks.append(Block("read", part.id, part.name, cost.read, longest_us, f"debounce {part.id}", why))
            continue
        usual_us = 2 * cost.read if isinstance(part, Encoder) and part.read_by == "polling" else cost.task
        longest_us, why = usual_us, ""
        if isinstance(firmware.readings.get(part.id), Measure) and bench.the_board.analogue:
            longest_us += bench.the_board.analogue.convert_us
            why = "converts"
        blocks.append(Block("read", part.id, part.name, usual_us, longest_us, "", why))
    for machine in firmware.machines:
        stands_us = 0
        if firmware.school == "delays":
            waits = [getattr(way.on, "after_us", 0) or 0 for way in machine.transitions if way.on.kind == "timeout"]
            stands_us = max(waits, default=0)
        why = "stands out its time" if stands_us else ""
        blocks.append(
            Block("machine", machine.id, machine.name, cost.step, cost.step + stands_us, f"machine {machine.id}", why)
        )
    if firmware.school != "kernel":
        for task in firmware.tasks:
            run_us = task.run_us if task.blocking else min(task.run_us, task.slice_us)
            why = DOES[task.does]
            waits_us = serial_wait_us(bench, task.characters) if task.talks and task.blocking else 0
            if waits_us:
                why += ", waits for room in the transmit buffer"
            blocks.append(
                Block("task", task.id, task.name, cost.task, cost.task + run_us + waits_us, f"task {task.id}", why)
            )
    stored = [keep for keep in firmware.keeps if keep.where == "store" and keep.when != "interrupt"]
    if stored and (store := bench.the_board.store):
        length_us = sum(bench.kept_bytes(keep.of) * store.write_us for keep in stored)
        each = any(keep.when == "feed" for keep in stored)
        blocks.append(
            Block("keep", "", "Keeping", length_us if each else 0, length_us, "keeping", "writes what is kept")
        )
    holds = _drive_longest(bench)
    for channel in bench.channels:
        held_us = holds.get(channel.id, 0)
        why = "holds the loop" if held_us else ""
        blocks.append(
            Block("drive", channel.id, channel.name, cost.drive, cost.drive + held_us, f"drive {channel.id}", why)
        )
    if tail_us := firmware.loop.tail_delay_us:
        blocks.append(Block("tail", "", "Delay at the end", tail_us, tail_us, "tail", "a delay"))
    if slept_us := asleep_us(bench):
        blocks.append(Block("sleep", "", "Asleep", slept_us, slept_us, "sleep", "sleeps"))
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
