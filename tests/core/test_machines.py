"""Machines against other people's: the order of leaving, acting and entering, nesting and history against sismic, flat
machines against transitions, on machines and events at random; exploring against brute force; SCXML read back by a
reader of the test's own and run by sismic; drives against closed forms."""

from __future__ import annotations

import math
import unittest
import xml.etree.ElementTree as ET
from collections import deque
from typing import Any

from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter
from sismic.interpreter import Interpreter
from sismic.model import BasicState, CompoundState, DeepHistoryState, Statechart, Transition
from transitions import Machine as Flat

from tests.core.pace_benches import bench_of
from tests.random_benches import VARIABLES, benches, some
from viva_tick.core.document import Bench, DocumentError, Machine, bench_data, bench_from_data
from viva_tick.core.drives import DRIVES, Drive, ramp_level
from viva_tick.core.edits import apply_patch
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.formats import ScxmlError, arrival_patch, read_scxml, write_dot, write_scxml
from viva_tick.core.formats.scxml import event_word
from viva_tick.core.machines import RunningMachine, compile_machine, event_keys, explore, play, related
from viva_tick.core.machines.abstract import Abstract
from viva_tick.demo import ORDER, demo_bench

MANY = settings(max_examples=80, deadline=None, suppress_health_check=list(HealthCheck),
                phases=[Phase.explicit, Phase.generate])  # fmt: skip
EVENTS = [("press", "in-a", ""), ("release", "in-a", ""), ("press", "in-b", ""), ("release", "in-b", "")]
SCXML = "{http://www.w3.org/2005/07/scxml}"


@st.composite
def bench_with(draw: st.DrawFn, flat: bool = False) -> Bench:
    """One machine that hears two buttons; unless flat with nesting, history, guards, actions, ways that wait for
    nothing."""
    states = [f"s{n}" for n in range(draw(st.integers(2, 6)))]
    variable = st.sampled_from(["count", "span"])
    number = st.integers(-3, 6)
    adds = st.fixed_dictionaries({"do": st.just("add"), "variable": variable, "number": st.sampled_from([-1, 1, 2])})
    sets = st.fixed_dictionaries({"do": st.just("set"), "variable": variable, "number": number})
    few = st.lists(st.one_of(adds, sets), max_size=2)
    compare = some("compare", variable=variable, sign=st.sampled_from(["<", ">=", "=", "!="]), number=number)
    event = st.sampled_from(EVENTS).map(lambda e: {"kind": e[0], "input": e[1]})
    found: list[dict[str, Any]] = [{"id": state, "name": state} for state in states]
    ways = st.fixed_dictionaries(
        {"source": st.sampled_from(states), "on": event, "target": st.sampled_from(states)},
        optional={} if flat else {"guards": st.lists(compare, max_size=1), "actions": few},
    )
    rows = draw(st.lists(ways, max_size=10))
    if not flat:
        for state in found:
            state |= {"entry": draw(few), "exit": draw(few)}
        around = found[0]
        if len(found) > 2 and draw(st.booleans()):
            around["remembers"] = draw(st.booleans())
            inside = found[1 : draw(st.integers(2, len(found) - 1)) + 1]
            for state in inside:
                state["inside"] = around["id"]
            around["opens"] = draw(st.sampled_from(inside))["id"]
    # One way for one event and guard from one state: which of two is taken is each one's own affair.
    kept: dict[tuple[str, str], dict[str, Any]] = {}
    for row in rows:
        kept.setdefault((row["source"], str(row["on"])), row)
    # sismic begins only in a state of the top; W3C and the product in any.
    top = [state["id"] for state in found if "inside" not in state]
    machine = {"id": "m0", "name": "M", "initial": draw(st.sampled_from(top)), "states": found}
    buttons = [
        {"kind": "button", "id": name, "name": name, "pin": pin} for name, pin in (("in-a", "D2"), ("in-b", "D3"))
    ]
    firmware = {"machines": [machine | {"transitions": list(kept.values())}], "variables": VARIABLES}
    return bench_from_data({"version": 2, "name": "x", "inputs": buttons, "firmware": firmware})


def python(action: Any, variables: dict[str, Any]) -> str:
    """An action as sismic runs it."""
    one = variables[action.variable]
    value = str(action.number) if action.do == "set" else f"{action.variable} + {action.number}"
    span = one.most - one.least + 1
    held = (
        f"{one.least} + (({value}) - {one.least}) % {span}"
        if one.ends == "wrap"
        else f"max({one.least}, min({one.most}, {value}))"
    )
    return f"{action.variable} = {held}"


def condition(guard: Any) -> str:
    return f"{guard.variable} {guard.sign.replace('=', '==') if guard.sign == '=' else guard.sign} {guard.number}"


def statechart(bench: Bench) -> Statechart:
    """The same machine as sismic has it."""
    machine = bench.firmware.machines[0]
    variables = {one.id: one for one in bench.firmware.variables}

    def code(actions: Any) -> str:
        return "\n".join(python(action, variables) for action in actions)

    chart = Statechart("m", preamble="\n".join(f"{one.id} = {one.begins}" for one in variables.values()))
    chart.add_state(CompoundState("root", initial=machine.initial), None)
    kept = {state.id for state in machine.states if state.remembers and machine.insides(state.id)}
    for state in sorted(machine.states, key=lambda state: state.inside is not None):
        given = {"on_entry": code(state.entry), "on_exit": code(state.exit)}
        if machine.insides(state.id):
            chart.add_state(CompoundState(state.id, initial=machine.opening(state.id), **given), "root")
        else:
            chart.add_state(BasicState(state.id, **given), state.inside or "root")
    for name in kept:
        chart.add_state(DeepHistoryState(f"{name}-last", memory=machine.opening(name)), name)
    for way in machine.transitions:
        target = f"{way.target}-last" if way.target in kept else way.target
        guard = " and ".join(map(condition, way.guards)) or None
        chart.add_transition(
            Transition(way.source, target, event_word(way.on) or None, guard, code(way.actions) or None)
        )
    return chart


def leaf(interpreter: Interpreter, machine: Machine) -> str:
    names = {state.id for state in machine.leaves}
    return next(name for name in interpreter.configuration if name in names)


class AgainstOthers(unittest.TestCase):
    @MANY
    @given(bench_with(), st.lists(st.sampled_from(EVENTS), max_size=25))
    def test_nesting_history_guards_and_actions_against_sismic(self, bench: Bench, row: list[Any]) -> None:
        machine = bench.firmware.machines[0]
        host = Abstract(bench, [])
        keys = event_keys(bench)
        mine = RunningMachine(compile_machine(machine, keys), host)
        mine.begin(0)
        theirs = Interpreter(statechart(bench))
        theirs.execute()
        for event in [None, *row]:
            if event is not None:
                mine.fire(keys[event], 0)
                theirs.queue(".".join(event[:2]))
                theirs.execute()
            self.assertEqual(mine.machine.names[mine.state], leaf(theirs, machine))
            self.assertEqual(host.held, {name: theirs.context[name] for name in host.held})

    @MANY
    @given(bench_with(flat=True), st.lists(st.sampled_from(EVENTS), max_size=30))
    def test_flat_machines_against_transitions(self, bench: Bench, row: list[Any]) -> None:
        machine = bench.firmware.machines[0]
        keys = event_keys(bench)
        mine = RunningMachine(compile_machine(machine, keys), Abstract(bench, []))
        mine.begin(0)
        model = type("Model", (), {})()
        theirs = Flat(model, [s.id for s in machine.states], initial=machine.initial, ignore_invalid_triggers=True)
        for way in machine.transitions:
            theirs.add_transition("_".join(way.on.name[:2]), way.source, way.target)  # type: ignore[union-attr]
        for event in row:
            mine.fire(keys[event], 0)
            if (name := "_".join(event[:2])) in theirs.events:
                model.trigger(name)
            self.assertEqual(mine.machine.names[mine.state], model.state)

    @MANY
    @given(bench_with())
    def test_exploring_against_brute_force(self, bench: Bench) -> None:
        machine = bench.firmware.machines[0]
        keys = event_keys(bench)
        compiled = compile_machine(machine, keys)

        def after(row: tuple[Any, ...]) -> tuple[Any, ...]:
            host = Abstract(bench, [])
            mine = RunningMachine(compiled, host)
            mine.begin(0)
            for event in row:
                mine.fire(keys[event], 0)
            return mine.state, tuple(sorted(mine.kept.items())), tuple(host.held.items())

        # Every row of events, shortest first, as long as it leads to something that was not seen yet.
        seen: dict[Any, tuple[Any, ...]] = {after(()): ()}
        queue = deque([()])
        while queue and len(seen) < 400:
            row = queue.popleft()
            for event in EVENTS:
                to = after((*row, event))
                if to not in seen:
                    seen[to] = (*row, event)
                    queue.append((*row, event))
        shortest: dict[str, int] = {}
        for (state, _, _), row in seen.items():
            name = compiled.names[state]
            shortest[name] = min(shortest.get(name, 999), len(row))
        found = explore(bench, [machine])
        if not queue:
            mine = {state: len(path) for (_, state), path in found.paths.items() if not machine.insides(state)}
            self.assertEqual(mine, shortest)

    def test_pairs_of_outputs_are_found_in_both_ways_of_exploring(self) -> None:
        bench = demo_bench("print-timer")
        data = bench_data(bench)
        pair = ("focus-lamp", "safelight")
        flat = explore(bench, bench.firmware.machines, [pair])
        data["firmware"]["machines"][0]["transitions"][0]["guards"] = [{"kind": "contact", "input": "foot-pedal"}]
        whole = explore(guarded := bench_from_data(data), guarded.firmware.machines, [pair])
        self.assertTrue(flat.whole and whole.whole)
        self.assertEqual(flat.together[pair][1][:2], whole.together[pair][1][:2])
        self.assertEqual(len(flat.together[pair][0]), 2)
        stopped = explore(bench, bench.firmware.machines, report=lambda found: False)
        self.assertFalse(stopped.whole)


class NothingBesides(unittest.TestCase):
    def test_a_reset_is_a_beginning_where_the_watchdog_makes_one(self) -> None:
        ways = [{"source": "off", "on": {"kind": "watchdog-reset"}, "target": "on"}]
        for mode, reached in (("off", False), ("interrupt", False), ("reset", True), ("interrupt-reset", True)):
            bench = bench_of(ways=ways, watchdog={"mode": mode})
            self.assertEqual(("toggle", "on") in explore(bench, bench.firmware.machines).paths, reached, mode)

    def test_what_a_machine_raises_as_it_begins_is_heard_by_those_after_it(self) -> None:
        data = bench_data(bench_of(ways=[]))
        first = data["firmware"]["machines"][0]
        way = {"source": "off", "on": {"kind": "entered", "machine": "toggle", "state": "off"}, "target": "on"}
        after = {**first, "id": "after", "name": "After", "transitions": [way]}
        for row in ([first, after], [after, first]):
            data["firmware"]["machines"] = row
            bench = bench_from_data(data)
            entered = SkippingEngine().run(bench, bench.scenarios[0]).trace.signal(Kind.STATE, "after").values
            self.assertEqual(entered[-1], "on")
            self.assertIn(("after", "on"), explore(bench, bench.firmware.machines).paths)

    @settings(max_examples=80, deadline=None, suppress_health_check=list(HealthCheck),
              phases=[Phase.explicit, Phase.generate])  # fmt: skip
    @given(benches())
    def test_a_run_enters_only_states_that_exploring_found(self, made: tuple[Bench, Any]) -> None:
        bench, scenario = made
        # Exploring takes a reset for a new beginning: what outlives one is not followed.
        bench = bench.model_copy(update={"firmware": bench.firmware.model_copy(update={"keeps": ()})})
        trace = SkippingEngine().run(bench, scenario).trace
        for machine in bench.firmware.machines:
            found = explore(bench, related(bench, [machine]), bound=4_000)
            if found.whole:
                entered = set(trace.signal(Kind.STATE, machine.id).values) - {None}
                self.assertLessEqual(entered, {state for ident, state in found.paths if ident == machine.id})


class Refused(unittest.TestCase):
    def test_what_machines_name_must_be_there_and_make_sense(self) -> None:
        for path, value, says in (
            ("transitions/3/on", {"kind": "timeout", "after_us": 1000, "variable": "tenths", "unit_us": 86_400_000_000}, "more than 7 days"),
            ("transitions/3/on", {"kind": "timeout", "after_us": 1000, "variable": "nobody"}, "no variable “nobody”"),
            ("transitions/3/on", {"kind": "timeout", "after_us": 2000, "until_us": 1000}, "ends before it begins"),
            ("transitions/3/on", {"kind": "entered", "machine": "lamp-mode", "state": "x"}, "no state “x”"),
            ("transitions/0/guards", [{"kind": "contact", "input": "bath-probe"}], "no input “bath-probe”"),
            ("transitions/0/guards", [{"kind": "level", "input": "foot-pedal"}], "not an analogue part"),
            ("transitions/0/guards", [{"kind": "range", "variable": "tenths", "least": 3, "most": 2}], "less than the least"),
            ("transitions/0/actions", [{"do": "draw", "variable": "tenths", "least": 3, "most": 2}], "less than the least"),
            ("transitions/0/actions", [{"do": "copy", "variable": "tenths", "other": "x"}], "no variable “x”"),
            ("states/0/inside", "dark", "not another state"),
            ("states/4/inside", "dark", None),
            ("states/5/inside", "strip-dark", "is inside a state itself"),
            ("states/4/opens", "dark", "not a state inside"),
            ("states/1/drives/focus-lamp", {"kind": "blink", "on_us": 1000, "off_us": 1000, "blocking": True}, "needs an end"),
            ("states/1/drives/focus-lamp", {"kind": "burst", "on_us": 1000, "off_us": 1000, "rest_us": 1000, "times": 0}, "at least one flash"),
            ("states/1/drives/focus-lamp", {"kind": "blink", "on_us": 1000, "off_us": 1000, "for_us": 86_400_000_000, "blocking": True}, "5,000 flashes"),
            ("states/1/drives/focus-lamp", {"kind": "follow", "input": "beeper"}, "no contact and no analogue"),
        ):  # fmt: skip
            with self.subTest(path=path, value=str(value)):
                patch = [{"op": "replace", "path": f"/firmware/machines/0/{path}", "value": value}]
                with self.assertRaises(DocumentError) as refused:
                    apply_patch(demo_bench("print-timer"), patch)
                self.assertIn(says or "one level", str(refused.exception))


class Played(unittest.TestCase):
    def test_the_shortest_way_to_every_state_of_the_demos_leads_there(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            data = bench_data(bench)
            for part in data["inputs"]:  # hands that are sure, commands that are understood
                if "hit_percent" in part:
                    part["hit_percent"] = 100
                if part.get("contact", {}).get("kind") == "model":
                    part["contact"]["switch"] = "logic-signal"
            bench = bench_from_data(data)
            for machine in bench.firmware.machines:
                for (ident, state), path in explore(bench, [machine]).paths.items():
                    row = play(bench, path, "See")
                    made = apply_patch(bench, [{"op": "add", "path": "/scenarios/-", "value": row}])
                    trace = SkippingEngine().run(made, made.scenarios[-1]).trace
                    with self.subTest(bench=name, state=f"{ident} {state}"):
                        leaves = {state, *(one.id for one in machine.insides(state))}
                        self.assertTrue(leaves & set(trace.signal(Kind.STATE, ident).values))


class Exchange(unittest.TestCase):
    def test_demos_go_out_and_come_back_the_same(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            for machine in bench.firmware.machines:
                read = read_scxml(write_scxml(machine, bench.firmware.variables))
                back = TypeAdapter(Machine).validate_python(read["machine"], strict=False)
                ways = [
                    w.model_copy(update={"on": w.on.model_copy(update={"after_us": 1_000})})
                    if getattr(w.on, "variable", None) and w.on.kind == "timeout"
                    else w
                    for w in machine.transitions
                ]  # what a time from a number falls back to is not written
                order = sorted(ways, key=lambda w: [s.id for s in machine.states].index(w.source))
                self.assertEqual(
                    back.model_dump(), machine.model_copy(update={"transitions": tuple(order)}).model_dump()
                )
                self.assertEqual(write_dot(machine).count("->"), len(machine.transitions) + 1)

    @settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
    @given(benches())
    def test_machines_at_random_go_out_and_come_back(self, made: tuple[Bench, Any]) -> None:
        for machine in made[0].firmware.machines:
            text = write_scxml(machine, made[0].firmware.variables)
            ident, patch = arrival_patch(made[0], text)
            back = apply_patch(made[0], patch)
            again = next(one for one in back.firmware.machines if one.id == ident)
            self.assertEqual(
                write_scxml(again.model_copy(update={"id": machine.id}), back.firmware.variables).count("<"),
                text.count("<"),
            )

    @MANY
    @given(bench_with(), st.lists(st.sampled_from(EVENTS), max_size=20))
    def test_what_is_written_runs_elsewhere_to_the_same_states(self, bench: Bench, row: list[Any]) -> None:
        machine = bench.firmware.machines[0]
        data = bench_data(bench)
        for variable in data["firmware"]["variables"]:  # SCXML has no word for bounds
            variable |= {"least": -1_000, "most": 1_000, "ends": "stop"}
        bench = bench_from_data(data)
        theirs = Interpreter(from_scxml(write_scxml(machine, bench.firmware.variables)))
        theirs.execute()
        keys = event_keys(bench)
        mine = RunningMachine(compile_machine(machine, keys), Abstract(bench, []))
        mine.begin(0)
        for event in row:
            mine.fire(keys[event], 0)
            theirs.queue(".".join(event[:2]))
            theirs.execute()
            self.assertEqual(mine.machine.names[mine.state], leaf(theirs, machine))

    def test_what_is_not_supported_is_refused_by_name_and_line(self) -> None:
        head = '<scxml xmlns="http://www.w3.org/2005/07/scxml" initial="a">\n'
        for body, says in (
            ("<parallel id='a'/>", "Line 2: <parallel> inside <scxml>"),
            ("<state id='a'>\n<invoke/></state>", "Line 3: <invoke> inside <state>"),
            ("<state id='a'><onentry><script>x</script></onentry></state>", "Line 2: <script> inside <onentry>"),
            ("<state id='a'><transition event='click.x' cond='f(b)' target='a'/></state>", "the condition"),
            ("<state id='a'><onentry><assign location='n' expr='n*2'/></onentry></state>", "the expression “n*2”"),
            ("<state id='a'><state id='b'><state id='c'/></state></state>", "two levels deep"),
            ("<state id='a'><transition event='shout' target='a'/></state>", "the event “shout”"),
            ("<state id='a'><transition event='press.x' target='z'/></state>", "no state “z”"),
            ("<state/>", "<state> needs “id”"),
            ("<state id='a'>", "not well-formed"),
            ("<x:state xmlns:x='urn:y' id='a'/>", "a language that is not known"),
        ):  # fmt: skip
            with self.subTest(body=body), self.assertRaises(ScxmlError) as refused:
                read_scxml(head + body + "\n</scxml>")
            self.assertIn(says, str(refused.exception))
        for text in ("", "<a/>", "<!DOCTYPE x []><scxml/>", "x", head + "</scxml>"):
            self.assertRaises(ScxmlError, read_scxml, text)
        unknown = head + "<state id='a'><transition event='press.nobody' target='a'/></state></scxml>"
        with self.assertRaises(DocumentError):
            apply_patch(demo_bench("print-timer"), arrival_patch(demo_bench("print-timer"), unknown)[1])


def from_scxml(text: str) -> Statechart:
    """A reader of SCXML that knows nothing of the product: what W3C's elements mean, as sismic runs them."""
    root = ET.fromstring(text)
    data = [f"{one.get('id')} = {one.get('expr')}" for one in root.iter(f"{SCXML}data")]
    chart = Statechart("read", preamble="\n".join(data))
    chart.add_state(CompoundState("root", initial=root.get("initial")), None)
    ways = []

    def code(element: ET.Element, name: str) -> str:
        rows = [one for part in element.findall(f"{SCXML}{name}") for one in part if one.tag == f"{SCXML}assign"]
        return "\n".join(f"{one.get('location')} = {one.get('expr')}" for one in rows)

    def add(element: ET.Element, parent: str) -> None:
        name = element.get("id")
        inside = element.findall(f"{SCXML}state")
        given = {"on_entry": code(element, "onentry"), "on_exit": code(element, "onexit")}
        if inside:
            chart.add_state(CompoundState(name, initial=element.get("initial"), **given), parent)
        else:
            chart.add_state(BasicState(name, **given), parent)
        for one in inside:
            add(one, name)
        for one in element.findall(f"{SCXML}history"):
            chart.add_state(DeepHistoryState(one.get("id"), memory=one[0].get("target")), name)
        for one in element.findall(f"{SCXML}transition"):
            rows = "\n".join(f"{a.get('location')} = {a.get('expr')}" for a in one.findall(f"{SCXML}assign"))
            guard = one.get("cond", "").replace("&&", "and") or None
            ways.append(Transition(name, one.get("target"), one.get("event"), guard, rows or None))

    for state in root.findall(f"{SCXML}state"):
        add(state, "root")
    for way in ways:
        chart.add_transition(way)
    return chart


class _World:
    def input_level(self, input_id: str) -> int:
        return 37

    def variable_level(self, variable_id: str) -> int:
        return 37


class Drives(unittest.TestCase):
    """Each drive's course, stepped a millisecond at a time across the counter's wrap, against its closed form."""

    def course(self, data: dict[str, Any], ms: int = 400) -> list[int]:
        drive = TypeAdapter(Drive).validate_python(data)
        begun = 0xFFFF_FFFF - 90
        running = drive.course(_World())
        levels = [running.begin(begun)]
        for passed in range(1, ms):
            now = (begun + passed) & 0xFFFF_FFFF
            due = running.due()
            levels.append(running.update(now))
            if levels[-1] != levels[-2]:  # a change comes neither before nor after it is due
                self.assertIsNotNone(due)
                self.assertEqual((now - due[0]) & 0xFFFF_FFFF, due[1], data)  # type: ignore[index]
        return levels

    def test_against_closed_forms(self) -> None:
        def beat(t: int) -> int:
            return 100 if t % 70 < 20 else 0

        def burst(t: int) -> int:
            within = t % 130
            return 100 if within < 50 and within % 30 < 20 else 0

        cases: list[tuple[dict[str, Any], Any]] = [
            ({"kind": "steady", "on": True}, lambda t: 100),
            ({"kind": "level", "percent": 30}, lambda t: 30),
            ({"kind": "blink", "on_us": 20_000, "off_us": 50_000}, beat),
            ({"kind": "blink", "on_us": 20_000, "off_us": 50_000, "times": 3}, lambda t: beat(t) if t < 210 else 0),
            (
                {"kind": "blink", "on_us": 20_000, "off_us": 50_000, "for_us": 150_000},
                lambda t: beat(t) if t < 150 else 0,
            ),
            ({"kind": "pulse", "length_us": 33_000}, lambda t: 100 if t < 33 else 0),
            ({"kind": "burst", "on_us": 20_000, "off_us": 10_000, "times": 2, "rest_us": 80_000}, burst),
            (
                {"kind": "burst", "on_us": 20_000, "off_us": 10_000, "times": 2, "rest_us": 80_000, "rounds": 2},
                lambda t: burst(t) if t < 260 else 0,
            ),
            (
                {
                    "kind": "sequence",
                    "rounds": 2,
                    "steps": [{"percent": 100, "us": 40_000}, {"percent": 20, "us": 60_000}],
                },
                lambda t: 20 if t >= 200 else (100 if t % 100 < 40 else 20),
            ),
            ({"kind": "tone", "hz": 440, "length_us": 50_000}, lambda t: 100 if t < 50 else 0),
            ({"kind": "follow", "input": "x"}, lambda t: 37),
            ({"kind": "follow-variable", "variable": "x", "inverted": True}, lambda t: 63),
        ]
        for start, end in ((0, 100), (100, 0), (20, 70)):
            cases.append(
                (
                    {"kind": "ramp", "start": start, "end": end, "time_us": 300_000},
                    lambda t, a=start, b=end: (
                        b if t >= 300 else a + int(math.copysign(abs(b - a) * (1000 * t // 300) // 1000, b - a))
                    ),
                )
            )
        self.assertEqual({data["kind"] for data, _ in cases}, {kind.model_fields["kind"].default for kind in DRIVES})
        for data, wanted in cases:
            with self.subTest(drive=data):
                self.assertEqual(self.course(data), [wanted(t) for t in range(400)])

    def test_the_curves_are_those_of_the_books_to_a_percent(self) -> None:
        curves = {"straight": lambda x: x, "square": lambda x: x * x, "smooth": lambda x: 3 * x * x - 2 * x**3}
        for name, curve in curves.items():
            levels = [ramp_level(0, 100, name, t, 5_000) for t in range(5_001)]
            self.assertEqual(levels, sorted(levels))
            for t, level in enumerate(levels):
                self.assertLessEqual(abs(level - 100 * curve(t / 5_000)), 1.2, (name, t))

    @settings(max_examples=150, deadline=None)
    @given(st.data())
    def test_a_drive_that_holds_the_loop_takes_as_long_as_one_beside_it(self, data: st.DataObject) -> None:
        from tests.random_benches import drives

        drive = TypeAdapter(Drive).validate_python(data.draw(drives()))
        if not getattr(drive, "blocking", False):
            return
        waits = drive.course(_World()).waits
        beside = drive.model_copy(update={"blocking": False}).course(_World())
        levels = [beside.begin(0), *(beside.update(t) for t in range(1, 3_000))]
        held = [level for level, us in waits for _ in range(us // 1000)]
        if drive.kind == "ramp":  # in steps of ten milliseconds
            self.assertTrue(
                all(abs(a - b) <= 100 * 10_000 // drive.time_us + 30 for a, b in zip(held, levels, strict=False))
            )
        else:
            self.assertEqual(held, levels[: len(held)])
        self.assertEqual(set(levels[len(held) :]), {drive.rest})


if __name__ == "__main__":
    unittest.main()
