"""A small preemptive kernel: who has the processor when. What the loop gets of it is what the others leave."""

from __future__ import annotations

from .simulate import Job, KernelTask, Schedule, Slice, simulate
from .tasks import LOOP, kernel_tasks, run_us

__all__ = ["LOOP", "Job", "KernelTask", "Schedule", "Slice", "kernel_tasks", "run_us", "simulate"]
