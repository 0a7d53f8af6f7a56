"""What people ask for beside that: two speeds of blinking, a wake word, a fail-safe stop, a train, a thermostat."""

from __future__ import annotations

from ..document import DriveEvent, State, Transition
from ..drives import Blink, BlinkRate, Ramp, Text
from .base import ALWAYS, OFF, ON, THEN, Ask, Plan, Recipe, count, is_so, transition

Made = tuple[list[State], list[Transition]]
LIGHTS, TOLD, MOVES, LEVELS = "Lights", "Dials, keys, commands", "Moving", "By a level"


def _two_rates(plan: Plan) -> Made:
    states = [plan.state("off", "Off", output=OFF)]
    moves = []
    for ident, name, ask, time in (("slow", "Slow", "input", "time"), ("fast", "Fast", "other", "fast")):
        half_us = max(plan.times[time] // 2000, 1) * 1000
        states.append(plan.state(ident, name, output=Blink(on_us=half_us, off_us=half_us)))
        moves += [transition("off", plan.on("press", ask), ident), transition(ident, plan.on("release", ask), "off")]
    return states, moves


def _dial_rate(plan: Plan) -> Made:
    rate = plan.number("Rate", plan.numbers["number"], begins=max(plan.numbers["number"] // 2, 1), least=1)
    blinks = BlinkRate(variable=rate, unit_us=min(plan.times["time"], 60_000_000))
    faster, slower = plan.on("step", "dial"), plan.on("back", "dial")
    return [plan.state("off", "Off", output=OFF), plan.state("blinks", "Blinks", output=blinks)], [
        transition("off", faster, "blinks"),
        transition("blinks", faster, "blinks", count(rate, -1)),
        transition("blinks", slower, "off", when=[is_so(rate, ">=", plan.numbers["number"])]),
        transition("blinks", slower, "blinks", count(rate)),
    ]


def _wake(plan: Plan) -> Made:
    ident = plan.ids["commands"]
    reading = plan.readings.get(ident) or plan.bench.firmware.readings.get(ident)
    names = [name for name in dict.fromkeys(getattr(reading, "names", ())) if name]
    if len(names) < 3:
        raise ValueError("A wake word needs three names: the word itself, one for on, one for off.")
    wake, on, off = names[:3]
    listens = {"second": ON} if "second" in plan.ids else {}
    sleeps = {"second": OFF} if "second" in plan.ids else {}
    states = [plan.state("asleep", "Asleep", output=OFF, **sleeps), plan.state("awake", "Awake", **listens)]
    states.append(plan.state("done", "Done", **sleeps))

    def said(name: str) -> Transition:
        drive = ON if name == on else OFF
        return transition("awake", plan.on("command", "commands", name), "done", plan.drive("output", drive))

    return states, [
        transition("asleep", plan.on("command", "commands", wake), "awake"),
        transition("done", plan.on("command", "commands", wake), "awake"),
        said(on),
        said(off),
        transition("awake", plan.after(), "done"),
    ]


def _fail_safe(plan: Plan) -> Made:
    line = plan.bench.contact(plan.ids["other"])
    if line.wiring.normally != "closed":
        other = "low" if line.active_level == "high" else "high"
        plan.wiring += [
            {"op": "replace", "path": f"{line.at}/wiring/normally", "value": "closed"},
            {"op": "replace", "path": f"{line.at}/active_level", "value": other},
        ]
    states = [plan.state("off", "Off", output=OFF), plan.state("on", "On", output=ON)]
    return states, [
        transition("off", plan.on("press"), "on", when=[plan.held("other", False)]),
        transition("on", plan.on("press", "other"), "off"),
        transition("on", ALWAYS, "off", when=[plan.held("other")]),
    ]


def _train(plan: Plan) -> Made:
    time_us, slow = plan.times["time"], min(plan.numbers["number"], 100)
    ends = DriveEvent(output=plan.ids["output"])
    states = [
        plan.state("stands", "Stands", output=OFF),
        plan.state("leaves", "Leaves", output=Ramp(start=None, end=100, time_us=time_us)),
        plan.state("runs", "Runs"),
        plan.state("slows", "Slows", output=Ramp(start=None, end=slow, time_us=time_us)),
        plan.state("stops", "Stops", output=Ramp(start=None, end=0, time_us=max(time_us // 2000, 1) * 1000)),
    ]
    return states, [
        transition("stands", plan.after("dwell"), "leaves"),
        transition("leaves", ends, "runs"),
        transition("leaves", plan.on("press"), "slows"),
        transition("runs", plan.on("press"), "slows"),
        transition("slows", plan.on("press", "other"), "stops"),
        transition("runs", plan.on("press", "other"), "stops"),
        transition("stops", ends, "stands"),
    ]


def _thermostat(plan: Plan) -> Made:
    def shown(text: str) -> dict[str, Text]:
        return {"line": Text(text=text)} if "line" in plan.ids else {}

    states = [
        plan.state("rests", "Rests", output=OFF, **shown("rests")),
        plan.state("warm", "Warm enough", **shown("warm enough")),
        plan.state("heats", "Heats", output=ON, **shown("heats")),
    ]
    return states, [
        transition("rests", plan.after("least_off"), "warm"),
        transition("warm", ALWAYS, "heats", when=[plan.level("sensor", False)]),
        transition("heats", plan.on("above", "sensor"), "rests"),
        transition("heats", plan.after("longest"), "rests"),
    ]


RECIPES = (
    Recipe("two-rates", "Slow or fast", "Blinks slowly while the first is held, fast while the second is.", LIGHTS,
           _two_rates, (Ask("input", "Slow while", "contact"), Ask("other", "fast while", "contact"), THEN,
                        Ask("time", "slow: each", "time", 1_000_000), Ask("fast", "fast: each", "time", 200_000))),
    Recipe("dial-rate", "Dial sets the speed", "Turned right it blinks faster, turned left slower.", TOLD, _dial_rate,
           (Ask("dial", "Dial", "dial"), THEN, Ask("number", "slowest, in steps", "number", 20),
            Ask("time", "a step", "time", 25_000))),
    Recipe("wake-word", "Wake word, then a command", "The first name wakes it for a while; then the second means on, "
           "the third off.", TOLD, _wake,
           (Ask("commands", "Commands", "commands"), THEN, Ask("time", "listens for", "time", 5_000_000),
            Ask("second", "lit while it listens", "output", optional=True))),
    Recipe("fail-safe-stop", "Start, and a stop that fails safe", "One starts, the other stops; the stop is wired "
           "closed at rest, so that a broken wire stops too.", MOVES, _fail_safe,
           (Ask("input", "Start", "contact"), Ask("other", "stop, closed at rest", "contact"), THEN)),
    Recipe("train", "Shuttle with a stop", "Ramps up, slows at the first magnet, stops at the second, dwells, and "
           "leaves again.", MOVES, _train,
           (Ask("input", "Slow at", "contact"), Ask("other", "stop at", "contact"), Ask("output", "motor", "output"),
            Ask("time", "a ramp takes", "time", 1_500_000), Ask("dwell", "dwell for", "time", 4_000_000),
            Ask("number", "slow, percent", "number", 35))),
    Recipe("thermostat", "Thermostat", "Heats while it is below; then it rests for so long at least. It never heats "
           "for longer than so long.", LEVELS, _thermostat,
           (Ask("sensor", "Level", "sensor"), THEN, Ask("least_off", "rests at least", "time", 60_000_000),
            Ask("longest", "heats at most", "time", 900_000_000), Ask("line", "shown on", "line", optional=True))),
)  # fmt: skip
