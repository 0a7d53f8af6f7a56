"""Guard: what happens when something hangs, and how the bench starts again."""

from __future__ import annotations

from .choose import Choice, Step, after_hang_us, choose, corners, healthy_us
from .hangs import (
    FAULTS,
    VERDICTS,
    FaultClass,
    HangRow,
    HangRun,
    fault_at,
    faults_of,
    hang_row,
    hang_rows,
    hang_run,
    hang_tests,
    instants,
    judge_run,
)
from .sleeping import SleepStudy, life_days, sleep_study
from .starting import Phase, Start, Wear, phases, save_us, starts, wear, writes_a_day

__all__ = [
    "FAULTS",
    "VERDICTS",
    "Choice",
    "FaultClass",
    "HangRow",
    "HangRun",
    "Phase",
    "SleepStudy",
    "Start",
    "Step",
    "Wear",
    "after_hang_us",
    "choose",
    "corners",
    "fault_at",
    "faults_of",
    "hang_row",
    "hang_rows",
    "hang_run",
    "hang_tests",
    "healthy_us",
    "instants",
    "judge_run",
    "life_days",
    "phases",
    "save_us",
    "sleep_study",
    "starts",
    "wear",
    "writes_a_day",
]
