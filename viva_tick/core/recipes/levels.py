"""Outputs that follow a level."""

from __future__ import annotations

from ..document import State, Transition
from ..drives import Ramp
from .base import ALWAYS, OFF, ON, THEN, Ask, Plan, Recipe, transition

Made = tuple[list[State], list[Transition]]
GROUP = "By a level"
LEVEL = Ask("sensor", "Level", "sensor")


def _threshold(plan: Plan) -> Made:
    states = [plan.state("off", "Off", output=OFF), plan.state("on", "On", output=ON)]
    return states, [
        transition("off", plan.on("above", "sensor"), "on"),
        transition("on", plan.on("below", "sensor"), "off"),
    ]


def _below(plan: Plan) -> Made:
    """On while it is below: a heater, a pump that fills. Neither shorter on nor shorter off than so long: only then is
    the level looked at."""
    states = [
        plan.state("off-least", "Off, at least", output=OFF),
        plan.state("off", "Off"),
        plan.state("on-least", "On, at least", output=ON),
        plan.state("on", "On"),
    ]
    return states, [
        transition("off", ALWAYS, "on-least", when=[plan.level("sensor", False)]),
        transition("on-least", plan.after("least_on"), "on"),
        transition("on", ALWAYS, "off-least", when=[plan.level("sensor")]),
        transition("off-least", plan.after("least_off"), "off"),
    ]


def _ramp(plan: Plan) -> Made:
    time_us = plan.times["time"]
    states = [
        plan.state("rest", "Rest", output=OFF),
        plan.state("up", "Up", output=Ramp(start=0, end=100, time_us=time_us, curve="square")),
        plan.state("hold", "Hold", output=ON),
        plan.state("down", "Down", output=Ramp(start=100, end=0, time_us=time_us, curve="square")),
        plan.state("dwell", "Dwell", output=OFF),
    ]
    return states, [
        transition("rest", plan.on("above", "sensor"), "up"),
        transition("up", plan.after("time"), "hold"),
        transition("hold", ALWAYS, "down", when=[plan.level("sensor", False)]),
        transition("down", plan.after("time"), "dwell"),
        transition("dwell", plan.after("dwell"), "rest"),
        transition("rest", ALWAYS, "up", when=[plan.level("sensor")]),
    ]


def _fill(plan: Plan) -> Made:
    states = [
        plan.state("full", "Full", output=OFF),
        plan.state("filling", "Filling", output=ON),
        plan.state("locked", "Locked out", output=OFF),
    ]
    return states, [
        transition("full", plan.on("below", "sensor"), "filling"),
        transition("full", plan.on("press"), "filling"),
        transition("filling", plan.on("above", "sensor"), "full"),
        transition("filling", plan.after(), "locked"),
        transition("locked", plan.on("press"), "full"),
    ]


RECIPES = (
    Recipe(
        "threshold",
        "On above",
        "On from the upper threshold, off under the lower one.",
        GROUP,
        _threshold,
        (LEVEL, THEN),
    ),
    Recipe(
        "keep-below",
        "Keep it up",
        "On while the level is below, off while it is above; never on or off for less than so long.",
        GROUP,
        _below,
        (
            LEVEL,
            THEN,
            Ask("least_on", "on at least", "time", 10_000_000),
            Ask("least_off", "off at least", "time", 30_000_000),
        ),
    ),
    Recipe(
        "ramp",
        "Ramp up, hold, ramp down",
        "Above, it ramps up and holds; below, it ramps down, dwells, and may begin again.",
        GROUP,
        _ramp,
        (LEVEL, THEN, Ask("time", "ramps take", "time", 2_000_000), Ask("dwell", "dwell for", "time", 3_000_000)),
    ),
    Recipe(
        "fill",
        "Fill, with a longest run",
        "Runs until the level is reached; too long a run locks it out until the button says go on.",
        GROUP,
        _fill,
        (LEVEL, THEN, Ask("time", "at most", "time", 60_000_000), Ask("input", "go on", "contact")),
    ),
)
