"""A machine as an SCXML document."""

from __future__ import annotations

import json
from typing import assert_never
from xml.sax.saxutils import escape, quoteattr

from ...document import (
    Action,
    AddTo,
    CopyTo,
    Feed,
    Guard,
    IfContact,
    IfIn,
    IfLevel,
    IfRange,
    IfVariable,
    Machine,
    RandomFor,
    Restart,
    SendBytes,
    SetVariable,
    Signal,
    StartDrive,
    TakeLevel,
    TimeoutEvent,
    Variable,
)
from ...machines import entry_actions
from .words import OURS, W3C, event_word


def _guard(guard: Guard, own: str) -> str:
    match guard:
        case IfContact():
            return f"{'' if guard.pressed else '!'}pressed('{guard.input}')"
        case IfLevel():
            which = f", '{guard.of}'" if guard.of else ""
            return f"{'' if guard.above else '!'}above('{guard.input}'{which})"
        case IfIn():
            said = f"In('{guard.state}')" if guard.machine == own else f"standing('{guard.machine}', '{guard.state}')"
            return said if guard.there else f"!{said}"
        case IfVariable():
            sign = {"=": "=="}.get(guard.sign, guard.sign)
            return f"{guard.variable} {sign} {guard.number if guard.other is None else guard.other}"
        case IfRange():
            return f"{'' if guard.inside else '!'}between({guard.variable}, {guard.least}, {guard.most})"


def _action(action: Action) -> str:
    match action:
        case StartDrive():
            content = escape(json.dumps(action.drive.model_dump(mode="json")))
            target = quoteattr("#" + action.output)
            return f'<send type="drive" target={target} event="drive"><content>{content}</content></send>'
        case Feed():
            return '<send type="watchdog" event="feed"/>'
        case Restart():
            return '<send type="board" event="restart"/>'
        case Signal():
            return f'<send type="kernel" target={quoteattr("#" + action.of)} event="signal"/>'
        case SendBytes():
            content = escape(json.dumps(list(action.bytes)))
            target = quoteattr("#" + action.input)
            return f'<send type="bytes" target={target} event="bytes"><content>{content}</content></send>'
        case SetVariable():
            expr = str(action.number)
        case AddTo():
            expr = f"{action.variable} {'-' if action.number < 0 else '+'} {abs(action.number)}"
        case CopyTo():
            expr = action.other
        case RandomFor():
            expr = f"random({action.least}, {action.most})"
        case TakeLevel():
            expr = f"level('{action.input}')"
        case _:
            assert_never(action)
    return f'<assign location="{action.variable}" expr={quoteattr(expr)}/>'


def _delay(on: TimeoutEvent) -> str:
    if on.variable is not None:
        return f"delayexpr=\"{on.variable} * {on.unit_us // 1000} + 'ms'\""
    if on.until_us is not None:
        return f"delayexpr=\"random({on.after_us // 1000}, {on.until_us // 1000}) + 'ms'\""
    return f'delay="{on.after_us // 1000}ms"'


def write_scxml(machine: Machine, variables: tuple[Variable, ...]) -> str:
    """The machine as an SCXML document, with the variables that it uses."""
    used = machine.model_dump_json()
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<scxml xmlns="{W3C}" xmlns:vt="{OURS}" version="1.0" name={quoteattr(machine.id)} '
        f"initial={quoteattr(machine.initial)} vt:title={quoteattr(machine.name)}>",
    ]
    mine = [one for one in variables if f'"{one.id}"' in used]
    if mine:
        lines.append("  <datamodel>")
        lines += [
            f'    <data id="{one.id}" expr="{one.begins}" vt:title={quoteattr(one.name)} vt:least="{one.least}" '
            f'vt:most="{one.most}" vt:ends="{one.ends}"/>'
            for one in mine
        ]
        lines.append("  </datamodel>")
    groups = {state.parent for state in machine.states}
    kept = {state.id for state in machine.states if state.remembers and state.id in groups}

    def one_state(ident: str, indent: str) -> None:
        state = machine.state(ident)
        inside = machine.insides(ident)
        opens = f" initial={quoteattr(machine.opening(ident))}" if inside else ""
        place = f' vt:place="{state.place[0]} {state.place[1]}"' if state.place else ""
        ignores = f" vt:ignores={quoteattr(json.dumps(state.ignores))}" if state.ignores else ""
        lines.append(f"{indent}<state id={quoteattr(ident)}{opens} vt:title={quoteattr(state.name)}{place}{ignores}>")
        waits = [
            (number, transition.on)
            for number, transition in enumerate(machine.transitions)
            if transition.source == ident and isinstance(transition.on, TimeoutEvent)
        ]
        entry = [f'<send event="timeout.{n}" id="wait.{n}" {_delay(on)}/>' for n, on in waits] + [
            _action(action) for action in entry_actions(state)
        ]
        leave = [f'<cancel sendid="wait.{n}"/>' for n, _ in waits] + [_action(action) for action in state.exit]
        for word, rows in (("onentry", entry), ("onexit", leave)):
            if rows:
                lines.append(f"{indent}  <{word}>")
                lines.extend(f"{indent}    {row}" for row in rows)
                lines.append(f"{indent}  </{word}>")
        if ident in kept:
            first = quoteattr(machine.opening(ident))
            lines.append(f'{indent}  <history id="{ident}.last" type="deep"><transition target={first}/></history>')
        for number, transition in enumerate(machine.transitions):
            if transition.source != ident:
                continue
            word = event_word(transition.on, f"timeout.{number}")
            event = f" event={quoteattr(word)}" if word else ""
            cond = " && ".join(_guard(guard, machine.id) for guard in transition.guards)
            cond = f" cond={quoteattr(cond)}" if cond else ""
            target = f"{transition.target}.last" if transition.target in kept else transition.target
            head = f"{indent}  <transition{event}{cond} target={quoteattr(target)}"
            if transition.actions:
                lines.append(head + ">")
                lines.extend(f"{indent}    {_action(action)}" for action in transition.actions)
                lines.append(f"{indent}  </transition>")
            else:
                lines.append(head + "/>")
        for one in inside:
            one_state(one.id, indent + "  ")
        lines.append(f"{indent}</state>")

    for state in machine.states:
        if state.parent is None:
            one_state(state.id, "  ")
    return "\n".join([*lines, "</scxml>", ""])
