"""Benches and scenarios at random, for properties."""

from __future__ import annotations

from typing import Any

from hypothesis import strategies as st

from viva_tick.core.debounce import METHODS
from viva_tick.core.document import BOARD_EVENTS, Bench, Scenario, bench_data, bench_from_data
from viva_tick.core.gestures import GESTURES

INPUTS, OUTPUTS = ("in-a", "in-b"), ("out-a", "out-b")
SWITCHES = ("small-button", "worn-button", "foot-pedal", "toggle-switch", "logic-signal")
millis = st.integers(1, 60).map(lambda ms: ms * 1000)


SLEEPS = [None, {"wakes": "timer"}, {"every_us": 20_000}, {"wakes": "pin", "awake_us": 40_000}]
percents = st.sampled_from([0, 30, 70, 100])
VARIABLES = [
    {"id": "count", "name": "count", "least": 0, "most": 4, "begins": 1, "ends": "wrap"},
    {"id": "span", "name": "span", "least": -3, "most": 20, "begins": 2},
]


def some(kind: str, **fields: Any) -> st.SearchStrategy[dict[str, Any]]:
    """A thing of a kind, with a field of each strategy or value."""
    rest = {name: given if isinstance(given, st.SearchStrategy) else st.just(given) for name, given in fields.items()}
    return st.fixed_dictionaries({"kind": st.just(kind), **rest})


def drives(inputs: tuple[str, ...] = INPUTS) -> st.SearchStrategy[dict[str, Any]]:
    steps = st.lists(st.fixed_dictionaries({"percent": percents, "us": millis}), min_size=1, max_size=3)
    few, wait = st.integers(1, 3), st.booleans()
    return st.one_of(
        some("steady", on=st.booleans()),
        some("level", percent=percents),
        some("blink", on_us=millis, off_us=millis),
        some("blink", on_us=millis, off_us=millis, times=few, for_us=st.sampled_from([0, 70_000]), blocking=wait),
        some("pulse", length_us=millis, blocking=wait),
        some("burst", on_us=millis, off_us=millis, rest_us=millis, times=few, rounds=few, blocking=wait),
        some("ramp", start=percents, end=percents, time_us=millis, blocking=wait).flatmap(
            lambda r: st.sampled_from(["straight", "square", "smooth"]).map(lambda curve: r | {"curve": curve})
        ),
        some("ramp", start=None, end=percents, time_us=millis),
        some("blink-rate", variable=st.sampled_from(["count", "span"]), unit_us=st.sampled_from([2_000, 9_000])),
        some("sequence", steps=steps, rounds=few, blocking=wait),
        some("tone", hz=st.sampled_from([440, 880]), length_us=millis, blocking=wait),
        some("follow", input=st.sampled_from(inputs), inverted=wait),
        some("follow-variable", variable=st.sampled_from(["count", "span"]), inverted=wait),
    )


def actions(inputs: tuple[str, ...] = INPUTS, more: tuple[str, ...] = ()) -> st.SearchStrategy[dict[str, Any]]:
    variable = st.sampled_from(["count", "span"])
    number = st.integers(-3, 6)
    rows = {"set": {"number": number}, "add": {"number": number}, "copy": {"other": variable}, "random": {}}
    found = [
        st.fixed_dictionaries({"do": st.just(do), "variable": variable, **fields})
        if do != "random"
        else st.fixed_dictionaries(
            {"do": st.just(do), "variable": variable, "least": st.just(0), "most": number.map(abs)}
        )
        for do, fields in rows.items()
    ]
    found.append(st.just({"do": "feed"}))
    if "probe" in inputs:
        found.append(st.fixed_dictionaries({"do": st.just("take"), "variable": variable, "input": st.just("probe")}))
    if "line" in more:
        codes = st.sampled_from([[5], [7, 1], [5, 5]])
        found.append(st.fixed_dictionaries({"do": st.just("send"), "input": st.just("line"), "bytes": codes}))
    driven = {"do": st.just("drive"), "output": st.sampled_from(OUTPUTS), "drive": drives(inputs)}
    return st.one_of(*found, st.fixed_dictionaries(driven))


def guards(sensed: bool) -> st.SearchStrategy[dict[str, Any]]:
    variable = st.sampled_from(["count", "span"])
    number, is_so = st.integers(-3, 6), st.booleans()
    found = [
        some("contact", input=st.sampled_from(INPUTS), pressed=is_so),
        some("in", machine="m0", state="s0", there=is_so),
        some("compare", variable=variable, sign=st.sampled_from(["<", "<=", "=", "!=", ">=", ">"]), number=number),
        some("compare", variable="count", sign=st.sampled_from(["<", ">="]), other="span"),
        some(
            "range",
            variable=variable,
            least=number.map(lambda n: min(n, 1)),
            most=number.map(lambda n: max(n, 1)),
            inside=is_so,
        ),
    ]
    if sensed:
        found.append(some("level", input="probe", of=st.sampled_from(["", "mild"]), above=is_so))
    return st.one_of(*found)


SETS = [{"bytes": [5], "words": ["down"]}, {"bytes": [7, 1], "words": ["up", "down"]}]
SENSED_EVENTS = [
    *(("step", "dial", ""), ("back", "dial", ""), ("above", "probe", ""), ("below", "probe", "")),
    *(
        ("fast", "dial", ""),
        ("fast-back", "dial", ""),
        ("stays", "probe", ""),
        ("code", "keys", ""),
        ("wrong", "keys", ""),
    ),
    *(("number", "line", ""), ("outside", "line", "")),
    *(("above", "probe", "mild"), ("below", "probe", "mild")),
    *(("key", "keys", "2"), ("key", "keys", "4"), ("command", "line", "up"), ("command", "line", "down")),
]


@st.composite
def machines(draw: st.DrawFn, number: int, sensed: bool = False, sends: bool = False) -> dict[str, Any]:
    states = [f"s{place}" for place in range(draw(st.integers(1, 5)))]
    inputs = (*INPUTS, "probe") if sensed else INPUTS
    event = st.one_of(
        some("press", input=st.sampled_from(INPUTS)),
        st.fixed_dictionaries({"kind": st.sampled_from(["press", "release"]), "input": st.sampled_from(INPUTS)}),
        st.fixed_dictionaries({"kind": st.sampled_from(GESTURES), "input": st.sampled_from(INPUTS)}),
        st.sampled_from([("in-a", "in-b"), ("in-b", "in-a")]).map(
            lambda pair: {"kind": "chord", "input": pair[0], "of": pair[1]}
        ),
        some("timeout", after_us=millis),
        some("timeout", after_us=millis, until_us=st.integers(60, 90).map(lambda ms: ms * 1000)),
        some("timeout", after_us=1000, variable="span", unit_us=millis),
        some("always"),
        st.fixed_dictionaries(
            {"kind": st.sampled_from(["entered", "left"]), "machine": st.just("m0"), "state": st.just("s0")}
        ),
        some("reached", variable="count", value=st.integers(0, 4)),
        some("ended", output=st.sampled_from(OUTPUTS)),
        st.sampled_from(BOARD_EVENTS).map(lambda kind: {"kind": kind}),
        st.sampled_from(["boot", "watchdog-reset", "watchdog-bark"]).map(lambda kind: {"kind": kind}),
    )
    if sensed:
        heard = st.sampled_from(SENSED_EVENTS).map(lambda e: {"kind": e[0], "input": e[1], "of": e[2]})
        event = st.one_of(event, heard, heard)
    few = st.lists(actions(inputs, ("line",) if sends else ()), max_size=2)
    transition = st.fixed_dictionaries(
        {"source": st.sampled_from(states), "on": event, "target": st.sampled_from(states)},
        optional={"guards": st.lists(guards(sensed), max_size=2), "actions": few},
    )
    drive_map = st.dictionaries(st.sampled_from(OUTPUTS), drives(inputs), max_size=2)
    found = [{"id": state, "name": state, "drives": draw(drive_map)} for state in states]
    for state in found:
        if draw(st.integers(0, 3)) == 0:
            state |= {"entry": draw(few), "exit": draw(few)}
    if len(found) > 2 and draw(st.booleans()):
        around = found[draw(st.integers(0, len(found) - 1))]
        around["remembers"] = draw(st.booleans())
        for state in draw(
            st.lists(st.sampled_from([one for one in found if one is not around]), min_size=1, max_size=3)
        ):
            state["parent"] = around["id"]
            if draw(st.booleans()):
                around["starts_in"] = state["id"]
    return {
        "id": f"m{number}",
        "name": f"M{number}",
        "initial": draw(st.sampled_from(states)),
        "states": found,
        "transitions": draw(st.lists(transition, max_size=8)),
    }


@st.composite
def scenarios(draw: st.DrawFn, length_us: int = 400_000, floating: bool = True) -> dict[str, Any]:
    at = st.integers(0, length_us - 1)
    stimulus = st.one_of(
        st.fixed_dictionaries(
            {
                "kind": st.just("press"),
                "input": st.sampled_from(INPUTS),
                "at_us": at,
                "hold_us": st.one_of(st.integers(1000, 90_000), st.integers(90_000, 300_000)),
            }
        ),
        st.fixed_dictionaries(
            {"kind": st.just("set"), "input": st.sampled_from(INPUTS), "at_us": at, "pressed": st.booleans()}
        ),
    )
    near_wrap = st.integers(0xFFFF_FFFF - 300, 0xFFFF_FFFF)
    return {
        "name": "random",
        "length_us": length_us,
        "counter_start_ms": draw(st.one_of(st.just(0), near_wrap)),
        "seed": draw(st.integers(0, 1000)),
        "stimuli": draw(st.lists(stimulus, max_size=6)),
    }


@st.composite
def benches(
    draw: st.DrawFn, watchdog: bool = True, tasks: bool = True, schools: bool = False
) -> tuple[Bench, Scenario]:
    """A checked bench of two inputs and two outputs, with one scenario."""
    pulls = st.sampled_from(["internal-up", "up", "down", "none"])

    def part(ident: str, pin: str) -> dict[str, Any]:
        wiring = {
            "contact_to": draw(st.sampled_from(["ground", "supply"])),
            "normally": draw(st.sampled_from(["open", "closed"])),
            "pull": draw(pulls),
            "filter": draw(st.sampled_from(["none", "none", "none", "rc"])),
            "filter_nf": draw(st.sampled_from([10, 100, 1_000])),
            "schmitt": draw(st.booleans()),
        }
        contact = {"kind": "model", "switch": draw(st.sampled_from(SWITCHES))}
        level = draw(st.sampled_from(["low", "high"]))
        return {"id": ident, "name": ident, "pin": pin, "wiring": wiring, "contact": contact, "active_level": level}

    scenario: dict[str, Any] = draw(scenarios())
    debounce = st.fixed_dictionaries(
        {
            "method": st.sampled_from(list(METHODS)),
            "interval_us": st.integers(0, 40).map(lambda ms: ms * 1000),
            "sample_us": st.sampled_from([1_000, 1_000, 3_000]),
        }
    )
    gestures = st.fixed_dictionaries(
        {
            "window_us": st.sampled_from([50_000, 100_000]),
            "hold_us": st.sampled_from([100_000, 150_000]),
            "repeat_us": st.sampled_from([20_000, 50_000]),
            "quicken": st.booleans(),
            "together_us": st.sampled_from([10_000, 60_000]),
        }
    )
    guard = st.fixed_dictionaries(
        {
            "mode": st.sampled_from(["off", "reset", "reset", "interrupt", "interrupt-reset"]),
            "timeout_us": st.sampled_from([16_000, 32_000, 64_000, 250_000]),
            "feed": st.sampled_from(["start", "end", "task", "action", "interrupt"]),
            "also": st.sampled_from([[], [], ["wait"], ["start"]]),
            "feed_task": st.just("work-0"),
            "off_at_start": st.booleans(),
            "told_by": st.sampled_from(["flag", "mark"]),
        }
    )
    task = st.fixed_dictionaries(
        {
            "period_us": millis,
            "run_us": st.integers(0, 20_000),
            "offset_us": st.sampled_from([None, 0, 1000, 7000]),
            "priority": st.integers(1, 3),
            "keeps": st.sampled_from(["last", "last", "now"]),
            "late": st.sampled_from(["catch-up", "run-late", "skip"]),
            "blocking": st.booleans(),
            "slice_us": st.sampled_from([1000, 3000]),
            "does": st.sampled_from(["compute", "print"]),
            "characters": st.sampled_from([0, 10, 40, 100]),
        }
    )
    # One at most prints beside the rest: of two, a few µs decide who gets the room that a character leaves.
    many = st.lists(task, max_size=2).map(
        lambda found: [
            {"id": f"work-{n}", "name": f"work {n}", **one, "blocking": one["blocking"] or n > 0}
            for n, one in enumerate(found)
        ]
    )
    keep = st.fixed_dictionaries(
        {
            "of": st.sampled_from([VARIABLES[0]["id"], "m0"]),
            "where": st.sampled_from(["ram", "store"]),
            "when": st.sampled_from(["change", "feed", "every", "interrupt"]),
            "every_us": st.sampled_from([50_000, 200_000]),
        }
    )
    data: dict[str, Any] = {
        "version": 1,
        "name": "random",
        "inputs": [part("in-a", "D2"), part("in-b", "D3")],
        "outputs": [
            {"id": ident, "name": ident, "pin": pin, "active_level": draw(st.sampled_from(["low", "high"]))}
            | {"at_rest": draw(st.sampled_from(["off", "off", "on"]))}
            for ident, pin in zip(OUTPUTS, ("D8", "D9"), strict=True)
        ],
        "firmware": {
            "variables": VARIABLES,
            "interlocks": draw(st.sampled_from([[], [], [{"one": "out-a", "other": "out-b", "dead_us": 15_000}]])),
            "limits": draw(st.sampled_from([{}, {}, {"out-a": {"longest_us": 30_000}}])),
            "on_levels": draw(st.sampled_from([{}, {}, {}, {"out-a": "low"}, {"out-b": "high", "out-a": "high"}])),
            "debounce": draw(st.dictionaries(st.sampled_from(INPUTS), debounce)),
            "gestures": draw(st.dictionaries(st.sampled_from(INPUTS), gestures)),
            "machines": [draw(machines(number)) for number in range(draw(st.integers(1, 3)))],
            "tasks": draw(many) if tasks else [],
            "loop": {"tail_delay_us": draw(st.sampled_from([0, 0, 1000, 10_000, 25_000]))},
            "watchdog": draw(guard) if watchdog else {},
            "school": draw(st.sampled_from(["counter", "kernel", "kernel", "delays"])) if schools else "counter",
            "kernel": {"loop_us": draw(st.sampled_from([0, 1000, 2000])), "loop_priority": draw(st.integers(1, 3))},
            "sleep": draw(st.sampled_from(SLEEPS)) if schools else None,
            "keeps": draw(st.lists(keep, max_size=2, unique_by=lambda one: one["of"])) if watchdog else [],
        },
        "scenarios": [scenario],
    }
    if watchdog:
        upset = st.fixed_dictionaries(
            {
                "kind": st.sampled_from(["off", "dip", "pin"]),
                "at_us": st.integers(0, 399_999),
                "for_us": st.sampled_from([1_000, 20_000]),
            }
        )
        scenario["upsets"] = draw(st.one_of(st.just([]), st.lists(upset, max_size=2)))
        transitions = data["firmware"]["machines"][0]["transitions"]
        if transitions and draw(st.integers(0, 3)) == 0:
            transitions[-1]["actions"] = [*transitions[-1].get("actions", []), {"do": "restart"}]
    bench = bench_from_data(data)
    return bench, bench.scenarios[0]


TEXTS = ("", "{count}", "Count {count:4}", "{m0} {span:bar 6}|", "{m0:5}{span}", 'what\\ "is" it??', "ends in é {m0}")
ROWS = [
    {"id": "pair", "name": "Pair", "outputs": ["out-b", "out-a"]},
    {"id": "three", "name": "Three", "outputs": ["lit.red", "lit.blue", "lit.green"]},
]


@st.composite
def shown_benches(draw: st.DrawFn) -> tuple[Bench, Scenario]:
    """The same with a display, a serial line that shows text, a lamp of three colours, and rows of outputs."""
    bench, _ = draw(benches(watchdog=False, tasks=False))
    data = bench_data(bench)
    text = some("text", text=st.sampled_from(TEXTS), every_us=st.sampled_from([0, 0, 0, 60_000]))
    colour = some("colour", red=percents, green=percents, blue=percents)
    picked = some("picked", variable=st.sampled_from(["count", "span"]), shows=st.sampled_from(["one", "bar", "bits"]))
    angle = st.one_of(
        some("angle", degrees=st.integers(0, 180), time_us=st.sampled_from([0, 40_000, 200_000])),
        some("angle", variable=st.sampled_from(["count", "span"])),
    )
    driven = {
        "arm": angle,
        "screen.line-1": text,
        "screen.line-2": text,
        "pc": text,
        "lit": st.one_of(colour, drives()),
        "pair": st.one_of(picked.map(lambda one: one | {"first": 1}), drives()),
        "three": picked,
    }
    for part in ("screen", "pc", "lit", "arm"):
        made = {"id": part, "name": part}
        if part == "screen":
            made |= {"kind": "display", "data": "A4", "clock": "A5", "columns": draw(st.sampled_from([8, 16]))}
            made |= {"bus_hz": draw(st.sampled_from([100_000, 400_000]))}
        elif part == "arm":
            made |= {"kind": "servo", "pin": "D7", "rest_degrees": draw(st.sampled_from([0, 90]))}
        elif part == "pc":
            made |= {"kind": "serial-text", "pin": "D1"}
        else:
            made |= {"kind": "rgb", **{c: {"pin": p} for c, p in (("red", "D10"), ("green", "D11"), ("blue", "D6"))}}
        data["outputs"].insert(draw(st.integers(0, 2)), made)
    data["firmware"] |= {"rows": ROWS, "interlocks": [], "limits": {}}
    for machine in data["firmware"]["machines"]:
        for transition in machine["transitions"]:
            if transition["on"]["kind"] == "ended":
                transition["on"]["output"] = draw(st.sampled_from([*OUTPUTS, "arm"]))
        for state in machine["states"]:
            names = draw(st.lists(st.sampled_from(sorted(driven)), max_size=3, unique=True))
            state["drives"] |= {name: draw(driven[name]) for name in names}
    bench = bench_from_data(data)
    return bench, bench.scenarios[0]


@st.composite
def sensed_benches(draw: st.DrawFn, watchdog: bool = True) -> tuple[Bench, Scenario]:
    """The same with an encoder, an analogue part, keys and a source of commands, all read, and all moved."""
    bench, _ = draw(benches(watchdog=watchdog))
    data = bench_data(bench)
    where = st.integers(0, 2)
    dial = {"id": "dial", "name": "Dial", "kind": "encoder", "a": "D4", "b": "D5"}
    dial |= {"read_by": draw(st.sampled_from(["polling", "interrupt"])), "swapped": draw(st.booleans())}
    dial |= {"counts_a_click": draw(st.sampled_from([1, 2, 4]))}
    if dial["read_by"] == "interrupt":  # the two pins that can
        data["inputs"][0]["pin"], data["inputs"][1]["pin"], dial["a"], dial["b"] = "D4", "D5", "D2", "D3"
        for debounce in data["firmware"]["debounce"].values():
            debounce["method"] = "rest-first" if debounce["method"] == "interrupt" else debounce["method"]
    probe = {"id": "probe", "name": "Probe", "kind": "temperature-sensor", "pin": "A5", "noise_mv": 200}
    keys = {"id": "keys", "name": "Keys", "kind": "matrix", "rows": ["A0", "A1"], "columns": ["A2", "A3"]}
    keys |= {"keys": ["1", "2", "3", "4"], "diodes": draw(st.booleans())}
    line = {"id": "line", "name": "Line", "kind": "commands", "pin": "D0", "names": ["up", "down"]}
    line |= {"sets": draw(st.sampled_from([[], SETS])), "active_most": draw(st.sampled_from([0, 0, 1]))}
    typed = draw(st.booleans())  # then nobody sends it bytes
    line |= {"source": "typed" if typed else "radio", "hit_percent": draw(st.sampled_from([50, 100]))}
    for part in (dial, probe, keys, line):
        data["inputs"].insert(draw(where), part)
    unit, above, below = draw(
        st.sampled_from([("own", 26.0, 24.0), ("own", 25.0, 25.0), ("counts", 520.0, 500.0), ("percent", 50.0, 49.0)])
    )
    sample = st.integers(1, 30).map(lambda ms: ms * 1000)
    smooth = st.sampled_from(["none", "average", "median", "slow"])
    data["firmware"]["readings"] = {
        "dial": {"kind": "turns", "counts_a_step": draw(st.sampled_from([1, 2, 4])), "reversed": draw(st.booleans())}
        | {"fast_us": draw(st.sampled_from([10_000, 60_000])), "fast_steps": draw(st.sampled_from([1, 1, 4]))}
        | {"least_us": draw(st.sampled_from([0, 0, 2_000, 9_000]))},
        "probe": {"kind": "measure", "unit": unit, "above": above, "below": below, "sample_us": draw(sample)}
        | {"smooth": draw(smooth), "over": draw(st.integers(1, 9)), "dwell_us": draw(st.sampled_from([0, 20_000]))}
        | {"stays_us": draw(st.sampled_from([None, 1_000, 50_000]))}
        | {"marks": [{"id": "mild", "name": "Mild", "above": above - 2, "below": below - 3}]},
        "keys": {"kind": "scan", "scan_us": draw(sample), "interval_us": draw(st.sampled_from([0, 10_000]))}
        | {"ignored": draw(st.sampled_from([[], ["2"]])), "code": draw(st.sampled_from([[], ["1"], ["4", "3"]]))},
        "line": {"kind": "listen", "numbers_from": draw(st.sampled_from([0, 1])), "names": ["up", "", "down", "up"]}
        | {"repeat_us": draw(st.sampled_from([0, 100_000])), "numbers": draw(st.sampled_from([[], [], [2, 0, 5, 12]]))}
        | {"into": draw(st.sampled_from([None, "count", "span"])), "least": draw(st.sampled_from([0, 2])), "most": 6}
        | {
            "outside": draw(st.sampled_from(["ignored", "nearest", "told"])),
            "ends_us": draw(st.sampled_from([0, 9_000])),
        },
    }
    for task in data["firmware"]["tasks"]:  # a conversion's few µs decide in which pass the line has room
        task["blocking"] = task["blocking"] or task["does"] == "print"
    data["firmware"]["serial"] = {
        "ending": draw(st.sampled_from(["none", "none", "lf", "crlf"])),
        "reads": draw(st.sampled_from(["one", "line"])),
    }
    data["firmware"]["machines"] = [
        draw(machines(n, sensed=True, sends=not typed)) for n in range(draw(st.integers(1, 2)))
    ]
    length_us = data["scenarios"][0]["length_us"]
    at = st.integers(0, length_us - 1)
    over = st.integers(1_000, 200_000)
    moved = st.one_of(
        st.tuples(st.just("dial"), at, over, st.integers(-6, 6)).map(
            lambda t: {"kind": "turn", "input": t[0], "at_us": t[1], "over_us": t[2], "clicks": t[3]}
        ),
        st.tuples(at, over, st.sampled_from([10.0, 24.5, 25.0, 40.0])).map(
            lambda t: {"kind": "level", "input": "probe", "at_us": t[0], "over_us": t[1], "value": t[2]}
        ),
        st.tuples(at, over, st.sampled_from(["1", "2", "3", "4"])).map(
            lambda t: {"kind": "key", "input": "keys", "at_us": t[0], "hold_us": t[1], "key": t[2]}
        ),
        st.tuples(at, st.one_of(st.integers(0, 5), st.sampled_from([12, 130]))).map(
            lambda t: {"kind": "command", "input": "line", "at_us": t[0], "number": t[1]}
        ),
    )
    data["scenarios"][0]["stimuli"] += draw(st.lists(moved, min_size=3, max_size=10))
    made = bench_from_data(data)
    return made, made.scenarios[0]
