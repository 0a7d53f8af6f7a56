"""Ready blocks with the meaning of IEC 61131-3 (latches, edges, counters; from memory); its timers are in `timing`."""

from __future__ import annotations

from ..document import State, Transition
from ..drives import Pulse
from .base import ALWAYS, OFF, ON, THEN, WHEN, Ask, Plan, Recipe, count, is_so, put, transition

Made = tuple[list[State], list[Transition]]
GROUP = "Blocks"
SET, RESET = Ask("input", "Set", "contact"), Ask("other", "reset", "contact")
MOST = 32_767  # a counter is a 16-bit integer with a sign


def _two(plan: Plan) -> list[State]:
    return [plan.state("off", "Off", output=OFF), plan.state("on", "On", output=ON)]


def _set_wins(plan: Plan) -> Made:
    # Q1 = S1 or (Q1 and not R), of levels, not of edges.
    return _two(plan), [
        transition("off", ALWAYS, "on", when=[plan.held("input")]),
        transition("on", ALWAYS, "off", when=[plan.held("other"), plan.held("input", False)]),
    ]


def _reset_wins(plan: Plan) -> Made:
    # Q1 = not R1 and (S or Q1).
    return _two(plan), [
        transition("off", ALWAYS, "on", when=[plan.held("input"), plan.held("other", False)]),
        transition("on", ALWAYS, "off", when=[plan.held("other")]),
    ]


def _edge(kind: str) -> Recipe:
    def make(plan: Plan) -> Made:
        pulse = Pulse(length_us=plan.times["time"])
        return [plan.state("waiting", "Waiting")], [
            transition("waiting", plan.on(kind), "waiting", plan.drive("output", pulse))
        ]

    rising = kind == "press"
    return Recipe(
        "rising-edge" if rising else "falling-edge",
        "Edge, rising" if rising else "Edge, falling",
        f"A short pulse as it is {'pressed' if rising else 'released'} ({'R' if rising else 'F'}_TRIG).",
        GROUP,
        make,
        (WHEN, THEN, Ask("time", "pulse for", "time", 20_000)),
    )


def _count_up(plan: Plan) -> Made:
    value = plan.number("Count", MOST)
    preset = plan.numbers["number"]
    states = _two(plan)
    reset = plan.on("press", "other")
    return states, [
        transition("off", reset, "off", put(value, 0)),
        transition("on", reset, "off", put(value, 0)),
        transition("off", plan.on("press"), "off", count(value)),
        transition("on", plan.on("press"), "on", count(value)),
        transition("off", ALWAYS, "on", when=[is_so(value, ">=", preset)]),
    ]


def _count_down(plan: Plan) -> Made:
    preset = plan.numbers["number"]
    value = plan.number("Left", MOST, begins=preset)
    load = plan.on("press", "other")
    return _two(plan), [
        transition("off", load, "off", put(value, preset)),
        transition("on", load, "off", put(value, preset)),
        transition("off", plan.on("press"), "off", count(value, -1)),
        transition("off", ALWAYS, "on", when=[is_so(value, "<=", 0)]),
    ]


def _count_both(plan: Plan) -> Made:
    value = plan.number("Count", MOST)
    preset = plan.numbers["number"]
    up, down = plan.on("press"), plan.on("press", "other")
    return _two(plan), [
        transition("off", up, "off", count(value)),
        transition("on", up, "on", count(value)),
        transition("off", down, "off", count(value, -1)),
        transition("on", down, "on", count(value, -1)),
        transition("off", ALWAYS, "on", when=[is_so(value, ">=", preset)]),
        transition("on", ALWAYS, "off", when=[is_so(value, "<", preset)]),
    ]


PRESET = Ask("number", "full at", "number", 5)

RECIPES = (
    Recipe("set-wins", "Latch, set wins", "Set puts it on, reset off; both: on (SR).", GROUP, _set_wins,
           (SET, RESET, THEN)),
    Recipe("reset-wins", "Latch, reset wins", "Set puts it on, reset off; both: off (RS).", GROUP, _reset_wins,
           (SET, RESET, THEN)),
    _edge("press"),
    _edge("release"),
    Recipe("count-up", "Count up", "On when so many have been counted, until the reset (CTU).", GROUP, _count_up,
           (Ask("input", "Count", "contact"), RESET, PRESET, THEN)),
    Recipe("count-down", "Count down", "On when nothing is left of so many, until they are loaded anew (CTD).", GROUP,
           _count_down, (Ask("input", "Count", "contact"), Ask("other", "load", "contact"),
                         Ask("number", "begin with", "number", 5), THEN)),
    Recipe("count-both", "Count up and down", "On while as many are in as make it full (CTUD).", GROUP, _count_both,
           (Ask("input", "In", "contact"), Ask("other", "out", "contact"), PRESET, THEN)),
)  # fmt: skip
