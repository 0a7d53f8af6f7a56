"""On and off, by hand."""

from __future__ import annotations

from ..document import State, Transition
from .base import OFF, ON, THEN, Ask, Plan, Recipe, transition

Made = tuple[list[State], list[Transition]]
GROUP = "On and off"


def _two(plan: Plan) -> list[State]:
    return [plan.state("off", "Off", output=OFF), plan.state("on", "On", output=ON)]


def _toggle(plan: Plan) -> Made:
    return _two(plan), [transition("off", plan.on("press"), "on"), transition("on", plan.on("press"), "off")]


def _toggle_release(plan: Plan) -> Made:
    return _two(plan), [transition("off", plan.on("release"), "on"), transition("on", plan.on("release"), "off")]


def _follow(plan: Plan) -> Made:
    return _two(plan), [transition("off", plan.on("press"), "on"), transition("on", plan.on("release"), "off")]


def _hold(plan: Plan) -> Made:
    return _two(plan), [transition("off", plan.on("hold"), "on"), transition("on", plan.on("long-release"), "off")]


def _start_stop(plan: Plan) -> Made:
    # While the stop is held nothing starts it: pressed together, it is the stop that counts.
    stop = plan.on("press", "other")
    return [*_two(plan), plan.state("stopped", "Stop held", output=OFF)], [
        transition("off", plan.on("press"), "on"),
        transition("off", stop, "stopped"),
        transition("on", stop, "stopped"),
        transition("stopped", plan.on("release", "other"), "off"),
    ]


RECIPES = (
    Recipe("toggle", "Toggle on press", "Each press changes it: on, off, on.", GROUP, _toggle),
    Recipe("toggle-release", "Toggle on release", "Each time it is released it changes.", GROUP, _toggle_release),
    Recipe("follow", "Follow", "On while it is pressed, off when it is released.", GROUP, _follow),
    Recipe("hold-to-run", "Hold to run", "On once it is held on purpose, off as it is released.", GROUP, _hold),
    Recipe(
        "start-stop",
        "Start and stop",
        "One starts it and it runs on; the other stops it, and wins.",
        GROUP,
        _start_stop,
        (Ask("input", "Start", "contact"), Ask("other", "stop", "contact"), THEN),
    ),
)
