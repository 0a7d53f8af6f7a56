"""A machine in C++: its states, what entering one does, and one step of it."""

from __future__ import annotations

from ..document import Bench, ContactLine, Machine, TimeoutEvent
from ..gestures import GESTURES, chords_wanted, wanted_by
from ..machines import EventName, event_names
from .drives import call
from .names import comment, pascals, snake
from .readers import reader_texts


def chord_name(one: str, other: str) -> str:
    """What a chord is called in the sketch."""
    return f"{snake(one)}_with_{snake(other)}"


class MachineNames:
    """What a machine and its states are called in the sketch."""

    def __init__(self, machine: Machine, enum: str) -> None:
        self.enum = enum
        self.var = f"{snake(machine.id)}_state"
        self.since = f"{snake(machine.id)}_since"
        self.enter = f"enter_{snake(machine.id)}"
        self.step = f"step_{snake(machine.id)}"
        self.states = {
            ident: f"{enum}::{name}" for ident, name in pascals([state.id for state in machine.states]).items()
        }
        edges = (t.on.input for t in machine.transitions if t.on.kind in ("press", "release"))
        self.inputs = list(dict.fromkeys(edges))


def machine_names(bench: Bench) -> dict[str, MachineNames]:
    """Names for every machine of the bench, by id."""
    enums = pascals([machine.id for machine in bench.firmware.machines])
    return {machine.id: MachineNames(machine, enums[machine.id]) for machine in bench.firmware.machines}


def declarations(machine: Machine, names: MachineNames) -> str:
    """The enum and the variables."""
    states = ", ".join(name.split("::")[1] for name in names.states.values())
    return (
        f"// {comment(machine.name)}\n"
        f"enum class {names.enum} : uint8_t {{ {states} }};\n"
        f"{names.enum} {names.var} = {names.states[machine.initial]};\n"
        f"uint32_t {names.since} = 0;\n"
    )


def _enter(machine: Machine, names: MachineNames) -> str:
    lines = [
        f"void {names.enter}({names.enum} state, uint32_t now) {{",
        f"  {names.var} = state;",
        f"  {names.since} = now;",
    ]
    driven = [state for state in machine.states if state.drives]
    if driven:
        lines.append("  switch (state) {")
        for state in driven:
            lines.append(f"    case {names.states[state.id]}:")
            lines += [f"      {snake(output)}_out.{call(drive)};" for output, drive in state.drives.items()]
            lines.append("      break;")
        if len(driven) < len(machine.states):
            lines.append("    default: break;")
        lines.append("  }")
    return "\n".join([*lines, "}", ""])


def _on_event(machine: Machine, names: MachineNames, event: EventName, when: str) -> list[str]:
    first: dict[str, str] = {}
    for transition in machine.transitions:
        on = transition.on
        if not isinstance(on, TimeoutEvent) and (on.kind, on.input, on.of) == event:
            first.setdefault(transition.source, transition.target)
    if not first:
        return []
    lines = [f"  {when} {{", f"    switch ({names.var}) {{"]
    for source, target in first.items():
        lines.append(f"      case {names.states[source]}: {names.enter}({names.states[target]}, now); break;")
    if len(first) < len(machine.states):
        lines.append("      default: break;")
    return [*lines, "    }", "  }"]


def _timeouts(machine: Machine, names: MachineNames) -> list[str]:
    waits: dict[str, list[tuple[int, str]]] = {}
    for transition in machine.transitions:
        if isinstance(transition.on, TimeoutEvent):
            waits.setdefault(transition.source, []).append((transition.on.after_us // 1000, transition.target))
    if not waits:
        return []
    lines = [
        f"  const uint32_t stood = now - {names.since};  // right across the counter's wrap",
        f"  switch ({names.var}) {{",
    ]
    for source, rows in waits.items():
        lines.append(f"    case {names.states[source]}:")
        for number, (wait_ms, target) in enumerate(rows):
            word = "else if" if number else "if"
            lines.append(f"      {word} (stood >= {wait_ms}UL) {names.enter}({names.states[target]}, now);")
        lines.append("      break;")
    if len(waits) < len(machine.states):
        lines.append("    default: break;")
    return [*lines, "  }"]


def functions(bench: Bench, machine: Machine, names: MachineNames) -> str:
    """Entering a state, and one step: the pass's events in the order of the inputs, then the timeouts."""
    edges = [part.id for part in bench.contacts if part.id in names.inputs]
    takes = "".join(f", Edge {snake(ident)}_edge" for ident in edges)
    body: list[str] = []
    readers = reader_texts(bench)
    wanted = wanted_by(bench)
    for part in bench.readers:
        for event in event_names(bench):
            if event[1] != part.id or event[0] == "chord":
                continue
            if not isinstance(part, ContactLine):
                body += _on_event(machine, names, event, readers[part.id].when(event))
            elif event[0] not in GESTURES:
                body += _on_event(machine, names, event, f"if ({snake(part.id)}_edge == {event[0].upper()})")
            elif part.id in wanted:
                gesture = event[0].upper().replace("-", "_")
                body += _on_event(machine, names, event, f"if ({snake(part.id)}_gestures.said({gesture}))")
    for one, other in chords_wanted(bench):
        body += _on_event(machine, names, ("chord", one, other), f"if ({chord_name(one, other)}_now)")
    body += _timeouts(machine, names)
    if not body:
        return _enter(machine, names)
    return _enter(machine, names) + "\n" + "\n".join([f"void {names.step}(uint32_t now{takes}) {{", *body, "}", ""])


def step_call(bench: Bench, machine: Machine, names: MachineNames) -> str:
    """The call of its step, or nothing for a machine that nothing moves."""
    if not machine.transitions:
        return ""
    gives = "".join(f", {snake(part.id)}_edge" for part in bench.contacts if part.id in names.inputs)
    return f"  {names.step}(now{gives});\n"
