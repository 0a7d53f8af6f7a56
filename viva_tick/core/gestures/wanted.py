"""Which gestures a bench's machines listen for, and so what must be told apart."""

from __future__ import annotations

from ..document import Bench, ContactEvent, Gestures, InputEvent
from .recogniser import CLICKS, GESTURES, HELD, Wanted


def heard(bench: Bench) -> dict[str, set[str]]:
    """By contact, the gestures that any machine listens for."""
    found: dict[str, set[str]] = {}
    for machine in bench.firmware.machines:
        for transition in machine.transitions:
            on = transition.on
            if isinstance(on, ContactEvent) and on.kind in GESTURES:
                found.setdefault(on.input, set()).add(on.kind)
    return found


def wanted_by(bench: Bench) -> dict[str, Wanted]:
    """By contact, what is told apart: nothing is waited for that no machine listens for."""
    found = {}
    for ident, kinds in heard(bench).items():
        times = bench.firmware.gestures.get(ident, Gestures())
        most = max((place + 1 for place, name in enumerate(CLICKS) if name in kinds), default=1)
        holds = bool(kinds & set(HELD))
        found[ident] = Wanted(
            most=most,
            window_ms=times.window_us // 1000,
            hold_ms=times.hold_us // 1000 if holds else 0,
            repeat_ms=times.repeat_us // 1000 if "repeat" in kinds else 0,
            quicken=times.quicken,
        )
    return found


def chords_wanted(bench: Bench) -> list[tuple[str, str]]:
    """(contact, other contact) of every pair that a machine listens for, each once, in the order of the machines."""
    pairs: dict[tuple[str, str], None] = {}
    for machine in bench.firmware.machines:
        for transition in machine.transitions:
            if isinstance(transition.on, InputEvent) and transition.on.kind == "chord":
                pairs[transition.on.input, transition.on.of] = None
    return list(pairs)
