"""A row of causes as a scenario: what a hand would do, and when, to see it happen."""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any

from ..document import Bench, Gestures, Listen, Measure, Scan, Scenario, TimeoutEvent, Turns
from ..document.parts import Analogue, Encoder, OpenWire
from ..drives import Angle, Blockable
from ..electrics import counts_of, pin_mv, range_of, threshold_counts
from ..engine import Kind, SkippingEngine
from ..machines import longest_wait_us
from .abstract import Cause

FIRST_US = 300_000
BETWEEN_US = 250_000
TAP_US = 80_000


def _longest_us(bench: Bench, output: str) -> int:
    """How long what an output is made to do takes at the longest, where it has an end."""
    rows = [row for machine in bench.firmware.machines for row in bench.drives_of(machine)]
    mine = [drive for _, ident, drive in rows if ident == output and isinstance(drive, Blockable) and not drive.endless]
    turns = [drive.time_us for _, ident, drive in rows if ident == output and isinstance(drive, Angle)]
    return max((*(sum(us for _, us in drive.spans()) for drive in mine), *turns), default=0)


class _Hand:
    """Writes down what it does as its clock goes on."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        board = bench.the_board
        self.clock_us = board.start_up_us + board.set_up_us + FIRST_US
        self.rows: list[dict[str, Any]] = []
        self.held: dict[str, dict[str, Any]] = {}
        self.gone: dict[str, int] = {}  # by machine, how many of its transitions have been waited for
        self.before: Cause = ("", "", "")

    def press(self, ident: str, hold_us: int) -> dict[str, Any]:
        kind = "touch" if isinstance(self.bench.contact(ident).part, OpenWire) else "press"
        row = {"kind": kind, "input": ident, "at_us": self.clock_us, "hold_us": hold_us}
        self.rows.append(row)
        return row

    def wait(self, us: int) -> None:
        self.clock_us += us // 1000 * 1000

    def settle_us(self, ident: str) -> int:
        """How long it takes at most until a contact is accepted."""
        return self.bench.debounce(ident).interval_us + 100_000

    def contact(self, kind: str, ident: str) -> None:
        times = self.bench.firmware.gestures.get(ident, Gestures())
        settle_us = self.settle_us(ident)
        if kind == "press":
            self.held[ident] = self.press(ident, max(TAP_US, settle_us))
            self.wait(max(TAP_US, settle_us) + BETWEEN_US)
        elif kind == "release":
            down = self.held.pop(ident, None) or self.press(ident, settle_us)
            down["hold_us"] = max(self.clock_us - down["at_us"], settle_us)
            self.clock_us = down["at_us"] + down["hold_us"]
            self.wait(settle_us + BETWEEN_US)
        elif kind in ("click", "double", "triple"):
            tap_us = max(TAP_US, self.bench.debounce(ident).interval_us + 40_000)
            for _ in range(("click", "double", "triple").index(kind) + 1):
                self.press(ident, tap_us)
                self.wait(2 * tap_us)
            self.wait(times.window_us + settle_us + BETWEEN_US)
        else:
            more_us = 2 * times.repeat_us if kind == "repeat" else 0
            self.press(ident, times.hold_us + more_us + settle_us)
            self.wait(times.hold_us + more_us + 2 * settle_us + BETWEEN_US)

    def level(self, part: Analogue, reading: Measure, kind: str) -> None:
        """A value well beyond the threshold, in the part's own unit, found by trying the scale."""
        board = self.bench.the_board
        upper, lower, falling = threshold_counts(part, reading, board)
        least, most = range_of(part)
        values = [least + (most - least) * step / 200 for step in range(201)]
        good = []
        for value in values:
            count = counts_of(pin_mv(part, board, value), board)
            if count is None:
                continue
            if kind == "stays":
                fits = min(upper, lower) < count < max(upper, lower)
            elif kind == "above":
                fits = count < upper if falling else count > upper
            else:
                fits = count > lower if falling else count < lower
            if fits:
                good.append(value)
        if good:
            value = good[len(good) // 2]
            self.rows.append({"kind": "level", "input": part.id, "at_us": self.clock_us, "value": value, "over_us": 0})
        over = reading.over if reading.smooth != "none" else 1
        self.wait(reading.sample_us * (4 * over + 2) + reading.dwell_us + (reading.stays_us or 0) + BETWEEN_US)

    def keys(self, ident: str, names: Sequence[str]) -> None:
        reading = self.bench.firmware.readings.get(ident)
        span_us = 2 * (reading.interval_us + reading.scan_us) + TAP_US if isinstance(reading, Scan) else TAP_US
        for name in names:
            self.rows.append({"kind": "key", "input": ident, "at_us": self.clock_us, "hold_us": span_us, "key": name})
            self.wait(2 * span_us)
        self.wait(BETWEEN_US)

    def turn(self, part: Encoder, reading: Turns, kind: str) -> None:
        clicks = -(-reading.counts_a_step // part.counts_a_click) * (4 if kind.startswith("fast") else 1)
        over_us = (10_000 if kind.startswith("fast") else 100_000) * clicks
        sign = 1 if kind in ("step", "fast") else -1
        self.rows.append(
            {"kind": "turn", "input": part.id, "at_us": self.clock_us, "clicks": sign * clicks, "over_us": over_us}
        )
        self.wait(over_us + BETWEEN_US)

    def _watch(self, machine: str, place: int, longest_us: int) -> bool:
        """Wait until a machine goes a transition, as a run of what was done so far shows it: its time may be that of a
        number, and it may have gone it already while a hand was still busy. Whether it does."""
        rows = [{**row, "at_us": row["at_us"]} for row in self.rows]
        length_us = self.clock_us + longest_us
        data = {"name": "so far", "length_us": length_us, "stimuli": rows}
        trace = SkippingEngine().run(self.bench, Scenario.model_validate_json(json.dumps(data))).trace
        signal = trace.signal(Kind.TRANSITION, machine)
        begun = self.gone.get(machine, -1) + 1
        number = next((n for n in range(begun, len(signal.values)) if signal.values[n] == place), None)
        if number is None:
            return False
        self.gone[machine] = number
        self.clock_us = max(self.clock_us, signal.times_us[number] // 1000 * 1000 + 20_000)
        return True

    def do(self, cause: Cause) -> None:
        self._do(cause)
        self.before = cause

    def _do(self, cause: Cause) -> None:
        kind, ident, of = cause
        bench = self.bench
        if kind == "timeout":
            machine = next(one for one in bench.firmware.machines if one.id == ident)
            on = machine.transitions[int(of)].on
            if isinstance(on, TimeoutEvent):
                longest_us = longest_wait_us(on, bench) + 100_000
                in_a_row = self.before[:2] == cause[:2]
                if (on.variable is None and not in_a_row) or not self._watch(ident, int(of), longest_us):
                    self.wait(longest_us)
            return
        if kind == "taken":  # by a task of the kernel, in its own time
            self.wait(1_000_000)
            return
        if kind == "ended":
            self.wait(_longest_us(bench, ident) + BETWEEN_US)
            return
        part = next((part for _, part in bench.sensed if part.id == ident), None)
        reading = bench.firmware.readings.get(ident)
        if kind == "chord":
            self.press(ident, 200_000)
            self.press(of, 200_000)
            self.wait(200_000 + BETWEEN_US + self.settle_us(ident))
        elif kind in ("key", "code", "wrong") and isinstance(reading, Scan):
            code = list(reading.code)
            names = getattr(part, "names", ())
            other = next((name for name in names if code and name != code[0]), "")
            self.keys(ident, {"key": [of], "code": code, "wrong": [other, *code[1:]]}[kind])
        elif kind in ("command", "number", "outside") and isinstance(reading, Listen):
            beyond = reading.least - 1 if reading.least else reading.most + 1
            numbers = {"number": int(of) if kind == "number" and of else reading.least, "outside": min(beyond, 65_535)}
            number = reading.number(reading.names.index(of)) if kind == "command" else numbers[kind]
            self.rows.append({"kind": "command", "input": ident, "at_us": self.clock_us, "number": number})
            self.wait(BETWEEN_US + reading.repeat_us)
        elif isinstance(part, Analogue) and isinstance(reading, Measure):
            self.level(part, reading.at(of), kind)
        elif isinstance(part, Encoder) and isinstance(reading, Turns) and kind in ("step", "back", "fast", "fast-back"):
            self.turn(part, reading, kind)
        else:
            self.contact(kind, ident)


def play(bench: Bench, causes: Sequence[Cause], name: str) -> dict[str, Any]:
    """The scenario that does it, as the document has it, under a name that is still free."""
    hand = _Hand(bench)
    for cause in causes:
        hand.do(cause)
    taken = {scenario.name for scenario in bench.scenarios}
    name = name[:54].strip()
    free = next(n for count in range(1, 100) if (n := name if count == 1 else f"{name} {count}") not in taken)
    return {"name": free, "length_us": hand.clock_us + 700_000, "stimuli": hand.rows}
