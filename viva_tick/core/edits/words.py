"""What an edit changed, in words: one short phrase for each operation, read off the documents before and after.

A new phrase is a new entry in the row at the end; the first pattern that fits a pointer speaks.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from ..debounce import METHODS
from ..document import Bench, Machine, bench_data
from ..document.panel import Spot
from ..units import amps, ms, ohms, short, volts
from ..wiring.meter import first_power_on
from . import pace_words as pace

Phrase = Callable[[Bench, Bench, re.Match[str], dict[str, Any]], str]


def _input_name(before: Bench, after: Bench, ident: str) -> str:
    for bench in (after, before):
        names = {part.id: part.name for part in bench.parts} | {line.id: line.name for line in bench.lines}
        if ident in names:
            return names[ident]
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


def _reading(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    name, field = _input_name(before, after, found[1]), found[2]
    if not field:
        return f"{name}: {'no longer read' if found[1] not in after.firmware.readings else 'how it is read'}"
    value = operation.get("value")
    if field.endswith("_us") and isinstance(value, int):
        return f"{name}: {field.removesuffix('_us').replace('_', ' ')} {ms(value)}"
    shown = short(value) if isinstance(value, float) else _value_words(field, value)
    return f"{name}: {_field_words(field)} {shown}".rstrip()


def _part_field(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    side, index, field = found[1], int(found[2]), found[3]
    was = getattr(before, side)[index] if index < len(getattr(before, side)) else None
    now = getattr(after, side)[index] if index < len(getattr(after, side)) else None
    part = now or was
    if part is None:
        return "a part"
    if field == "name":
        return f"{was.name if was else ''} is called {part.name}"
    where = f"/{side}/{index}/{field}"
    for claim in (claim for claim in after.claims if claim.where == where):
        pin = next((old.pin for old in before.claims if old.where == where), "")
        return f"{claim.name}: {pin} → {claim.pin}"
    for line in (line for line in after.contacts if where == f"{line.at}/contact"):
        source = line.contact
        if source.kind == "capture":
            return f"{line.name} bounces as captured"
        return f"{line.name} bounces as a {source.switch.replace('-', ' ')}"
    if field == "hold" or field.endswith("/hold"):
        return f"{part.name}: before set-up {_HOLDS[str(operation.get('value'))]}"
    words = {
        "wiring/pull": "pull",
        "wiring/pull_ohm": "pull",
        "wiring/contact_to": "contact",
        "wiring/normally": "contact",
        "active_level": "pressed reads" if side == "inputs" else "on is",
        "at_rest": "at rest",
        "loads": "what it switches",
        "kind": "kind",
    }
    return (
        f"{part.name}: {words.get(field, _field_words(field))} {_value_words(field, operation.get('value'))}".rstrip()
    )


_HOLDS = {"none": "floating", "up": "held high", "down": "held low"}
_UNITS: tuple[tuple[str, Callable[[int], str]], ...] = (
    ("_ohm", ohms),
    ("_ua", amps),
    ("_mv", volts),
    ("_cm", lambda cm: f"{cm} cm"),
    ("_hz", lambda hz: f"{hz} Hz"),
    ("_percent", lambda percent: f"{percent} %"),
)


def _field_words(field: str) -> str:
    last = field.rsplit("/", maxsplit=1)[-1]
    for ending, _ in _UNITS:
        last = last.removesuffix(ending)
    return last.replace("_", " ")


def _value_words(field: str, value: Any) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    for ending, words_of in _UNITS:
        if field.endswith(ending) and isinstance(value, int | float):
            return words_of(int(value))
    if value is None or isinstance(value, dict | list):
        return "" if value else "none"
    return str(value).replace("-", " ")


def _listed(what: str, of: Callable[[Bench], tuple[Any, ...]]) -> Phrase:
    def phrase(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
        was, now = {item.name for item in of(before)}, {item.name for item in of(after)}
        if came := now - was:
            return f"{what} {', '.join(sorted(came))} added"
        if went := was - now:
            return f"{what} {', '.join(sorted(went))} removed"
        return f"{what} replaced"

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
        if state[2] is None:
            return f"{machine.name}: state {name} {_DONE.get(str(operation.get('op')), 'replaced')}"
        if state[2] == "name":
            return f"{machine.name}: a state is called {operation.get('value')}"
        return f"{machine.name}: {name}, {_STATE_WORDS.get(state[2], state[2].replace('_', ' '))}"
    if transition := re.match(r"transitions/(\d+|-)(?:/(\w+))?", rest):
        return _transition(machine, transition, operation)
    if rest == "initial":
        names = {one.id: one.name for one in machine.states}
        return f"{machine.name} begins in {names.get(str(operation.get('value')), '')}"
    if rest.startswith("columns"):
        return f"{machine.name}: a column {'added' if operation.get('op') == 'add' else 'removed'}"
    if rest == "name":
        return f"a machine is called {operation.get('value')}"
    return f"{machine.name}: {rest.replace('/', ' ').replace('_', ' ')}"


_STATE_WORDS = {
    "place": "moved on the map",
    "ignores": "what it ignores on purpose",
    "parent": "its parent state",
    "starts_in": "what it starts in",
    "remembers": "whether it remembers",
    "entry": "its entry actions",
    "exit": "its exit actions",
}
_DONE = {"add": "added", "remove": "removed"}
_WAY_WORDS = {"guards": "its conditions", "actions": "its actions", "on": "its event"}


def _transition(machine: Machine, found: re.Match[str], operation: dict[str, Any]) -> str:
    """A transition from a state to a state, by the names of both where it is still there."""
    place = int(found[1]) if found[1] != "-" else len(machine.transitions) - 1
    if operation.get("op") == "remove" and found[2] is None:
        return f"{machine.name}: a transition removed"
    if place >= len(machine.transitions):
        return f"{machine.name}: a transition from state to state"
    transition = machine.transitions[place]
    ends = f"{machine.state(transition.source).name} → {machine.state(transition.target).name}"
    more = _WAY_WORDS.get(found[2] or "")
    return f"{machine.name}: {ends}" + (f", {more}" if more else "")


def _variable(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    index, field = int(found[1]), found[2]
    variables = after.firmware.variables if index < len(after.firmware.variables) else before.firmware.variables
    if field == "name":
        return f"a variable is called {operation.get('value')}"
    value = operation.get("value")
    if field == "ends":
        return f"{variables[index].name}: {'wraps' if value == 'wrap' else 'stops at its limits'}"
    return f"{variables[index].name}: {field} {value}"


def _limit(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    limit = after.firmware.limits.get(found[1])
    name = _input_name(before, after, found[1])
    return f"{name}: {ms(limit.longest_us)} on at most" if limit else f"{name}: no limit"


def _on_level(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    name, level = _input_name(before, after, found[1]), after.firmware.on_levels.get(found[1])
    return f"{name}: the firmware writes {level} for on" if level else f"{name}: switched as it is wired"


def _set_up(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    does, what = bool(operation.get("value")), found[1]
    if what == "enables_pulls":
        return "set-up enables the pulls" if does else "set-up leaves the pulls off"
    return "set-up makes its pins digital" if does else "set-up leaves its pins analogue"


def _drive_words(value: dict[str, Any]) -> str:
    kind = str(value.get("kind", ""))
    if kind == "steady":
        return "on" if value.get("on") else "off"
    return kind


def _time_words(field: str, value: Any) -> str:
    if field.endswith("_us") and isinstance(value, int):
        return f"{field.removesuffix('_us').replace('_', ' ')} {ms(value)}"
    if field == "blocking":
        return "holds the loop" if value else "runs beside the loop"
    return "left as it was" if value is None else f"{field} {value}"


def _loop(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    was, now = before.firmware.loop.tail_delay_us, after.firmware.loop.tail_delay_us
    return f"delay at the end of the loop {ms(was)} → {ms(now)}"


def _scenario(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    index, rest = int(found[1]), found[2]
    scenarios = after.scenarios if index < len(after.scenarios) else before.scenarios
    scenario, value = scenarios[index], operation.get("value")
    if rest == "name":
        return f"a scenario is called {value}"
    row = re.match(r"(stimuli|expects|answers|repeats|upsets)/(\d+|-)(?:/(?:\w+/)?(\w+))?", rest)
    if row is None:
        return f"scenario {scenario.name}: {_time_words(rest, value) if rest.endswith('_us') else rest}"
    what = {
        "stimuli": "action",
        "expects": "check",
        "answers": "answer",
        "repeats": "repeated action",
        "upsets": "upset",
    }[row[1]]
    rows = getattr(scenario, row[1])
    place = len(rows) - 1 if row[2] == "-" else int(row[2])
    whose = getattr(rows[place], "input", "") if place < len(rows) else ""
    of = f" on {_input_name(before, after, whose)}" if whose else ""
    if row[3] is None:
        article = "an" if what[0] in "au" else "a"
        return f"scenario {scenario.name}: {article} {what} {_DONE.get(str(operation.get('op')), 'replaced')}"
    said = _time_words(row[3], value) if row[3].endswith("_us") else f"{row[3]} {value}"
    return f"scenario {scenario.name}: {what}{of}, {said}"


def _name(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    return f"bench: {before.name} → {after.name}"


def _board(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    return f"the board is now: {after.the_board.name}"


TAP_WORDS = {"hold_us": "shortest tap", "rest_us": "shortest pause", "per_thousand": "may miss, of 1000,"}
GESTURE_WORDS = {"window_us": "another click within", "hold_us": "held after", "repeat_us": "again every"}


def _times_of(known: dict[str, str]) -> Phrase:
    def phrase(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
        """A time of an input, or all that were given of it at once."""
        name, value = _input_name(before, after, found[1]), operation.get("value")
        rows = value if isinstance(value, dict) else {found[2]: value} if found[2] else {}
        said = [
            f"{known.get(field, field.replace('_', ' '))} {ms(one) if field.endswith('_us') else one}"
            for field, one in rows.items()
            if isinstance(one, int)
        ]
        return f"{name}: {', '.join(said) or 'times as usual'}"

    return phrase


def _plain(step: str) -> str:
    return step.replace("~1", "/").replace("~0", "~")


def _wired(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    key = _plain(found[1])
    return f"{'wired' if after.built.wired.get(key) else 'not wired'}: {key.replace(' > ', ' to ')}"


def _spot(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    """What is another on the panel: where a thing sits, its label, its key, its hole."""
    name = _input_name(before, after, found[1])
    was, now = before.panel.spots.get(found[1], Spot()), after.panel.spots.get(found[1], Spot())
    said = []
    if (was.x_mm, was.y_mm) != (now.x_mm, now.y_mm):
        there = f"at {short(now.x_mm)}, {short(now.y_mm or 0)} mm" if now.x_mm is not None else "where there is room"
        said.append(there)
    if was.label != now.label:
        said.append(f"labelled “{now.label}”" if now.label else "labelled with its name")
    if was.key != now.key:
        said.append(f"by the key {now.key}" if now.key else "by any key")
    if was.hole_mm != now.hole_mm:
        said.append("the usual hole" if now.hole_mm is None else f"hole {short(now.hole_mm)} mm")
    return f"panel: {name} {', '.join(said) or 'as it was'}"


def _panel_size(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    size = getattr(after.panel, f"{found[1]}_mm")
    return f"panel: {f'{size} mm' if size else 'as'} {found[1]}{'' if size else ' as it needs'}"


def _measured(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any]) -> str:
    """What a meter showed, and whether that is right."""
    key = _plain(found[1])
    for _, _, rows in first_power_on(after):
        for one in rows:
            if one.id != key:
                continue
            value = after.built.measured.get(key)
            if value is None:
                return f"no longer measured: {one.do}, {one.between}"
            wrong = one.judged(value)
            return f"measured {one.do}, {one.between}: {short(value)} {one.unit}, {wrong or 'right'}"
    return "what a meter showed"


PHRASES: tuple[tuple[str, Phrase], ...] = (
    (r"/name", _name),
    (r"/board", _board),
    (r"/own_board(?:/.*)?", lambda before, after, *_: f"the board is now: {after.the_board.name}"),
    (r"/taps/([^/]+)(?:/(.*))?", _times_of(TAP_WORDS)),
    (r"/wire_colours/.*", lambda *_: "the colours of the wires"),
    (r"/firmware/debounce/([^/]+)(?:/.*)?", _interval),
    (r"/firmware/readings/([^/]+)(?:/(.*))?", _reading),
    (r"/firmware/gestures/([^/]+)(?:/(.*))?", _times_of(GESTURE_WORDS)),
    (r"/(inputs|outputs)/(\d+)/(.+)", _part_field),
    (r"/inputs(?:/.*)?", _listed("part", lambda bench: bench.inputs)),
    (r"/outputs(?:/.*)?", _listed("part", lambda bench: bench.outputs)),
    (r"/captures(?:/.*)?", _listed("capture", lambda bench: bench.captures)),
    (r"/firmware/machines/(\d+)/(.+)", _machine),
    (r"/firmware/variables/(\d+)/(.+)", _variable),
    (r"/firmware/variables(?:/.*)?", _listed("variable", lambda bench: bench.firmware.variables)),
    (r"/firmware/limits/([^/]+)(?:/.*)?", _limit),
    (r"/firmware/on_levels/([^/]+)", _on_level),
    (r"/firmware/set_up/(\w+)", _set_up),
    (r"/firmware/interlocks(?:/.*)?", lambda *_: "which outputs are never on together"),
    (r"/firmware/machines(?:/.*)?", _listed("machine", lambda bench: bench.firmware.machines)),
    (r"/firmware/loop.*", _loop),
    (r"/firmware/tasks/(\d+)/([^/]+)", pace.task_words),
    (r"/firmware/tasks(?:/.*)?", _listed("task", lambda bench: bench.firmware.tasks)),
    (r"/firmware/kernel/between/(\w+)(?:/(\d+|-)(?:/(.+))?)?", pace.between_words),
    (r"/firmware/watchdog(?:/([^/]+))?", pace.watchdog_words),
    (r"/firmware/school", pace.school_words),
    (r"/firmware/measured/(.+)", pace.measured_words),
    (r"/firmware/serial/(.+)", pace.serial_words),
    (r"/firmware/timekeeping/(.+)", pace.timekeeping_words),
    (r"/firmware/keeps(?:/.*)?", pace.keep_words),
    (
        r"/firmware/kernel/(\w+)",
        lambda before, after, found, made: f"kernel: {_time_words(found[1], made.get('value'))}",
    ),
    (r"/firmware/sleep.*", pace.sleep_words),
    (r"/cell.*", pace.cell_words),
    (r"/style/(\w+)", lambda before, after, found, made: f"the program is written with {made.get('value')}"),
    (r"/panel/spots/([^/]+)(?:/(\w+))?", _spot),
    (r"/panel/(wide|high)_mm", _panel_size),
    (r"/built/wired/(.+)", _wired),
    (r"/built/measured/(.+)", _measured),
    (r"/scenarios/(\d+)/(.+)", _scenario),
    (r"/scenarios(?:/.*)?", _listed("scenario", lambda bench: bench.scenarios)),
)


def _from_to(before: Bench, after: Bench, found: re.Match[str], operation: dict[str, Any], phrase: Phrase) -> str:
    """A phrase with what was before it: the same said of the old value, where one value took the place of another."""
    said = phrase(before, after, found, operation)
    if operation.get("op") != "replace" or "→" in said:
        return said
    was = _value_at(bench_data(before), found.string)
    if isinstance(was, dict | list) or isinstance(operation.get("value"), dict | list):
        return said
    old = phrase(after, before, found, {**operation, "value": was})
    now_words, old_words = said.split(" "), old.split(" ")
    same = next((n for n, (a, b) in enumerate(zip(now_words, old_words, strict=False)) if a != b), len(old_words))
    rest, earlier = " ".join(now_words[same:]), " ".join(old_words[same:])
    return f"{' '.join(now_words[:same])} {earlier} → {rest}" if same and rest and earlier else said


def _value_at(data: Any, path: str) -> Any:
    """What stands at a pointer; None where nothing does."""
    for step in path.split("/")[1:]:
        step = step.replace("~1", "/").replace("~0", "~")
        try:
            data = data[int(step)] if isinstance(data, list) else data[step]
        except (KeyError, IndexError, ValueError, TypeError):
            return None
    return data


def phrases(before: Bench, after: Bench, patch: list[dict[str, Any]]) -> list[str]:
    """The patch in words, a phrase for each thing that is another."""
    found: list[str] = []
    for operation in patch:
        path = str(operation.get("path", ""))
        for pattern, phrase in PHRASES:
            if fits := re.fullmatch(pattern, path):
                found.append(_from_to(before, after, fits, operation, phrase))
                break
        else:
            found.append(path.strip("/").replace("/", " ").replace("_", " "))
    return list(dict.fromkeys(found))


def words(before: Bench, after: Bench, patch: list[dict[str, Any]], most: int = 3) -> str:
    """The patch in words, at most so many phrases."""
    unique = phrases(before, after, patch)
    text = "; ".join(unique[:most])
    return text if len(unique) <= most else f"{text} and {len(unique) - most} more"
