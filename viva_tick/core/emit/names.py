"""C++ names from the document's ids, which are small letters, digits and hyphens."""

from __future__ import annotations

import re

from ..debounce import METHODS

# What the sketch defines itself (a test holds this against what it does define), and what comes with such boards.
TYPES = {"Crossing", "DriveKind", "Edge", "Output", *(method.sketch.struct for method in METHODS.values())}
TYPES |= {"HardwareSerial", "Print", "Printable", "Serial", "Stream", "String"}
TYPES |= {
    "Average",
    "Band",
    "Chord",
    "CodeLock",
    "CodeSays",
    "Gesture",
    "Gestures",
    "Kept",
    "Keys",
    "Listener",
    "Median",
    "Pace",
    "Plain",
    "Quadrature",
    "Slow",
    "Step",
    "Stored",
    "Threshold",
}


def snake(ident: str) -> str:
    """foot-pedal → foot_pedal; different ids never give the same name."""
    return ident.replace("-", "_").replace(".", "_")


def upper(ident: str) -> str:
    """foot-pedal → FOOT_PEDAL."""
    return snake(ident).upper()


def pascals(idents: list[str]) -> dict[str, str]:
    """foot-pedal → FootPedal for each id, kept apart where two would be the same, and clear of short macros."""
    names: dict[str, str] = {}
    taken = set(TYPES)
    for ident in idents:
        name = "".join(word[:1].upper() + word[1:] for word in ident.replace(".", "-").split("-"))
        if re.fullmatch(r"[A-Z]+\d*", name):
            name += "_"
        names[ident] = fresh(name, taken)
    return names


def fresh(name: str, taken: set[str]) -> str:
    """A name that nothing has yet, `_` behind it until it is one; it is taken from then on."""
    while name in taken:
        name += "_"
    taken.add(name)
    return name


def comment(text: str) -> str:
    """Text that is safe behind `//`: a backslash at the end would swallow the next line."""
    return re.sub(r"\?(?=\?)", "? ", re.sub(r"[\x00-\x1f\x7f]", " ", text).replace("\\", "/"))
