"""What is found of hazards, loads, supplies and broken wires: for each code a bench that must show it, whether a mend or
a question must be offered, and one that is nearly the same and must not show it."""

from __future__ import annotations

from typing import Any

from tests.core.finding_cases import (
    BUS,
    BUTTON,
    LEVEL,
    MOTOR,
    OFF,
    ON,
    RADIO,
    SPOKEN,
    bench_with,
    changed,
    spin,
    with_parts,
)
from tests.core.pace_benches import TRANSITIONS, bench_of, task
from viva_tick.core.document import Bench, bench_data, bench_from_data

SAFE = ["nothing"]
MAINS_RELAY = {"kind": "relay", "pin": "D4", "hold": "down", "loads": ["mains"]}
LOAD = {"supply": "ac", "mv": 230_000, "ua": 2_000_000, "fuse_ua": 5_000_000, "wire_mm2": 0.75}
PROBE = {"kind": "temperature-sensor", "pin": "A0"}
COUNT = [{"id": "count", "name": "Count", "most": 900}]
RESETS = {"mode": "reset", "timeout_us": 250_000}


def relay(**burden: Any) -> Bench:
    return with_parts({**MAINS_RELAY, "burden": {**LOAD, **burden}})


def drives(
    part: dict[str, Any],
    drive: dict[str, Any],
    *also: tuple[dict[str, Any], dict[str, Any]],
    board: str = "mid-8bit-5v",
) -> Bench:
    """Outputs that one state drives."""
    rows = [(part, drive), *also]
    state = {"id": "a", "name": "A", "drives": {f"p{n}": one for n, (_, one) in enumerate(rows)}}
    machine = {"id": "m", "name": "M", "initial": "a", "states": [state], "transitions": []}
    return with_parts(*(one for one, _ in rows), machines=[machine], board=board)


def heated(kind: str, *loads: str) -> Bench:
    """A probe that switches a heater on while it is below, or above."""
    states = [{"id": "off", "name": "Off", "drives": {"p1": OFF}}, {"id": "on", "name": "On", "drives": {"p1": ON}}]
    other = "above" if kind == "below" else "below"
    transitions = [{"source": "off", "on": {"kind": kind, "input": "p0"}, "target": "on"},
            {"source": "on", "on": {"kind": other, "input": "p0"}, "target": "off"}]  # fmt: skip
    machine = {"id": "m", "name": "M", "initial": "off", "states": states, "transitions": transitions}
    heater = {"kind": "heater", "pin": "D4", "hold": "down", "cut_out": True, "loads": loads or ["heat"]}
    return with_parts(PROBE, heater, machines=[machine], above=30.0, below=25.0)


def driven_motor(stop: dict[str, Any], both: bool = False) -> Bench:
    """A start button, a stop, a relay that switches a motor."""
    states = [{"id": "off", "name": "Off", "drives": {"p2": OFF}}, {"id": "on", "name": "On", "drives": {"p2": ON}}]
    transitions = [{"source": "off", "on": {"kind": "press", "input": "p0"}, "target": "on"},
            {"source": "on", "on": {"kind": "press", "input": "p0" if both else "p1"}, "target": "off"}]  # fmt: skip
    machine = {"id": "m", "name": "M", "initial": "off", "states": states, "transitions": transitions}
    saw = {"kind": "relay", "pin": "D4", "hold": "down", "loads": ["motion"], "hard_stop": True}
    return with_parts({**BUTTON, "pin": "D2"}, {**stop, "pin": "D3"}, saw, machines=[machine])


def locked_out(listens: bool) -> Bench:
    """A level that starts something, and a rest of a second in which nobody listens; or does."""
    states = [
        {"id": "idle", "name": "Idle", "drives": {"p1": OFF}},
        {"id": "rest", "name": "Rest", "drives": {"p1": ON}},
    ]
    above = {"kind": "above", "input": "p0"}
    transitions = [{"source": "idle", "on": above, "target": "rest"},
            {"source": "rest", "on": {"kind": "timeout", "after_us": 1_000_000}, "target": "idle"}]  # fmt: skip
    transitions += [{"source": "rest", "on": above, "target": "rest"}] if listens else []
    machine = {"id": "m", "name": "M", "initial": "idle", "states": states, "transitions": transitions}
    return with_parts(LEVEL, {"kind": "lamp", "pin": "D8"}, machines=[machine])


def limited(follows: bool) -> Bench:
    transitions = [*TRANSITIONS, {"source": "on", "on": {"kind": "timeout", "after_us": 9_000_000}, "target": "off"}]
    return bench_of(transitions=transitions if follows else TRANSITIONS, limits={"lamp": {"longest_us": 9_000_000}})


def at(bench: Bench, **fields: Any) -> Bench:
    return bench_from_data(bench_data(bench) | fields)


def typing(**serial: Any) -> Bench:
    typed = {"kind": "commands", "pin": "D0", "source": "typed", "names": ["up"]}
    return changed(with_parts(typed), serial=serial)


def magnet(hold_us: int) -> Bench:
    press = {"kind": "press", "input": "p0", "at_us": 200_000, "hold_us": hold_us}
    return with_parts({"kind": "magnet", "pin": "D2", "magnet_mm": 20, "speed_mm_s": 500}, stimuli=[press])


def moved(over_us: int) -> Bench:
    level = {"kind": "level", "input": "p0", "at_us": 200_000, "over_us": over_us, "value": 50.0}
    return with_parts(LEVEL, stimuli=[level])


def two_tasks(**more: Any) -> Bench:
    rows = [task("one", 100, 300, priority=5, does="print", characters=9, stack_bytes=200, **more),
            task("two", 200, 300, priority=3, does="print", characters=9, stack_bytes=200, **more)]  # fmt: skip
    return bench_of(tasks=rows, school="kernel", kernel={"stack_bytes": 200})


def called(where: str) -> Bench:
    keeps = [{"of": "count", "where": where, "when": "interrupt"}]
    return bench_of(variables=COUNT, keeps=keeps, watchdog={**RESETS, "mode": "interrupt-reset"})


SLIDE = {"kind": "slide-switch", "pin": "D4", "other_throw": "wired"}
SSR = {"kind": "solid-state", "pin": "D4", "hold": "down", "loads": ["heat"]}
BLINK = {"kind": "blink", "on_us": 100_000, "off_us": 100_000}
STRIP = {"kind": "load", "pin": "D4", "loads": SAFE}
FAN = {"kind": "fan", "pin": "D4", "hold": "down", "loads": SAFE}
STOP = {"kind": "limit-switch", "wiring": {"normally": "closed"}, "active_level": "high"}
HAZARD_CASES: list[tuple[str, Bench, bool, Bench]] = [
    ("wire.held-on", with_parts({**MAINS_RELAY, "hold": "up"}), True, with_parts(MAINS_RELAY)),
    ("wire.held-on", with_parts({**SSR, "hold": "up"}), True, with_parts(SSR)),
    ("wire.unheld", with_parts({**MAINS_RELAY, "hold": "none"}), True, with_parts(MAINS_RELAY)),
    ("wire.wetting", bench_with(("/inputs/0/metal", "silver")), True, bench_with(("/inputs/0/metal", "silver"), ("/inputs/0/wiring/pull", "up"), ("/inputs/0/wiring/pull_ohm", 680))),
    ("wire.long-cable", bench_with(("/inputs/0/wiring/wire_cm", 900)), True, bench_with(("/inputs/0/wiring/wire_cm", 200))),
    ("wire.lamp-pull", with_parts({**BUTTON, "pin": "D13"}), True, with_parts({**BUTTON, "pin": "D13", "wiring": {"pull": "up", "pull_ohm": 1_000}})),
    ("wire.between-throws", with_parts({**SLIDE, "wiring": {"pull": "none"}}), True, with_parts(SLIDE)),
    ("wire.magnet-hold", magnet(300_000), True, magnet(40_000)),
    ("wire.unsaid", with_parts({"kind": "relay", "pin": "D4"}), False, with_parts({"kind": "relay", "pin": "D4", "loads": SAFE})),
    ("wire.unsaid", with_parts({**STRIP, "loads": []}), False, with_parts(STRIP)),
    ("wire.no-stop", with_parts({**MAINS_RELAY, "loads": ["motion"]}), False, with_parts({**MAINS_RELAY, "loads": ["motion"], "hard_stop": True})),
    ("wire.contact-over", relay(ua=16_000_000, fuse_ua=0), False, relay()),
    ("wire.contact-dc", relay(supply="dc", mv=110_000), False, relay(supply="dc", mv=24_000)),
    ("wire.inrush", relay(sort="lamp"), False, relay(sort="lamp", ua=500_000)),
    ("wire.no-snubber", relay(sort="inductive"), True, relay(sort="inductive", snubber=True)),
    ("wire.no-fuse", relay(fuse_ua=0), False, relay()),
    ("wire.thin-wire", relay(fuse_ua=10_000_000), False, relay(fuse_ua=10_000_000, wire_mm2=1.5)),
    ("wire.small-fuse", relay(fuse_ua=1_000_000), False, relay()),
    ("wire.leaks", with_parts({**SSR, "burden": {**LOAD, "ua": 20_000}}), False, with_parts({**SSR, "burden": LOAD})),
    ("wire.fails-closed", with_parts(SSR), False, with_parts({**SSR, "loads": SAFE})),
    ("behave.fast-relay", drives(MAINS_RELAY, BLINK), False, drives(MAINS_RELAY, {**BLINK, "on_us": 5_000_000, "off_us": 5_000_000})),
    ("behave.fast-relay", drives(SSR, {"kind": "ramp", "time_us": 500_000}), False, drives({**SSR, "turns_on": "at-once"}, {"kind": "ramp", "time_us": 500_000})),
    ("wire.gate-floats", with_parts({**STRIP, "gate_ohm": 0}), True, with_parts(STRIP)),
    ("wire.gate-low", with_parts({**STRIP, "pin": "P4"}, board=RADIO), False, with_parts({**STRIP, "pin": "P4", "gate_mv": 2_500}, board=RADIO)),
    ("behave.no-speed", with_parts({**MOTOR, "speed": "D9"}, machines=[spin(True)]), True, with_parts(MOTOR, machines=[spin(True)])),
    ("wire.start-current", with_parts({**FAN, "own_supply": False}), True, with_parts(FAN)),
    ("wire.start-current", with_parts({**FAN, "own_supply": False, "load_ua": 60_000}), True, at(with_parts({**FAN, "own_supply": False, "load_ua": 60_000}), power={"bulk_uf": 470})),
    ("guard.brown-out", at(with_parts(MAINS_RELAY), power={"brown_out": False}), True, at(with_parts({**MAINS_RELAY, "loads": SAFE}), power={"brown_out": False})),
    ("wire.boot-high", with_parts({**MAINS_RELAY, "pin": "P14"}, board=RADIO), False, with_parts({**MAINS_RELAY, "pin": "P16"}, board=RADIO)),
    ("wire.timer-shared", drives({"kind": "sounder", "pin": "D4"}, {"kind": "tone", "hz": 440}, ({"kind": "lamp", "pin": "D3"}, {"kind": "level", "percent": 40})), False, drives({"kind": "sounder", "pin": "D4"}, {"kind": "tone", "hz": 440}, ({"kind": "lamp", "pin": "D9"}, {"kind": "level", "percent": 40}))),
    ("wire.bus-address", with_parts(BUS, BUS), True, with_parts(BUS, {**BUS, "address": 40})),
    ("wire.bus-pull", with_parts({**BUS, "bus_pull": "none"}), True, with_parts({**BUS, "bus_pull": "none"}, {**BUS, "address": 40})),
    ("wire.bus-volts", with_parts({**BUS, "data": "P21", "clock": "P22", "high_mv": 3_300, "bus_pull": "5v"}, board=RADIO), True, with_parts({**BUS, "bus_pull": "5v"})),
    ("clean.reference", with_parts({"kind": "voltage-sensor", "pin": "A0"}), False, with_parts({"kind": "voltage-sensor", "pin": "A0", "ratiometric": True})),
    ("wire.source", with_parts({"kind": "potentiometer", "pin": "A0", "track_ohm": 100_000}), False, with_parts({"kind": "potentiometer", "pin": "A0"})),
    ("clean.slow-sampling", moved(50_000), True, moved(600_000)),
    ("behave.sensor-wire", heated("above"), False, heated("above", "nothing")),
    ("behave.sensor-wire", heated("below"), False, heated("below", "nothing")),
    ("wire.open-stop", driven_motor({"kind": "limit-switch"}), True, driven_motor(STOP)),
    ("wire.open-stop", driven_motor(BUTTON), True, driven_motor(BUTTON, both=True)),
    ("behave.deaf", locked_out(False), True, locked_out(True)),
    ("behave.limit-stays", limited(False), True, limited(True)),
    ("pace.unshared", two_tasks(), True, two_tasks(shares="line", holds_us=300)),
    ("guard.long-handler", called("store"), True, called("ram")),
    ("pace.no-line-end", typing(), True, typing(ending="lf")),
    ("pace.overrun", changed(with_parts(SPOKEN), loop={"tail_delay_us": 90_000}), False, changed(with_parts(SPOKEN), loop={"tail_delay_us": 20_000})),
    ("pace.two-bauds", bench_of(tasks=[task("work", 500, 100, characters=8, does="print")], serial={"theirs": 19_200}), True, bench_of(tasks=[task("work", 500, 100, characters=8, does="print")])),
    ("behave.for-ever", with_parts({**BUTTON}, {"kind": "relay", "pin": "D4", "hold": "down", "loads": ["motion"]}, machines=[{"id": "m", "name": "M", "initial": "off", "states": [{"id": "off", "name": "Off", "drives": {"p1": OFF}}, {"id": "on", "name": "On", "drives": {"p1": ON}}], "transitions": [{"source": "off", "on": {"kind": "press", "input": "p0"}, "target": "on"}]}]), True, bench_of()),
    ("guard.alone", bench_of(lamp={"loads": ["mains"], "hold": "down"}, watchdog=RESETS), True, bench_of(watchdog=RESETS)),
]  # fmt: skip
