"""For as many lamps, targets and players as the bench has: lights that run, games, keys to outputs one by one."""

from __future__ import annotations

from ..document import CopyTo, DriveEvent, IfVariable, RandomFor, State, TimeoutEvent, Transition
from ..drives import Blink, Follow, Picked, Text
from .base import ALWAYS, OFF, ON, Ask, Plan, Recipe, count, is_so, put, transition

Made = tuple[list[State], list[Transition]]
GAMES, ONE_BY_ONE = "Players and prompts", "One by one"
LAMPS = Ask("outputs", "Lamps, in their order", "outputs")
SHOWS = Ask("line", "shown on", "line", optional=True)
LOST = Blink(on_us=100_000, off_us=100_000, times=3)
UNIT_US = 10_000  # what a step's time is counted in, so that it can get shorter


def _shown(plan: Plan, text: str) -> dict[str, Text]:
    return {"line": Text(text=text)} if "line" in plan.ids else {}


def _chase(plan: Plan) -> Made:
    last = plan.row("outputs", "Lamps") - 1
    step = plan.number("Step", last, ends="wrap")
    states = [plan.state("off", "Off", row=OFF), plan.state("runs", "Runs", row=Picked(variable=step))]
    return states, [
        transition("off", plan.on("press"), "runs", put(step, 0)),
        transition("runs", plan.on("press"), "off"),
        transition("runs", plan.after(), "runs", count(step)),
    ]


def _light_game(plan: Plan) -> Made:
    last = plan.row("outputs", "Track") - 1
    step = plan.number("Step", last)
    pace = plan.number("Pace", plan.times["time"] // UNIT_US, least=4, begins=plan.times["time"] // UNIT_US)
    left, right = plan.number("Left", 99), plan.number("Right", 99)
    points = plan.numbers["number"]
    timed = TimeoutEvent(after_us=plan.times["time"], variable=pace, unit_us=UNIT_US)
    begin = [put(left, 0), put(right, 0), put(step, 0), put(pace, plan.times["time"] // UNIT_US)]
    score = _shown(plan, f"{{{left}}} : {{{right}}}")
    runs = Picked(variable=step)
    states = [
        plan.state("ready", "Ready", row=OFF),
        plan.state("to-right", "To the right", row=runs, **score),
        plan.state("to-left", "To the left", row=runs, **score),
        plan.state("left-scores", "Left scores", row=LOST),
        plan.state("right-scores", "Right scores", row=LOST),
        plan.state("over", "Game over", row=ON),
    ]
    moves = [transition(state, plan.on("press", "start"), "to-right", *begin) for state in ("ready", "over")]
    ends = DriveEvent(output=plan.ids[plan.many["outputs"][0]])
    for here, hand, there, edge, by, scores, mine in (
        ("to-right", "other", "to-left", last, 1, "left-scores", left),
        ("to-left", "input", "to-right", 0, -1, "right-scores", right),
    ):
        hit = [count(step, -by), count(pace, -2)]
        moves += [
            transition(here, plan.on("press", hand), there, *hit, when=[is_so(step, "=", edge)]),
            transition(here, plan.on("press", hand), scores, count(mine)),
            transition(here, timed, here, count(step, by), when=[is_so(step, "!=", edge)]),
            transition(here, timed, scores, count(mine)),
            transition(scores, ends, "over", when=[is_so(mine, ">=", points)]),
            transition(scores, ends, here, put(step, last - edge)),
        ]
    return states, moves


def _reaction(plan: Plan) -> Made:
    targets, hands = plan.many["outputs"], plan.many["contacts"]
    many = min(len(targets), len(hands))
    plan.many["outputs"] = targets[:many]
    plan.row("outputs", "Targets")
    which = plan.number("Target", many, begins=1, least=1)
    score, left = plan.number("Score", 999), plan.number("Rounds left", 999, begins=plan.numbers["number"])
    shown = _shown(plan, f"Score {{{score}}}")
    states = [
        plan.state("ready", "Ready", row=OFF),
        plan.state("waits", "Waits", row=OFF, **shown),
        plan.state("shows", "Shows one", row=Picked(variable=which, first=1)),
        plan.state("hit", "Hit", row=OFF),
        plan.state("missed", "Missed", row=LOST),
        plan.state("over", "Over", row=OFF, **shown),
    ]
    draw = RandomFor(variable=which, least=1, most=many)
    begin = [put(score, 0), put(left, plan.numbers["number"])]
    moves = [transition(state, plan.on("press", "start"), "waits", *begin) for state in ("ready", "over")]
    moves += [
        transition("waits", ALWAYS, "over", when=[is_so(left, "<=", 0)]),
        transition("waits", plan.after("time", "until"), "shows", draw, count(left, -1)),
        transition("shows", plan.after("window"), "missed"),
        transition("hit", plan.after("pause"), "waits"),
        transition("missed", plan.after("pause"), "waits"),
    ]
    for number, hand in enumerate(hands[:many], 1):
        press = plan.on("press", hand)
        moves += [
            transition("shows", press, "hit", count(score), when=[is_so(which, "=", number)]),
            transition("shows", press, "missed"),
        ]
    return states, moves


def _pairs(plan: Plan) -> list[tuple[str, str]]:
    """(contact, output) of what was given, in order, as far as there are both."""
    return list(zip(plan.many["contacts"], plan.many["outputs"], strict=False))


def _toggles(plan: Plan) -> Made:
    made = []
    for hand, lamp in _pairs(plan):
        press = plan.on("press", hand)
        states = [plan.state("off", "Off", **{lamp: OFF}), plan.state("on", "On", **{lamp: ON})]
        made.append((plan.ids[lamp], states, [transition("off", press, "on"), transition("on", press, "off")]))
    plan.more += made[1:]
    return made[0][1], made[0][2]


def _momentary(plan: Plan) -> Made:
    drives = {lamp: Follow(input=plan.ids[hand]) for hand, lamp in _pairs(plan)}
    return [plan.state("follows", "Follows", **drives)], []


def _radio(plan: Plan) -> Made:
    pairs = _pairs(plan)
    plan.many["outputs"] = [lamp for _, lamp in pairs]
    plan.row("outputs", "Choice")
    which = plan.number("Chosen", len(pairs))
    states = [plan.state("shows", "Shows the choice", row=Picked(variable=which, first=1))]
    return states, [
        transition("shows", plan.on("press", hand), "shows", put(which, number))
        for number, (hand, _) in enumerate(pairs, 1)
    ]


def _keys_radio(plan: Plan) -> Made:
    many = plan.row("outputs", "Choice")
    which = plan.number("Chosen", many)
    part = next(part for _, part in plan.bench.sensed if part.id == plan.ids["keys"])
    names = getattr(part, "names", ())[:many]
    states = [plan.state("shows", "Shows the choice", row=Picked(variable=which, first=1))]
    return states, [
        transition("shows", plan.on("key", "keys", name), "shows", put(which, number))
        for number, name in enumerate(names, 1)
    ]


def _bar(plan: Plan) -> Made:
    many = plan.row("outputs", "Bar")
    level = plan.number("Level", many)
    states = [plan.state("shows", "Shows", row=Picked(variable=level, shows="bar"))]
    return states, [
        transition("shows", plan.on("step", "dial"), "shows", count(level)),
        transition("shows", plan.on("back", "dial"), "shows", count(level, -1)),
    ]


def _copied(plan: Plan) -> Made:
    """The best of all games is kept."""
    score, best = plan.number("Count", 9_999), plan.number("Best", 9_999)
    states = [plan.state("counts", "Counts", line=Text(text=f"{{{score}}}  best {{{best}}}"))]
    better = [transition("counts", ALWAYS, "counts", CopyTo(variable=best, other=score), when=[_over(score, best)])]
    return states, [
        *better,
        transition("counts", plan.on("press"), "counts", count(score)),
        transition("counts", plan.on("press", "other"), "counts", put(score, 0)),
    ]


def _over(one: str, other: str) -> IfVariable:
    return IfVariable(variable=one, sign=">", other=other)


START = Ask("start", "Start", "contact")

RECIPES = (
    Recipe("chase", "Light that runs along", "A press sets a light running along the row, the next one stops it.",
           GAMES, _chase, (Ask("input", "When", "contact"), LAMPS, Ask("time", "each for", "time", 200_000))),
    Recipe("light-game", "Light game for two", "A light runs along; whoever sits at its end sends it back in time, and "
           "each hit makes it faster. A miss is a point for the other.", GAMES, _light_game,
           (Ask("input", "Left", "contact"), Ask("other", "right", "contact"), START, LAMPS,
            Ask("time", "first each for", "time", 300_000), Ask("number", "points to win", "number", 5), SHOWS)),
    Recipe("reaction", "Reaction game", "After a pause one target lights; its own button in time is a hit, all else is "
           "missed.", GAMES, _reaction,
           (Ask("contacts", "Buttons, in order", "contacts"), Ask("outputs", "their targets", "outputs"), START,
            Ask("number", "rounds", "number", 10), Ask("time", "after", "time", 800_000),
            Ask("until", "up to", "time", 3_000_000), Ask("window", "within", "time", 700_000),
            Ask("pause", "then a pause of", "time", 600_000), SHOWS)),
    Recipe("count-show", "Count and show", "Each press counts; the display shows it, and the best so far.", GAMES,
           _copied, (Ask("input", "Count", "contact"), Ask("other", "begin anew", "contact"),
                     Ask("line", "show on", "line"))),
    Recipe("each-toggles", "Each its own toggle", "Each button turns its own output over.", ONE_BY_ONE, _toggles,
           (Ask("contacts", "Buttons, in order", "contacts"), Ask("outputs", "their outputs", "outputs"))),
    Recipe("each-follows", "Each on while pressed", "Each output is on while its own button is pressed.", ONE_BY_ONE,
           _momentary, (Ask("contacts", "Buttons, in order", "contacts"), Ask("outputs", "their outputs", "outputs"))),
    Recipe("one-of-many", "One of many", "Each button chooses its own output; the others go off.", ONE_BY_ONE, _radio,
           (Ask("contacts", "Buttons, in order", "contacts"), Ask("outputs", "their outputs", "outputs"))),
    Recipe("keys-choose", "Keys choose an output", "The first keys choose one output each; the others go off.",
           ONE_BY_ONE, _keys_radio, (Ask("keys", "Keys", "keys"), Ask("outputs", "their outputs", "outputs"))),
    Recipe("dial-bar", "Bar on a dial", "Turned, more or fewer of the row are on.", ONE_BY_ONE, _bar,
           (Ask("dial", "Dial", "dial"), LAMPS)),
)  # fmt: skip
