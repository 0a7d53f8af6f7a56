"""For players and for prompts: who was first, a light that runs, an answer in time."""

from __future__ import annotations

from ..document import RandomFor, State, Transition
from ..drives import Blink, Drive
from .base import ALWAYS, OFF, ON, Ask, Plan, Recipe, count, is_so, transition

Made = tuple[list[State], list[Transition]]
GROUP = "Players and prompts"
ROW = ("output", "second", "third", "fourth")
HANDS = ("input", "other", "hand3")
LOST = Blink(on_us=120_000, off_us=120_000)


def _only(plan: Plan, lit: str | None, asks: list[str]) -> dict[str, Drive]:
    return {ask: ON if ask == lit else OFF for ask in asks}


def _first(plan: Plan) -> Made:
    hands = plan.given(*HANDS)
    lamps = plan.given(*ROW)
    pairs = list(zip(hands, lamps, strict=False))
    states = [plan.state("open", "Open", **_only(plan, None, lamps))]
    transitions = []
    for number, (hand, lamp) in enumerate(pairs, 1):
        name = f"{plan.names[hand]} first"[:60]
        states.append(plan.state(f"first-{number}", name, **_only(plan, lamp, lamps)))
        transitions.append(transition("open", plan.on("press", hand), f"first-{number}"))
        transitions.append(transition(f"first-{number}", plan.on("press", "reset"), "open"))
    return states, transitions


def _running(plan: Plan) -> Made:
    lamps = plan.given(*ROW)
    last = len(lamps)
    step, press = plan.after(), plan.on("press")
    names = {"r": "to the right", "l": "to the left"}
    states = [plan.state("ready", "Ready", **_only(plan, None, lamps))]
    transitions = [transition("ready", press, "r1")]
    for side in "rl":
        for number, lamp in enumerate(lamps, 1):
            drives = _only(plan, lamp, lamps)
            states.append(plan.state(f"{side}{number}", f"{number}, {names[side]}", **drives))
            end = number == (last if side == "r" else 1)
            if end:
                turned = f"l{last - 1}" if side == "r" else "r2"
                transitions += [
                    transition(f"{side}{number}", press, turned),
                    transition(f"{side}{number}", step, "missed"),
                ]
            else:
                ahead = number + (1 if side == "r" else -1)
                transitions.append(transition(f"{side}{number}", step, f"{side}{ahead}"))
    lost = dict.fromkeys(lamps, LOST)
    states.append(plan.state("missed", "Missed", **lost))
    transitions.append(transition("missed", press, "r1"))
    # Reached by nothing: the last on the way to the left is where one is turned to, its first where one is turned.
    unused = {f"l{last}"}
    return [s for s in states if s.id not in unused], [w for w in transitions if w.source not in unused]


def _prompt(plan: Plan) -> Made:
    lamps, hands = plan.given("output", "second"), plan.given("input", "other")
    which = plan.number("Prompt", 2, begins=1, least=1)
    score = plan.number("Score", 1000)
    waiting = plan.state("waiting", "Waiting", **_only(plan, None, lamps))
    draw = RandomFor(variable=which, least=1, most=2)
    states = [waiting, plan.state("drawn", "Drawn")]
    transitions = [transition("waiting", plan.after("time", "until"), "drawn", draw)]
    # Too soon is a miss, too.
    transitions += [transition("waiting", plan.on("press", hand), "missed") for hand in hands]
    for number, (lamp, hand) in enumerate(zip(lamps, hands, strict=True), 1):
        name = f"{plan.names[lamp]} asks"[:60]
        states.append(plan.state(f"asks-{number}", name, **_only(plan, lamp, lamps)))
        transitions.append(transition("drawn", ALWAYS, f"asks-{number}", when=[is_so(which, "=", number)]))
        transitions.append(transition(f"asks-{number}", plan.on("press", hand), "waiting", count(score)))
        transitions += [
            transition(f"asks-{number}", plan.on("press", other), "missed") for other in hands if other != hand
        ]
        transitions.append(transition(f"asks-{number}", plan.after("window"), "missed"))
    states.append(plan.state("missed", "Missed", **dict.fromkeys(lamps, LOST)))
    transitions.append(transition("missed", plan.after("pause"), "waiting"))
    return states, transitions


RECIPES = (
    Recipe(
        "first-press",
        "First press wins",
        "Who presses first has the lamp; the others are ignored until the reset.",
        GROUP,
        _first,
        (
            Ask("input", "One", "contact"),
            Ask("output", "lights", "output"),
            Ask("other", "another", "contact"),
            Ask("second", "lights too", "output"),
            Ask("hand3", "a third", "contact", optional=True),
            Ask("third", "lights, too", "output", optional=True),
            Ask("reset", "reset", "contact"),
        ),
    ),
    Recipe(
        "running-light",
        "Running light",
        "A light runs along the row; a press while the last one is lit turns it round, else it is missed.",
        GROUP,
        _running,
        (
            Ask("input", "When", "contact"),
            Ask("output", "first", "output"),
            Ask("second", "second", "output"),
            Ask("third", "third", "output", optional=True),
            Ask("fourth", "fourth", "output", optional=True),
            Ask("time", "each for", "time", 400_000),
        ),
    ),
    Recipe(
        "prompt",
        "Prompt at random",
        "After a time at random one of two asks; the right press in time scores, all else is missed.",
        GROUP,
        _prompt,
        (
            Ask("output", "Asks", "output"),
            Ask("input", "answered by", "contact"),
            Ask("second", "or asks", "output"),
            Ask("other", "answered with", "contact"),
            Ask("time", "after", "time", 1_000_000),
            Ask("until", "up to", "time", 4_000_000),
            Ask("window", "within", "time", 800_000),
            Ask("pause", "missed for", "time", 1_000_000),
        ),
    ),
)
