"""Kinds of part: what each does, and how it arrives. A new kind is a new entry in the row and a drawing."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class InputKind:
    """A thing with a contact. `switch` is the class whose bounce model it arrives with."""

    id: str
    name: str
    does: str
    switch: str


@dataclass(frozen=True)
class OutputKind:
    """A thing that the firmware switches."""

    id: str
    name: str
    does: str


INPUT_KINDS: dict[str, InputKind] = {
    kind.id: kind
    for kind in (
        InputKind("button", "Button", "closes while it is pressed", "small-button"),
        InputKind("four-legged", "Four legs", "two pairs of legs, each pair always joined", "small-button"),
        InputKind("switch", "Switch", "stays where it is put", "toggle-switch"),
        InputKind("limit-switch", "End stop", "closes when something runs against it", "toggle-switch"),
        InputKind("magnet", "Magnet", "closes while a magnet is near", "small-button"),
        InputKind("float", "Float", "closes when it tilts", "float-contact"),
        InputKind("signal", "Signal", "a logic signal from another board", "logic-signal"),
    )
}

OUTPUT_KINDS: dict[str, OutputKind] = {
    kind.id: kind
    for kind in (
        OutputKind("lamp", "Lamp", "lights"),
        OutputKind("relay", "Relay", "switches another circuit"),
        OutputKind("beeper", "Beeper", "sounds while it is on"),
    )
}
