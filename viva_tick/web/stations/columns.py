"""The events that a machine knows, and those that it could listen for, as columns of the grid."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ...core.document import HEARD, AlwaysEvent, Bench, EventName, Machine
from ...core.machines import event_names


@dataclass(frozen=True)
class Column:
    """An event that the machine knows."""

    kind: str
    input: str
    title: str
    of: str = ""

    @property
    def event(self) -> dict[str, Any]:
        """As the document has it."""
        if self.kind in ("entered", "left"):
            return {"kind": self.kind, "machine": self.input, "state": self.of}
        if self.kind == "reached":
            return {"kind": self.kind, "variable": self.input, "value": int(self.of)}
        if self.kind in ("boot", "watchdog-reset", "always"):
            return {"kind": self.kind}
        event = {"kind": self.kind, "input": self.input}
        return event | {"of": self.of} if self.of else event

    @property
    def name(self) -> str:
        """As a state's `passes` has it."""
        return " ".join(filter(None, (self.kind, self.input, self.of)))

    @property
    def key(self) -> str:
        """What tells it from the others on the screen."""
        return "-".join(filter(None, (self.kind, self.input, self.of.replace(" ", "-"))))


WORDS = {
    "press": "pressed",
    "release": "let go",
    "step": "step",
    "back": "step back",
    "fast": "fast step",
    "fast-back": "fast step back",
    "stays": "stays between",
    "code": "right code",
    "wrong": "wrong code",
    "above": "above",
    "below": "below",
    "click": "clicked",
    "double": "clicked twice",
    "triple": "clicked three times",
    "hold": "held",
    "repeat": "still held",
    "long-release": "let go after a hold",
}


ALWAYS = Column("always", "", "at once, if")


def _names(bench: Bench) -> dict[str, str]:
    return {part.id: part.name for part in bench.parts} | {line.id: line.name for line in bench.contacts}


def column_of(bench: Bench, event: EventName) -> Column:
    kind, ident, of = event
    if kind in ("boot", "watchdog-reset"):
        return Column(kind, "", "board started" if kind == "boot" else "watchdog has bitten")
    if kind in ("entered", "left"):
        machine = next(one for one in bench.firmware.machines if one.id == ident)
        word = "enters" if kind == "entered" else "leaves"
        return Column(kind, ident, f"{machine.name} {word} {machine.state(of).name}", of)
    if kind == "reached":
        name = next((one.name for one in bench.firmware.variables if one.id == ident), ident)
        return Column(kind, ident, f"{name} reaches {of}", of)
    names = _names(bench)
    word = WORDS.get(kind) or of
    if _stays_put(bench, ident) and kind in ("press", "release"):
        word = "put on" if kind == "press" else "put off"
    more = f"with {names[of]}" if kind == "chord" else word
    return Column(kind, ident, f"{names[ident]} {more}", of)


def _stays_put(bench: Bench, ident: str) -> bool:
    """Whether a contact is a switch, which stays where it is put."""
    return any(line.id == ident and line.kind in ("switch", "slide-switch") for line in bench.contacts)


def columns_of(bench: Bench, machine: Machine) -> list[Column]:
    names = dict.fromkeys(transition.on.name for transition in machine.transitions if isinstance(transition.on, HEARD))
    columns = [column_of(bench, name) for name in names]
    if any(isinstance(transition.on, AlwaysEvent) for transition in machine.transitions):
        columns.append(ALWAYS)
    return columns


def offered(bench: Bench, machine: Machine, known: set[EventName]) -> list[tuple[str, list[Column]]]:
    """Events that the machine could listen for, by what gives them; of a chord and its mirror, one."""
    names = _names(bench) | {one.id: one.name for one in bench.firmware.machines}
    order = [line.id for line in bench.contacts]
    groups: dict[str, list[Column]] = {}
    for event in event_names(bench):
        mirrored = event[0] == "chord" and order.index(event[1]) > order.index(event[2])
        own = event[0] in ("entered", "left") and event[1] == machine.id
        if event not in known and not mirrored and not own and event[0] != "reached":
            groups.setdefault(names.get(event[1], "The board"), []).append(column_of(bench, event))
    for one in bench.firmware.variables:
        if ("reached", one.id, str(one.most)) not in known:
            groups.setdefault("Numbers", []).append(column_of(bench, ("reached", one.id, str(one.most))))
    if len(machine.leaves) > 1 and (bench.contacts or bench.firmware.variables) and ("always", "", "") not in known:
        groups["By itself"] = [ALWAYS]
    return list(groups.items())


def new_transition(bench: Bench, machine: Machine, column: Column) -> dict[str, Any]:
    """The transition that a new column begins with: from the first state to itself; one that waits for nothing leads
    on, with a guard to change."""
    value: dict[str, Any] = {"source": machine.initial, "on": column.event, "target": machine.initial}
    if column.kind == "always":
        value["source"] = machine.opening(machine.initial)
        value["target"] = next(state.id for state in machine.leaves if state.id != value["source"])
        guard = (
            {"kind": "contact", "input": bench.contacts[0].id}
            if bench.contacts
            else {"kind": "compare", "variable": bench.firmware.variables[0].id, "sign": ">=", "number": 1}
        )
        value["guards"] = [guard]
    return value
