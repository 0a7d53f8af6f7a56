"""The two engines: one runs every pass, the other jumps over passes that are certain to change nothing."""

from __future__ import annotations

from abc import abstractmethod
from dataclasses import replace

from ..clock import NEVER
from ..contacts import ContactCourse, contact_course
from ..document import Bench, Scenario, touches
from ..drives import FULL
from ..electrics import FLOATING, circuit_of, level_changes
from ..program import program_of
from .answering import Hands, only_hands, played, with_repeats
from .contract import Budget, Engine, Run
from .faults import Fault, Faults, several
from .firmware import Firmware
from .resuming import Going, taken_up
from .trace import Kind, Recording, Trace
from .watchdog import Exhausted, Reset


class _PassEngine(Engine):
    """What both share: boot, resets, the budget, the trace."""

    @abstractmethod
    def _ahead(self, firmware: Firmware, start_us: int, end_us: int) -> int:
        """Where the next pass that must be run begins."""

    def _until_its_end(
        self,
        firmware: Firmware,
        scenario: Scenario,
        budget: Budget,
        known: tuple[int, str],
        hands: Hands | None,
        going: Going | None = None,
    ) -> tuple[int, str]:
        """Boot, and pass after pass: where the last ended, and what stopped it before the scenario's end, if anything
        did."""
        length_us, passes_left = scenario.length_us, budget.passes // firmware.weight
        known_us, part = known
        followed_us, by_kernel = length_us, firmware.blocking.processor is not None
        keep_us = going.keep_us[0] if going else NEVER
        try:
            if going and going.begun:
                clock_us = going.begun.at_us
            else:
                clock_us = firmware.boot(Reset(0, "power"), scenario.counter_start_ms)
            if hands is not None:
                hands.look()
            while clock_us < length_us:
                if going and clock_us >= keep_us:
                    keep_us = going.keep(firmware, clock_us)
                if by_kernel:
                    followed_us = firmware.followed_until(length_us)
                clock_us = self._ahead(firmware, clock_us, min(followed_us, known_us))
                if clock_us >= length_us:
                    break
                if passes_left <= 0 and (going is None or going.runs_out(firmware, clock_us)):
                    return clock_us, f"it had used its budget of {budget.passes // firmware.weight:,} passes"
                if passes_left % 1000 == 0 and firmware.changes > budget.changes:
                    return clock_us, f"it had used its budget of {budget.changes:,} changes"
                if clock_us >= followed_us:
                    return clock_us, "the kernel is followed no longer than that"
                if clock_us >= known_us:
                    return clock_us, f"“{part}” moves too often to be followed further"
                passes_left -= 1
                try:
                    clock_us = firmware.one_pass(clock_us)
                except Reset as reset:
                    firmware.cut_off(reset)
                    clock_us = firmware.boot(reset, 0)
                if hands is not None:
                    hands.look()
        except Exhausted as without_end:
            return without_end.at_us, f"it had come to {without_end.what}"
        return clock_us, ""

    def run(
        self,
        bench: Bench,
        scenario: Scenario,
        seed: int | None = None,
        budget: Budget | None = None,
        fault: Faults = None,
    ) -> Run:
        """See `Engine.run`."""
        seed = scenario.seed if seed is None else seed
        budget = budget or Budget()
        faults = several(fault)
        scenario = with_repeats(scenario, seed) if scenario.repeats else scenario
        if not only_hands(scenario):
            return played(scenario, seed, lambda one: self._run(bench, one, seed, budget, faults))
        return self._run(bench, scenario, seed, budget, faults)

    def go_on(self, bench: Bench, scenario: Scenario, budget: Budget, fault: Faults, going: Going) -> Run:
        """The run of a scenario that does not answer, from a checkpoint of one that is the same up to there, with
        another put down on its way."""
        return self._run(bench, scenario, scenario.seed, budget, several(fault), going)

    def _run(
        self,
        bench: Bench,
        scenario: Scenario,
        seed: int,
        budget: Budget,
        faults: tuple[Fault, ...],
        going: Going | None = None,
    ) -> Run:
        bench = program_of(bench).bench
        length_us = scenario.length_us
        courses = {part.id: contact_course(bench, part, scenario, seed) for part in bench.contacts}
        courses = {ident: _faulty(course, ident, faults) for ident, course in courses.items()}
        firmware = Firmware(bench, courses, scenario, seed, faults)
        if going and going.begun:
            firmware = taken_up(going.begun, firmware)
        hands = _hands(bench, scenario, seed, firmware, courses, faults) if scenario.answers else None
        known = _known_until(bench, firmware, courses)
        clock_us, why = self._until_its_end(firmware, scenario, budget, known, hands, going)
        stopped = f"The run stopped at {clock_us / 1e6:.3f} s: {why}." if why else None
        end_us = min(clock_us, length_us) if stopped else length_us
        firmware.reading.catch_up(end_us)
        moves = {part: course.moves for part, course in courses.items()}
        for fault in faults:
            if fault.kind == "welded":
                _weld(firmware.driving.outputs[fault.of].values, fault.at_us, fault.over_us)
        trace = _trace(bench, firmware, courses, end_us)
        return Run(scenario.name, seed, trace, moves, firmware.program.idle_us, stopped, tuple(firmware.boots))


def _hands(
    bench: Bench,
    scenario: Scenario,
    seed: int,
    firmware: Firmware,
    courses: dict[str, ContactCourse],
    faults: tuple[Fault, ...],
) -> Hands:
    """Hands that answer on this board: each press more is one in the course of its contact."""
    lines = {line.id: line for line in bench.contacts}

    def move(ident: str, since_us: int, now: Scenario) -> None:
        line = lines[ident]
        courses[ident] = _faulty(contact_course(bench, line, now, seed), ident, faults)
        touched = touches(scenario, ident)
        levels = level_changes(line, bench.the_board, courses[ident], scenario.length_us, seed, touched)
        firmware.reading.contacts[ident].follow(levels, since_us)

    return Hands(scenario, seed, firmware.recorded, move)


def _known_until(bench: Bench, firmware: Firmware, courses: dict[str, ContactCourse]) -> tuple[int, str]:
    """As far as it was worked out how the inputs move, and of which part it was not worked out further."""
    ends = [(course.until_us, bench.contact(ident).name) for ident, course in courses.items()]
    ends += [(sensed.known_until_us, bench.part(ident).name) for ident, sensed in firmware.reading.sensed.items()]
    return min(((until_us, name) for until_us, name in ends if until_us is not None), default=(NEVER, ""))


def _contact_signal(part_id: str, course: ContactCourse) -> Recording:
    recording = Recording(Kind.CONTACT, part_id)
    for at_us, touching in course.changes:
        recording.add(at_us, 1 if touching else 0)
    return recording


def _held(course: ContactCourse, from_us: int, until_us: int, touching: bool) -> ContactCourse:
    """The contact, touching between two instants, or not; what is done to the part goes on."""
    before = [change for change in course.changes if change[0] < from_us]
    after = [change for change in course.changes if change[0] >= until_us]
    meanwhile = course.changes[: len(course.changes) - len(after)]
    kept = before
    if not kept or kept[-1][1] != touching:
        kept.append((from_us, touching))
    if meanwhile and meanwhile[-1][1] != touching:
        kept.append((until_us, meanwhile[-1][1]))
    if after and after[0][1] == kept[-1][1]:
        after = after[1:]
    return replace(course, changes=(*kept, *after))


def _faulty(course: ContactCourse, ident: str, faults: tuple[Fault, ...]) -> ContactCourse:
    """The contact as faults have it: it does not let go, or its wire is off."""
    for fault in faults:
        if fault.of == ident and fault.kind in ("closed", "off"):
            course = _held(course, fault.at_us, fault.over_us, touching=fault.kind == "closed")
    return course


def _weld(values: Recording, from_us: int, until_us: int) -> None:
    """What the output really does: on once it is on, whatever the pin says, until it is mended."""
    rows, last, stays = [], 0, False
    for at_us, value in zip(values.times_us, values.values, strict=True):
        if stays and at_us >= until_us:
            stays = False
            if last != 1:
                rows.append((until_us, last))
        if not stays and from_us <= at_us < until_us and 1 in (last, value):
            stays = True
            if last != 1:
                rows.append((at_us, 1))
        elif not stays:
            rows.append((at_us, value))
        last = value
    if stays and last != 1 and until_us < NEVER:
        rows.append((until_us, last))
    values.times_us[:], values.values[:] = [at for at, _ in rows], [value for _, value in rows]


def _float_before_set_up(recording: Recording, boots: list[tuple[int, int]]) -> Recording:
    """The level at a pin with an internal pull: floating from power-on or reset until set-up switches the pull on."""
    floated = Recording(recording.kind, recording.of)
    for number, (from_us, to_us) in enumerate(boots):
        floated.add(from_us, FLOATING)
        next_boot_us = boots[number + 1][0] if number + 1 < len(boots) else None
        level = 0
        for at_us, value in zip(recording.times_us, recording.values, strict=True):
            if at_us <= to_us:
                level = value
        floated.add(to_us, level)
        for at_us, value in zip(recording.times_us, recording.values, strict=True):
            if to_us < at_us and (next_boot_us is None or at_us < next_boot_us):
                floated.add(at_us, value)
    return floated


def _trace(bench: Bench, firmware: Firmware, courses: dict[str, ContactCourse], end_us: int) -> Trace:
    found: list[Recording] = []
    for part, slot in zip(bench.contacts, firmware.reading.contacts.values(), strict=True):
        levels = slot.levels
        circuit = circuit_of(part, bench.the_board)
        if circuit.held and all(branch.inside for branch in circuit.held) and circuit.other is None:
            levels = _float_before_set_up(levels, firmware.boots)
        found += [_contact_signal(part.id, courses[part.id]), levels, slot.readings, slot.cleaned, slot.events]
    for sensed in firmware.reading.sensed.values():
        found += [*sensed.world(), *sensed.recordings]
    found += firmware.machines.recordings
    for output in firmware.driving.order:
        found.append(output.values)
        dimmed = any(0 < level < FULL for level in output.duty.values)
        found += [
            one
            for one, kept in ((output.duty, dimmed), (output.pitch, True), (output.cuts, True))
            if kept and one.values
        ]
    found += [*firmware.turning.recordings, *firmware.showing.recordings]
    watchdog, processor = firmware.watchdog, firmware.blocking.processor
    found += processor.jobs(firmware.boots, end_us) if processor else firmware.tasks.jobs
    found += [firmware.passes, watchdog.blocked, watchdog.resets]
    found += [one for one in (watchdog.barks, firmware.memory.writes) if one.values]
    return Trace(end_us, tuple(one.cut(end_us) for one in found))


class PlainEngine(_PassEngine):
    """Runs every pass. Slow, and what the other is held against."""

    def _ahead(self, firmware: Firmware, start_us: int, end_us: int) -> int:
        return start_us


class SkippingEngine(_PassEngine):
    """Jumps a whole number of idle passes to the next one that can matter."""

    def _ahead(self, firmware: Firmware, start_us: int, end_us: int) -> int:
        count = firmware.idle_passes(start_us, end_us)
        return firmware.skip(start_us, count) if count else start_us
