"""Conditions, actions and times of a machine in the few words that a battery of the grid has room for."""

from __future__ import annotations

import re
from typing import assert_never

from ...core.document import (
    Action,
    AddTo,
    AlwaysEvent,
    Bench,
    CopyTo,
    Feed,
    Guard,
    IfContact,
    IfIn,
    IfLevel,
    IfRange,
    IfVariable,
    RandomFor,
    Restart,
    SendBytes,
    SetVariable,
    Signal,
    StartDrive,
    TakeLevel,
    TimeoutEvent,
    Transition,
)
from ...core.drives import BlinkRate, Drive, Picked, Text
from ...core.units import ms

PICKS = {"one": "picked by", "bar": "as many as", "bits": "the bits of"}
SIGNS = {"<": "<", "<=": "≤", "=": "=", "!=": "≠", ">=": "≥", ">": ">"}


class Brief:
    """Says things of one bench shortly."""

    def __init__(self, bench: Bench) -> None:
        self._names = {part.id: part.name for part in bench.parts}
        self._names |= {line.id: line.name for line in bench.contacts}
        self._names |= {one.id: one.name for one in bench.drivable}
        self._marks = bench.mark_names
        self._signals = bench.firmware.kernel.between.signals
        self._numbers = {one.id: one.name for one in bench.firmware.variables}
        self._machines = {one.id: one for one in bench.firmware.machines}

    def _name(self, ident: str) -> str:
        return self._names.get(ident, ident)

    def _number(self, ident: str | None) -> str:
        return self._numbers.get(ident or "", ident or "")

    def guard(self, guard: Guard) -> str:
        """A condition: “Strips ≥ 4”."""
        match guard:
            case IfContact():
                return f"{self._name(guard.input)} {'pressed' if guard.pressed else 'released'}"
            case IfLevel():
                which = f" {self._marks.get((guard.input, guard.of), guard.of)}" if guard.of else ""
                return f"{self._name(guard.input)} {'above' if guard.above else 'below'}{which}"
            case IfIn():
                machine = self._machines[guard.machine]
                return f"{machine.name} {'in' if guard.there else 'not in'} {machine.state(guard.state).name}"
            case IfVariable():
                against = str(guard.number) if guard.other is None else self._number(guard.other)
                return f"{self._number(guard.variable)} {SIGNS[guard.sign]} {against}"
            case IfRange():
                word = "" if guard.inside else "not "
                return f"{self._number(guard.variable)} {word}{guard.least} to {guard.most}"
            case _:
                assert_never(guard)

    def action(self, action: Action) -> str:
        """An action: “Strips + 1”."""
        match action:
            case StartDrive():
                return f"{self._name(action.output)} {self.drive(action.drive)}"
            case SetVariable():
                return f"{self._number(action.variable)} = {action.number}"
            case AddTo():
                return f"{self._number(action.variable)} {'−' if action.number < 0 else '+'} {abs(action.number)}"
            case CopyTo():
                return f"{self._number(action.variable)} = {self._number(action.other)}"
            case RandomFor():
                return f"{self._number(action.variable)} random {action.least} to {action.most}"
            case Feed():
                return "feed the watchdog"
            case Restart():
                return "restart the board"
            case Signal():
                return f"signal {self._signals.get(action.of, action.of)}"
            case SendBytes():
                return f"{self._name(action.input)} ← {' '.join(f'{code:02X}' for code in action.bytes)}"
            case TakeLevel():
                return f"{self._number(action.variable)} = {self._name(action.input)}"
            case _:
                assert_never(action)

    def _filled(self, text: str) -> str:
        """A text with the names that its user gave."""
        names = self._numbers | {ident: one.name for ident, one in self._machines.items()}
        return re.sub(r"\{([a-z][a-z0-9-]*)", lambda found: "{" + names.get(found[1], found[1]), text)

    def time(self, on: TimeoutEvent) -> str:
        """A time: “4 s”, “Exposure × 0.1 s”."""
        if on.variable:
            return f"{self._number(on.variable)} × {ms(on.unit_us)}"
        return ms(on.after_us) + (f" to {ms(on.until_us)}" if on.until_us else "")

    def transition(self, transition: Transition) -> str:
        """What stands under a target: the time, the conditions, the actions."""
        on = transition.on
        said = [self.time(on)] if isinstance(on, TimeoutEvent) else []
        asks = " and ".join(map(self.guard, transition.guards))
        if asks:
            said.append(asks if isinstance(on, AlwaysEvent) else f"if {asks}")
        return " · ".join([*said, *map(self.action, transition.actions)])

    def drive(self, drive: Drive | None) -> str:
        """What stands under a drive's course: “on”, “30 ms of each 500 ms”."""
        if drive is None:
            return "unchanged"
        if isinstance(drive, Text):
            return self._filled(drive.text) or "nothing"
        if isinstance(drive, Picked):
            return f"{PICKS[drive.shows]} {self._number(drive.variable)}"
        if isinstance(drive, BlinkRate):
            return f"{self._number(drive.variable)} × {ms(drive.unit_us)} on, off"
        figure = drive.drawn()
        if figure.words:
            return figure.words
        times = {field: (percent, ms(us)) for percent, us, field, _ in reversed(figure.rows) if field}
        if len(times) == 1:
            return next(iter(times.values()))[1]
        if len(times) == 2 and not figure.slope:
            (on, first), (off, second) = reversed(times.values())
            unit = first[-3:] if first[-3:] == second[-3:] == " ms" else ""
            return f"{'on' if on else 'off'} {first.removesuffix(unit)}, {'on' if off else 'off'} {second}"
        return drive.word.replace("-", " ")
