"""An SCXML document as a machine; what is not in the subset is refused by name and line."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import unquote
from xml.parsers import expat

from ...document import (
    BOARD_EVENTS,
    Bench,
)
from ...ids import free_id
from .words import KINDS, MOST_BYTES, OURS, W3C, ScxmlError


def arrival_patch(bench: Bench, text: str) -> tuple[str, list[dict[str, Any]]]:
    """(id, patch) that adds the machine of an SCXML document to a bench, and those of its variables that the bench has
    not. Raises `ScxmlError`."""
    read = read_scxml(text)
    machine, variables = read["machine"], read["variables"]
    known = {one.id for one in bench.firmware.variables}
    wanted = machine["id"]
    machine["id"] = free_id(wanted, {one.id for one in bench.firmware.machines})
    for transition in machine["transitions"]:
        for guard in transition["guards"]:
            if guard.get("machine") == wanted:
                guard["machine"] = machine["id"]
    patch = [{"op": "add", "path": "/firmware/variables/-", "value": v} for v in variables if v["id"] not in known]
    return machine["id"], [*patch, {"op": "add", "path": "/firmware/machines/-", "value": machine}]


@dataclass
class Element:
    """An element of the file: its name without the namespace, where it stands, what it says."""

    name: str
    line: int
    attributes: dict[str, str]
    children: list[Element] = field(default_factory=list)
    text: str = ""

    def need(self, name: str) -> str:
        """An attribute that must be there."""
        if name not in self.attributes:
            raise ScxmlError(self.line, f"<{self.name}> needs “{name}”.")
        return self.attributes[name]

    def only(self, *names: str) -> list[Element]:
        """The children, none of which has another name than these."""
        for child in self.children:
            if child.name not in names:
                raise ScxmlError(child.line, f"<{child.name}> inside <{self.name}> is not supported.")
        return self.children


def _tree(text: str) -> Element:
    """The file as elements. ScxmlError where it is no XML, or has a DOCTYPE."""
    # The text was decoded before it came here: whatever the file says of its encoding is over.
    parser = expat.ParserCreate("utf-8", namespace_separator=" ")
    stack: list[Element] = []
    roots: list[Element] = []

    def start(name: str, attributes: dict[str, str]) -> None:
        space, _, local = name.rpartition(" ")
        if space not in ("", W3C):
            raise ScxmlError(parser.CurrentLineNumber, f"<{local}> is of a language that is not known here.")
        named = {key.replace(f"{OURS} ", "vt:").rpartition(" ")[2]: value for key, value in attributes.items()}
        made = Element(local, parser.CurrentLineNumber, named)
        (stack[-1].children if stack else roots).append(made)
        stack.append(made)
        if len(stack) > 20:
            raise ScxmlError(made.line, "this is nested too deeply.")

    def words(data: str) -> None:
        if stack:
            stack[-1].text += data

    def doctype(*_: Any) -> None:
        raise ScxmlError(parser.CurrentLineNumber, "a DOCTYPE is not supported; remove it.")

    parser.StartElementHandler = start
    parser.EndElementHandler = lambda _: stack.pop()
    parser.CharacterDataHandler = words
    parser.StartDoctypeDeclHandler = doctype
    try:
        parser.Parse(text.encode(), True)
    except expat.ExpatError as error:
        raise ScxmlError(error.lineno, f"this is not well-formed XML ({expat.errors.messages[error.code]}).") from None
    return roots[0]


Shape = tuple[re.Pattern[str], Callable[[re.Match[str]], dict[str, Any]]]


NAME = r"[a-z][a-z0-9.-]*"


NUMBER = r"-?\d{1,10}"


GUARDS: tuple[Shape, ...] = (
    (re.compile(rf"(!?)pressed\('({NAME})'\)"), lambda m: {"kind": "contact", "input": m[2], "pressed": not m[1]}),
    (
        re.compile(rf"(!?)above\('({NAME})'(?:, *'({NAME})')?\)"),
        lambda m: {"kind": "level", "input": m[2], "of": m[3] or "", "above": not m[1]},
    ),
    (re.compile(rf"(!?)In\('({NAME})'\)"), lambda m: {"kind": "in", "machine": "", "state": m[2], "there": not m[1]}),
    (
        re.compile(rf"(!?)standing\('({NAME})', *'({NAME})'\)"),
        lambda m: {"kind": "in", "machine": m[2], "state": m[3], "there": not m[1]},
    ),
    (
        re.compile(rf"(!?)between\(({NAME}), *({NUMBER}), *({NUMBER})\)"),
        lambda m: {"kind": "range", "variable": m[2], "least": int(m[3]), "most": int(m[4]), "inside": not m[1]},
    ),
    (
        re.compile(rf"({NAME}) *(<=|>=|==|!=|<|>) *({NUMBER})"),
        lambda m: {"kind": "compare", "variable": m[1], "sign": m[2].replace("==", "="), "number": int(m[3])},
    ),
    (
        re.compile(rf"({NAME}) *(<=|>=|==|!=|<|>) *({NAME})"),
        lambda m: {"kind": "compare", "variable": m[1], "sign": m[2].replace("==", "="), "other": m[3]},
    ),
)


EXPRESSIONS: tuple[Shape, ...] = (
    (re.compile(NUMBER), lambda m: {"do": "set", "number": int(m[0])}),
    (re.compile(rf"({NAME}) *([+-]) *(\d{{1,7}})"), lambda m: {"do": "add", "to": m[1], "number": int(m[2] + m[3])}),
    (
        re.compile(rf"random\(({NUMBER}), *({NUMBER})\)"),
        lambda m: {"do": "random", "least": int(m[1]), "most": int(m[2])},
    ),
    (re.compile(rf"level\('({NAME})'\)"), lambda m: {"do": "take", "input": m[1]}),
    (re.compile(rf"({NAME})"), lambda m: {"do": "copy", "other": m[1]}),
)


DELAYS: tuple[Shape, ...] = (
    (
        re.compile(rf"({NAME}) \* (\d+) \+ 'ms'"),
        lambda m: {"after_us": 1000, "variable": m[1], "unit_us": int(m[2]) * 1000},
    ),
    (
        re.compile(r"random\((\d+), *(\d+)\) \+ 'ms'"),
        lambda m: {"after_us": int(m[1]) * 1000, "until_us": int(m[2]) * 1000},
    ),
)


def _shaped(text: str, shapes: tuple[Shape, ...], line: int, what: str) -> dict[str, Any]:
    for pattern, make in shapes:
        if found := pattern.fullmatch(text.strip()):
            return make(found)
    raise ScxmlError(line, f"the {what} “{text}” is not supported.")


def _guards(element: Element, own: str) -> list[dict[str, Any]]:
    cond = element.attributes.get("cond")
    found = [_shaped(term, GUARDS, element.line, "condition") for term in cond.split("&&")] if cond else []
    return [guard | {"machine": own} if guard.get("machine") == "" else guard for guard in found]


def _actions(element: Element, waits: dict[str, dict[str, Any]] | None = None) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = []
    for child in element.only("assign", "send", "cancel"):
        attributes = child.attributes
        if child.name == "assign":
            said = _shaped(child.need("expr"), EXPRESSIONS, child.line, "expression")
            variable = child.need("location")
            if said.pop("to", variable) != variable:
                raise ScxmlError(child.line, f"the expression “{attributes['expr']}” must add to “{variable}” itself.")
            found.append({**said, "variable": variable})
        elif child.name == "send" and attributes.get("type") == "watchdog":
            found.append({"do": "feed"})
        elif child.name == "send" and attributes.get("type") == "board":
            found.append({"do": "restart"})
        elif child.name == "send" and attributes.get("type") == "kernel":
            found.append({"do": "signal", "of": child.need("target").removeprefix("#")})
        elif child.name == "send" and attributes.get("type") in ("drive", "bytes"):
            contents = [one.text for one in child.only("content")]
            try:
                sent = json.loads("".join(contents))
            except (ValueError, RecursionError):
                raise ScxmlError(child.line, "the <content> of a drive, or of bytes, is not JSON.") from None
            target = child.need("target").removeprefix("#")
            if attributes["type"] == "bytes":
                found.append({"do": "send", "input": target, "bytes": sent})
            else:
                found.append({"do": "drive", "output": target, "drive": sent})
        elif child.name == "send" and waits is not None and ("delay" in attributes or "delayexpr" in attributes):
            waits[child.need("event")] = _wait(child)
        elif child.name == "send":
            raise ScxmlError(child.line, "<send> is supported for timeouts, as a state is entered, drives and bytes.")
        elif waits is None:
            raise ScxmlError(child.line, "<cancel> is supported as a state is left.")
    return found


def _first(element: Element) -> Element:
    """The transition that an <initial> holds."""
    found = element.only("transition")
    if not found:
        raise ScxmlError(element.line, f"<{element.name}> holds no <transition> that says where to begin.")
    return found[0]


def _wait(element: Element) -> dict[str, Any]:
    if "delayexpr" in element.attributes:
        return {"kind": "timeout", **_shaped(element.attributes["delayexpr"], DELAYS, element.line, "delay")}
    found = re.fullmatch(r"(\d+(?:\.\d+)?)(ms|s)", element.attributes["delay"])
    if not found:
        raise ScxmlError(element.line, f"the delay “{element.attributes['delay']}” is not so many ms or s.")
    if len(found[1]) > 20:
        raise ScxmlError(element.line, f"the delay “{found[1][:12]}…” is longer than a week.")
    us = round(float(found[1]) * (1000 if found[2] == "ms" else 1_000_000))
    return {"kind": "timeout", "after_us": us // 1000 * 1000}


def _event(element: Element, waits: dict[str, dict[str, Any]]) -> dict[str, Any]:
    word = element.attributes.get("event", "")
    if not word:
        return {"kind": "always"}
    if word in waits:
        return waits[word]
    kind, _, rest = word.partition(".")
    giver, _, of = rest.partition(".")
    giver, of = giver.replace(":", "."), unquote(of)
    if kind not in KINDS:
        raise ScxmlError(element.line, f"the event “{word}” is not known; it begins with none of {', '.join(KINDS)}.")
    if kind in ("entered", "left"):
        return {"kind": kind, "machine": giver, "state": of}
    if kind == "reached":
        if not re.fullmatch(NUMBER, of):
            raise ScxmlError(element.line, f"“{word}” reaches no number.")
        return {"kind": kind, "variable": giver, "value": int(of)}
    if kind == "ended":
        return {"kind": kind, "output": giver}
    if kind == "taken":
        return {"kind": kind, "signal": giver}
    if kind in BOARD_EVENTS:
        return {"kind": kind}
    event = {"kind": kind, "input": giver}
    return event | {"of": of} if of else event


def read_scxml(text: str) -> dict[str, Any]:
    """`{"machine": …, "variables": […]}` as plain data, which the document then checks. ScxmlError, with the line, for
    whatever is not in the subset."""
    if len(text.encode()) > MOST_BYTES:
        raise ScxmlError(1, f"the file is larger than {MOST_BYTES:,} bytes.")
    root = _tree(text)
    if root.name != "scxml":
        raise ScxmlError(root.line, f"<{root.name}> is not <scxml>.")
    ident = re.sub(r"[^a-z0-9-]+", "-", root.attributes.get("name", "machine").lower()).strip("-") or "machine"
    ident = ident if ident[0].isalpha() else f"machine-{ident}"
    states: list[dict[str, Any]] = []
    transitions: list[dict[str, Any]] = []
    variables: list[dict[str, Any]] = []
    kept: dict[str, str] = {}

    def one_state(element: Element, around: str | None) -> None:
        name = element.need("id")
        state: dict[str, Any] = {"id": name, "name": element.attributes.get("vt:title", name), "parent": around}
        if "initial" in element.attributes:
            state["starts_in"] = element.attributes["initial"]
        try:
            if place := element.attributes.get("vt:place"):
                state["place"] = [int(word) for word in place.split()]
            # `vt:passes` is what files of version 3 called it.
            if ignored := element.attributes.get("vt:ignores") or element.attributes.get("vt:passes"):
                state["ignores"] = json.loads(ignored)
        except (ValueError, TypeError, RecursionError):
            raise ScxmlError(element.line, "“vt:place” is two numbers, “vt:ignores” a list in JSON.") from None
        states.append(state)
        waits: dict[str, dict[str, Any]] = {}
        children = element.only("state", "transition", "onentry", "onexit", "history", "initial")
        for child in children:
            if child.name == "onentry":
                state["entry"] = state.get("entry", []) + _actions(child, waits)
            elif child.name == "onexit":
                state["exit"] = state.get("exit", []) + _actions(child, {})
            elif child.name == "history":
                if child.attributes.get("type", "shallow") not in ("deep", "shallow"):
                    raise ScxmlError(child.line, f"a history of type “{child.attributes['type']}” is not supported.")
                state["remembers"] = True
                kept[child.need("id")] = name
                state.setdefault("starts_in", _first(child).need("target") if child.children else None)
            elif child.name == "initial":
                state["starts_in"] = _first(child).need("target")
        entry = state.get("entry", [])
        drives: dict[str, Any] = {}
        while entry and entry[0]["do"] == "drive" and entry[0]["output"] not in drives:
            first = entry.pop(0)
            drives[first["output"]] = first["drive"]
        state["drives"] = drives
        for child in children:
            if child.name == "transition":
                transitions.append(
                    {
                        "source": name,
                        "on": _event(child, waits),
                        "target": child.attributes.get("target", name),
                        "guards": _guards(child, ident),
                        "actions": _actions(child),
                        "line": child.line,
                    }
                )
            elif child.name == "state":
                if around is not None:
                    raise ScxmlError(child.line, f"<state> “{child.need('id')}” is two levels deep; one is supported.")
                one_state(child, name)

    for child in root.only("state", "datamodel", "initial"):
        if child.name == "state":
            one_state(child, None)
        elif child.name == "initial":
            root.attributes["initial"] = _first(child).need("target")
        else:
            for data in child.only("data"):
                given = data.attributes
                numbers = {"expr": "0", "vt:least": "-32768", "vt:most": "32767"} | given
                for key in ("expr", "vt:least", "vt:most"):
                    if not re.fullmatch(NUMBER, numbers[key]):
                        raise ScxmlError(data.line, f"“{numbers[key]}” is not a whole number.")
                variables.append(
                    {
                        "id": data.need("id"),
                        "name": given.get("vt:title", data.need("id")),
                        "begins": int(numbers["expr"]),
                        "least": int(numbers["vt:least"]),
                        "most": int(numbers["vt:most"]),
                        "ends": given.get("vt:ends", "stop"),
                    }
                )
    if not states:
        raise ScxmlError(root.line, "there is no <state> in it.")
    known = {state["id"] for state in states}
    for transition in transitions:
        line = transition.pop("line")
        transition["target"] = kept.get(transition["target"], transition["target"])
        if transition["target"] not in known:
            raise ScxmlError(line, f"there is no state “{transition['target']}”.")
    initial = root.attributes.get("initial", states[0]["id"])
    machine = {
        "id": ident[:40],
        "name": root.attributes.get("vt:title", ident)[:60],
        "initial": kept.get(initial, initial),
        "states": states,
        "transitions": transitions,
    }
    return {"machine": machine, "variables": variables}
