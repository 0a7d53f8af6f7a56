"""A module as a person would write it: no switch over one case, no question within a question where one will do, no
loop that goes round once."""

from __future__ import annotations

from collections import Counter
from dataclasses import fields, is_dataclass, replace
from typing import Any

from .nodes import (
    Binary,
    Case,
    Cast,
    Declare,
    Do,
    Expression,
    Function,
    If,
    Leave,
    Module,
    Name,
    Number,
    Remark,
    Statement,
    Switch,
    Type,
    Within,
    inside,
    put_aside,
)


def simpler(module: Module) -> Module:
    """The same module, said with less."""
    return Module(tuple(_said(part) for part in module.parts))


def without_unread(module: Module, others: Module) -> Module:
    """The same module without the plain variables that are written and never read, there or in the others."""
    read: Counter[str] = Counter()
    for part in module.parts:
        read.update(part.names_read)
    for part in others.parts:
        read.update(part.mentions)
    plain = {
        one.ident: one
        for part in module.parts
        if isinstance(part, Declare) and not part.type.volatile and not part.type.fixed
        for one in part.names
        if not one.sizes and one.given is None and not one.placed and isinstance(one.begins, Number | Name | Within)
    }
    gone = {ident for ident in plain if not read[ident]}
    kept = (part if gone.isdisjoint(part.written) else _without(part, gone) for part in module.parts)
    return Module(tuple(part for part in kept if part is not None)) if gone else module


def with_voids(module: Module) -> Module:
    """The same module; what a function is given and does not use it says so, for compilers that ask."""
    return Module(tuple(_voided(part) if isinstance(part, Function) else part for part in module.parts))


def _voided(one: Function) -> Function:
    if not any(taken.ident for taken in one.takes):
        return one
    used = {node.ident for statement in one.body for node in inside(statement) if isinstance(node, Name)}
    unused = [taken.ident for taken in one.takes if taken.ident and taken.ident not in used]
    said = tuple(Do(what=Cast(Type("void"), Name(ident), "c")) for ident in unused)
    return replace(one, body=(*said, *one.body)) if said else one


def _without(node: Any, gone: set[str]) -> Any:
    """A node without the variables, and without the statements that write them."""
    if isinstance(node, Declare):
        names = tuple(one for one in node.names if one.ident not in gone)
        return replace(node, names=names) if names else None
    if isinstance(node, Do) and any(done.target.ident in gone for done in put_aside(node)):
        return Remark(above=node.above, gap=node.gap) if node.above else None
    changed = {}
    for one in fields(node):
        held = getattr(node, one.name)
        if isinstance(held, tuple) and any(is_dataclass(part) for part in held):
            found = (_without(part, gone) if is_dataclass(part) else part for part in held)
            changed[one.name] = tuple(part for part in found if part is not None)
    return replace(node, **changed) if changed else node


def _said(node: Any) -> Any:
    """A node with all that is in it made simpler, from the inside out."""
    changed = {}
    for one in fields(node):
        held = getattr(node, one.name)
        if isinstance(held, tuple):
            made = tuple(_held(part) for part in held)
            if made != held:
                changed[one.name] = made
        elif is_dataclass(held):
            made_one = _said(held)
            if made_one != held:
                changed[one.name] = made_one
    node = replace(node, **changed) if changed else node
    if isinstance(node, Switch):
        node = _one_case(node)
    return _one_question(node) if isinstance(node, If) else node


def _held(part: Any) -> Any:
    if isinstance(part, tuple):
        return tuple(_held(one) for one in part)
    return _said(part) if is_dataclass(part) else part


def _ends(body: tuple[Statement, ...]) -> tuple[Statement, ...]:
    """What a case does, without the word that ends it."""
    last = body[-1] if body else None
    return body[:-1] if isinstance(last, Leave) and last.word == "break" and not last.above else body


def _leaves(body: tuple[Statement, ...]) -> bool:
    """Whether a `break` of the switch stands amid what is done."""
    return any(
        (isinstance(one, Leave) and one.word == "break")
        or (isinstance(one, If) and (_leaves(one.yes) or _leaves(one.no or ())))
        for one in body
    )


def _one_case(one: Switch) -> Statement:
    """A question, where a switch has one case alone and does nothing for the others."""
    named = [case for case in one.cases if case.values]
    others = [case for case in one.cases if not case.values and _ends(case.body)]
    if len(named) != 1 or others:
        return one
    case: Case = named[0]
    body = _ends(case.body)
    if not body or _leaves(body):
        return one
    asked = [Binary("==", one.value, value) for value in case.values]
    asks: Expression = asked[0]
    for further in asked[1:]:
        asks = Binary("||", asks, further)
    return If(asks=asks, yes=body, above=one.above, gap=one.gap, note=one.note or case.note)


def _one_question(one: If) -> If:
    """Two questions as one, where there is nothing but the second within the first."""
    inner = one.yes[0] if len(one.yes) == 1 else None
    if one.no is not None or not isinstance(inner, If) or inner.no is not None or inner.above:
        return one
    if one.note and inner.note:
        return one
    return replace(
        one, asks=Binary("&&", one.asks, inner.asks), yes=inner.yes, short=inner.short, note=one.note or inner.note
    )
