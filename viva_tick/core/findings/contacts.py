"""What the kinds of contact give away."""

from __future__ import annotations

from collections.abc import Iterator

from ..debounce import METHODS
from ..document import pointer
from ..units import ms
from .finding import Case, Finding, Severity


def joined_legs(case: Case) -> Iterator[Finding]:
    """A four-legged button is wired to two legs that are always joined."""
    for index, part in enumerate(case.bench.inputs):
        if part.kind == "four-legged" and part.legs == "joined":
            where = pointer("inputs", index, "legs")
            yield Finding(
                code="wire.joined-legs",
                severity=Severity.MUST,
                station="wire",
                part=part.id,
                title=f"{part.name} is always closed",
                sentence="Both wires are on legs that are one piece of metal; turn the button by a quarter, or wire it "
                "corner to corner.",
                numbers=(("legs wired", "joined"),),
                pointer=where,
                patch=({"op": "replace", "path": where, "value": "across"},),
                mend="Wire it corner to corner",
            )


def magnet(case: Case) -> Iterator[Finding]:
    """A passing magnet closes its contact for less than the firmware needs to see it."""
    for index, part in enumerate(case.bench.inputs):
        if part.kind != "magnet":
            continue
        closed_us = part.magnet_mm * 1_000_000 // part.speed_mm_s
        debounce = case.bench.debounce(part.id)
        rests = METHODS[debounce.method].statistic == "gap"
        longest_us = case.answers.longest_pass_us if case.answers else case.idle_pass_us
        needed_us = longest_us + (debounce.interval_us + 1000 if rests else 0)
        if closed_us > needed_us:
            continue
        fast = part.magnet_mm * 1_000_000 // needed_us
        yield Finding(
            code="wire.magnet",
            severity=Severity.MUST,
            station="wire",
            part=part.id,
            title=f"{part.name}: the magnet is gone too soon",
            sentence=f"{part.magnet_mm} mm at {part.speed_mm_s} mm/s close it for {ms(closed_us)}; the firmware needs "
            f"{ms(needed_us)} to see it, so nothing faster than {fast} mm/s.",
            numbers=(("closed for", ms(closed_us)), ("needed", ms(needed_us))),
            pointer=pointer("inputs", index, "speed_mm_s"),
        )
