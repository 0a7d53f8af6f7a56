"""A bench drafted from a program: parts, pins, cleaning, the machines that were recognised; and, line by line, what was
not."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Any

import jsonpatch

from ..boards import Board, boards
from ..document import Bench, DocumentError, bench_data, bench_from_data
from ..document.problems import Problem
from ..ids import free_id, id_from
from ..kinds import KINDS
from ..pins import Room, arrival_patch
from .checks.timing import conditions
from .checks.waits import encoders
from .facts import HIGH, PRINTS, Facts, Timer, given, watchdog
from .heard import Change, Hearing
from .nodes import Node

FIRST_BOARDS = {"cpp": "mid-8bit-5v", "python": "two-core-32bit-3v3"}
OUTPUT_WORDS = (
    (r"relay", "relay"), (r"beep|buzz|alarm", "beeper"), (r"valve|solenoid|lock|latch", "solenoid"), (r"pump", "pump"),
    (r"fan|blower", "fan"), (r"heat", "heater"), (r"motor", "one-way-motor"),
)  # fmt: skip
SENSOR_WORDS = (
    (r"light|ldr|dark|lux", "light-sensor"),
    (r"temp|therm|ntc", "temperature-sensor"),
    (r"level|press|depth", "level-sensor"),
)
INPUT_WORDS = (
    (r"float", "float"),
    (r"reed|magnet|door", "magnet"),
    (r"limit|end ?stop", "limit-switch"),
    (r"switch|toggle", "switch"),
)


@dataclass
class Draft:
    """A bench and how it came about: `became` says of lines what they are now; `left` what is left out on purpose;
    `unknown` are lines that were not understood; `notes` what to look at first;
    `cleaned` how each contact is cleaned: (its name, in words, the line, 0 where it is not)."""

    bench: Bench
    became: dict[int, str] = field(default_factory=dict)
    left: dict[int, str] = field(default_factory=dict)
    unknown: list[int] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    cleaned: list[tuple[str, str, int]] = field(default_factory=list)


class _Drafting:
    def __init__(self, facts: Facts, name: str) -> None:
        self.facts, self.hearing = facts, Hearing(facts)
        self.board = _board(facts)
        self.draft = Draft(Bench(name=name[:60] or "From a program", board=self.board.id))
        self.data: dict[str, Any] = bench_data(self.draft.bench)
        self.parts: dict[str, str] = {}  # by the program's pin
        self.used: set[int] = set()

    # Parts.

    def bench(self) -> Bench:
        return bench_from_data(self.data)

    def pin_id(self, pin: str) -> str | None:
        """The board's own name of a pin."""
        return _pin_of(self.board, pin)

    def try_to(self, patch: list[dict[str, Any]], change: Any) -> bool:
        """Put something on the bench, if it will do."""
        before = self.data
        try:
            self.data = jsonpatch.apply_patch(before, patch)  # type: ignore[arg-type]
            change(self.data)
            bench_from_data(self.data)
        except (DocumentError, jsonpatch.JsonPatchException, KeyError, ValueError):
            self.data = before
            return False
        return True

    def part(self, pin: str, kind: str, side: str, **more: Any) -> None:
        """A part of a kind at a pin of the program."""
        at = self.pin_id(pin)
        if at is None or pin in self.parts:
            return
        bench = self.bench()
        arrived = arrival_patch(Room.of(bench), KINDS[kind])
        if arrived is None:
            return
        ident, patch = arrived
        named = self.facts.name_of(pin) or f"{KINDS[kind].name} {pin}"
        title = _title(named)
        wanted = free_id(id_from(title, kind), {one.id for one in bench.parts})

        def change(data: dict[str, Any]) -> None:
            one = data[side][-1]
            one |= {"id": wanted, "name": title, **more}
            if kind != "servo" or "pin" in one:
                one["pin"] = at
            for table in (data["firmware"]["debounce"], data["firmware"]["readings"], data["taps"]):
                if ident in table:
                    table[wanted] = table.pop(ident)
            if at and any(
                each.get("pin") == at for row in (data["inputs"], data["outputs"]) for each in row if each is not one
            ):
                raise DocumentError([Problem("/pin", "two parts at one pin.")])

        if self.try_to(patch, change):
            self.parts[pin] = wanted
            for use in self.facts.of_pin(pin, "mode"):
                self.became(use.node.line, f"{title}, at {at}")

    def became(self, line: int, words: str) -> None:
        self.draft.became.setdefault(line, words)

    def inputs(self) -> None:
        """Everything that is read."""
        facts = self.facts
        for a, b, line in encoders(facts):
            self.encoder(a, b, line)
        for pin in facts.pins:
            mode = facts.mode_of(pin)
            name = facts.name_of(pin)
            if facts.of_pin(pin, "analogue"):
                self.part(pin, _by(SENSOR_WORDS, name, "potentiometer"), "inputs")
            elif pin not in self.parts and mode.startswith("INPUT") and not facts.of_pin(pin, "pulse"):
                down = self.hearing.down(pin)
                wiring: dict[str, Any] = {"contact_to": "supply" if down else "ground"}
                wiring["pull"] = {"INPUT_PULLUP": "internal-up", "INPUT_PULLDOWN": "internal-down"}.get(mode, "none")
                if down and wiring["pull"] == "none":
                    wiring["pull"] = "down"
                kind = _by(INPUT_WORDS, name, "button")
                self.part(pin, kind, "inputs", wiring=wiring, active_level="high" if down else "low")
                self.cleaned(pin)

    def encoder(self, a: str, b: str, line: int) -> None:
        """An encoder at two pins."""
        at = [self.pin_id(pin) for pin in (a, b)]
        arrived = arrival_patch(Room.of(self.bench()), KINDS["encoder"])
        if None in at or arrived is None:
            return

        def change(data: dict[str, Any]) -> None:
            data["inputs"][-1] |= {"a": at[0], "b": at[1], "push": None, "name": "Dial"}
            data["firmware"]["debounce"].pop(f"{arrived[0]}.push", None)

        if self.try_to(arrived[1], change):
            self.parts |= {a: arrived[0], b: arrived[0]}
            for use in (*self.facts.of_pin(a, "mode"), *self.facts.of_pin(b, "mode")):
                self.became(use.node.line, f"Dial, at {at[0]} and {at[1]}")
            self.became(line, "Dial: its steps")

    def cleaned(self, pin: str) -> None:
        """How the program cleans a contact."""
        ident = self.parts.get(pin)
        if ident is None:
            return
        interval, line, method = _cleaning(self.facts, self.hearing, pin)
        table = self.data["firmware"]["debounce"]
        title = next(one["name"] for one in self.data["inputs"] if one["id"] == ident)
        if interval is None:
            table[ident] = {"method": "none", "interval_us": 20_000}
            self.draft.cleaned.append((title, "not cleaned", 0))
            self.draft.notes.append(f"{title} is not cleaned in the program, so that it is not on the bench.")
            return
        words = f"{'asked again after' if method == 'look-again' else 'stable for'} {interval:g} ms"
        self.draft.cleaned.append((title, words, line))
        for function in self.facts.source.functions.values():
            inside = [one.line for one in function.body.walk()]
            if function.name not in ("loop", "main") and min(inside) <= line <= max(inside):
                for each in inside:
                    self.became(each, f"{function.name}: how contacts are cleaned")
        table[ident] = {"method": method, "interval_us": max(round(interval) * 1000, 1000)}
        self.became(line, f"{title} is cleaned: {words}")

    def outputs(self) -> None:
        """Everything that is driven."""
        facts = self.facts
        for pin in facts.pins:
            if pin in self.parts:
                continue
            name = facts.name_of(pin)
            if facts.of_pin(pin, "servo"):
                self.part(pin, "servo", "outputs")
            elif facts.of_pin(pin, "tone"):
                self.part(pin, "sounder", "outputs")
            elif facts.of_pin(pin, "write", "dim") or facts.mode_of(pin) == "OUTPUT":
                self.part(pin, _by(OUTPUT_WORDS, name, "lamp"), "outputs")
            if pin in self.parts:
                for use in facts.of_pin(pin, "dim"):
                    self.draft.left.setdefault(use.node.line, "how bright it is was not followed")

    # Machines.

    def machines(self) -> None:
        """What was recognised of what it does."""
        changes = self.hearing.changes
        controls: dict[str, list[str]] = {}
        for change in changes:
            if not change.of.startswith("pin "):
                continue
            by = (
                change.to
                if change.to not in ("0", "1", "!")
                else next((name for name, _ in change.when.states if any(one.of == name for one in changes)), change.of)
            )
            controls.setdefault(change.of, []).append(by)
        done: set[str] = set()
        for pin, names in controls.items():
            # An output whose changes hang on a variable that itself changes follows that variable.
            by = next((name for name in names if name != pin), pin)
            if by not in done:
                done.add(by)
                self.machine(by, [one for one, rows in controls.items() if by in rows or one == by])

    def machine(self, by: str, pins: list[str]) -> None:
        """The machine of a variable (or of a pin that is its own), and the outputs that follow it."""
        mine = [one for one in self.hearing.changes if one.of == by]
        labels = [one.to for one in mine if one.to not in ("0", "1", "!")]
        first = self.first(by)
        states = list(dict.fromkeys([first, *labels])) if labels else ["0", "1"]
        outputs = [pin for pin in pins if self.parts.get(pin.removeprefix("pin "))]
        if not outputs or not mine:
            return
        rows = [row for one in mine for row in self.transitions(one, by, states)]
        found: dict[tuple[str, str], dict[str, Any]] = {}
        for row, change in rows:
            found.setdefault((row["source"], str(row["on"])), row)
            if row in found.values():
                self.said(change, f"{_title(by.removeprefix('pin '))}: a change of state")
        if not found:
            return
        names = {state: ("Off", "On")[int(state)] if state in ("0", "1") else _title(state) for state in states}
        made = {
            "id": free_id(
                id_from(_title(by.removeprefix("pin ")), "machine"),
                {one["id"] for one in self.data["firmware"]["machines"]},
            ),
            "name": _title(by.removeprefix("pin ") if not by.startswith("pin ") else self.name(by)),
            "initial": _slug(self.after_a_pass(first, mine), states),
            "states": [
                {"id": _slug(state, states), "name": names[state], "drives": self.drives(by, state, outputs)}
                for state in states
            ],
            "transitions": list(found.values()),
        }

        def added(data: dict[str, Any]) -> None:
            data["firmware"]["machines"] = [*data["firmware"]["machines"], made]

        if self.try_to([], added):
            for one in self.facts.everything:
                if one.kind == "switch" and one.kids[0].name == by:
                    self.became(one.line, f"the states of {made['name']}")
            for each in self.hearing.changes:
                if each.of in outputs:
                    self.said(each, f"what {self.name(each.of)} does in {made['name']}")

    def name(self, pin: str) -> str:
        ident = self.parts.get(pin.removeprefix("pin "), "")
        return next((one["name"] for one in self.data["outputs"] if one["id"] == ident), pin)

    def first(self, by: str) -> str:
        """The state that a variable begins in; of a pin, what set-up writes to it."""
        if by.startswith("pin "):
            written = [one for one in self.facts.uses_in(self.facts.source.setup) if one.what == "write"]
            last = next((one for one in reversed(written) if f"pin {one.pin}" == by), None)
            return str(int(last is not None and (last.word in ("on", "high") or _is_true(last.value))))
        made = self.facts.globals.get(by)
        value = made.kids[-1] if made is not None and made.kids else None
        labels = [one.to for one in self.hearing.changes if one.of == by and one.to not in ("0", "1", "!")]
        if value is not None and value.kind == "name" and (labels or value.name not in HIGH):
            return value.name
        return labels[0] if labels else str(int(value is not None and _is_true(value)))

    def after_a_pass(self, state: str, mine: list[Change]) -> str:
        """The state after passes of the loop in which nobody touches a contact: a program that asks for a level, not
        for a change of it, does so from the first pass on."""
        for _ in range(len(mine)):
            before = state
            for one in mine:
                asked = one.when.contacts and not one.when.timers and not one.when.more
                at_rest = all(level is not None and level != self.hearing.down(pin) for pin, level in one.when.contacts)
                in_it = all(name == one.of and value == state for name, value in one.when.states)
                if asked and at_rest and in_it and one.to != "!":
                    state = one.to
            if state == before:
                break
        return state

    def transitions(self, change: Change, by: str, states: list[str]) -> list[tuple[dict[str, Any], Change]]:
        """The transitions that a change is."""
        event = self.event(change)
        if event is None:
            return []
        asked = [value for name, value in change.when.states if name == by and value in states]
        if change.to == "!":
            pairs = [("0", "1"), ("1", "0")]
        else:
            sources = asked or [state for state in states if state != change.to]
            if event["kind"] == "timeout" and not asked and len(states) == 2:
                sources = [state for state in states if state != change.to]
            pairs = [(source, change.to) for source in sources if source != change.to]
        return [
            ({"source": _slug(a, states), "on": event, "target": _slug(b, states)}, change)
            for a, b in pairs
            if a in states and b in states
        ]

    def event(self, change: Change) -> dict[str, Any] | None:
        """What a change answers to: a contact that is pressed or let go, or a time that has passed."""
        levels = [(pin, level) for pin, level in change.when.contacts if pin in self.parts]
        known = [(pin, level) for pin, level in levels if level is not None]
        if known:
            pin, level = known[0]
            kind = "press" if level == self.hearing.down(pin) else "release"
            return {"kind": kind, "input": self.parts[pin]}
        waits = [one for one in change.when.timers if one.wait_ms is not None and one.how in ("since", "until")]
        if waits:
            return {"kind": "timeout", "after_us": max(round(waits[0].wait_ms or 0), 1) * 1000}
        return None

    def drives(self, by: str, state: str, outputs: list[str]) -> dict[str, Any]:
        """What a state makes its outputs do."""
        found: dict[str, Any] = {}
        for pin in outputs:
            rows = [one for one in self.hearing.changes if one.of == pin]
            levels = [self.in_state(one.value, by, state) for one in rows]
            if pin == by:
                levels = [state == "1"]
            levels += [one.to == "1" for one in rows if self.with_(one, by, state)]
            known = [level for level in levels if level is not None]
            if known:
                found[self.parts[pin.removeprefix("pin ")]] = {"kind": "steady", "on": known[0]}
        return found

    def in_state(self, value: Node, by: str, state: str) -> bool | None:
        """What an expression that hangs on the machine's variable is in a state."""
        if value.kind in ("name", "field") and value.name == by:
            return state == "1"
        if value.kind == "prefix" and value.name in ("!", "not"):
            inner = self.in_state(value.kids[0], by, state)
            return None if inner is None else not inner
        if value.kind == "choice":
            inner = self.in_state(value.kids[0], by, state)
            return None if inner is None else HIGH.get(value.kids[1 if inner else 2].name) == 1
        if value.kind == "infix" and value.name in ("==", "!=") and by in (names := [kid.name for kid in value.kids]):
            other = value.kids[1 - names.index(by)]
            return (other.name == state) == (value.name == "==")
        return None

    def with_(self, change: Change, by: str, state: str) -> bool:
        """Whether an output changes just where the variable comes to that state."""
        same = [
            one
            for one in self.hearing.changes
            if one.of == by and one.to == state and one.when.nodes == change.when.nodes
        ]
        return bool(same) and change.to in ("0", "1") and change.value.kind in ("name", "number", "block")

    def said(self, change: Change, words: str) -> None:
        """The lines of a change and of its conditions."""
        for node in (change.node, *change.when.nodes):
            self.became(node.line, words)

    # Lines.

    def lines(self) -> None:
        """What is left: said to be left out, or not understood."""
        facts, draft = self.facts, self.draft
        for one in facts.everything:
            if one.kind == "call" and (one.of.startswith("Serial") or one.name == "print"):
                draft.left.setdefault(
                    one.line, "what it prints" if one.name in PRINTS or one.name == "print" else "the serial line"
                )
            if watchdog(one):
                draft.left.setdefault(one.line, "the watchdog: set it in Guard")
        remembers = {*self.hearing.levels, *self.hearing.pressed, *facts.nows}
        remembers |= {timer.last for timer in facts.timers}
        for body in facts.loop_bodies:
            for one in body.walk():
                inner = one.kids[0] if one.kind == "do" and one.kids else one
                name, _ = given(inner)
                target = inner.kids[0] if inner.kind == "assign" else inner
                if one.kind == "declare" and one.name in remembers:
                    self.became(one.line, "remembers a level, or when it changed")
                if name in remembers or (
                    target.kind in ("field", "name") and target.name in remembers | set(self.hearing.buttons)
                ):
                    self.became(one.line, "remembers a level, or when it changed")
                if one.kind == "if" and any(timer.node in one.kids[0].walk() for timer in facts.timers):
                    self.became(one.line, "looks at the time")
                if one.kind == "if" and (facts.tests_in(one.kids[0]) or _levels_only(one.kids[0], self.hearing)):
                    self.became(one.line, "looks at a contact")
        for one in self.statements():
            if one.line not in draft.became and one.line not in draft.left and one.line not in draft.unknown:
                draft.unknown.append(one.line)
        draft.unknown = sorted({*draft.unknown, *facts.source.broken})

    def statements(self) -> list[Node]:
        """What the loop and the handlers do, one by one."""
        bodies = [*self.facts.loop_bodies, *self.facts.handler_bodies]
        kinds = ("do", "declare", "if", "while", "do-while", "for", "switch", "unknown")
        calls = set(self.facts.source.functions)
        return [
            one
            for body in bodies
            for one in body.walk()
            if one.kind in kinds and not (one.kind == "do" and (not one.kids or one.kids[0].name in calls))
        ]


def _is_true(value: Node) -> bool:
    return HIGH.get(value.name) == 1 or (value.kind == "number" and value.value == 1.0)


def _levels_only(test: Node, hearing: Hearing) -> bool:
    names = [one.name for one in test.all("name", "field") if one.name not in ("HIGH", "LOW")]
    known = {*hearing.levels, *hearing.pressed, *hearing.buttons}
    return bool(names) and all(name in known or name in hearing.facts.source.constants for name in names)


def _by(words: tuple[tuple[str, str], ...], name: str, otherwise: str) -> str:
    return next((kind for pattern, kind in words if re.search(pattern, name, re.IGNORECASE)), otherwise)


def _title(name: str) -> str:
    """A name as people say it: START_PIN, startPin and start_pin are “Start”."""
    apart = re.sub(r"(?<=[a-z0-9])(?=[A-Z])", " ", name).replace("_", " ")
    words = [word for word in apart.split() if word.lower() not in ("pin", "gpio")] or [name]
    said = " ".join(words).lower()
    return (said[:1].upper() + said[1:])[:60]


def _slug(state: str, states: list[str]) -> str:
    if state in ("0", "1"):
        return ("off", "on")[int(state)]
    return id_from(_title(state), f"state-{states.index(state)}")[:36]


def _pin_of(board: Board, pin: str) -> str | None:
    """The board's own name of a pin that a program calls so; 14 to 19 are its analogue ones, where it has no others."""
    wanted = {"LED_BUILTIN": "13"}.get(pin, pin)
    codes = {one.code: one.id for one in board.pins}
    if wanted not in codes and wanted.isdigit() and 14 <= int(wanted) <= 19:
        wanted = f"A{int(wanted) - 14}"
    return codes.get(wanted)


def _board(facts: Facts) -> Board:
    """The board that has most of the pins, and pulls them as they are asked to; of those that have as many the usual
    one of the language, and one with a system of its own the last."""
    known = boards()
    others = sorted(known.values(), key=lambda board: board.id.startswith("computer"))
    wanted = [known[FIRST_BOARDS[facts.source.language]], *others]

    def fits(board: Board) -> int:
        downs = sum(facts.mode_of(pin) == "INPUT_PULLDOWN" for pin in facts.pins) if board.pull_down_ohm else 0
        return sum(_pin_of(board, pin) is not None for pin in facts.pins) + downs

    return max(wanted, key=fits)


def _cleaning(facts: Facts, hearing: Hearing, pin: str) -> tuple[float | None, int, str]:
    """(interval in ms or None, line, method) of how a contact is cleaned."""
    found: list[Timer] = []
    for pins, clocks, _ in conditions(facts):
        levels = pins | {hearing.levels[name] for name in hearing.levels if name in pins}
        if pin in levels:
            found += [one for one in clocks if one.wait_ms is not None]
    for function in facts.source.functions.values():
        reads = {use.pin for use in facts.uses_in(function.body) if use.what == "read"}
        opened = any(one.name == "digitalRead" for one in function.body.all("call")) and not reads
        handed = [
            call
            for call in facts.everything
            if facts.source.function_of(call) is function
            and any(hearing.buttons.get(arg.name) == pin for arg in call.kids)
        ]
        if reads == {pin} or (opened and handed):
            inside = {id(one) for one in function.body.walk()}
            found += [one for one in facts.timers if id(one.node) in inside and one.wait_ms is not None]
    short = [one for one in found if (one.wait_ms or 0) <= 250]
    if short:
        best = min(short, key=lambda one: one.wait_ms or 0)
        return best.wait_ms, best.node.line, "rest-first"
    for one in facts.loop_nodes:
        if one.kind == "if" and any(test.pin == pin for test in facts.tests_in(one.kids[0])):
            waits = facts.held(one.kids[1]).waits
            number = facts.source.number(waits[0].kids[0]) if waits and waits[0].kids else None
            again = any(test.pin == pin for each in one.kids[1].all("if") for test in facts.tests_in(each.kids[0]))
            if number and again and number <= 250:
                return number, waits[0].line, "look-again"
    return None, 0, "none"


def draft(facts: Facts, name: str) -> Draft:
    """A bench from a program."""
    made = _Drafting(facts, name)
    made.inputs()
    made.outputs()
    made.machines()
    made.lines()
    made.draft.bench = made.bench()
    return made.draft
