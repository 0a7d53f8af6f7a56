"""Documents of older versions, brought up step by step. Each step is given a copy and may change it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

CONTACT_FIELDS = ("four-legged", ("legs",)), ("magnet", ("magnet_mm", "speed_mm_s"))
OUTPUT_FIELDS = ("relay", ("coil_ua",)), ("lamp", ("resistor_ohm", "drop_mv"))


def _keep(part: Any, kind: str, own: tuple[tuple[str, tuple[str, ...]], ...]) -> None:
    """Version 1 gave every part the fields of all kinds."""
    part.setdefault("kind", kind)
    for owner, fields in own:
        if part["kind"] != owner:
            for field in fields:
                part.pop(field, None)


def _from_1(data: dict[str, Any]) -> dict[str, Any]:
    for part in data.get("inputs") or ():
        if isinstance(part, dict):
            _keep(part, "button", CONTACT_FIELDS)
    for part in data.get("outputs") or ():
        if isinstance(part, dict):
            _keep(part, "lamp", OUTPUT_FIELDS)
            if part["kind"] == "lamp" and part.get("load", "none") != "none":
                part["fed"] = "module"
    return {**data, "version": 2}


LOADS_BY_KIND = {"solid-state": "mains", "motor": "motion", "solenoid": "motion", "servo": "motion", "heater": "heat"}


def _loads(data: Any) -> None:
    """Version 2 had one load, "none" where nobody said what it is."""
    load = data.pop("load", LOADS_BY_KIND.get(str(data.get("kind", "")), "none"))
    data["loads"] = [] if load == "none" else ["nothing"] if load == "low-voltage" else [load]


def _from_2(data: dict[str, Any]) -> dict[str, Any]:
    for part in data.get("outputs") or ():
        if isinstance(part, dict):
            if part.get("kind", "lamp") not in ("display", "rgb", "relay-board"):
                _loads(part)
            for relay in part.get("relays") or ():
                if isinstance(relay, dict):
                    _loads(relay)
    firmware = data.get("firmware")
    typed = any(
        isinstance(part, dict) and part.get("kind") == "commands" and part.get("source", "typed") == "typed"
        for part in data.get("inputs") or ()
    )
    if typed and isinstance(firmware, dict):  # a typed number used to be heard without an end
        serial = firmware.setdefault("serial", {})
        if isinstance(serial, dict) and serial.get("ending", "none") == "none":
            serial["ending"] = "lf"
    return {**data, "version": 3}


STATE_FIELDS = (("inside", "parent"), ("opens", "starts_in"), ("passes", "ignores"))


def _objects(rows: Any) -> list[dict[str, Any]]:
    return [one for one in rows if isinstance(one, dict)] if isinstance(rows, list) else []


def _random(actions: Any) -> None:
    for action in _objects(actions):
        if action.get("do") == "draw":
            action["do"] = "random"


def _from_3(data: dict[str, Any]) -> dict[str, Any]:
    """Version 3 had words of its own for what a state is inside, starts in and ignores, and for a random number."""
    firmware = data.get("firmware")
    for machine in _objects(firmware.get("machines") if isinstance(firmware, dict) else None):
        for state in _objects(machine.get("states")):
            for was, now in STATE_FIELDS:
                if was in state:
                    state[now] = state.pop(was)
            _random(state.get("entry"))
            _random(state.get("exit"))
        for transition in _objects(machine.get("transitions")):
            _random(transition.get("actions"))
    return {**data, "version": 4}


STEPS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _from_1, 2: _from_2, 3: _from_3}
