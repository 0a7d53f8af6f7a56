"""What the kinds of contact give away."""

from __future__ import annotations

from collections.abc import Iterator

from ..debounce import METHODS
from ..document import Press, pointer
from ..document.parts import FourLegged, KeyMatrix, MagnetContact
from ..electrics import ghost_example, key_name
from ..units import ms
from .finding import Evidence, Finding, Severity
from .mends import replaced


def joined_legs(evidence: Evidence) -> Iterator[Finding]:
    """A four-legged button is wired to two legs that are always joined."""
    for at, part in evidence.bench.placed:
        if isinstance(part, FourLegged) and part.legs == "joined":
            yield Finding(
                code="wire.joined-legs",
                severity=Severity.MUST,
                station="wire",
                part=part.id,
                title=f"{part.name} is always closed",
                sentence="Both wires are on legs that are one piece of metal; turn the button by a quarter, or wire it "
                "corner to corner.",
                numbers=(("legs wired", "joined"),),
                pointer=f"{at}/legs",
                patch=replaced(f"{at}/legs", "across"),
                mend="Wire it corner to corner",
            )


def magnet(evidence: Evidence) -> Iterator[Finding]:
    """A passing magnet closes its contact for less than the firmware needs to see it."""
    for at, part in evidence.bench.placed:
        if not isinstance(part, MagnetContact):
            continue
        closed_us = part.magnet_mm * 1_000_000 // part.speed_mm_s
        debounce = evidence.bench.debounce(part.id)
        rests = METHODS[debounce.method].statistic == "gap"
        longest_us = evidence.answers.longest_pass_us if evidence.answers else evidence.idle_pass_us
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
            pointer=f"{at}/speed_mm_s",
        )


def magnet_hold(evidence: Evidence) -> Iterator[Finding]:
    """A scenario holds a passing magnet's contact for longer than the magnet is long at its speed."""
    for _, part in evidence.bench.placed:
        if not isinstance(part, MagnetContact):
            continue
        closed_us = part.magnet_mm * 1_000_000 // part.speed_mm_s
        for index, scenario in enumerate(evidence.bench.scenarios):
            wrong = [
                (number, one)
                for number, one in enumerate(scenario.stimuli)
                if isinstance(one, Press) and one.input == part.id and abs(one.hold_us - closed_us) * 5 > closed_us
            ]
            if not wrong:
                continue
            near_us = max(closed_us // 1000 * 1000, 1000)
            held = wrong[0][1].hold_us
            word = "longer" if held > closed_us else "shorter"
            yield Finding(
                code="wire.magnet-hold",
                severity=Severity.LOOK,
                station="wire",
                part=part.id,
                title=f"{part.name}: “{scenario.name}” holds it {word} than the magnet",
                sentence=f"{part.magnet_mm} mm at {part.speed_mm_s} mm/s close it for {ms(closed_us)}; the scenario "
                f"holds it for {ms(held)}. One of the two is wrong.",
                numbers=(("magnet", ms(closed_us)), ("scenario", ms(held))),
                pointer=pointer("scenarios", index, "stimuli", wrong[0][0], "hold_us"),
                patch=tuple(
                    {"op": "replace", "path": pointer("scenarios", index, "stimuli", n, "hold_us"), "value": near_us}
                    for n, _ in wrong
                ),
                mend=f"Hold it for {ms(near_us)}",
            )


def ghosts(evidence: Evidence) -> Iterator[Finding]:
    """Keys without diodes: three at once show a fourth that nobody pressed."""
    for at, part in evidence.bench.placed:
        if not isinstance(part, KeyMatrix) or not (found := ghost_example(part)):
            continue
        pressed, shown = found
        names = [key_name(part, key) for key in pressed]
        asked = part.keys_at_once >= len(pressed)
        yield Finding(
            code="wire.ghosts",
            severity=Severity.MUST if asked else Severity.NOTE,
            station="wire",
            part=part.id,
            title=f"{part.name}: three keys at once show a fourth",
            sentence=f"With {names[0]}, {names[1]} and {names[2]} held, {key_name(part, shown)} reads as pressed too: "
            "the current finds its way through the other keys.",
            numbers=(("keys at once", str(part.keys_at_once)), ("diodes", "none")),
            pointer=f"{at}/diodes",
            patch=replaced(f"{at}/diodes", True) if asked else (),
            mend="Give each key a diode" if asked else "",
        )
