"""What was done to encoders, analogue parts, keys and sources of commands, against what the firmware made of it."""

from __future__ import annotations

from dataclasses import dataclass

from ..document import Bench, Listen, Measure
from ..document.parts import Analogue, Commands, Encoder, KeyMatrix, Sensed
from ..electrics import counts_of, pin_mv, threshold_counts
from ..engine import Kind, Run
from ..readers import Threshold


@dataclass(frozen=True)
class SensedTally:
    """One input's run. `made` are clicks turned, crossings of the clean value, keys pressed, numbers sent; `counted`
    their events; `wrong` what should not be: steps the other way, crossings too many, keys that nobody pressed, numbers
    that mean nothing; `errors` readings without sense. `wrong_us` are instants to look at."""

    input: str
    made: int
    counted: int
    wrong: int
    errors: int
    wrong_us: tuple[int, ...]

    @property
    def agrees(self) -> bool:
        """What was made was counted, and nothing else."""
        return self.made == self.counted and not self.wrong


def _events(run: Run, ident: str, *kinds: str) -> tuple[list[int], list[str]]:
    """(when, what) of an input's events of some kinds: not of those that it gives beside them."""
    signal = run.trace.signal(Kind.EVENT, ident)
    rows = [
        (at, what) for at, what in zip(signal.times_us, signal.values, strict=True) if what.partition(" ")[0] in kinds
    ]
    return [at for at, _ in rows], [what for _, what in rows]


def _turned(run: Run, part: Encoder) -> SensedTally:
    clicks = run.trace.signal(Kind.MADE, part.id)
    steps = [now - before for before, now in zip(clicks.values, clicks.values[1:], strict=False)]
    times_us, said = _events(run, part.id, "step", "back")
    ways = [1 if what == "step" else -1 for what in said]
    right, left = sum(step > 0 for step in steps), sum(step < 0 for step in steps)
    wrong = max(0, ways.count(-1) - left) if right >= left else max(0, ways.count(1) - right)
    backwards = -1 if right >= left else 1
    shown = [at for at, way in zip(times_us, ways, strict=True) if way == backwards] if wrong else []
    errors = run.trace.signal(Kind.ERROR, part.id)
    total = errors.values[-1] if errors.values else 0
    return SensedTally(part.id, right + left, len(ways), wrong, total, tuple((shown or errors.times_us)[:50]))


def _crossed(bench: Bench, run: Run, part: Analogue, reading: Measure) -> SensedTally:
    """The clean value goes from under a lower threshold to over its upper one, or back."""
    board = bench.the_board
    points = run.trace.signal(Kind.MADE, part.id)
    counts = [counts_of(round(pin_mv(part, board, value), 3), board) or 0 for value in points.values]
    times_us, said = _events(run, part.id, "above", "below")
    crossings, extra, wrong_us = 0, 0, list[int]()
    for of, pair in reading.pairs.items():
        clean = Threshold(*threshold_counts(part, pair, board), 0)
        made = sum(clean.step(0, count) != 0 for count in counts)
        mine = [at for at, what in zip(times_us, said, strict=True) if what.partition(" ")[2] == of]
        crossings, extra = crossings + made, extra + max(0, len(mine) - made)
        wrong_us += mine[made:]
    return SensedTally(part.id, crossings, len(times_us), extra, 0, tuple(sorted(wrong_us)[:50]))


def _keyed(run: Run, part: KeyMatrix) -> SensedTally:
    held = run.trace.signal(Kind.MADE, part.id)
    pressed: dict[str, int] = {}
    before: set[str] = set()
    for value in held.values:
        now = set(value.split())
        for name in now - before:
            pressed[name] = pressed.get(name, 0) + 1
        before = now
    times_us, said = _events(run, part.id, "key")
    wrong_us = []
    left = dict(pressed)
    for at_us, what in zip(times_us, said, strict=True):
        name = what.removeprefix("key ")
        left[name] = left.get(name, 0) - 1
        if left[name] < 0:
            wrong_us.append(at_us)
    made = sum(pressed.values())
    return SensedTally(part.id, made, len(times_us), len(wrong_us), 0, tuple(wrong_us[:50]))


def _heard(bench: Bench, run: Run, part: Commands) -> SensedTally:
    sent = run.trace.signal(Kind.MADE, part.id)
    events = run.trace.signal(Kind.EVENT, part.id)
    reading = bench.firmware.readings[part.id]
    assert isinstance(reading, Listen)
    meant = set(reading.by_number) | (set(range(reading.least, reading.most + 1)) if reading.into else set())
    unknown = [at for at, number in zip(sent.times_us, sent.values, strict=True) if number >= 0 and number not in meant]
    return SensedTally(part.id, len(sent.values), len(events.values), len(unknown), 0, tuple(unknown[:50]))


def sensed_tally(bench: Bench, run: Run, part: Sensed) -> SensedTally | None:
    """How the run counted an input; None where the firmware does not read it."""
    reading = bench.firmware.readings.get(part.id)
    if reading is None:
        return None
    if isinstance(part, Encoder):
        return _turned(run, part)
    if isinstance(part, Analogue) and isinstance(reading, Measure):
        return _crossed(bench, run, part, reading)
    if isinstance(part, KeyMatrix):
        return _keyed(run, part)
    return _heard(bench, run, part) if isinstance(part, Commands) else None
