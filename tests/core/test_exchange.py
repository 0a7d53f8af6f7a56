"""SCXML out and in; what is written, read back by a reader of the test's own and run by sismic."""

from __future__ import annotations

import unittest
import xml.etree.ElementTree as ET
from typing import Any

import pydot
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter
from sismic.interpreter import Interpreter
from sismic.model import BasicState, CompoundState, DeepHistoryState, Statechart, Transition

from tests.core.machine_benches import EVENTS, MANY, bench_with, leaf
from tests.depth import DEPTH
from tests.random_benches import benches
from viva_tick.core.document import Bench, DocumentError, Machine, bench_data, bench_from_data
from viva_tick.core.edits import apply_patch
from viva_tick.core.exploring import Abstract
from viva_tick.core.formats import ScxmlError, arrival_patch, read_scxml, write_dot, write_scxml
from viva_tick.core.machines import RunningMachine, compile_machine, event_keys
from viva_tick.demo import ORDER, demo_bench

SCXML = "{http://www.w3.org/2005/07/scxml}"


class Exchange(unittest.TestCase):
    def test_demos_go_out_and_come_back_the_same(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            for machine in bench.firmware.machines:
                read = read_scxml(write_scxml(machine, bench.firmware.variables))
                back = TypeAdapter(Machine).validate_python(read["machine"], strict=False)
                transitions = [
                    w.model_copy(update={"on": w.on.model_copy(update={"after_us": 1_000})})
                    if getattr(w.on, "variable", None) and w.on.kind == "timeout"
                    else w
                    for w in machine.transitions
                ]  # what a time from a number falls back to is not written
                order = sorted(transitions, key=lambda w: [s.id for s in machine.states].index(w.source))
                self.assertEqual(
                    back.model_dump(), machine.model_copy(update={"transitions": tuple(order)}).model_dump()
                )

    @settings(max_examples=60 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck))
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

    @settings(max_examples=12 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck))
    @given(benches())
    def test_a_graph_is_read_by_another_reader_as_it_was_meant(self, made: tuple[Bench, Any]) -> None:
        for machine in made[0].firmware.machines:
            named = machine.model_copy(update={"name": 'say "no" \\ or; {'})
            (graph,) = pydot.graph_from_dot_data(write_dot(named)) or ()
            clusters = {str(one.get_name()).strip('"'): one for one in graph.get_subgraphs()}
            around = {state.id for state in machine.states if machine.insides(state.id)}
            self.assertEqual(set(clusters), {f"cluster {ident}" for ident in around})
            for ident in around:
                nodes = {str(node.get_name()).strip('"') for node in clusters[f"cluster {ident}"].get_nodes()}
                self.assertEqual(nodes, {state.id for state in machine.insides(ident)})
            ends = [
                tuple(str(end).strip('"') for end in (one.get_source(), one.get_destination()))
                for one in graph.get_edges()
            ]
            transitions = [
                (machine.opening(transition.source), machine.opening(transition.target))
                for transition in machine.transitions
            ]
            self.assertEqual(sorted(ends), sorted([("", machine.opening(machine.initial)), *transitions]))

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
    transitions = []

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
            transitions.append(Transition(name, one.get("target"), one.get("event"), guard, rows or None))

    for state in root.findall(f"{SCXML}state"):
        add(state, "root")
    for transition in transitions:
        chart.add_transition(transition)
    return chart


if __name__ == "__main__":
    unittest.main()
