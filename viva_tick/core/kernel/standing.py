"""What a kernel that is followed is made of: its tasks as they stand, and what they wait for."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ..clock import NEVER
from ..document.kernel import Give, Next, Rest, Steps, Take, Work
from ..document.pacing import Task


class Thing:
    """A flag, a mutex or a queue: what is in it, who holds it, who waits for it. `putting` wait with a full queue."""

    def __init__(self, ident: str, kind: str, length: int = 1, full: str = "drop") -> None:
        self.id, self.kind, self.length, self.full = ident, kind, length, full
        self.fill = self.lost = 0
        self.owner: Live | None = None
        self.waiting: list[Live] = []
        self.putting: list[Live] = []


class Live:
    """A task as it runs. `left_us` of the step that it works at; `wake_us`: when its wait ends by itself; `thing`:
    what it waits for, `by_us` until when at most; `word` is how it stands."""

    __slots__ = (
        "begun_us", "by_us", "due_us", "held", "id", "left_us", "number", "pc", "period_us", "priority", "refill",
        "round_us", "since", "steps", "thing", "wake_us", "word",
    )  # fmt: skip

    def __init__(self, number: int, ident: str, priority: int, period_us: int, steps: Steps) -> None:
        self.number, self.id, self.priority, self.period_us = number, ident, priority, period_us
        self.steps = steps
        self.pc = self.left_us = self.due_us = self.since = 0
        self.wake_us = NEVER
        self.by_us: int | None = None
        self.thing: Thing | None = None
        self.held: list[Thing] = []
        self.word = ""
        self.round_us = self.begun_us = -1
        self.refill: Callable[[], None] | None = None

    @property
    def waits(self) -> bool:
        return self.thing is not None or self.wake_us != NEVER


def as_steps(task: Task) -> Steps:
    """A periodic task of the plain sort: its next period, what it holds, its work; one that never waits works on, one
    that returns is gone."""
    steps: list[Any] = []
    held_us = min(task.holds_us, task.run_us) if task.shares else 0
    if held_us:
        of = shared_name(task.shares)
        steps += [Take.model_construct(of=of), Work(us=held_us), Give.model_construct(of=of)]
    if task.run_us - held_us:
        steps.append(Work(us=task.run_us - held_us))
    if task.ends == "spins":
        steps.append(Work.model_construct(us=NEVER))
    elif task.ends == "returns":
        steps.append(Rest.model_construct(us=NEVER >> 1))
    return (Next(), *steps)


def shared_name(shares: str) -> str:
    """The mutex that stands for a resource that is shared by name."""
    return f"shared {shares}"
