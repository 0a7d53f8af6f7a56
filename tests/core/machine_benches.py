"""Machines at random, and the same for sismic."""

from __future__ import annotations

from typing import Any

from hypothesis import HealthCheck, Phase, settings
from hypothesis import strategies as st
from sismic.interpreter import Interpreter
from sismic.model import BasicState, CompoundState, DeepHistoryState, Statechart, Transition

from tests.depth import DEPTH
from tests.random_benches import VARIABLES, some
from viva_tick.core.document import Bench, Machine, bench_from_data
from viva_tick.core.formats.scxml import event_word

MANY = settings(max_examples=80 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck),
                phases=[Phase.explicit, Phase.generate])  # fmt: skip
EVENTS = [("press", "in-a", ""), ("release", "in-a", ""), ("press", "in-b", ""), ("release", "in-b", "")]


@st.composite
def bench_with(draw: st.DrawFn, flat: bool = False) -> Bench:
    """One machine that hears two buttons; unless flat with nesting, history, guards, actions, transitions that wait for
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
    transitions = st.fixed_dictionaries(
        {"source": st.sampled_from(states), "on": event, "target": st.sampled_from(states)},
        optional={} if flat else {"guards": st.lists(compare, max_size=1), "actions": few},
    )
    rows = draw(st.lists(transitions, max_size=10))
    if not flat:
        for state in found:
            state |= {"entry": draw(few), "exit": draw(few)}
        around = found[0]
        if len(found) > 2 and draw(st.booleans()):
            around["remembers"] = draw(st.booleans())
            inside = found[1 : draw(st.integers(2, len(found) - 1)) + 1]
            for state in inside:
                state["parent"] = around["id"]
            around["starts_in"] = draw(st.sampled_from(inside))["id"]
    # One transition for one event and guard from one state: which of two is taken is each one's own affair.
    kept: dict[tuple[str, str], dict[str, Any]] = {}
    for row in rows:
        kept.setdefault((row["source"], str(row["on"])), row)
    # sismic begins only in a state of the top; W3C and the product in any.
    top = [state["id"] for state in found if "parent" not in state]
    machine = {"id": "m0", "name": "M", "initial": draw(st.sampled_from(top)), "states": found}
    buttons = [
        {"kind": "button", "id": name, "name": name, "pin": pin} for name, pin in (("in-a", "D2"), ("in-b", "D3"))
    ]
    firmware = {"machines": [machine | {"transitions": list(kept.values())}], "variables": VARIABLES}
    return bench_from_data({"version": 4, "name": "x", "inputs": buttons, "firmware": firmware})


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
    for state in sorted(machine.states, key=lambda state: state.parent is not None):
        given = {"on_entry": code(state.entry), "on_exit": code(state.exit)}
        if machine.insides(state.id):
            chart.add_state(CompoundState(state.id, initial=machine.opening(state.id), **given), "root")
        else:
            chart.add_state(BasicState(state.id, **given), state.parent or "root")
    for name in kept:
        chart.add_state(DeepHistoryState(f"{name}-last", memory=machine.opening(name)), name)
    for transition in machine.transitions:
        target = f"{transition.target}-last" if transition.target in kept else transition.target
        guard = " and ".join(map(condition, transition.guards)) or None
        chart.add_transition(
            Transition(
                transition.source, target, event_word(transition.on) or None, guard, code(transition.actions) or None
            )
        )
    return chart


def leaf(interpreter: Interpreter, machine: Machine) -> str:
    names = {state.id for state in machine.leaves}
    return next(name for name in interpreter.configuration if name in names)
