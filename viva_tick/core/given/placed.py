"""The parts of a program: what stands at which pin of which board, and how each contact is cleaned."""

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
from .facts import Facts, Timer
from .heard import Hearing

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


class Placing:
    """Puts parts on a bench as a program is gone through."""

    def __init__(self, facts: Facts, name: str) -> None:
        self.facts, self.hearing = facts, Hearing(facts)
        self.board = board_of(facts)
        self.draft = Draft(Bench(name=name[:60] or "From a program", board=self.board.id))
        self.data: dict[str, Any] = bench_data(self.draft.bench)
        self.parts: dict[str, str] = {}  # by the program's pin

    def bench(self) -> Bench:
        return bench_from_data(self.data)

    def pin_id(self, pin: str) -> str | None:
        """The board's own name of a pin."""
        return pin_of(self.board, pin)

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
        title = title_of(named)
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


def _by(words: tuple[tuple[str, str], ...], name: str, otherwise: str) -> str:
    return next((kind for pattern, kind in words if re.search(pattern, name, re.IGNORECASE)), otherwise)


def title_of(name: str) -> str:
    """A name as people say it: START_PIN, startPin and start_pin are “Start”."""
    apart = re.sub(r"(?<=[a-z0-9])(?=[A-Z])", " ", name).replace("_", " ")
    words = [word for word in apart.split() if word.lower() not in ("pin", "gpio")] or [name]
    said = " ".join(words).lower()
    return (said[:1].upper() + said[1:])[:60]


def pin_of(board: Board, pin: str) -> str | None:
    """The board's own name of a pin that a program calls so; 14 to 19 are its analogue ones, where it has no others."""
    wanted = {"LED_BUILTIN": "13"}.get(pin, pin)
    codes = {one.code: one.id for one in board.pins}
    if wanted not in codes and wanted.isdigit() and 14 <= int(wanted) <= 19:
        wanted = f"A{int(wanted) - 14}"
    return codes.get(wanted)


def board_of(facts: Facts) -> Board:
    """The board that has most of the pins, and pulls them as they are asked to; of those that have as many the usual
    one of the language, and one with a system of its own the last."""
    known = boards()
    others = sorted(known.values(), key=lambda board: board.id.startswith("computer"))
    wanted = [known[FIRST_BOARDS[facts.source.language]], *others]

    def fits(board: Board) -> int:
        downs = sum(facts.mode_of(pin) == "INPUT_PULLDOWN" for pin in facts.pins) if board.pull_down_ohm else 0
        return sum(pin_of(board, pin) is not None for pin in facts.pins) + downs

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
