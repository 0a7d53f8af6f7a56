"""What a dial, keys or commands set and switch."""

from __future__ import annotations

from ..document import InputEvent, Scan, State, TimeoutEvent, Transition
from ..drives import Blink, FollowVariable
from .base import ALWAYS, OFF, ON, THEN, Ask, Plan, Recipe, count, is_so, put, transition

Made = tuple[list[State], list[Transition]]
GROUP = "Dials, keys, commands"


def _dial(plan: Plan) -> Made:
    steps = plan.number("Time", plan.numbers["number"], begins=1)
    states = [plan.state("setting", "Setting", output=OFF), plan.state("running", "Running", output=ON)]
    runs = TimeoutEvent(after_us=plan.times["time"], variable=steps, unit_us=plan.times["time"])
    return states, [
        transition("setting", plan.on("step", "dial"), "setting", count(steps)),
        transition("setting", plan.on("back", "dial"), "setting", count(steps, -1)),
        transition("setting", plan.on("press"), "running"),
        transition("running", plan.on("press"), "setting"),
        transition("running", runs, "setting"),
    ]


def _brightness(plan: Plan) -> Made:
    level = plan.number("Brightness", plan.numbers["number"])
    lit = FollowVariable(variable=level)
    return [plan.state("lit", "Lit", output=lit)], [
        transition("lit", plan.on("step", "dial"), "lit", count(level)),
        transition("lit", plan.on("back", "dial"), "lit", count(level, -1)),
    ]


def _code(plan: Plan) -> Made:
    ident = plan.ids["keys"]
    reading = plan.readings.get(ident) or plan.bench.firmware.readings.get(ident)
    if isinstance(reading, Scan) and not reading.code:
        part = next(part for _, part in plan.bench.sensed if part.id == ident)
        names = [name for name in getattr(part, "names", ()) if name not in reading.ignored]
        plan.readings[ident] = reading.model_copy(update={"code": tuple(names[:4])})
    tries = plan.number("Tries", plan.numbers["number"])
    states = [
        plan.state("shut", "Shut", output=OFF),
        plan.state("open", "Open", output=ON),
        plan.state("locked", "Locked out", output=OFF),
    ]
    return states, [
        transition("shut", plan.on("code", "keys"), "open", put(tries, 0)),
        transition("shut", plan.on("wrong", "keys"), "shut", count(tries)),
        transition("shut", ALWAYS, "locked", put(tries, 0), when=[is_so(tries, ">=", plan.numbers["number"])]),
        transition("open", plan.after("time"), "shut"),
        transition("locked", plan.after("out"), "shut"),
    ]


def _table(plan: Plan) -> Made:
    ident = plan.ids["commands"]
    reading = plan.readings.get(ident) or plan.bench.firmware.readings.get(ident)
    names = [name for name in dict.fromkeys(getattr(reading, "names", ())) if name]
    if not names:
        raise ValueError("Give the commands names in Clean first; then they can be put in a table.")
    does = [("output", ON), ("output", OFF), *((("second", ON), ("second", OFF)) if "second" in plan.ids else ())]
    blink = ("output", Blink(on_us=250_000, off_us=250_000))
    rows = zip(names, [*does, blink], strict=False)
    return [plan.state("listening", "Listening")], [
        transition("listening", InputEvent(kind="command", input=ident, of=name), "listening", plan.drive(ask, drive))
        for name, (ask, drive) in rows
    ]


RECIPES = (
    Recipe(
        "dial-time",
        "Dial a time, push to run",
        "The dial sets so many steps; a push runs them down, another stops.",
        GROUP,
        _dial,
        (
            Ask("dial", "Dial", "dial"),
            Ask("input", "push", "contact"),
            THEN,
            Ask("time", "a step is", "time", 1_000_000),
            Ask("number", "at most", "number", 60),
        ),
    ),
    Recipe(
        "dial-brightness",
        "Dial sets brightness",
        "Turned to the right it gets brighter, to the left darker, in so many steps.",
        GROUP,
        _brightness,
        (Ask("dial", "Dial", "dial"), THEN, Ask("number", "steps", "number", 20)),
    ),
    Recipe(
        "code-lock",
        "Code lock",
        "The code opens it for a while; too many wrong ones lock it out.",
        GROUP,
        _code,
        (
            Ask("keys", "Keys", "keys"),
            THEN,
            Ask("time", "open for", "time", 4_000_000),
            Ask("number", "wrong ones allowed", "number", 3),
            Ask("out", "locked out for", "time", 30_000_000),
        ),
    ),
    Recipe(
        "command-table",
        "Command table",
        "The first names switch it on, off, a second one on and off; the next makes it blink.",
        GROUP,
        _table,
        (Ask("commands", "Commands", "commands"), THEN, Ask("second", "and", "output", optional=True)),
    ),
)
