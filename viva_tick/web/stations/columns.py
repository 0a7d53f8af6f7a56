"""The events that a machine knows, and those that it could listen for, as columns of the grid."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ...core.document import BOARD_EVENTS, HEARD, AlwaysEvent, Bench, EventName, Machine
from ...core.drives import Angle, Blink, Burst, Drive, Pulse, Ramp, Sequence, Tone
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
        if self.kind == "ended":
            return {"kind": self.kind, "output": self.input}
        if self.kind == "taken":
            return {"kind": self.kind, "signal": self.input}
        if self.kind == "reached":
            return {"kind": self.kind, "variable": self.input, "value": int(self.of)}
        if self.kind in (*BOARD_EVENTS, "always"):
            return {"kind": self.kind}
        if self.kind == "timeout":
            return {"kind": "timeout", "after_us": FIRST_TIME_US}
        event = {"kind": self.kind, "input": self.input}
        return event | {"of": self.of} if self.of else event

    @property
    def name(self) -> str:
        """As a state's `ignores` has it."""
        return " ".join(filter(None, (self.kind, self.input, self.of)))

    @property
    def key(self) -> str:
        """What tells it from the others on the screen."""
        return "-".join(filter(None, (self.kind, self.input, self.of.replace(" ", "-"))))


WORDS = {
    "press": "pressed",
    "release": "released",
    "step": "step",
    "back": "step back",
    "fast": "fast step",
    "fast-back": "fast step back",
    "stays": "stays between",
    "code": "right code",
    "wrong": "wrong code",
    "number": "number arrives",
    "outside": "number out of range",
    "above": "above",
    "below": "below",
    "click": "clicked",
    "double": "clicked twice",
    "triple": "clicked three times",
    "hold": "held",
    "repeat": "still held",
    "long-release": "released after a hold",
}


BOARD_WORDS = {
    "boot": "board started",
    "power-on": "power came on",
    "pin-reset": "reset pin was pulled",
    "dip-reset": "supply had dipped",
    "software-reset": "board restarted itself",
    "watchdog-reset": "watchdog reset the board",
    "watchdog-bark": "watchdog called its interrupt",
}
ALWAYS = Column("always", "", "without an event, if")
TIMEOUT = Column("timeout", "", "after a time")
FIRST_TIME_US = 1_000_000


def column_of(bench: Bench, event: EventName) -> Column:
    kind, ident, of = event
    if kind in BOARD_WORDS:
        return Column(kind, "", BOARD_WORDS[kind])
    if kind in ("entered", "left"):
        machine = next(one for one in bench.firmware.machines if one.id == ident)
        word = "enters" if kind == "entered" else "leaves"
        return Column(kind, ident, f"{machine.name} {word} {machine.state(of).name}", of)
    if kind == "reached":
        name = next((one.name for one in bench.firmware.variables if one.id == ident), ident)
        return Column(kind, ident, f"{name} reaches {of}", of)
    if kind == "taken":
        return Column(kind, ident, f"{bench.firmware.kernel.between.taken.get(ident, ident)} is there")
    if kind == "ended":
        return Column(kind, ident, f"{bench.driven_names.get(ident, ident)} has finished")
    names = bench.heard_names
    word = WORDS.get(kind) or of
    if kind in ("press", "release") and _stays_put(bench, ident):
        word = "switched on" if kind == "press" else "switched off"
    more = f"with {names[of]}" if kind == "chord" else word
    if kind in ("above", "below") and of:
        more = f"{word} {bench.mark_names.get((ident, of), of)}"
    return Column(kind, ident, f"{names[ident]} {more}", of)


def _stays_put(bench: Bench, ident: str) -> bool:
    """Whether a contact is a switch, which stays as it is switched."""
    return any(line.id == ident and line.kind in ("switch", "slide-switch") for line in bench.contacts)


def columns_of(bench: Bench, machine: Machine) -> list[Column]:
    """The columns of the grid: the events that it uses, those that were added and are not used yet, time, no event."""
    names = dict.fromkeys(transition.on.name for transition in machine.transitions if isinstance(transition.on, HEARD))
    known = {" ".join(filter(None, name)): name for name in event_names(bench)}
    names |= dict.fromkeys(known[one] for one in machine.columns if one in known)
    names |= dict.fromkeys(_reached(bench, machine))
    columns = [*(column_of(bench, name) for name in names), TIMEOUT]
    always = any(isinstance(transition.on, AlwaysEvent) for transition in machine.transitions)
    return [*columns, ALWAYS] if always or ALWAYS.name in machine.columns else columns


def _reached(bench: Bench, machine: Machine) -> list[EventName]:
    """The columns for a variable that comes to a value (any can be waited for), and for what has finished."""
    ids = {one.id for one in bench.firmware.variables}
    outputs = {one.id for one in bench.channels}
    found = [tuple(one.split(" ")) for one in machine.columns if one.startswith(("reached ", "ended ", "taken "))]
    outputs |= bench.firmware.kernel.between.taken.keys()
    reached: list[EventName] = [
        (one[0], one[1], one[2]) for one in found if len(one) == 3 and one[1] in ids and _whole(one[2])
    ]
    return [*reached, *((one[0], one[1], "") for one in found if len(one) == 2 and one[1] in outputs)]


def _ending(bench: Bench, machine: Machine) -> list[tuple[str, Drive]]:
    """The drives of a machine that can come to an end of their own."""
    kinds = (Pulse, Burst, Blink, Ramp, Sequence, Tone)
    return [
        (output, drive)
        for _, output, drive in bench.drives_of(machine)
        if isinstance(drive, kinds) or (isinstance(drive, Angle) and drive.time_us)
    ]


def _whole(word: str) -> bool:
    return word.removeprefix("-").isdigit()


def offered(bench: Bench, machine: Machine, known: set[EventName]) -> list[tuple[str, list[Column]]]:
    """Events that the machine could listen for, by what gives them; of a chord and its mirror, one."""
    names = bench.heard_names | {one.id: one.name for one in bench.firmware.machines}
    order = [line.id for line in bench.contacts]
    groups: dict[str, list[Column]] = {}
    for event in event_names(bench):
        mirrored = event[0] == "chord" and order.index(event[1]) > order.index(event[2])
        own = event[0] in ("entered", "left") and event[1] == machine.id
        if event not in known and not mirrored and not own and event[0] not in ("reached", "ended"):
            groups.setdefault(names.get(event[1], "The board"), []).append(column_of(bench, event))
    for one in bench.firmware.variables:
        if ("reached", one.id, str(one.most)) not in known:
            groups.setdefault("Variables", []).append(column_of(bench, ("reached", one.id, str(one.most))))
    driven = {output for one in bench.firmware.machines for output, drive in _ending(bench, one)}
    for channel in bench.drivable:
        if channel.id in driven and ("ended", channel.id, "") not in known:
            groups.setdefault("Outputs", []).append(column_of(bench, ("ended", channel.id, "")))
    if len(machine.leaves) > 1 and ("always", "", "") not in known:
        groups["No event"] = [ALWAYS]
    return list(groups.items())
