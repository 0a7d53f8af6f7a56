"""Timers, with the meaning of IEC 61131-3 where it has them (from memory)."""

from __future__ import annotations

from ..document import State, Transition
from .base import OFF, ON, THEN, WHEN, Ask, Plan, Recipe, transition

Made = tuple[list[State], list[Transition]]
GROUP = "In time"


def _on_delay(plan: Plan) -> Made:
    states = [plan.state("off", "Off", output=OFF), plan.state("waiting", "Waiting"), plan.state("on", "On", output=ON)]
    return states, [
        transition("off", plan.on("press"), "waiting"),
        transition("waiting", plan.on("release"), "off"),
        transition("waiting", plan.after(), "on"),
        transition("on", plan.on("release"), "off"),
    ]


def _off_delay(plan: Plan) -> Made:
    states = [plan.state("off", "Off", output=OFF), plan.state("on", "On", output=ON), plan.state("late", "Still on")]
    return states, [
        transition("off", plan.on("press"), "on"),
        transition("on", plan.on("release"), "late"),
        transition("late", plan.on("press"), "on"),
        transition("late", plan.after(), "off"),
    ]


def _one_shot(plan: Plan) -> Made:
    # Pressed again while it runs, or held beyond it, it is not started anew.
    states = [plan.state("off", "Off", output=OFF), plan.state("on", "On", output=ON)]
    return states, [transition("off", plan.on("press"), "on"), transition("on", plan.after(), "off")]


def _restarted(plan: Plan) -> Made:
    states, transitions = _one_shot(plan)
    return states, [*transitions, transition("on", plan.on("press"), "on")]


def _time(label: str, us: int) -> Ask:
    return Ask("time", label, "time", us)


RECIPES = (
    Recipe(
        "on-delay",
        "On-delay",
        "On when it has been pressed for so long; off as it is released (TON).",
        GROUP,
        _on_delay,
        (WHEN, THEN, _time("after", 2_000_000)),
    ),
    Recipe(
        "off-delay",
        "Off-delay",
        "On with the press; off so long after it was released (TOF).",
        GROUP,
        _off_delay,
        (WHEN, THEN, _time("off after", 3_000_000)),
    ),
    Recipe(
        "one-shot",
        "One-shot timer",
        "A press turns it on for so long, whatever comes meanwhile (TP).",
        GROUP,
        _one_shot,
        (WHEN, THEN, _time("for", 5_000_000)),
    ),
    Recipe(
        "restarted",
        "Timer, restarted",
        "On for so long after the last press.",
        GROUP,
        _restarted,
        (WHEN, THEN, _time("for", 5_000_000)),
    ),
)
