"""What a run says of the tasks: when their jobs began, how late, how many were let go, how far the beat drifts."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass

from ..document import Bench
from ..engine import Kind, Run, Signal

HOUR_US = 3_600_000_000


@dataclass(frozen=True)
class JobTally:
    """One task's jobs in a run. `jitter_us` is from the most punctual to the latest beginning; `missed` are periods
    without a job of their own; `drift_us` is what the beat loses in an hour, None of fewer than three jobs;
    `longest_us` is the longest job, its slices together."""

    task: str
    jobs: int
    late_us: int
    jitter_us: int
    missed: int
    drift_us: int | None
    longest_us: int

    @property
    def drift_day_us(self) -> int | None:
        """What the beat loses in a day."""
        return None if self.drift_us is None else self.drift_us * 24


def _counted_ms(passes: Signal, at_us: int, zero_us: int) -> int:
    """The counter in the pass that an instant lies in."""
    place = bisect_right(passes.times_us, at_us) - 1
    begun_us, (length_us, _) = passes.times_us[place], passes.values[place]
    begun_us += (at_us - begun_us) // length_us * length_us if length_us else 0
    return (begun_us - zero_us) // 1000


def job_tallies(bench: Bench, run: Run) -> dict[str, JobTally]:
    """Each task's jobs."""
    found: dict[str, JobTally] = {}
    ready_us = run.boots[-1][1] if run.boots else 0
    zero_us = ready_us - bench.the_board.set_up_us
    passes = run.trace.signal(Kind.PASS)
    for task in bench.firmware.tasks:
        signal = run.trace.signal(Kind.JOB, task.id)
        starts: list[tuple[int, int]] = []
        lengths: list[int] = []
        missed = 0
        for at_us, (length_us, late_us, gone) in zip(signal.times_us, signal.values, strict=True):
            if late_us < 0:  # a later slice
                if lengths:
                    lengths[-1] += length_us
                continue
            missed += gone
            lengths.append(length_us)
            if at_us >= ready_us:  # a reset begins the beat anew
                starts.append((at_us, late_us))
        late = [late_us for _, late_us in starts]
        if lengths and task.keeps != "now":
            missed += sum(late_us >= task.period_us for late_us in late)
        drift_us = None
        if len(starts) > 2 and (span_us := starts[-1][0] - starts[0][0]) > 0:
            # In whole ms of the counter, as the firmware read it at the beginning of the pass.
            first_ms, last_ms = (_counted_ms(passes, at_us, zero_us) for at_us in (starts[0][0], starts[-1][0]))
            lost_us = (last_ms - first_ms) * 1000 - (len(starts) - 1) * task.period_us
            drift_us = round(lost_us * HOUR_US / span_us) if task.keeps == "now" else 0
        found[task.id] = JobTally(
            task.id,
            len(lengths),
            max(late, default=0),
            max(late, default=0) - min(late, default=0),
            missed,
            drift_us,
            max(lengths, default=0),
        )
    return found
