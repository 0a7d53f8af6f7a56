"""What an edit changed, in words: one short phrase for each operation, read off the documents before and after.

A new phrase is a new entry in the row at the end; the first pattern that fits a pointer speaks.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from ..boards import boards
from ..debounce import METHODS
from ..document import Bench
from ..units import ms

Phrase = Callable[[Bench, Bench, re.Match[str], dict[str, Any]], str]


def _input_name(before: Bench, after: Bench, ident: str) -> str:
    for bench in (after, before):
        for part in bench.parts:
            if part.id == ident:
                return part.name
    return ident


def _interval(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    ident = found[1]
    was, now = before.debounce(ident), after.debounce(ident)
    name = _input_name(before, after, ident)
    said = []
    if was.method != now.method:
        said.append(f"{METHODS[was.method].title} → {METHODS[now.method].title}")
    if was.interval_us != now.interval_us and METHODS[now.method].has_interval:
        said.append(f"interval {ms(was.interval_us)} → {ms(now.interval_us)}")
    return f"{name}: {', '.join(said) or 'debounce as it was'}"


def _part_field(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    side, index, field = found[1], int(found[2]), found[3]
    was = getattr(before, side)[index] if index < len(getattr(before, side)) else None
    now = getattr(after, side)[index] if index < len(getattr(after, side)) else None
    part = now or was
    if part is None:
        return "a part"
    if field == "name":
        return f"{was.name if was else ''} is now {part.name}"
    if field == "pin":
        return f"{part.name}: {was.pin if was else ''} → {part.pin}"
    if field == "contact":
        source = part.contact
        if source.kind == "capture":
            return f"{part.name} bounces as captured"
        return f"{part.name} bounces as a {source.switch.replace('-', ' ')}"
    words = {
        "wiring/pull": "pull",
        "wiring/pull_ohm": "pull",
        "wiring/contact_to": "contact",
        "wiring/normally": "contact",
        "active_level": "pressed reads" if side == "inputs" else "on is",
        "at_rest": "at rest",
        "load": "load",
        "kind": "kind",
    }
    value = str(operation.get("value", ""))
    return f"{part.name}: {words.get(field, field.replace('/', ' '))} {value.replace('-', ' ')}".rstrip()


def _listed(what: str, of: Callable[[Bench], tuple[Any, ...]]) -> Phrase:
    def phrase(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
        was, now = {item.name for item in of(before)}, {item.name for item in of(after)}
        if came := now - was:
            return f"{what} {', '.join(sorted(came))} added"
        if went := was - now:
            return f"{what} {', '.join(sorted(went))} taken out"
        return f"{what} changed"

    return phrase


def _machine(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    index, rest = int(found[1]), found[2]
    machines = after.firmware.machines if index < len(after.firmware.machines) else before.firmware.machines
    machine = machines[index]
    if state := re.match(r"states/(\d+)(?:/(\w+))?", rest):
        place = int(state[1])
        name = machine.states[place].name if place < len(machine.states) else "a state"
        drive = re.match(r"states/\d+/drives/([^/]+)(?:/(\w+))?", rest)
        if drive:
            value = operation.get("value")
            shown = _drive_words(value) if isinstance(value, dict) else _time_words(drive[2] or "", value)
            return f"{machine.name}, {name}: {_input_name(before, after, drive[1])} {shown}".rstrip()
        return f"{machine.name}: {name} {'renamed' if state[2] == 'name' else 'changed'}"
    if rest.startswith("transitions"):
        return f"{machine.name}: a way from state to state"
    if rest == "initial":
        return f"{machine.name} begins in {operation.get('value')}"
    return f"{machine.name} {'renamed' if rest == 'name' else 'changed'}"


def _drive_words(value: dict[str, Any]) -> str:
    kind = str(value.get("kind", ""))
    if kind == "steady":
        return "on" if value.get("on") else "off"
    return kind


def _time_words(field: str, value: Any) -> str:
    if field.endswith("_us") and isinstance(value, int):
        return f"{field.removesuffix('_us').replace('_', ' ')} {ms(value)}"
    if field == "blocking":
        return "stops the loop" if value else "runs beside the loop"
    return "left as it was" if value is None else f"{field} {value}"


def _loop(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    was, now = before.firmware.loop.tail_delay_us, after.firmware.loop.tail_delay_us
    return f"delay at the end of the loop {ms(was)} → {ms(now)}"


def _scenario(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    index = int(found[1])
    scenarios = after.scenarios if index < len(after.scenarios) else before.scenarios
    return f"scenario {scenarios[index].name} changed"


def _name(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    return f"bench {before.name} is now {after.name}"


def _board(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    return f"the board is now: {boards()[after.board].name}"


PHRASES: tuple[tuple[str, Phrase], ...] = (
    (r"/name", _name),
    (r"/board", _board),
    (r"/firmware/debounce/([^/]+)(?:/.*)?", _interval),
    (r"/(inputs|outputs)/(\d+)/(.+)", _part_field),
    (r"/inputs(?:/.*)?", _listed("part", lambda bench: bench.inputs)),
    (r"/outputs(?:/.*)?", _listed("part", lambda bench: bench.outputs)),
    (r"/captures(?:/.*)?", _listed("capture", lambda bench: bench.captures)),
    (r"/firmware/machines/(\d+)/(.+)", _machine),
    (r"/firmware/machines(?:/.*)?", _listed("machine", lambda bench: bench.firmware.machines)),
    (r"/firmware/loop.*", _loop),
    (r"/firmware/watchdog.*", lambda *_: "watchdog"),
    (r"/scenarios/(\d+)/(?:.+)", _scenario),
    (r"/scenarios(?:/.*)?", _listed("scenario", lambda bench: bench.scenarios)),
)


def words(before: Bench, after: Bench, patch: list[dict[str, Any]], most: int = 3) -> str:
    """The patch in words, at most so many phrases."""
    phrases: list[str] = []
    for operation in patch:
        path = str(operation.get("path", ""))
        for pattern, phrase in PHRASES:
            if found := re.fullmatch(pattern, path):
                phrases.append(phrase(before, after, found, operation))
                break
        else:
            phrases.append(f"{path.strip('/').replace('/', ' ')} changed")
    unique = list(dict.fromkeys(phrases))
    text = "; ".join(unique[:most])
    return text if len(unique) <= most else f"{text} and {len(unique) - most} more"
