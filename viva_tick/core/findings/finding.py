"""What a finding is, and what a rule may ask."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import asdict, dataclass
from enum import StrEnum
from functools import cached_property
from typing import Any

from ..document import Bench, ContactEvent, InputEvent, Scenario, TapTiming
from ..electrics import filter_of
from ..engine import Run
from ..exploring import Cause
from ..repeats import Repeats
from ..sweep import Advice, advise, sweep_input
from ..timing import Answers


class Severity(StrEnum):
    """How much it matters."""

    MUST = "must"
    LOOK = "look"
    NOTE = "note"


SEVERITY_WORDS = {Severity.MUST: "Must fix", Severity.LOOK: "Worth a look", Severity.NOTE: "Note"}

Patch = tuple[dict[str, Any], ...]
Numbers = tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class Asked:
    """A time that is asked for, in s: what it is, what is suggested, and the object that it makes at `path`, in which
    it stands as `field`, in µs."""

    words: str
    path: str
    field: str
    suggested_us: int


@dataclass(frozen=True)
class Finding:
    """Something the checks say. `code` is stable; `pointer` says where in the document; `patch` (RFC 6902) mends it
    and `mend` is what the button that applies it says; `show_us` are instants of the run that show it; `play` is the
    shortest row of events that shows it, which `exploring.playing` makes a scenario of. Where only the user can know a
    number, `asks` for it; `lines` are findings that have this one as their cause; `repeat` is the
    number of the repeat that shows it."""

    code: str
    severity: Severity
    station: str
    part: str
    title: str
    sentence: str
    numbers: tuple[tuple[str, str], ...]
    pointer: str
    patch: Patch = ()
    mend: str = ""
    show_us: tuple[int, ...] = ()
    play: tuple[Cause, ...] | None = None
    asks: Asked | None = None
    lines: tuple[Finding, ...] = ()
    repeat: int | None = None

    def data(self) -> dict[str, Any]:
        """As plain JSON data."""
        return {
            "code": self.code,
            "severity": str(self.severity),
            "station": self.station,
            "part": self.part,
            "title": self.title,
            "sentence": self.sentence,
            "numbers": dict(self.numbers),
            "pointer": self.pointer,
            "patch": list(self.patch) or None,
            "mend": self.mend or None,
            "show_us": list(self.show_us),
            "asks": asdict(self.asks) if self.asks else None,
            "consequences": [one.data() for one in self.lines],
            "play": [" ".join(filter(None, cause)) for cause in self.play] if self.play is not None else None,
        } | ({} if self.repeat is None else {"repeat": self.repeat})


def must_fix(findings: Iterable[Finding]) -> list[tuple[str, str]]:
    """(title, sentence) of those that must be fixed: what stands at the head of what leaves the bench."""
    return [(one.title, one.sentence) for one in findings if one.severity is Severity.MUST]


@dataclass(frozen=True)
class Evidence:
    """What the rules look at: a bench and, where it has a scenario, one run of it with its answers, and what is known
    of repeats of it. Without `mends` no advice is worked out, which is what takes time."""

    bench: Bench
    scenario: Scenario | None
    run: Run | None
    answers: Answers | None
    idle_pass_us: int
    mends: bool = True
    repeats: Repeats | None = None

    def advice(self, input_id: str, method: str) -> Advice | None:
        """The safe window of a method for an input, and the interval to take; None where there is none."""
        line = self.bench.contact(input_id)
        rc = filter_of(line, self.bench.the_board)
        if rc is not None and not rc.schmitt:
            return None  # nothing is safe on an input that chatters
        tolerated = self.bench.taps.get(input_id, TapTiming()).per_thousand
        return advise(sweep_input(self.bench, input_id, method, self.idle_pass_us), tolerated)

    @cached_property
    def edge_inputs(self) -> frozenset[str]:
        """Inputs whose press or release moves a machine."""
        return frozenset(
            transition.on.input
            for machine in self.bench.firmware.machines
            for transition in machine.transitions
            if isinstance(transition.on, ContactEvent | InputEvent)
        )
