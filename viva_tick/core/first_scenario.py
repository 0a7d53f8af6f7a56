"""The scenario of a bench that has none yet: everything that it listens for, once each. It follows the bench until it
is touched; then it is one like any other."""

from __future__ import annotations

import json
from typing import Any

from .courses import tried_out
from .document import HEARD, Bench, Scenario
from .document.parts import KeyMatrix, OpenWire, Sensed
from .gestures import Wanted, chords_wanted, wanted_by

NAME = "Each once"
_PRESS_US, _REST_US, _PAUSE_US = 150_000, 350_000, 500_000
_STAYS = ("switch", "slide-switch")


def _pressed(wanted: Wanted | None) -> list[tuple[int, int]]:
    """(from, how long) of what a hand does with one contact: a press, as many clicks as count, a hold."""
    found, clock = [(0, _PRESS_US)], _PRESS_US + _REST_US
    if wanted is None:
        return found
    apart = _PRESS_US // 2
    for clicks in range(2, wanted.most + 1):
        clock += wanted.window_ms * 1000
        for _ in range(clicks):
            found.append((clock, apart))
            clock += 2 * apart
    if wanted.hold_ms:
        clock += wanted.window_ms * 1000
        held = (wanted.hold_ms + 2 * wanted.repeat_ms) * 1000 + _PRESS_US
        found.append((clock, held))
    return found


def _keys(bench: Bench, part: KeyMatrix) -> list[str]:
    """The keys that a machine listens for; the first ones where none does."""
    events = [one.on for machine in bench.firmware.machines for one in machine.transitions if isinstance(one.on, HEARD)]
    heard = dict.fromkeys(on.of for on in events if on.kind == "key" and on.input == part.id)
    return [key for key in heard if key in part.names] or list(part.names[:4])


def stimuli_of(bench: Bench) -> tuple[list[dict[str, Any]], int]:
    """(stimuli, the instant at which all has been done): one input after another, then the pairs pressed together."""
    wanted = wanted_by(bench)
    found: list[dict[str, Any]] = []
    clock = 300_000
    for at, part in bench.placed:
        for line in part.contacts(at):
            if line.kind in _STAYS:
                found += [
                    {"kind": "set", "input": line.id, "at_us": clock + place * _PAUSE_US, "pressed": on}
                    for place, on in enumerate((True, False))
                ]
                clock += 2 * _PAUSE_US
                continue
            if isinstance(line.part, OpenWire):  # all that can be done to it
                found.append({"kind": "touch", "input": line.id, "at_us": clock, "hold_us": _PAUSE_US})
                clock += 2 * _PAUSE_US
                continue
            rows = _pressed(wanted.get(line.id))
            found += [{"kind": "press", "input": line.id, "at_us": clock + at_us, "hold_us": us} for at_us, us in rows]
            clock += rows[-1][0] + rows[-1][1] + _REST_US
        if isinstance(part, Sensed):
            tried = tried_out(part)
            if isinstance(part, KeyMatrix):
                keys = _keys(bench, part)
                tried = [
                    {"kind": "key", "at_us": 300_000 * place, "hold_us": 120_000, "key": key}
                    for place, key in enumerate(keys)
                ]
            found += [{**one, "input": part.id, "at_us": clock + one["at_us"]} for one in tried]
            clock += max((one["at_us"] for one in tried), default=0) + 500_000
    for pair in chords_wanted(bench):
        if any(isinstance(bench.contact(one).part, OpenWire) for one in pair):
            continue
        found += [
            {"kind": "press", "input": one, "at_us": clock + 10_000 * place, "hold_us": _PRESS_US}
            for place, one in enumerate(pair)
        ]
        clock += _PAUSE_US
    return found, clock


def first_scenario(bench: Bench) -> dict[str, Any]:
    """Everything once, as a scenario of its own name, ready to be added."""
    taken = {scenario.name for scenario in bench.scenarios}
    name = next(n for i in range(1, 99) if (n := f"{NAME} {i}" if i > 1 else NAME) not in taken)
    stimuli, end_us = stimuli_of(bench)
    return {
        "name": name,
        "length_us": end_us + 700_000,
        "stimuli": stimuli,
        "expects": [],
        "answers": [],
        "repeats": [],
    }


def with_first(bench: Bench) -> Bench:
    """The bench as it is shown: one without a scenario, and with something to press or turn, has the first one."""
    if bench.scenarios or not any(part.contacts(at) or isinstance(part, Sensed) for at, part in bench.placed):
        return bench
    made = Scenario.model_validate_json(json.dumps(first_scenario(bench)))
    return bench.model_copy(update={"scenarios": (made,)})


def touched(bench: Bench, patch: Any) -> Any:
    """A patch of a bench as it is shown, for the bench as it is stored. One that changes the first scenario keeps it;
    what else changes may take something out of it on the way, which it does by itself."""
    if with_first(bench) is bench or not isinstance(patch, list):
        return patch
    rest = [one for one in patch if not (isinstance(one, dict) and str(one.get("path", "")).startswith("/scenarios/"))]
    if rest:
        return rest
    whole = Scenario.model_validate_json(json.dumps(first_scenario(bench))).model_dump(mode="json")
    return [{"op": "add", "path": "/scenarios/-", "value": whole}, *patch]
