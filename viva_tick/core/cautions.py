"""The cautions that go with what an output switches (DESIGN: mains, heat, motion, light that can hurt)."""

from __future__ import annotations

from .document import Bench

CAUTION = (
    "Use an enclosed, rated and fused module. Never touch or probe live terminals, and never lay them on anything "
    "that conducts. Disconnect before rewiring. Have it checked by a licensed person and follow the local code."
)
CAUTIONS = {
    "mains": CAUTION,
    "heat": CAUTION + " A heater needs a thermal cut-out of its own.",
    "motion": "A machine that can hurt needs a hard-wired stop. A debounced button is not a safety device.",
    "light": "Light that can hurt needs a cover and a hard-wired stop. A watchdog is not a safety device.",
}


def cautions(bench: Bench) -> list[tuple[str, str]]:
    """(part, caution) for each output whose load can hurt."""
    return [(part.name, CAUTIONS[part.load]) for part in bench.outputs if part.load in CAUTIONS]
