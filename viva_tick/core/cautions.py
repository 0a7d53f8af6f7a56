"""The cautions that go with what an output switches: mains, heat, motion, light and the rest that can hurt.

Common practice, in the order in which they matter; none of them replaces somebody who knows.
"""

from __future__ import annotations

from .document import Bench, Channel, Part
from .document.parts import Motor

LIVE = (
    "Use an enclosed, rated and fused module. Never touch or probe live terminals, and never lay them on anything "
    "that conducts. Disconnect before rewiring."
)
RULES = "Follow your local electrical regulations. Have mains work done or checked by a licensed electrician."
CAUTIONS = {
    "mains": f"{LIVE} {RULES}",
    "heat": f"A heater needs a thermal cut-out of its own that opens without the firmware. {LIVE}",
    "motion": (
        "Guard what moves. Disconnect it before you reach in. It needs a hard-wired stop that does not pass through "
        "the board; a debounced button or a watchdog is not a safety device."
    ),
    "light": (
        "Strong, ultraviolet or laser light hurts eyes before they blink: cover it, never look into it, and give it a "
        "hard-wired switch."
    ),
    "energy": (
        "Capacitors, springs, pressure and raised loads stay dangerous with the supply off: let the energy out, block "
        "or support it before you touch it."
    ),
    "battery": (
        "Charge lithium cells only with a charger made for them, never unwatched and never below freezing; put a fuse "
        "at the battery's own terminal."
    ),
    "current": (
        "Many amperes at a low voltage weld and burn: a fuse near the source, wire and terminals made for the current, "
        "no rings or tools across it."
    ),
    "wet": (
        "In wet places use extra-low voltage from an isolating supply, closed housings, and residual-current "
        f"protection (30 mA) before anything on mains. {RULES}"
    ),
}
HAZARD_NAMES = {
    "nothing": "nothing dangerous",
    "mains": "mains",
    "heat": "heat",
    "motion": "motion",
    "light": "strong light",
    "energy": "stored energy",
    "battery": "a battery",
    "current": "many amperes",
    "wet": "a wet place",
}
HARD = ("mains", "heat", "motion")  # what must be off before set-up, and must end


def dangers(channel: Channel) -> tuple[str, ...]:
    """What an output switches that can hurt."""
    return tuple(load for load in channel.loads if load in CAUTIONS)


def hurts(channel: Channel) -> bool:
    """Whether what an output switches can hurt."""
    return bool(dangers(channel))


def is_hard(channel: Channel) -> bool:
    """Whether it is mains, heat or motion."""
    return any(load in HARD for load in channel.loads)


def load_words(loads: tuple[str, ...]) -> str:
    """Loads in words: “mains and motion”."""
    names = [HAZARD_NAMES[load] for load in loads]
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}" if names else "not said"


def cautions(bench: Bench) -> list[tuple[str, str]]:
    """(part, caution) for each output and each of its loads that can hurt."""
    return [(part.name, CAUTIONS[load]) for part, load in hazards(bench)]


def hazards(bench: Bench) -> list[tuple[Channel | Part, str]]:
    """(output, load) of everything whose load can hurt; a servo counts though no channel of it is switched."""
    found: list[tuple[Channel | Part, str]] = []
    for at, part in bench.placed:
        channels = part.channels(at)
        if not channels:
            found += [(part, load) for load in getattr(part, "loads", ()) if load in CAUTIONS]
        one_load = isinstance(part, Motor)
        found += [(c, load) for c in (channels[:1] if one_load else channels) for load in dangers(c)]
    return found
