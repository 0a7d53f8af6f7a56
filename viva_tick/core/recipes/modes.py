"""Modes, and two outputs that take turns."""

from __future__ import annotations

from ..document import Interlock, State, Transition
from ..drives import Blink, Burst
from .base import OFF, ON, THEN, WHEN, Ask, Plan, Recipe, transition

Made = tuple[list[State], list[Transition]]
GROUP = "Modes and pairs"
SLOW, FAST = Blink(on_us=500_000, off_us=500_000), Blink(on_us=120_000, off_us=120_000)
FLASH = Burst(on_us=60_000, off_us=90_000, times=3, rest_us=600_000)
SECOND = Ask("second", "and", "output")


def _modes(plan: Plan) -> list[State]:
    return [
        plan.state("off", "Off", output=OFF),
        plan.state("steady", "Steady", output=ON),
        plan.state("slow", "Slow", output=SLOW),
        plan.state("fast", "Fast", output=FAST),
    ]


def _step(plan: Plan) -> Made:
    order = ("off", "steady", "slow", "fast", "off")
    return _modes(plan), [transition(one, plan.on("press"), order[n + 1]) for n, one in enumerate(order[:-1])]


def _step_long_off(plan: Plan) -> Made:
    order = ("off", "steady", "slow", "fast", "steady")
    transitions = [transition(one, plan.on("click"), order[n + 1]) for n, one in enumerate(order[:-1])]
    return _modes(plan), [*transitions, *(transition(one, plan.on("hold"), "off") for one in order[1:-1])]


def _everywhere(plan: Plan) -> Made:
    states = [State(id="any", name="Any", starts_in="off"), *_modes(plan), plan.state("flash", "Flash", output=FLASH)]
    states = [states[0], *(one.model_copy(update={"parent": "any"}) for one in states[1:])]
    order = ("off", "steady", "slow", "fast", "off")
    return states, [
        *(transition(one, plan.on("click"), order[n + 1]) for n, one in enumerate(order[:-1])),
        transition("flash", plan.on("click"), "off"),
        transition("any", plan.on("hold"), "off"),
        transition("any", plan.on("double"), "flash"),
    ]


def _hold_blink(plan: Plan) -> Made:
    states = [
        plan.state("off", "Off", output=OFF),
        plan.state("slow", "Held, slow", output=SLOW),
        plan.state("fast", "Held on, fast", output=FAST),
    ]
    transitions = [transition("off", plan.on("press"), "slow"), transition("slow", plan.after(), "fast")]
    return states, [*transitions, *(transition(one, plan.on("release"), "off") for one in ("slow", "fast"))]


def _burst(plan: Plan) -> Made:
    flashes = Burst(on_us=80_000, off_us=120_000, times=plan.numbers["number"], rest_us=plan.times["time"])
    states = [plan.state("off", "Off", output=OFF), plan.state("on", "Flashing", output=flashes)]
    return states, [transition("off", plan.on("press"), "on"), transition("on", plan.on("press"), "off")]


def _alternate(plan: Plan) -> Made:
    states = [
        plan.state("neither", "Neither", output=OFF, second=OFF),
        plan.state("first", "First", output=ON, second=OFF),
        plan.state("second", "Second", output=OFF, second=ON),
    ]
    press = plan.on("press")
    return states, [
        transition("neither", press, "first"),
        transition("first", press, "second"),
        transition("second", press, "first"),
    ]


def _interlocked(plan: Plan) -> Made:
    one, other = plan.on("press"), plan.on("press", "other")
    plan.interlocks.append(
        Interlock(one=plan.ids["output"], other=plan.ids["second"], dead_us=min(plan.times["time"], 60_000_000))
    )
    states = [
        plan.state("still", "Still", output=OFF, second=OFF),
        plan.state("first", "One direction", output=ON, second=OFF),
        plan.state("second", "Other direction", output=OFF, second=ON),
        plan.state("to-second", "Dead time", output=OFF, second=OFF),
        plan.state("to-first", "Dead time back", output=OFF, second=OFF),
    ]
    return states, [
        transition("still", one, "first"),
        transition("still", other, "second"),
        transition("first", other, "to-second"),
        transition("first", one, "still"),
        transition("second", one, "to-first"),
        transition("second", other, "still"),
        transition("to-second", plan.after(), "second"),
        transition("to-first", plan.after(), "first"),
    ]


RECIPES = (
    Recipe("mode-step", "Step through modes", "Off, steady, slow blink, fast blink, off.", GROUP, _step),
    Recipe(
        "mode-step-long-off",
        "Modes, long press off",
        "A click steps through the modes; held, it goes off.",
        GROUP,
        _step_long_off,
    ),
    Recipe(
        "every-state",
        "Hold and double-click, in every state",
        "A click steps through the modes; a hold switches off and a double-click flashes, whatever the mode.",
        GROUP,
        _everywhere,
    ),
    Recipe(
        "hold-blink",
        "Held slow, held on fast",
        "While it is held it blinks slowly; held longer, fast.",
        GROUP,
        _hold_blink,
        (WHEN, THEN, Ask("time", "fast after", "time", 2_000_000)),
    ),
    Recipe(
        "blink-burst",
        "Flashes, then a rest",
        "So many flashes and a rest, over and over; a press begins and ends it.",
        GROUP,
        _burst,
        (WHEN, THEN, Ask("number", "flashes", "number", 3), Ask("time", "rest for", "time", 1_000_000)),
    ),
    Recipe(
        "alternate", "Take turns", "Each press hands over to the other output.", GROUP, _alternate, (WHEN, THEN, SECOND)
    ),
    Recipe(
        "interlocked",
        "Forward, backward",
        "Two buttons, two outputs, never both on: between them lies a dead time.",
        GROUP,
        _interlocked,
        (
            WHEN,
            THEN,
            Ask("other", "when", "contact"),
            Ask("second", "then", "output"),
            Ask("time", "dead time", "time", 500_000),
        ),
    ),
)
