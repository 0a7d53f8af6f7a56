"""The watchdog's timeout: which of the board's steps no healthy pass reaches, and which acts soon enough."""

from __future__ import annotations

from dataclasses import dataclass

from ..cautions import hurts
from ..document import Bench
from ..pace import Anatomy, Block, anatomy, longest_unread_us

CALL_US = 500_000


@dataclass(frozen=True)
class Step:
    """One step of the board: when it acts at the soonest and at the latest, whether the longest healthy pass leaves
    the margin, and how long a hazardous output stays on after a hang with it."""

    step_us: int
    soonest_us: int
    latest_us: int
    clears: bool
    hazard_us: int
    safe: bool

    @property
    def fits(self) -> bool:
        """Whether it may be taken."""
        return self.clears and self.safe


@dataclass(frozen=True)
class Choice:
    """`healthy_us` is the longest healthy pass, `needed_us` the shortest timeout that clears it with the margin, before
    tolerance; `now` is the bench's own timeout; `best` the step to take, or None, and then `shorten` is the
    block to shorten and `by_us` by how much."""

    healthy_us: int
    why: Block
    needed_us: int
    now: Step
    steps: tuple[Step, ...]
    best: Step | None
    shorten: Block | None
    by_us: int
    hazardous: tuple[str, ...]
    parts: Anatomy


def _roomy(steps: tuple[Step, ...], hazardous: bool) -> Step | None:
    """The step to take: the longest that the hazardous outputs allow; where nothing can, the shortest that leaves room
    for a library's call that nobody counted, as one to a display, a sensor or the store (common practice)."""
    fit = [step for step in steps if step.fits]
    if not fit or hazardous:
        return fit[-1] if fit else None
    return next((step for step in fit if step.step_us >= CALL_US), fit[-1])


def corners(bench: Bench, step_us: int) -> tuple[int, int]:
    """(soonest, latest) that a step can act, over voltage and temperature."""
    fast, slow = bench.the_board.watchdog_corner_percent
    return round(step_us * (100 - fast) / 100), round(step_us * (100 + slow) / 100)


def after_hang_us(bench: Bench, latest_us: int) -> int:
    """How long a hazardous output may stay on after the loop has hung: until the watchdog has acted, twice where
    it calls first; with one whose pin nothing holds, until set-up is done again."""
    mode = bench.firmware.watchdog.mode
    bites_us = latest_us * (2 if mode == "interrupt-reset" else 1)
    off = {"low": "up", "high": "down"}
    held = all(channel.hold == off[channel.active_level] for channel in bench.channels if hurts(channel))
    return bites_us if held else bites_us + bench.the_board.start_up_us + bench.the_board.set_up_us


def _step(bench: Bench, step_us: int, needed_us: int) -> Step:
    soonest_us, latest_us = corners(bench, step_us)
    hazard_us = after_hang_us(bench, latest_us)
    safe = hazard_us <= bench.firmware.watchdog.hazard_us or not any(map(hurts, bench.channels))
    return Step(step_us, soonest_us, latest_us, soonest_us >= needed_us, hazard_us, safe)


def healthy_us(bench: Bench, seen_us: int = 0) -> int:
    """From one feed to the next in health, at the longest: the longest pass as computed or as seen in a run, on a board
    whose clock is as slow as it may be; where a task feeds it, its period and a pass more, or
    the longest period of all where all report."""
    firmware = bench.firmware
    longest_us = max(longest_unread_us(bench, anatomy(bench)) or 0, seen_us)
    if firmware.watchdog.feed == "task":
        longest_us += firmware.feeders.get(firmware.watchdog.feed_task or "", ("", 0))[1]
    if firmware.watchdog.feed == "reports":
        longest_us += max((one.period_us for one in firmware.tasks), default=0)
    if not firmware.watchdog.off_at_start:
        longest_us = max(longest_us, bench.the_board.set_up_us)
    return round(longest_us * (1 + bench.the_board.clock_ppm / 1e6))


def choose(bench: Bench, seen_us: int = 0) -> Choice:
    """The steps of a bench's board, and the one to take. `seen_us` is the longest pass of a healthy run."""
    watchdog = bench.firmware.watchdog
    parts = anatomy(bench)
    longest_us = healthy_us(bench, seen_us)
    needed_us = round(longest_us * (100 + watchdog.margin_percent) / 100)
    steps = tuple(_step(bench, step_us, needed_us) for step_us in bench.the_board.watchdog_steps_us)
    best = _roomy(steps, any(map(hurts, bench.channels)))
    shorten, by_us = None, 0
    if best is None and steps:
        safe = [step for step in steps if step.safe] or steps[:1]
        room_us = max(step.soonest_us for step in safe) * 100 // (100 + watchdog.margin_percent)
        shorten, by_us = parts.longest, max(longest_us - room_us, 0)
    hazardous = tuple(channel.name for channel in bench.channels if hurts(channel))
    now = _step(bench, watchdog.timeout_us, needed_us)
    return Choice(longest_us, parts.longest, needed_us, now, steps, best, shorten, by_us, hazardous, parts)
