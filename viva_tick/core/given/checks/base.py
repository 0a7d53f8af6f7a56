"""What a check says, and what it says it with."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from ..facts import Facts
from ..nodes import Node


@dataclass(frozen=True)
class Edit:
    """A piece of the text, `start` to `stop`, and what comes in its place."""

    start: int
    stop: int
    text: str


@dataclass(frozen=True)
class Wrong:
    """Something that is wrong: which check says so, in which line, why, on which pin if it is one; the edits that mend
    it, or what to write instead where that is more than an edit."""

    code: str
    line: int
    why: str
    pin: str = ""
    edits: tuple[Edit, ...] = ()
    instead: tuple[str, ...] = ()


Find = Callable[[Facts], Iterator[Wrong]]


@dataclass(frozen=True)
class Check:
    """One check: what it is called, what it says in general, where that is from."""

    code: str
    title: str
    rule: str
    find: Find
    source: str = "common practice"


def instead_of(node: Node, text: str) -> Edit:
    """Another text in a node's place."""
    return Edit(node.start, node.stop, text)


def before(node: Node, text: str) -> Edit:
    """A text before a node."""
    return Edit(node.start, node.start, text)


def swapped(facts: Facts, node: Node, old: str, new: str) -> tuple[Edit, ...]:
    """One word of a node's text for another."""
    said = facts.source.said(node)
    at = said.find(old)
    return (Edit(node.start + at, node.start + at + len(old), new),) if at >= 0 else ()


def without(facts: Facts, node: Node) -> tuple[Edit, ...]:
    """A call taken out, with its semicolon; with its line, where nothing else stands on that."""
    text = facts.source.text
    stop = node.stop
    while stop < len(text) and text[stop] in " ;":
        stop += 1
    start = node.start
    line_start = text.rfind("\n", 0, start) + 1
    alone = not text[line_start:start].strip() and text[stop : stop + 1] in ("\n", "")
    if alone and facts.source.language == "cpp":
        return (Edit(line_start, min(stop + 1, len(text)), ""),)
    return (
        Edit(
            start,
            stop if facts.source.language == "cpp" else node.stop,
            "" if facts.source.language == "cpp" else "pass",
        ),
    )


def first_in_setup(facts: Facts, line: str) -> tuple[Edit, ...]:
    """A line more at the beginning of `setup`."""
    setup = facts.source.functions.get("setup")
    if setup is None:
        return ()
    at = facts.source.text.find("{", setup.body.start) + 1
    return (Edit(at, at, f"\n  {line}"),)


def mended(text: str, edits: tuple[Edit, ...]) -> str:
    """The text with edits done."""
    for one in sorted(edits, key=lambda each: -each.start):
        text = text[: one.start] + one.text + text[one.stop :]
    return text
