"""What the types alone cannot say: names that refer to each other, ids given twice, limits of a method."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from ..boards import boards
from ..debounce import METHODS
from ..kinds import INPUT_KINDS, OUTPUT_KINDS
from ..switches import SWITCH_CLASSES
from .bench import Bench
from .firmware import ContactEvent, Machine
from .problems import Problem, pointer


def _either(names: Iterable[str]) -> str:
    return ", ".join(names) or "none"


def _twice(names: Iterable[str], where: str, field: str) -> Iterator[Problem]:
    seen: set[str] = set()
    for index, name in enumerate(names):
        if name in seen:
            yield Problem(pointer(*where.split("/"), index, field), f"“{name}” is taken; give each its own.")
        seen.add(name)


def _parts(bench: Bench) -> Iterator[Problem]:
    board = boards().get(bench.board)
    if board is None:
        yield Problem("/board", f"board “{bench.board}” is not known; {_either(boards())} would do.")
    yield from _twice((part.id for part in bench.inputs), "inputs", "id")
    taken = {part.id for part in bench.inputs}
    for index, part in enumerate(bench.outputs):
        if part.id in taken:
            yield Problem(pointer("outputs", index, "id"), f"“{part.id}” is taken by another part; give each its own.")
        taken.add(part.id)
    yield from _twice((capture.id for capture in bench.captures), "captures", "id")
    for index, capture in enumerate(bench.captures):
        times = [edge.at_us for edge in capture.edges]
        late = next((number for number in range(1, len(times)) if times[number] < times[number - 1]), None)
        if late is not None:
            where = pointer("captures", index, "edges", late, "at_us")
            yield Problem(
                where,
                f"{times[late]} µs comes before the edge above it ({times[late - 1]} µs); put edges in order of time.",
            )
    captures = {capture.id for capture in bench.captures}
    pins = [(pointer("inputs", index, "pin"), part.pin) for index, part in enumerate(bench.inputs)]
    pins += [(pointer("outputs", index, "pin"), part.pin) for index, part in enumerate(bench.outputs)]
    for where, pin in pins:
        if board and board.pin(pin) is None:
            there = _either(found.id for found in board.pins)
            yield Problem(where, f"the board has no pin “{pin}”; {there} are there.")
    kinds = [(pointer("inputs", n, "kind"), part.kind, list(INPUT_KINDS)) for n, part in enumerate(bench.inputs)]
    kinds += [(pointer("outputs", n, "kind"), part.kind, list(OUTPUT_KINDS)) for n, part in enumerate(bench.outputs)]
    for where, kind, known in kinds:
        if kind not in known:
            yield Problem(where, f"kind “{kind}” is not known; {_either(known)} are.")
    for index, source in enumerate(bench.inputs):
        where = pointer("inputs", index, "contact")
        if source.contact.kind == "model" and source.contact.switch not in SWITCH_CLASSES:
            yield Problem(
                where + "/switch", f"class “{source.contact.switch}” is not known; {_either(SWITCH_CLASSES)} are."
            )
        elif source.contact.kind == "capture" and source.contact.capture not in captures:
            yield Problem(where + "/capture", f"there is no capture “{source.contact.capture}” on this bench.")


def _debounce(bench: Bench) -> Iterator[Problem]:
    inputs = {part.id for part in bench.inputs}
    for name, debounce in bench.firmware.debounce.items():
        where = pointer("firmware", "debounce", name)
        if name not in inputs:
            yield Problem(where, f"there is no input “{name}” on this bench.")
        method = METHODS.get(debounce.method)
        if method is None:
            yield Problem(where + "/method", f"method “{debounce.method}” is not known; {_either(METHODS)} are.")
        elif method.has_interval and debounce.interval_us > method.limits_us[1]:
            most = method.limits_us[1] // 1000
            yield Problem(
                where + "/interval_us", f"{debounce.interval_us // 1000} ms is too long; {most} ms is the most."
            )


def _machine(bench: Bench, index: int, machine: Machine) -> Iterator[Problem]:
    where = ("firmware", "machines", index)
    states = [state.id for state in machine.states]
    yield from _twice(states, f"firmware/machines/{index}/states", "id")
    if machine.initial not in states:
        yield Problem(
            pointer(*where, "initial"), f"“{machine.initial}” is not a state of {machine.name}; {_either(states)} are."
        )
    inputs = {part.id for part in bench.inputs}
    outputs = {part.id for part in bench.outputs}
    for number, state in enumerate(machine.states):
        for output in state.drives:
            if output not in outputs:
                yield Problem(
                    pointer(*where, "states", number, "drives", output), f"there is no output “{output}” on this bench."
                )
    for number, transition in enumerate(machine.transitions):
        for end in ("source", "target"):
            if (name := getattr(transition, end)) not in states:
                yield Problem(
                    pointer(*where, "transitions", number, end),
                    f"“{name}” is not a state of {machine.name}; {_either(states)} are.",
                )
        event = transition.on
        if isinstance(event, ContactEvent) and event.input not in inputs:
            yield Problem(
                pointer(*where, "transitions", number, "on", "input"),
                f"there is no input “{event.input}” on this bench.",
            )


def _scenarios(bench: Bench) -> Iterator[Problem]:
    yield from _twice((scenario.name for scenario in bench.scenarios), "scenarios", "name")
    inputs = {part.id for part in bench.inputs}
    for index, scenario in enumerate(bench.scenarios):
        for number, stimulus in enumerate(scenario.stimuli):
            where = ("scenarios", index, "stimuli", number)
            if stimulus.input not in inputs:
                yield Problem(pointer(*where, "input"), f"there is no input “{stimulus.input}” on this bench.")
            if stimulus.at_us >= scenario.length_us:
                yield Problem(pointer(*where, "at_us"), f"comes after the scenario's end ({scenario.length_us} µs).")


def cross_check(bench: Bench) -> list[Problem]:
    """Every fault that the types let through."""
    problems = [*_parts(bench), *_debounce(bench), *_scenarios(bench)]
    machine_ids = [machine.id for machine in bench.firmware.machines]
    problems += _twice(machine_ids, "firmware/machines", "id")
    problems += _twice((task.id for task in bench.firmware.tasks), "firmware/tasks", "id")
    for index, machine in enumerate(bench.firmware.machines):
        problems += _machine(bench, index, machine)
    return problems
