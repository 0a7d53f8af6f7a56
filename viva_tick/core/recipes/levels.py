"""Outputs that follow a level."""

from __future__ import annotations

from ..document import State, Transition
from .base import OFF, ON, THEN, Ask, Plan, Recipe, way

Made = tuple[list[State], list[Transition]]
GROUP = "By a level"
LEVEL = Ask("sensor", "Level", "sensor")


def _threshold(plan: Plan) -> Made:
    states = [plan.state("off", "Off", output=OFF), plan.state("on", "On", output=ON)]
    return states, [way("off", plan.on("above", "sensor"), "on"), way("on", plan.on("below", "sensor"), "off")]


def _below(plan: Plan) -> Made:
    """On while it is below: a heater, a pump that fills. Neither shorter on nor shorter off than so long."""
    above, below = plan.on("above", "sensor"), plan.on("below", "sensor")
    states = [
        plan.state("on-first", "On, just", output=ON),
        plan.state("on", "On"),
        plan.state("off-first", "Off, just", output=OFF),
        plan.state("off", "Off"),
        plan.state("on-over", "On, had enough"),
        plan.state("off-under", "Off, wants more"),
    ]
    # A crossing that comes before the least time is over is remembered, and begins that time anew: a level that goes to
    # and fro faster holds the output where it is.
    return states, [
        way("on-first", above, "on-over"),
        way("on-first", plan.after("least_on"), "on"),
        way("on-over", below, "on-first"),
        way("on-over", plan.after("least_on"), "off-first"),
        way("on", above, "off-first"),
        way("off-first", below, "off-under"),
        way("off-first", plan.after("least_off"), "off"),
        way("off-under", above, "off-first"),
        way("off-under", plan.after("least_off"), "on-first"),
        way("off", below, "on-first"),
    ]


def _fill(plan: Plan) -> Made:
    states = [
        plan.state("full", "Full", output=OFF),
        plan.state("filling", "Filling", output=ON),
        plan.state("locked", "Locked out", output=OFF),
    ]
    return states, [
        way("full", plan.on("below", "sensor"), "filling"),
        way("full", plan.on("press"), "filling"),
        way("filling", plan.on("above", "sensor"), "full"),
        way("filling", plan.after(), "locked"),
        way("locked", plan.on("press"), "full"),
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
        "fill",
        "Fill, with a longest run",
        "Runs until the level is reached; too long a run locks it out until the button says go on.",
        GROUP,
        _fill,
        (LEVEL, THEN, Ask("time", "at most", "time", 60_000_000), Ask("input", "go on", "contact")),
    ),
)
