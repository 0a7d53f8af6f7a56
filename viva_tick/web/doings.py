"""What a scenario does to the bench, as rows to be read and changed, as bars on the lanes, and as what can be added."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..core.courses import tried_out
from ..core.document import (
    Bench,
    Command,
    ExpectCount,
    ExpectNumber,
    ExpectOn,
    ExpectText,
    KeyPress,
    Level,
    Press,
    Scenario,
    SetTo,
    Touch,
    Turn,
    WhenOutput,
    WhenState,
    WhenText,
)
from ..core.document.parts import Analogue, Commands, Encoder, KeyMatrix, OpenWire, Sensed
from ..core.electrics import floats
from ..core.engine import Kind, Run
from ..core.timing import SIGN_WORDS, Answers, Verdict, as_it_is


@dataclass(frozen=True)
class Field:
    """One number or word of a row: what stands before it, where it is in the document, how it is read, its unit."""

    label: str
    path: str
    value: Any
    reads: str
    unit: str


@dataclass(frozen=True)
class Doing:
    """One stimulus. `lane` is where its bar lies, from `at_us` to `to_us`; `to` is the field that its end changes."""

    path: str
    place: int
    lane: str
    name: str
    verb: str
    at_us: int
    to_us: int
    to: str
    fields: tuple[Field, ...]

    def bar(self) -> dict[str, Any]:
        """As the strip draws it."""
        return {"path": self.path, "lane": self.lane, "at": self.at_us, "to": self.to_us, "end": self.to}


# What is drawn and said of each: its lane, a verb, the field that its end changes, and its fields, the instant between.
Said = tuple[str, str, str, str]  # label, field, how it is read, unit
SHAPES: dict[type[Any], tuple[str, str, str, tuple[Said, ...], tuple[Said, ...]]] = {
    Press: ("cleaned {}", "pressed", "hold_us", (), (("for", "hold_us", "time", ""),)),
    SetTo: ("cleaned {}", "switched", "", (), ()),
    Touch: ("cleaned {}", "touched at its wire", "hold_us", (), (("for", "hold_us", "time", ""),)),
    Turn: (
        "contact {}.a",
        "turned",
        "over_us",
        (("by", "clicks", "int", "detents"),),
        (("over", "over_us", "time", ""),),
    ),
    Level: ("measure {}", "goes", "over_us", (("to", "value", "float", ""),), (("over", "over_us", "time", ""),)),
    KeyPress: ("held {}", "key", "hold_us", (("", "key", "text", ""),), (("for", "hold_us", "time", ""),)),
    Command: ("sent {}", "sends", "", (("number", "number", "int", ""),), ()),
}


def _names(bench: Bench) -> dict[str, str]:
    return {part.id: part.name for part in bench.parts} | {line.id: line.name for line in bench.contacts}


def doings(bench: Bench, scenario: Scenario) -> list[Doing]:
    """Every stimulus of a scenario, in order of time."""
    index = bench.scenarios.index(scenario)
    names = _names(bench)
    units = {part.id: str(getattr(part, "unit", "")) for part in bench.inputs}
    told_apart = {part.id for part in bench.inputs if isinstance(part, Commands) and part.hits}
    rows = []
    for number, one in enumerate(scenario.stimuli):
        path = f"/scenarios/{index}/stimuli/{number}"
        lane, verb, end, before, after = SHAPES[type(one)]
        if isinstance(one, SetTo):
            verb = "switched on" if one.pressed else "switched off"
        fields = [
            Field(
                label,
                f"{path}/{name}",
                getattr(one, name),
                reads,
                unit if name != "value" else units.get(one.input, ""),
            )
            for label, name, reads, unit in (*before, ("at", "at_us", "time", ""), *after)
        ]
        if isinstance(one, Command) and one.input in told_apart:
            fields.append(Field("from", f"{path}/cm", "" if one.cm is None else one.cm, "cm", "cm away"))
        to_us = one.at_us + (getattr(one, end) if end else 0)
        lane = lane.format(one.input)
        rows.append(Doing(path, number, lane, names[one.input], verb, one.at_us, to_us, end, tuple(fields)))
    return sorted(rows, key=lambda row: (row.at_us, row.place))


@dataclass(frozen=True)
class Standing:
    """Something that is done over and over, or whenever something happens, as a row: what is said before its fields,
    what it is done to, which can be another, and its fields."""

    path: str
    place: str
    words: str
    what: str
    others: tuple[tuple[str, bool, list[dict[str, Any]]], ...]
    fields: tuple[Field, ...]


def _others(bench: Bench, path: str, now: str) -> tuple[tuple[str, bool, list[dict[str, Any]]], ...]:
    """(name, whether it is that, patch) of every contact that could be pressed instead."""
    return tuple(
        (line.name, line.id == now, [{"op": "replace", "path": f"{path}/do/input", "value": line.id}])
        for line in bench.contacts
    )


def _trigger_words(bench: Bench, to: WhenOutput | WhenState | WhenText) -> str:
    names = {one.id: one.name for one in bench.drivable}
    match to:
        case WhenOutput():
            return f"Whenever {names[to.output]} {'comes on' if to.on else 'goes off'}"
        case WhenState():
            machine = next(one for one in bench.firmware.machines if one.id == to.machine)
            return f"Whenever {machine.name} enters {machine.state(to.state).name}"
        case WhenText():
            return f"Whenever {names[to.of]} shows “{to.text}”"


UPSETS = {"off": "is unplugged", "dip": "has a dip in its supply", "pin": "has its reset pin pulled"}


def standing(bench: Bench, scenario: Scenario) -> list[Standing]:
    """What a scenario does over and over, and what it answers."""
    at, names, rows = f"/scenarios/{bench.scenarios.index(scenario)}", _names(bench), []
    for number, again in enumerate(scenario.repeats):
        path = f"{at}/repeats/{number}"
        fields = [
            Field("first at", f"{path}/do/at_us", again.do.at_us, "time", ""),
            Field("", f"{path}/times", again.times, "int", "times,"),
            Field("", f"{path}/apart_us", again.apart_us, "time", ""),
            Field("to", f"{path}/apart_most_us", again.apart_most_us, "time", "apart"),
        ]
        if isinstance(again.do, Press):
            fields.append(Field("each for", f"{path}/do/hold_us", again.do.hold_us, "time", ""))
        others = _others(bench, path, again.do.input) if isinstance(again.do, Press) else ()
        rows.append(Standing(path, f"again-{number}", "Over and over", names[again.do.input], others, tuple(fields)))
    for number, upset in enumerate(scenario.upsets):
        path = f"{at}/upsets/{number}"
        fields = [Field("at", f"{path}/at_us", upset.at_us, "time", "")]
        if upset.kind != "dip":
            fields.append(Field("for", f"{path}/for_us", upset.for_us, "time", ""))
        rows.append(Standing(path, f"upset-{number}", "The board", UPSETS[upset.kind], (), tuple(fields)))
    for number, answer in enumerate(scenario.answers):
        path = f"{at}/answers/{number}"
        fields = [
            Field("after", f"{path}/after_us", answer.after_us, "time", ""),
            Field("to", f"{path}/after_most_us", answer.after_most_us, "time", ""),
        ]
        if isinstance(answer.do, Press):
            fields.append(Field("for", f"{path}/do/hold_us", answer.do.hold_us, "time", ""))
        fields += [
            Field("in", f"{path}/percent", answer.percent, "int", "of 100 cases,"),
            Field("the first", f"{path}/times", answer.times, "int", "(0: all)"),
        ]
        if answer.instead is not None:
            wrong = f"of 100 {names[answer.instead.input]} instead"
            fields.append(Field("in", f"{path}/wrong_percent", answer.wrong_percent, "int", wrong))
        words = _trigger_words(bench, answer.to)
        others = _others(bench, path, answer.do.input) if isinstance(answer.do, Press) else ()
        rows.append(Standing(path, f"answer-{number}", words, names[answer.do.input], others, tuple(fields)))
    return rows


def to_stand(bench: Bench, scenario: Scenario) -> list[tuple[str, list[dict[str, Any]]]]:
    """(words, patch) of what can be answered, and done over and over: with the contact of the same place."""
    pressed = [line for line in bench.contacts if not isinstance(line.part, OpenWire)]
    contacts = [line.id for line in pressed]
    at = f"/scenarios/{bench.scenarios.index(scenario)}"
    halfway_us = scenario.length_us // 2 // 1000 * 1000
    found = [
        (f"The board {words}", [{"op": "add", "path": f"{at}/upsets/-", "value": {"kind": kind, "at_us": halfway_us}}])
        for kind, words in UPSETS.items()
    ]
    if not contacts:
        return found
    for line in pressed:
        do = {"kind": "press", "input": line.id, "at_us": 500_000, "hold_us": 60_000}
        value = {"do": do, "times": 20, "apart_us": 80_000, "apart_most_us": 400_000}
        found.append((f"Press {line.name} over and over", [{"op": "add", "path": f"{at}/repeats/-", "value": value}]))
    triggers: list[tuple[str, dict[str, Any], int]] = []
    for place, channel in enumerate(bench.channels):
        triggers.append((f"When {channel.name} comes on", {"kind": "output", "output": channel.id}, place))
    for machine in bench.firmware.machines:
        triggers += [
            (f"When {machine.name} enters {s.name}", {"kind": "state", "machine": machine.id, "state": s.id}, 0)
            for s in machine.leaves
        ]
    shown = {output for machine in bench.firmware.machines for output in bench.driven_by(machine)}
    for text in bench.text_lines:
        if text.id in shown:
            triggers.append((f"When {text.name} shows …", {"kind": "text", "of": text.id, "text": "Press"}, 0))
    for words, to, place in triggers:
        press = {"kind": "press", "at_us": 0, "hold_us": 60_000}
        mine, other = contacts[place % len(contacts)], contacts[(place + 1) % len(contacts)]
        value = {"to": to, "do": press | {"input": mine}, "after_us": 250_000, "after_most_us": 400_000}
        if other != mine:
            value |= {"instead": press | {"input": other}, "wrong_percent": 0}
        found.append((f"{words}: press", [{"op": "add", "path": f"{at}/answers/-", "value": value}]))
    return found


def _first(part: Sensed) -> dict[str, Any]:
    made = {**tried_out(part)[0], "input": part.id} if tried_out(part) else {}
    made.pop("at_us", None)
    return made


DONE_TO: tuple[tuple[type[Sensed], str, str], ...] = (
    (Encoder, "contact {}.a", "Turn"),
    (Analogue, "measure {}", "Move"),
    (KeyMatrix, "held {}", "A key of"),
    (Commands, "sent {}", "A command to"),
)


def addable(bench: Bench) -> list[tuple[str, str, dict[str, Any]]]:
    """(lane, words, stimulus without its instant) of everything that can be done to the bench."""
    found: list[tuple[str, str, dict[str, Any]]] = []
    for line in bench.contacts:
        press = {"kind": "press", "input": line.id, "hold_us": 120_000}
        if not isinstance(line.part, OpenWire):
            found.append((f"cleaned {line.id}", f"Press {line.name}", press))
        if floats(line, bench.the_board):
            touch = {"kind": "touch", "input": line.id, "hold_us": 300_000}
            found.append((f"cleaned {line.id}", f"Touch the wire of {line.name}", touch))
    for _, part in bench.sensed:
        if made := _first(part):
            lane, words = next(row[1:] for row in DONE_TO if isinstance(part, row[0]))
            found.append((lane.format(part.id), f"{words} {part.name}", made))
    return found


@dataclass(frozen=True)
class Expected:
    """One expectation as a row: what is said before its fields, and how it was judged."""

    path: str
    place: int
    words: str
    verdict: Verdict | None
    fields: tuple[Field, ...]


def expectations(bench: Bench, scenario: Scenario, said: Answers | None) -> list[Expected]:
    """Every expectation of a scenario, with its verdict."""
    index = bench.scenarios.index(scenario)
    names = {channel.id: channel.name for channel in bench.channels} | _names(bench)
    names |= {one.id: one.name for one in bench.firmware.machines}
    names |= {one.id: one.name for one in bench.firmware.variables} | {one.id: one.name for one in bench.text_lines}
    rows = []
    for number, one in enumerate(scenario.expects):
        path = f"/scenarios/{index}/expects/{number}"
        if isinstance(one, ExpectOn):
            words = f"{names[one.output]} is {'on' if one.on else 'off'}"
            fields = [
                Field("from", f"{path}/from_us", one.from_us, "time", ""),
                Field("to", f"{path}/to_us", one.to_us, "time", ""),
            ]
        elif isinstance(one, ExpectCount):
            what = {"press": "is pressed", "on": "comes on", "event": f"gives “{one.event}”"}[one.what]
            words = f"{names[one.of]} {what}"
            fields = [Field("", f"{path}/times", one.times, "int", "times")]
        elif isinstance(one, ExpectNumber):
            words = f"{names[one.variable]} {'once ' if one.when == 'once' else ''}{SIGN_WORDS[one.sign]}"
            fields = [
                Field("", f"{path}/number", one.number, "int", ""),
                Field("from", f"{path}/from_us", one.from_us, "time", ""),
                Field("to", f"{path}/to_us", one.to_us, "time", ""),
            ]
        elif isinstance(one, ExpectText):
            words = f"{names[one.of]} shows"
            fields = [
                Field("", f"{path}/text", one.text, "text", ""),
                Field("at", f"{path}/at_us", one.at_us, "time", ""),
            ]
        else:
            machine = next(m for m in bench.firmware.machines if m.id == one.machine)
            words = f"{machine.name} is in {machine.state(one.state).name}"
            fields = [Field("at", f"{path}/at_us", one.at_us, "time", "")]
        verdict = said.expected[number] if said and number < len(said.expected) else None
        rows.append(Expected(path, number, words, verdict, tuple(fields)))
    return rows


def _said_as_now(bench: Bench, run: Run) -> list[tuple[str, dict[str, Any]]]:
    """(words, expectation) of what the events, numbers and texts of a run are now."""
    found: list[tuple[str, dict[str, Any]]] = []
    end_us = run.trace.length_us // 1000 * 1000 - 1000
    for one in bench.readers:
        values = run.trace.signal(Kind.EVENT, one.id).values
        for event in sorted({value for value in values if value not in ("press", "release")}):
            times = values.count(event)
            value = {"kind": "count", "of": one.id, "what": "event", "event": event, "times": times}
            found.append((f"{one.name} gives “{event}” {times} times", value))
    for variable in bench.firmware.variables:
        values = run.trace.signal(Kind.VALUE, variable.id).values
        if not values:
            continue
        base = {"kind": "number", "variable": variable.id, "from_us": 0, "to_us": end_us}
        most, last = max(values), values[-1]
        found += [
            (f"{variable.name} is {last} at the end", base | {"sign": "=", "number": last, "from_us": end_us}),
            (f"{variable.name} is once {most}", base | {"sign": "=", "number": most, "when": "once"}),
            (f"{variable.name} is never over {most}", base | {"sign": "<=", "number": most}),
        ]
    for line in bench.text_lines:
        if (Kind.TEXT, line.id) in run.trace and (values := run.trace.signal(Kind.TEXT, line.id).values):
            value = {"kind": "text", "of": line.id, "text": values[-1], "at_us": end_us}
            found.append((f"{line.name} shows “{values[-1]}” at the end", value))
    return found


def to_expect(bench: Bench, scenario: Scenario, run: Run | None) -> list[tuple[str, list[dict[str, Any]]]]:
    """(words, patch) of what can be expected from here on: that an output does, a contact counts, as now."""
    if run is None:
        return []
    where = f"/scenarios/{bench.scenarios.index(scenario)}/expects/-"
    found = []
    for channel in bench.channels:
        rows = [one.model_dump(mode="json") for one in as_it_is(bench, run, channel.id)]
        found.append((f"{channel.name} as now", [{"op": "add", "path": where, "value": row} for row in rows]))
    for line in bench.contacts:
        made = sum(move.pressed for move in run.moves[line.id])
        value = {"kind": "count", "of": line.id, "what": "press", "times": made}
        found.append((f"{line.name} counted {made} times", [{"op": "add", "path": where, "value": value}]))
    found += [(words, [{"op": "add", "path": where, "value": value}]) for words, value in _said_as_now(bench, run)]
    for machine in bench.firmware.machines:
        signal = run.trace.signal(Kind.STATE, machine.id)
        at_us = run.trace.length_us // 1000 * 1000 - 1000
        if signal.values and signal.values[-1]:
            value = {"kind": "state", "machine": machine.id, "state": signal.values[-1], "at_us": at_us}
            words = f"{machine.name} in {machine.state(signal.values[-1]).name} at the end"
            found.append((words, [{"op": "add", "path": where, "value": value}]))
    return found


def expected_bars(scenario: Scenario, said: Answers | None) -> list[dict[str, Any]]:
    """Expectations as the strip draws them: under an output's lane, from when to when, met or not."""
    met = [one.met for one in said.expected] if said else []
    return [
        {
            "lane": f"output {one.output}",
            "at": one.from_us,
            "to": one.to_us,
            "met": met[number] if number < len(met) else True,
        }
        for number, one in enumerate(scenario.expects)
        if isinstance(one, ExpectOn)
    ]


def doing_bars(bench: Bench, scenario: Scenario, said: Answers | None) -> dict[str, Any]:
    """What the strip needs to draw the bars and to add to them."""
    index = bench.scenarios.index(scenario)
    adds = {lane: stimulus for lane, _, stimulus in addable(bench)}
    bars = [one.bar() for one in doings(bench, scenario)]
    path = f"/scenarios/{index}/stimuli/-"
    return {"bars": bars, "adds": adds, "add_path": path, "expects": expected_bars(scenario, said)}


def to_add(bench: Bench, scenario: Scenario) -> list[tuple[str, list[dict[str, Any]]]]:
    """(words, patch) of everything that can be added after what is there; the scenario made longer where need be."""
    index = bench.scenarios.index(scenario)
    last_us = max((one.to_us for one in doings(bench, scenario)), default=0)
    at_us = last_us + 300_000
    found = []
    for _, words, stimulus in addable(bench):
        patch: list[dict[str, Any]] = []
        if at_us + 500_000 > scenario.length_us:
            longer = {"op": "replace", "path": f"/scenarios/{index}/length_us", "value": at_us + 700_000}
            patch.append(longer)
        value = {**stimulus, "at_us": at_us}
        found.append((words, [*patch, {"op": "add", "path": f"/scenarios/{index}/stimuli/-", "value": value}]))
    return found
