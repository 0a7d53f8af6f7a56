"""Machines as Graphviz DOT (the language of `dot`, as its documentation gives it; from memory)."""

from __future__ import annotations

import json

from ..document import AlwaysEvent, Machine, TimeoutEvent
from ..units import ms


def _quoted(text: str) -> str:
    return json.dumps(text, ensure_ascii=False)


def write_dot(machine: Machine) -> str:
    """The machine as a directed graph: states inside another in a cluster, an arrow a transition."""
    lines = [
        f"digraph {_quoted(machine.name)} {{",
        "  rankdir=LR;",
        "  compound=true;",
        "  node [shape=box, style=rounded];",
    ]
    lines.append('  "" [shape=point];')
    lines.append(f'  "" -> {_quoted(machine.opening(machine.initial))};')

    def node(ident: str, indent: str) -> str:
        return f"{indent}{_quoted(ident)} [label={_quoted(machine.state(ident).name)}];"

    for state in machine.states:
        if inside := machine.insides(state.id):
            lines.append(f"  subgraph {_quoted('cluster ' + state.id)} {{")
            lines.append(f"    label={_quoted(state.name)};")
            lines += [node(one.id, "    ") for one in inside]
            lines.append("  }")
        elif state.parent is None:
            lines.append(node(state.id, "  "))
    for transition in machine.transitions:
        on = transition.on
        if isinstance(on, TimeoutEvent):
            word = f"after {on.variable} × {ms(on.unit_us)}" if on.variable else f"after {ms(on.after_us)}"
        else:
            word = "" if isinstance(on, AlwaysEvent) else " ".join(filter(None, on.name))
        if transition.guards:
            word += " [if]"
        if transition.actions:
            word += " / do"
        source, target = machine.opening(transition.source), machine.opening(transition.target)
        ends = [f"ltail={_quoted('cluster ' + transition.source)}"] if source != transition.source else []
        ends += [f"lhead={_quoted('cluster ' + transition.target)}"] if target != transition.target else []
        more = "".join(f", {end}" for end in ends)
        lines.append(f"  {_quoted(source)} -> {_quoted(target)} [label={_quoted(word.strip())}{more}];")
    return "\n".join([*lines, "}", ""])
