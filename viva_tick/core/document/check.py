"""What the types alone cannot say: names that refer to each other, ids given twice, limits of a method."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

from ..boards import Board, boards
from ..debounce import METHODS
from ..switches import SWITCH_CLASSES
from .bench import Bench
from .check_machines import machine_problems
from .check_readings import each_once, either, reading_problems, unmoved
from .parts import (
    Commands,
    Encoder,
    KeyMatrix,
    Part,
    Potentiometer,
    RelayBoard,
    ResistiveSensor,
    Sensed,
    VoltageSource,
)
from .problems import Problem, pointer
from .scenario import Answer, ExpectNumber, ExpectOn, ExpectState, ExpectText, WhenOutput, WhenState, WhenText


def _twice(names: Iterable[str], where: str, field: str) -> Iterator[Problem]:
    seen: set[str] = set()
    for index, name in enumerate(names):
        if name in seen:
            yield Problem(pointer(*where.split("/"), index, field), f"“{name}” is taken; give each its own.")
        seen.add(name)


def board_problems(board: Board, where: str = "") -> Iterator[Problem]:
    """What the types let through in a board."""
    seen: set[str] = set()
    for index, pin in enumerate(board.pins):
        if pin.id in seen:
            yield Problem(f"{where}/pins/{index}/id", f"pin “{pin.id}” is there twice; give each its own name.")
        seen.add(pin.id)
    if board.low_below_share >= board.high_from_share:
        yield Problem(f"{where}/low_below_share", "low must end below where high begins.")
    for name in ("pull_up_ohm", "pull_down_ohm"):
        ohm = getattr(board, name)
        if ohm and ohm[0] > ohm[1]:
            yield Problem(f"{where}/{name}", f"{ohm[0]} Ω to {ohm[1]} Ω is the wrong way round.")
    if list(board.watchdog_steps_us) != sorted(set(board.watchdog_steps_us)):
        yield Problem(f"{where}/watchdog_steps_us", "watchdog steps rise, each once.")
    words = board.program
    if words and words.watchdog_header and len(words.watchdog_steps) != len(board.watchdog_steps_us):
        sentence = f"{len(words.watchdog_steps)} words for {len(board.watchdog_steps_us)} steps; give each step one."
        yield Problem(f"{where}/sketch/watchdog_steps", sentence)


def _board(bench: Bench) -> Iterator[Problem]:
    own = bench.own_board
    if own is None:
        if bench.board not in boards():
            yield Problem("/board", f"board “{bench.board}” is not known; {either(boards())} would do.")
        return
    if own.id != bench.board:
        yield Problem("/board", f"the bench's own board is “{own.id}”, not “{bench.board}”.")
    yield from board_problems(own, "/own_board")


def _ids(bench: Bench) -> Iterator[Problem]:
    """Parts, their contacts and their channels: no two may have one name, nor names that code could not tell apart."""
    taken: set[str] = set()
    for at, part in bench.placed:
        inner = {line.id for line in part.contacts(at)} | {channel.id for channel in part.channels(at)}
        inner |= {line.id for line in part.text_lines(at)}
        mine = {ident.replace(".", "-") for ident in inner} | {part.id}
        if clash := sorted(mine & taken):
            yield Problem(f"{at}/id", f"“{clash[0]}” is taken by another part; give each its own.")
        taken |= mine


def _one_part(at: str, part: Part) -> Iterator[Problem]:
    if isinstance(part, KeyMatrix) and part.keys and len(part.keys) != len(part.rows) * len(part.columns):
        crossings = len(part.rows) * len(part.columns)
        yield Problem(f"{at}/keys", f"{len(part.keys)} keys for {crossings} crossings; name each or none.")
    if isinstance(part, KeyMatrix):
        for index, name in enumerate(part.keys):
            if name in part.keys[:index]:
                yield Problem(f"{at}/keys/{index}", f"“{name}” is there twice; give each key its own name.")
    if isinstance(part, Encoder | KeyMatrix) and part.switch not in SWITCH_CLASSES:
        yield Problem(f"{at}/switch", f"class “{part.switch}” is not known; {either(SWITCH_CLASSES)} are.")
    if isinstance(part, RelayBoard):
        yield from _twice((relay.id for relay in part.relays), f"{at.strip('/')}/relays", "id")
    if isinstance(part, Commands):
        for index, name in enumerate(part.names):
            if name in part.names[:index]:
                yield Problem(f"{at}/names/{index}", f"“{name}” is there twice.")
        yield from each_once(f"{at}/numbers", part.numbers, len(part.names))
        for index, one in enumerate(part.sets):
            for word in one.words:
                if word not in part.names:
                    yield Problem(f"{at}/sets/{index}/words", f"{part.name} knows no “{word}”.")
    if isinstance(part, ResistiveSensor):
        if part.low.value == part.high.value or part.low.ohm == part.high.ohm:
            yield Problem(f"{at}/high", "the two points of the curve must differ, in value and in ohm.")
        if part.law == "power" and min(part.low.value, part.high.value) <= 0:
            yield Problem(f"{at}/low/value", "a power law has no zero; give values above it.")
        if part.law == "beta" and min(part.low.value, part.high.value) <= -KELVIN:
            yield Problem(f"{at}/low/value", "nothing is that cold.")
    elif isinstance(part, VoltageSource | Potentiometer) and part.least == part.most:
        yield Problem(f"{at}/most", "the two ends of the scale must differ.")
    if isinstance(part, VoltageSource) and part.least_mv == part.most_mv:
        yield Problem(f"{at}/most_mv", "the two ends of the voltage must differ.")
    if isinstance(part, ResistiveSensor):
        ends = ((part.low.value, part.low.ohm), (part.high.value, part.high.ohm))
        yield from _table(f"{at}/points", [(point.value, point.ohm) for point in part.points], *ends)
    elif isinstance(part, VoltageSource):
        volts = ((part.least, float(part.least_mv)), (part.most, float(part.most_mv)))
        yield from _table(f"{at}/points", [(point.value, float(point.mv)) for point in part.points], *volts)


Row = tuple[float, float]


def _table(at: str, rows: list[Row], one: Row, other: Row) -> Iterator[Problem]:
    """A table between two ends goes one way, in what is measured and in what it gives."""
    low, high = sorted((one, other))
    rising = high[1] > low[1]
    before = low
    for number, row in enumerate(rows):
        if not low[0] < row[0] < high[0]:
            yield Problem(f"{at}/{number}", f"a point of the table is between its ends, {low[0]:g} and {high[0]:g}.")
            return
        if row[0] <= before[0]:
            yield Problem(f"{at}/{number}", "the points of a table are in order, each value once.")
            return
        if row[1] == before[1] or row[1] == high[1] or (row[1] > before[1]) != rising or (row[1] > high[1]) == rising:
            yield Problem(f"{at}/{number}", "a table goes one way: what it gives must not turn back between its ends.")
            return
        before = row


KELVIN = 273.15


def _parts(bench: Bench) -> Iterator[Problem]:
    yield from _ids(bench)
    yield from _twice((capture.id for capture in bench.captures), "captures", "id")
    for index, capture in enumerate(bench.captures):
        if (late := capture.late) is not None:
            at_us, above_us = capture.edges[late].at_us, capture.edges[late - 1].at_us
            where = pointer("captures", index, "edges", late, "at_us")
            yield Problem(
                where, f"{at_us} µs comes before the edge above it ({above_us} µs); put edges in order of time."
            )
    board = bench.own_board or boards().get(bench.board)
    for claim in bench.claims:
        if board and board.pin(claim.pin) is None:
            there = either(found.id for found in board.pins)
            yield Problem(claim.where, f"the board has no pin “{claim.pin}”; {there} are there.")
    for at, part in bench.placed:
        yield from _one_part(at, part)
    captures = {capture.id for capture in bench.captures}
    for line in bench.contacts:
        where = f"{line.at}/contact"
        if line.contact.kind == "model" and line.contact.switch not in SWITCH_CLASSES:
            yield Problem(
                where + "/switch", f"class “{line.contact.switch}” is not known; {either(SWITCH_CLASSES)} are."
            )
        elif line.contact.kind == "capture" and line.contact.capture not in captures:
            yield Problem(where + "/capture", f"there is no capture “{line.contact.capture}” on this bench.")
    inputs = {part.id for part in bench.inputs}
    for index, output in enumerate(bench.outputs):
        if output.paired_with and output.paired_with not in inputs:
            yield Problem(
                pointer("outputs", index, "paired_with"), f"there is no input “{output.paired_with}” on this bench."
            )


def _debounce(bench: Bench) -> Iterator[Problem]:
    inputs = {line.id for line in bench.contacts}
    keyed = {part.id for _, part in bench.sensed if isinstance(part, KeyMatrix)}
    for name in bench.taps:
        if name not in inputs | keyed:
            yield Problem(pointer("taps", name), f"there is no input “{name}” on this bench.")
    for name in bench.firmware.gestures:
        if name not in inputs:
            yield Problem(pointer("firmware", "gestures", name), f"there is no contact “{name}” on this bench.")
    for name, debounce in bench.firmware.debounce.items():
        where = pointer("firmware", "debounce", name)
        if name not in inputs:
            yield Problem(where, f"there is no input “{name}” on this bench.")
        method = METHODS.get(debounce.method)
        if method is None:
            yield Problem(where + "/method", f"method “{debounce.method}” is not known; {either(METHODS)} are.")
        elif method.has_interval and debounce.interval_us > method.limits_us[1]:
            most = method.limits_us[1] // 1000
            yield Problem(
                where + "/interval_us", f"{debounce.interval_us // 1000} ms is too long; {most} ms is the most."
            )


def _scenarios(bench: Bench) -> Iterator[Problem]:
    yield from _twice((scenario.name for scenario in bench.scenarios), "scenarios", "name")
    inputs = {line.id: line.part for line in bench.contacts}
    parts: dict[str, Sensed] = {part.id: part for _, part in bench.sensed}
    for index, scenario in enumerate(bench.scenarios):
        for number, stimulus in enumerate(scenario.stimuli):
            where = ("scenarios", index, "stimuli", number)
            if why := unmoved(stimulus, inputs, parts):
                yield Problem(pointer(*where, "input"), why)
            if stimulus.at_us >= scenario.length_us:
                yield Problem(pointer(*where, "at_us"), f"comes after the scenario's end ({scenario.length_us} µs).")
        for number, upset in enumerate(scenario.upsets):
            if upset.at_us >= scenario.length_us:
                at = pointer("scenarios", index, "upsets", number, "at_us")
                yield Problem(at, f"comes after the scenario's end ({scenario.length_us} µs).")
        for number, again in enumerate(scenario.repeats):
            if why := unmoved(again.do, inputs, parts):
                yield Problem(pointer("scenarios", index, "repeats", number, "do", "input"), why)
        for number, answer in enumerate(scenario.answers):
            where = ("scenarios", index, "answers", number)
            for field, done in (("do", answer.do), ("instead", answer.instead)):
                if done is not None and (why := unmoved(done, inputs, parts)):
                    yield Problem(pointer(*where, field, "input"), why)
            yield from _waited_for(bench, where, answer)


def _waited_for(bench: Bench, where: tuple[Any, ...], answer: Answer) -> Iterator[Problem]:
    """What an answer waits for must be there."""
    to = answer.to
    if isinstance(to, WhenOutput) and to.output not in {channel.id for channel in bench.channels}:
        yield Problem(pointer(*where, "to", "output"), f"there is no output “{to.output}” on this bench.")
    elif isinstance(to, WhenText) and to.of not in {line.id for line in bench.text_lines}:
        yield Problem(pointer(*where, "to", "of"), f"“{to.of}” shows no text on this bench.")
    elif isinstance(to, WhenState):
        states = {machine.id: {state.id for state in machine.states} for machine in bench.firmware.machines}
        if to.state not in states.get(to.machine, ()):
            yield Problem(pointer(*where, "to", "state"), f"there is no state “{to.state}” in “{to.machine}”.")


def _expected(bench: Bench) -> Iterator[Problem]:
    contacts, channels = {line.id for line in bench.contacts}, {channel.id for channel in bench.channels}
    machines = {machine.id: {state.id for state in machine.states} for machine in bench.firmware.machines}
    variables, lines = {one.id for one in bench.firmware.variables}, {line.id for line in bench.text_lines}
    sensed = {part.id for _, part in bench.sensed}
    for index, scenario in enumerate(bench.scenarios):
        for number, one in enumerate(scenario.expects):
            where = ("scenarios", index, "expects", number)
            if isinstance(one, ExpectOn):
                if one.output not in channels:
                    yield Problem(pointer(*where, "output"), f"there is no output “{one.output}” on this bench.")
                if one.from_us >= one.to_us:
                    yield Problem(pointer(*where, "to_us"), "ends before it begins.")
            elif isinstance(one, ExpectNumber):
                if one.variable not in variables:
                    yield Problem(pointer(*where, "variable"), f"there is no variable “{one.variable}” on this bench.")
                if one.from_us > one.to_us:
                    yield Problem(pointer(*where, "to_us"), "ends before it begins.")
            elif isinstance(one, ExpectText):
                if one.of not in lines:
                    yield Problem(pointer(*where, "of"), f"“{one.of}” shows no text on this bench.")
            elif isinstance(one, ExpectState):
                if one.state not in machines.get(one.machine, ()):
                    yield Problem(pointer(*where, "state"), f"there is no state “{one.state}” in “{one.machine}”.")
            elif one.what == "event" and not one.event:
                yield Problem(pointer(*where, "event"), "say which event is counted.")
            elif one.of not in {"press": contacts, "on": channels, "event": contacts | sensed}[one.what]:
                yield Problem(pointer(*where, "of"), f"there is nothing “{one.of}” that could be counted so.")


def _paced(bench: Bench) -> Iterator[Problem]:
    firmware = bench.firmware
    known = {one.id for one in firmware.variables} | {machine.id for machine in firmware.machines}
    yield from _twice((keep.of for keep in firmware.keeps), "firmware/keeps", "of")
    for index, keep in enumerate(firmware.keeps):
        if keep.of not in known:
            where = pointer("firmware", "keeps", index, "of")
            yield Problem(where, f"there is no variable and no machine “{keep.of}” that could be kept.")
    for index, task in enumerate(firmware.tasks):
        if task.holds_us > task.run_us:
            where = pointer("firmware", "tasks", index, "holds_us")
            yield Problem(where, f"{task.holds_us} µs is longer than its work ({task.run_us} µs).")


def _kernel(bench: Bench) -> Iterator[Problem]:
    """What stands between the kernel's tasks: every name once, every step about what is there."""
    between = bench.firmware.kernel.between
    fields = ("bodies", "flags", "mutexes", "queues", "timers")
    ids = [task.id for task in bench.firmware.tasks] + ["loop", "tick", "idle"]
    for field in fields:
        for number, one in enumerate(getattr(between, field)):
            if one.id in ids:
                where = pointer("firmware", "kernel", "between", field, number, "id")
                yield Problem(where, f"“{one.id}” is there twice; give each its own.")
            ids.append(one.id)
    ownable = {line.id for line in bench.contacts} | {part.id for _, part in bench.sensed}
    ownable |= {machine.id for machine in bench.firmware.machines}
    owned: set[str] = set()
    for number, body in enumerate(between.bodies):
        for rank, ident in enumerate(body.owns):
            where = pointer("firmware", "kernel", "between", "bodies", number, "owns", rank)
            if ident not in ownable:
                yield Problem(where, f"there is no input and no machine “{ident}” on this bench.")
            elif ident in owned:
                yield Problem(where, f"“{ident}” belongs to another task already.")
            owned.add(ident)
    flags, mutexes, queues, timers = ({one.id for one in getattr(between, field)} for field in fields[1:])
    known = {"take": flags | mutexes, "give": flags | mutexes, "put": queues, "receive": queues, "start": timers}
    for _, place, steps in between.lists():
        for number, step in enumerate(steps):
            of = getattr(step, "of", None)
            if of is not None and of not in (known_here := known[step.do]):
                where = pointer("firmware", "kernel", "between", *place, number, "of")
                yield Problem(where, f"there is no “{of}” to {step.do}; {either(sorted(known_here))} are there.")


def _fed(bench: Bench) -> Iterator[Problem]:
    watchdog = bench.firmware.watchdog
    if "reports" in watchdog.places and bench.firmware.school == "kernel":
        yield Problem("/firmware/watchdog/feed", "that all tasks report is for the loop; under a kernel name a task.")


def cross_check(bench: Bench) -> list[Problem]:
    """Every fault that the types let through."""
    problems = [
        *_board(bench),
        *_parts(bench),
        *_debounce(bench),
        *reading_problems(bench),
        *_scenarios(bench),
        *_expected(bench),
    ]
    problems += machine_problems(bench)
    problems += _paced(bench)
    problems += _fed(bench)
    problems += _kernel(bench)
    firmware = bench.firmware
    problems += _twice((machine.id for machine in firmware.machines), "firmware/machines", "id")
    problems += _twice((task.id for task in firmware.tasks), "firmware/tasks", "id")
    problems += _twice((one.id for one in firmware.variables), "firmware/variables", "id")
    problems += _twice((row.id for row in firmware.rows), "firmware/rows", "id")
    for index, machine in enumerate(firmware.machines):
        problems += _twice((state.id for state in machine.states), f"firmware/machines/{index}/states", "id")
    return problems
