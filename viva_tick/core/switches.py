"""Named classes of switch for the bounce model. A new class is a new entry in the row.

Figures are common practice, held against J. Ganssle, A Guide to Debouncing (from memory): most switches bounce for
1 to 2 ms, the worst of the ordinary ones 6.2 ms; opening and closing differ. Worn contacts 10 to 20 ms, float and
tilt contacts hundreds of ms.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Bounces:
    """One direction: how many times the metal parts again, and when it has come to rest, in µs (least, most)."""

    count: tuple[int, int]
    settle_us: tuple[int, int]


@dataclass(frozen=True)
class SwitchClass:
    """A class of switch: bounces on closing and on opening."""

    id: str
    name: str
    note: str
    press: Bounces
    release: Bounces

    @property
    def bounces(self) -> bool:
        """Whether the contact bounces at all."""
        return self.press.count[1] > 0 or self.release.count[1] > 0


SWITCH_CLASSES: dict[str, SwitchClass] = {
    entry.id: entry
    for entry in (
        SwitchClass(
            "small-button",
            "Small button",
            "clicks, good as new",
            Bounces((0, 5), (300, 4_000)),
            Bounces((0, 3), (200, 2_500)),
        ),
        SwitchClass(
            "worn-button",
            "Worn button",
            "cheap or old",
            Bounces((2, 9), (4_000, 18_000)),
            Bounces((1, 6), (2_000, 11_000)),
        ),
        SwitchClass(
            "foot-pedal",
            "Foot pedal",
            "heavy spring, hard stop",
            Bounces((2, 6), (3_000, 10_500)),
            Bounces((1, 4), (2_000, 8_000)),
        ),
        SwitchClass(
            "toggle-switch", "Toggle switch", "snaps over", Bounces((1, 5), (800, 6_200)), Bounces((1, 4), (600, 5_000))
        ),
        SwitchClass(
            "relay-contact",
            "Relay contact",
            "another relay's own",
            Bounces((1, 4), (1_000, 5_000)),
            Bounces((0, 2), (300, 2_000)),
        ),
        SwitchClass(
            "float-contact",
            "Float or tilt",
            "sloshes",
            Bounces((2, 10), (60_000, 420_000)),
            Bounces((2, 10), (60_000, 380_000)),
        ),
        SwitchClass(
            "encoder-contacts",
            "Encoder contacts",
            "a wiper on its track",
            Bounces((0, 4), (200, 2_500)),
            Bounces((0, 3), (200, 2_000)),
        ),
        SwitchClass(
            "logic-signal", "Logic signal", "does not bounce", Bounces((0, 0), (0, 0)), Bounces((0, 0), (0, 0))
        ),
    )
}
