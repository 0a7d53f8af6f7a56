"""The cautions that go with what an output switches (DESIGN: mains, heat, motion, light that can hurt)."""

from __future__ import annotations

from .document import Bench, Channel, Part
from .document.parts import Motor

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


def hurts(channel: Channel) -> bool:
    """Whether what an output switches can hurt."""
    return channel.load in CAUTIONS


def cautions(bench: Bench) -> list[tuple[str, str]]:
    """(part, caution) for each output whose load can hurt."""
    return [(part.name, CAUTIONS[load]) for part, load in hazards(bench)]


def hazards(bench: Bench) -> list[tuple[Channel | Part, str]]:
    """(output, load) of everything whose load can hurt; a servo counts though no channel of it is switched."""
    found: list[tuple[Channel | Part, str]] = []
    for at, part in bench.placed:
        channels = part.channels(at)
        if not channels and (load := getattr(part, "load", "none")) in CAUTIONS:
            found.append((part, load))
        one_load = isinstance(part, Motor)
        found += [(c, c.load) for c in (channels[:1] if one_load else channels) if c.load in CAUTIONS]
    return found
