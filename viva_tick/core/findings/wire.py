"""What the wiring alone gives away."""

from __future__ import annotations

from collections.abc import Iterator

from ..cautions import CAUTIONS
from ..document import pointer
from ..electrics import floats
from ..engine import Kind
from .finding import Case, Finding, Severity


def floating(case: Case) -> Iterator[Finding]:
    """Nothing holds the pin while the contact is open."""
    for index, part in enumerate(case.bench.inputs):
        if not floats(part.wiring):
            continue
        numbers = [("pull", "none")]
        show: tuple[int, ...] = ()
        if case.run:
            noise = case.run.trace.signal(Kind.READING, part.id).times_us
            numbers.append(("readings turned over", str(len(noise))))
            show = tuple(noise[1:4])
        to_ground = part.wiring.contact_to == "ground"
        yield Finding(
            code="wire.floating",
            severity=Severity.MUST,
            station="wire",
            part=part.id,
            title=f"{part.name}: the pin floats",
            sentence=f"With the contact open nothing holds {part.pin}, so it reads whatever the wire picks up.",
            numbers=tuple(numbers),
            pointer=pointer("inputs", index, "wiring", "pull"),
            patch=(
                {
                    "op": "replace",
                    "path": pointer("inputs", index, "wiring", "pull"),
                    "value": "internal-up" if to_ground else "down",
                },
            ),
            mend="Use the board's pull-up" if to_ground else "Add 10 kΩ to ground",
            show_us=show,
        )


def hazard(case: Case) -> Iterator[Finding]:
    """An output switches something that can hurt."""
    for index, part in enumerate(case.bench.outputs):
        if part.load in CAUTIONS:
            yield Finding(
                code="wire.hazard",
                severity=Severity.NOTE,
                station="wire",
                part=part.id,
                title=f"{part.name} switches {'strong light' if part.load == 'light' else part.load}",
                sentence=CAUTIONS[part.load],
                numbers=(),
                pointer=pointer("outputs", index, "load"),
            )
