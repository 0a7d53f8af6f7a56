"""For each code a bench that must show it, and whether a mend must be offered. Benches are made from the simplest one."""

from __future__ import annotations

from typing import Any

from tests.core.test_engine import push_bench
from viva_tick.core.document import Bench, bench_data, bench_from_data
from viva_tick.core.kinds import INPUT_KINDS
from viva_tick.core.pins import first_reading

LAMP = {"id": "lamp", "name": "Lamp", "kind": "lamp", "pin": "D8", "resistor_ohm": 100}
RELAY = {"id": "lamp", "name": "Lamp", "pin": "D8", "kind": "relay", "loads": ["mains"]}


def bench_with(*changes: tuple[str, Any], method: str = "rest-first", interval_ms: int = 20) -> Bench:
    """A button, a toggle and a lamp, with changes at JSON Pointers."""
    data = bench_data(push_bench(method, interval_ms))
    for path, value in changes:
        *steps, last = path.strip("/").split("/")
        here: Any = data
        for step in steps:
            here = here[int(step)] if isinstance(here, list) else here[step]
        here[int(last) if isinstance(here, list) else last] = value
    return bench_from_data(data)


def on_board(board: str, button: str, lamp: str) -> Bench:
    return bench_with(("/board", board), ("/inputs/0/pin", button), ("/outputs/0/pin", lamp))


def set_up(button: str, lamp: str, **left_out: bool) -> Bench:
    """On a board whose pulls want a bit, and whose pins start analogue."""
    where = (("/inputs/0/pin", button), ("/outputs/0/pin", lamp), ("/firmware/set_up", left_out))
    return bench_with(("/board", "dip-8bit-5v"), *where)


def relays(count: int, coil_ua: int) -> Bench:
    boards = [
        {"id": f"r{n}", "name": f"R{n}", "pin": f"D{n + 3}", "kind": "relay", "coil_ua": coil_ua} for n in range(count)
    ]
    return bench_with(("/outputs", boards), ("/firmware/machines", []))


def two_shared(method: str = "shared-ignore") -> Bench:
    """Two buttons that share one timer, one memory, one handler."""
    how = {"method": method, "interval_us": 50_000}
    both = {"kind": "button", "contact": {"kind": "model", "switch": "small-button"}}
    return with_parts({**both, "pin": "D2"}, {**both, "pin": "D3"}, debounce={"p0": how, "p1": how})


def with_parts(
    *parts: dict[str, Any],
    board: str = "mid-8bit-5v",
    machines: Any = (),
    debounce: Any = None,
    stimuli: Any = (),
    **reading: Any,
) -> Bench:
    """A bench of these parts alone; names follow ids, inputs are told from outputs by their kind. What is more than a
    contact is read as it would be on arrival; the first such part with what `reading` says besides."""
    sides: dict[str, list[Any]] = {"inputs": [], "outputs": []}
    for number, part in enumerate(parts):
        whole = {"id": f"p{number}", "name": f"P{number}", **part}
        sides["inputs" if whole["kind"] in INPUT_KINDS else "outputs"].append(whole)
    scenario = {"name": "s", "length_us": 900_000, "stimuli": list(stimuli)}
    data: dict[str, Any] = {
        "version": 4,
        "name": "b",
        "board": board,
        **sides,
        "firmware": {"machines": list(machines), "debounce": debounce or {}},
    }
    plain = bench_from_data(data)
    readings = {part.id: first_reading(part, plain.the_board) for _, part in plain.sensed}
    if readings:
        readings[next(iter(readings))] |= reading
    data["firmware"]["readings"] = readings
    return bench_from_data({**data, "scenarios": [scenario]})


def changed(bench: Bench, **firmware: Any) -> Bench:
    """The bench with other firmware."""
    data = bench_data(bench)
    data["firmware"] |= firmware
    return bench_from_data(data)


def spin(forward_first: bool) -> dict[str, Any]:
    """A machine that steps a motor forward, then backward, and forgets to switch the first off."""
    off = {"p0.forward": OFF} if forward_first else {}
    return {
        "id": "spin", "name": "Spin", "initial": "still",
        "states": [{"id": "still", "name": "Still", "drives": {"p0.forward": OFF, "p0.backward": OFF}},
                   {"id": "right", "name": "Right", "drives": {"p0.forward": ON}},
                   {"id": "left", "name": "Left", "drives": {"p0.backward": ON, **off}}],
        "transitions": [{"source": "still", "on": {"kind": "timeout", "after_us": 50_000}, "target": "right"},
                        {"source": "right", "on": {"kind": "timeout", "after_us": 50_000}, "target": "left"}],
    }  # fmt: skip


def machine_with(*transitions: dict[str, Any], states: Any = ()) -> Bench:
    """The toggle with more transitions and states."""
    data = bench_data(push_bench())
    machine = data["firmware"]["machines"][0]
    machine["transitions"] += list(transitions)
    machine["states"] += list(states)
    return bench_from_data(data)


def always(source: str, target: str, pressed: bool | None = None) -> dict[str, Any]:
    """A transition that waits for nothing, or for the button's level."""
    guards = [] if pressed is None else [{"kind": "contact", "input": "button", "pressed": pressed}]
    return {"source": source, "on": {"kind": "always"}, "target": target, "guards": guards}


def counting(transition: dict[str, Any]) -> Bench:
    """The toggle with a number from 0 to 5, and one more transition."""
    data = bench_data(push_bench())
    data["firmware"]["machines"][0]["transitions"].append(transition)
    data["firmware"]["variables"] = [{"id": "n", "name": "N", "most": 5}]
    return bench_from_data(data)


def both_guarded() -> Bench:
    """From off a press leads to either of two states, by numbers that overlap."""
    under = {"kind": "compare", "variable": "n", "sign": "<", "number": 3}
    over = {"kind": "compare", "variable": "n", "sign": ">=", "number": 0}
    data = bench_data(counting({**TO_ON, "target": "off", "guards": [over]}))
    data["firmware"]["machines"][0]["transitions"][0]["guards"] = [under]
    return bench_from_data(data)


def driven(
    drive: dict[str, Any],
    kind: str = "lamp",
    pin: str = "D9",
    also: Any = None,
    action: Any = None,
    guard: Any = None,
) -> Bench:
    """The toggle, its lamp driven so while it is on; with one more input that is not read, looked at."""
    out = {**LAMP, "pin": pin} if kind == "lamp" else {"id": "lamp", "name": "Lamp", "kind": kind, "pin": pin}
    data = bench_data(bench_with(("/outputs", [out])))
    machine = data["firmware"]["machines"][0]
    machine["states"][1]["drives"]["lamp"] = drive
    data["firmware"]["variables"] = [{"id": "n", "name": "N", "most": 5}]
    if also:
        data["inputs"].append({**also, "id": "p0", "name": "P0", "pin": "A0"})
    if action:
        machine["transitions"][0]["actions"] = [action]
    if guard:
        machine["transitions"][0]["guards"] = [guard]
    return bench_from_data(data)


def two_buttons(method: str) -> Bench:
    """Two buttons, the first cleaned by a method that holds the loop, the second tapped for 40 ms."""
    data = bench_data(bench_with(method=method, interval_ms=10))
    data["inputs"].append({**data["inputs"][0], "id": "other", "name": "Other", "pin": "D3"})
    data["scenarios"][0]["stimuli"].append({"kind": "press", "input": "other", "at_us": 700_000, "hold_us": 40_000})
    data["firmware"]["debounce"]["other"] = {"method": "rest-first", "interval_us": 5_000}
    return bench_from_data(data)


def both_asked() -> Bench:
    """Two lamps that are never to be on together, both driven on by the toggle."""
    data = bench_data(bench_with(("/outputs", [LAMP, {**LAMP, "id": "other", "name": "Other", "pin": "D9"}])))
    data["firmware"]["machines"][0]["states"][1]["drives"]["other"] = ON
    data["firmware"]["interlocks"] = [{"one": "lamp", "other": "other", "dead_us": 100_000}]
    return bench_from_data(data)


TWO_MORE = [{"id": "here", "name": "Here"}, {"id": "there", "name": "There"}]
PRESSED = {"kind": "press", "input": "button"}
LET_GO = {"kind": "release", "input": "button"}


def expecting(*expects: dict[str, Any]) -> Bench:
    """The toggle, pressed once at 0.2 s, with what is expected of it."""
    return bench_with(("/scenarios/0/expects", list(expects)))


def turned(part: str, kind: str = "step", of: str = "") -> dict[str, Any]:
    """A machine that a part moves between two states."""
    states = [{"id": "a", "name": "A"}, {"id": "b", "name": "B"}]
    on = {"kind": kind, "input": part, "of": of}
    transitions = [{"source": "a", "on": on, "target": "b"}, {"source": "b", "on": on, "target": "a"}]
    return {"id": "turned", "name": "Turned", "initial": "a", "states": states, "transitions": transitions}


def twice_driven() -> list[dict[str, Any]]:
    """The toggle twice, on one lamp."""
    machine = bench_data(push_bench())["firmware"]["machines"][0]
    return [machine, {**machine, "id": "again", "name": "Again"}]


TO_ON: dict[str, Any] = {"source": "off", "on": {"kind": "press", "input": "button"}, "target": "on"}
PEDAL = ("/inputs/0/contact/switch", "foot-pedal")
SHORT_TAP = ("/scenarios/0/stimuli/0/hold_us", 40_000)
ON, OFF = {"kind": "steady", "on": True}, {"kind": "steady", "on": False}
BUTTON = {"kind": "button", "pin": "D2"}
MODULE = {"kind": "module", "pin": "D2", "wiring": {"pull": "none"}}
KEYS = {"kind": "matrix", "rows": ["D2", "D3"], "columns": ["D4", "D5"]}
DIAL = {"kind": "encoder", "a": "D2", "b": "D3"}
BUS = {"kind": "display", "data": "A4", "clock": "A5"}
RGB = {"kind": "rgb", "red": {"pin": "D9"}, "green": {"pin": "D10"}, "blue": {"pin": "D11"}}
MOTOR = {"kind": "motor", "forward": "D4", "backward": "D7", "hold": "down"}
VALVE = {"kind": "solenoid", "pin": "D4", "loads": ["nothing"]}
HEATER = {"kind": "heater", "pin": "D4", "hold": "down"}
LEVEL = {"kind": "level-sensor", "pin": "A0"}
BRIM = {"id": "brim", "name": "Brim", "above": 90.0, "below": 90.0}
RADIO = "radio-32bit-3v3"
SPOKEN = {"kind": "commands", "pin": "D0", "source": "speech", "names": ["up", "down", "stop"]}
LCD = {"kind": "display", "data": "A4", "clock": "A5"}
COUNT = {"id": "count", "name": "Count", "least": 0, "most": 99, "begins": 0}


def counts_up(name: str, drive: dict[str, Any]) -> dict[str, Any]:
    """A machine that counts every 50 ms, and what it drives with that."""
    again: dict[str, Any] = {"source": "a", "on": {"kind": "timeout", "after_us": 50_000}, "target": "a"}
    again |= {"actions": [{"do": "add", "variable": "count", "number": 1}]}
    states = [{"id": "a", "name": "A", "drives": {name: drive}}]
    return {"id": "m", "name": "M", "initial": "a", "states": states, "transitions": [again]}


def shows(text: str) -> Bench:
    """A display that shows a text, and a number that changes twenty times a second."""
    bench = with_parts({"kind": "button", "pin": "D2"}, LCD)
    return changed(bench, variables=[COUNT], machines=[counts_up("p1.line-1", {"kind": "text", "text": text})])


def picked(most: int) -> Bench:
    """A row of three lamps that a number picks."""
    bench = with_parts({"kind": "button", "pin": "D2"}, *({**LAMP_KIND, "pin": f"D{5 + n}"} for n in range(3)))
    row = {"id": "row", "name": "Row", "outputs": ["p1", "p2", "p3"]}
    drive = {"kind": "picked", "variable": "count"}
    return changed(bench, variables=[{**COUNT, "most": most}], rows=[row], machines=[counts_up("row", drive)])


LAMP_KIND = {"kind": "lamp", "resistor_ohm": 330}
WAIT = {"kind": "pulse", "length_us": 150_000, "blocking": True}
CASES: tuple[tuple[str, Bench, bool], ...] = (
    # (code, a bench that must show it, whether a mend must be offered)
    ("wire.floating", bench_with(("/inputs/0/wiring/pull", "none")), True),
    ("wire.pin-shared", bench_with(("/outputs/0/pin", "D2")), True),
    ("wire.serial", bench_with(("/inputs/0/pin", "D1")), True),
    ("wire.no-pull-down", bench_with(("/inputs/0/wiring/pull", "internal-down"), ("/inputs/0/wiring/contact_to", "supply")), True),
    ("wire.input-only", on_board("radio-32bit-3v3", "P4", "P34"), True),
    ("wire.no-pull", on_board("radio-32bit-3v3", "P35", "P16"), True),
    ("wire.boot-strapping", on_board("radio-32bit-3v3", "P0", "P16"), True),
    ("wire.starts-analogue", on_board("dip-8bit-5v", "B0", "A0"), False),
    ("wire.pull-enable", on_board("dip-8bit-5v", "B0", "B3"), False),
    ("wire.pulls-off", set_up("B0", "B3", enables_pulls=False), True),
    ("wire.left-analogue", set_up("B6", "B3", makes_digital=False), True),
    ("wire.left-analogue", set_up("B6", "A0", makes_digital=False), True),
    ("wire.output-inverted", bench_with(("/firmware/on_levels", {"lamp": "low"})), True),
    ("wire.floating", bench_with(("/scenarios/0/stimuli", []), ("/scenarios/0/expects", []), ("/inputs/0/kind", "open-wire"), ("/inputs/0/wiring/pull", "none")), True),
    ("wire.reset", on_board("small-8bit-5v", "P0", "P5"), False),
    ("wire.reset", on_board("small-8bit-5v", "P5", "P0"), True),
    ("wire.starting", on_board("computer-3v3", "P4", "P5"), False),
    ("wire.joined-legs", bench_with(("/inputs/0/kind", "four-legged"), ("/inputs/0/legs", "joined")), True),
    ("wire.magnet", bench_with(("/inputs/0/kind", "magnet"), ("/inputs/0/speed_mm_s", 1000)), False),
    ("wire.same-rail", bench_with(("/inputs/0/wiring/pull", "down")), True),
    ("wire.same-rail", bench_with(("/inputs/0/wiring/contact_to", "supply")), True),
    ("wire.short", bench_with(("/inputs/0/wiring/pull", "up"), ("/inputs/0/wiring/pull_ohm", 10)), True),
    ("wire.pull-strong", bench_with(("/inputs/0/wiring/pull", "up"), ("/inputs/0/wiring/pull_ohm", 220)), True),
    ("wire.pull-weak", bench_with(("/inputs/0/wiring/pull", "up"), ("/inputs/0/wiring/pull_ohm", 5_000_000)), True),
    ("wire.pull-weak", bench_with(("/inputs/0/wiring/pull", "up"), ("/inputs/0/wiring/pull_ohm", 470_000)), True),
    ("wire.inverted", bench_with(("/inputs/0/active_level", "high")), True),
    ("wire.inverted", bench_with(("/inputs/0/wiring/normally", "closed")), True),
    ("wire.lamp-bare", bench_with(("/outputs/0/resistor_ohm", 0)), True),
    ("wire.lamp-over", bench_with(("/outputs/0/resistor_ohm", 100)), True),
    ("wire.lamp-over", bench_with(("/outputs/0/resistor_ohm", 22)), True),
    ("wire.lamp-dim", bench_with(("/outputs/0/resistor_ohm", 47_000)), True),
    ("wire.unheld", bench_with(("/outputs/0", {**RELAY, "loads": [], "active_level": "low"})), True),
    ("wire.unheld", bench_with(("/outputs/0", RELAY)), True),
    ("wire.relay-supply", relays(2, 75_000), True),
    ("wire.relay-supply", relays(1, 480_000), True),
    ("wire.all-pins", bench_with(("/outputs", [{**LAMP, "id": f"l{n}", "pin": f"D{n + 3}"} for n in range(8)]), ("/firmware/machines", [])), False),
    ("wire.floating", with_parts({**DIAL, "pull": "none"}), True),
    ("wire.floating", with_parts({**KEYS, "pull": "none"}), True),
    ("wire.module-legs", with_parts({**MODULE, "wired": "supply-pin-ground"}), True),
    ("wire.module-legs", with_parts({**MODULE, "wired": "ground-supply-pin", "active_level": "high"}), True),
    ("wire.module-legs", with_parts({**MODULE, "wired": "ground-pin-supply"}), True),
    ("wire.module-legs", with_parts({**MODULE, "resistor_pins": "1-3"}), False),
    ("wire.undecided", with_parts({**MODULE, "wired": "pin-ground-supply", "active_level": "high", "resistor_ohm": 30_000, "wiring": {"pull": "internal-up"}}), True),
    ("wire.undecided", with_parts({"kind": "signal", "pin": "D2", "drives": "both", "high_mv": 2_500, "wiring": {"pull": "none"}}), False),
    ("wire.pin-bus", with_parts(BUS, {"kind": "lamp", "pin": "A4"}), True),
    ("wire.pin-bus", with_parts(BUS, {"kind": "button", "pin": "A5"}), True),
    ("wire.pin-serial", with_parts({"kind": "commands", "pin": "D0"}, {"kind": "lamp", "pin": "D0"}), True),
    ("wire.pin-serial", with_parts({"kind": "commands", "pin": "D0"}, {"kind": "lamp", "pin": "D1"}), True),
    ("wire.not-dimmable", with_parts({"kind": "lamp", "pin": "D4", "dimmed": True}), True),
    ("wire.not-dimmable", with_parts({**RGB, "red": {"pin": "D8"}}), True),
    ("wire.not-dimmable", with_parts({**MOTOR, "speed": "D8"}), True),
    ("wire.not-analogue", with_parts({**LEVEL, "pin": "D4"}), True),
    ("wire.not-interrupt", with_parts({**DIAL, "b": "D4", "read_by": "interrupt"}), True),
    ("wire.not-bus", with_parts({**BUS, "data": "D4"}), True),
    ("wire.not-serial", with_parts({"kind": "commands", "pin": "D4"}), True),
    ("wire.radio-shared", with_parts({**LEVEL, "pin": "P25", "upper_ohm": 10_000}, board=RADIO), True),
    ("wire.no-converter", with_parts({**LEVEL, "pin": "P4", "upper_ohm": 10_000}, board="computer-3v3"), False),
    ("wire.long-wire", with_parts({**BUTTON, "wiring": {"wire_cm": 800}}), True),
    ("wire.pull-weak", with_parts({**BUTTON, "wiring": {"pull": "up", "pull_ohm": 33_000, "wire_cm": 500}}), True),
    ("wire.over-volts", with_parts({**LEVEL, "pin": "P34"}, board=RADIO), True),
    ("wire.over-volts", with_parts({"kind": "signal", "pin": "P4", "drives": "both"}, board=RADIO), False),
    ("wire.over-volts", with_parts({"kind": "commands", "pin": "P3", "source": "radio", "high_mv": 5_000}, board=RADIO), False),
    ("wire.over-volts", with_parts({"kind": "display", "data": "P21", "clock": "P22"}, board=RADIO), False),
    ("wire.over-volts", with_parts({"kind": "signal-out", "pin": "D4", "stands_mv": 3_600}), False),
    ("wire.trigger", with_parts({"kind": "relay", "pin": "P4", "trigger_mv": 4_000}, board=RADIO), False),
    ("wire.trigger", with_parts({"kind": "signal-out", "pin": "P4", "trigger_mv": 3_500}, board=RADIO), False),
    ("wire.grounds", with_parts({"kind": "signal", "pin": "D2", "grounds_joined": False}), True),
    ("wire.grounds", with_parts({"kind": "relay", "pin": "D2", "own_supply": True, "grounds_joined": False}), True),
    ("wire.base-bare", with_parts({**VALVE, "base_ohm": 0}), True),
    ("wire.base-weak", with_parts({**VALVE, "base_ohm": 22_000}), True),
    ("wire.base-weak", with_parts({**VALVE, "load_ua": 5_000_000}), False),
    ("wire.pin-over", with_parts({**VALVE, "base_ohm": 150}), True),
    ("wire.pin-over", with_parts({"kind": "beeper", "pin": "D4", "load_ua": 45_000, "base_ohm": 4_700}), True),
    ("wire.pin-over", with_parts({"kind": "solid-state", "pin": "P4", "input_ua": 12_000, "hold": "down"}, board="computer-3v3"), False),
    ("wire.no-diode", with_parts({**VALVE, "diode": False}), True),
    ("wire.no-diode", with_parts({**MOTOR, "diodes": False}), True),
    ("wire.port-over", with_parts(*({"kind": "beeper", "pin": f"D{n}", "load_ua": 19_000} for n in range(2, 8))), False),
    ("wire.supply-over", with_parts({"kind": "servo", "pin": "D4", "own_supply": False}), True),
    ("wire.supply-over", with_parts({"kind": "servo", "pin": "D4", "own_supply": False}, {**MOTOR, "forward": "D5", "own_supply": False}), True),
    ("wire.relay-supply", with_parts({"kind": "relay-board", "relays": [{"id": "a", "name": "A", "pin": "D4", "hold": "up"}, {"id": "b", "name": "B", "pin": "D5", "hold": "up"}]}), True),
    ("wire.unheld", with_parts({"kind": "relay-board", "own_supply": True, "relays": [{"id": "a", "name": "A", "pin": "D4"}, {"id": "b", "name": "B", "pin": "D5"}]}), True),
    ("wire.unheld", with_parts({**MOTOR, "hold": "none"}), True),
    ("wire.both-directions", with_parts(MOTOR, machines=[spin(False)]), True),
    ("wire.no-cut-out", with_parts(HEATER), False),
    ("wire.dims-mains", with_parts({"kind": "lamp", "pin": "D9", "loads": ["mains"], "fed": "module", "dimmed": True, "hold": "down"}), True),
    ("wire.ghosts", with_parts({**KEYS, "keys_at_once": 3}), True),
    ("wire.ghosts", with_parts(KEYS), False),
    ("wire.rc-plain", bench_with(("/inputs/0/wiring/filter", "rc"), ("/inputs/0/wiring/filter_nf", 100)), True),
    ("wire.rc-slow", bench_with(("/inputs/0/wiring/filter", "rc"), ("/inputs/0/wiring/schmitt", True), ("/inputs/0/wiring/filter_nf", 4_700)), True),
    ("wire.narrow", with_parts({"kind": "light-sensor", "pin": "A0", "fixed_ohm": 470_000}), True),
    ("wire.narrow", with_parts({**LEVEL, "most_mv": 700}), False),
    ("wire.over-scale", with_parts({**LEVEL, "most_mv": 5_400}), True),
    ("wire.tolerance", with_parts({"kind": "temperature-sensor", "pin": "A0", "tolerance_percent": 20.0}), True),
    ("clean.none", bench_with(PEDAL, method="none", interval_ms=0), True),
    ("clean.too-short", bench_with(PEDAL, interval_ms=1), True),
    ("clean.too-short", bench_with(PEDAL, method="act-ignore", interval_ms=3), True),
    ("clean.too-long", bench_with(SHORT_TAP, interval_ms=50), True),
    ("clean.counted", bench_with(SHORT_TAP, interval_ms=50), False),
    ("clean.counted", bench_with(("/inputs/0/contact/switch", "worn-button"), method="none", interval_ms=0), True),
    ("pace.blocking", bench_with(("/firmware/machines/0/states/1/drives/lamp", WAIT)), True),
    ("pace.blocking", bench_with(SHORT_TAP, method="fixed-delay", interval_ms=50), True),
    ("pace.blocking", bench_with(("/firmware/loop/tail_delay_us", 100_000)), True),
    ("pace.blocking", bench_with(("/firmware/tasks", [{"id": "t", "name": "T", "period_us": 500_000, "run_us": 150_000}])), True),
    ("behave.rest-state", bench_with(("/firmware/machines/0/states/0/drives/lamp", ON)), True),
    ("behave.rest-state", bench_with(("/outputs/0/at_rest", "on")), True),
    ("pace.blocking", two_buttons("look-again"), True),
    ("clean.shared-timer", two_shared(), True),
    ("clean.shared-function", two_shared("shared-rest"), True),
    ("clean.shared-handler", two_shared("shared-interrupt"), True),
    ("clean.no-interrupt", bench_with(("/inputs/0/pin", "D4"), method="interrupt", interval_ms=120), True),
    ("clean.lag", bench_with(PEDAL, ("/scenarios/0/stimuli/0/hold_us", 400_000), ("/taps", {"button": {"hold_us": 400_000}}), interval_ms=120), True),
    ("clean.unneeded", with_parts({"kind": "signal", "pin": "D2", "contact": {"kind": "model", "switch": "logic-signal"}}, debounce={"p0": {"interval_us": 20_000}}), False),
    ("clean.few-samples", bench_with(("/firmware/debounce/button/sample_us", 10_000), method="history", interval_ms=20), True),
    ("clean.few-samples", bench_with(SHORT_TAP, ("/firmware/debounce/button/sample_us", 10_000), method="count-samples", interval_ms=50), False),
    ("behave.unexpected", expecting({"kind": "count", "of": "lamp", "what": "on", "times": 2}), False),
    ("behave.unexpected", expecting({"kind": "on", "output": "lamp", "from_us": 100_000, "to_us": 300_000}), False),
    ("behave.unexpected", expecting({"kind": "state", "machine": "toggle", "state": "off", "at_us": 500_000}), False),
    ("behave.unreachable", machine_with(states=[{"id": "lost", "name": "Lost"}]), True),
    ("behave.dead-end", bench_with(("/firmware/machines/0/transitions", [TO_ON])), False),
    ("behave.trap", machine_with({"source": "on", "on": LET_GO, "target": "here"}, {"source": "here", "on": PRESSED, "target": "there"}, {"source": "there", "on": PRESSED, "target": "here"}, states=TWO_MORE), False),
    ("behave.loop", machine_with(always("off", "on"), always("on", "off")), False),
    ("behave.level-toggle", bench_with(("/firmware/machines/0/transitions", [always("off", "on", True), always("on", "off", True)])), True),
    ("behave.out-of-range", counting({**TO_ON, "actions": [{"do": "set", "variable": "n", "number": 9}]}), False),
    ("behave.out-of-range", counting({**TO_ON, "actions": [{"do": "random", "variable": "n", "least": -2, "most": 3}]}), False),
    ("behave.out-of-range", counting({**TO_ON, "guards": [{"kind": "compare", "variable": "n", "sign": ">", "number": 5}]}), False),
    ("behave.out-of-range", counting({**TO_ON, "guards": [{"kind": "range", "variable": "n", "least": 7, "most": 8}]}), False),
    ("behave.out-of-range", counting({**TO_ON, "on": {"kind": "reached", "variable": "n", "value": 6}}), False),
    ("behave.interlock", both_asked(), False),
    ("behave.both-open", both_guarded(), False),
    ("behave.undimmable", driven({"kind": "level", "percent": 40}, pin="D8"), True),
    ("behave.undimmable", driven({"kind": "ramp", "time_us": 500_000}, kind="relay", pin="D9"), True),
    ("behave.tone", driven({"kind": "tone", "hz": 440}, pin="D9"), True),
    ("behave.unread", driven({"kind": "follow", "input": "p0"}, pin="D9", also=LEVEL), False),
    ("behave.unread", driven(ON, pin="D9", also=LEVEL, action={"do": "take", "variable": "n", "input": "p0"}), False),
    ("behave.unread", driven(ON, pin="D9", also=LEVEL, guard={"kind": "level", "input": "p0"}), False),
    ("behave.nobody", machine_with({**TO_ON, "on": {"kind": "watchdog-reset"}}), False),
    ("behave.second-transition", machine_with({**TO_ON, "target": "off", "guards": [{"kind": "contact", "input": "button"}]}), True),
    ("behave.second-transition", machine_with({**TO_ON, "target": "off"}), True),
    ("behave.nobody", changed(with_parts(DIAL, machines=[turned("p0")]), readings={}), False),
    ("behave.nobody", with_parts({**KEYS, "diodes": True}, machines=[turned("p0", kind="key", of="1-2")], ignored=["1-2"]), False),
    ("behave.press-first", machine_with({**TO_ON, "on": {"kind": "hold", "input": "button"}}), True),
    ("behave.press-first", machine_with({**TO_ON, "on": {"kind": "click", "input": "button"}}), True),
    ("behave.short-time", changed(machine_with({**TO_ON, "on": {"kind": "timeout", "after_us": 5_000}}), loop={"tail_delay_us": 25_000}), False),
    ("behave.undriven", bench_with(("/outputs", [LAMP, {**LAMP, "id": "dark", "name": "Dark", "pin": "D9"}])), False),
    ("behave.two-drivers", bench_with(("/firmware/machines", twice_driven())), False),
    ("behave.for-ever", bench_with(("/outputs/0", RELAY)), True),
    ("clean.one-edge", bench_with(("/inputs/0/contact/switch", "worn-button"), method="interrupt", interval_ms=20), True),
    ("clean.one-edge", bench_with(("/inputs/0/contact/switch", "worn-button"), method="look-press", interval_ms=2), True),
    ("clean.unread", changed(with_parts(DIAL), readings={}), True),
    ("clean.encoder-undivided", with_parts(DIAL, counts_a_step=1), True),
    ("clean.encoder-undivided", with_parts({**DIAL, "counts_a_click": 2}, counts_a_step=4), True),
    ("clean.encoder-reversed", with_parts({**DIAL, "swapped": True}, reversed=False), True),
    ("clean.encoder-slow", with_parts({**DIAL, "turns_a_second": 12.0}), False),
    ("clean.encoder-slow", changed(with_parts(DIAL), loop={"tail_delay_us": 30_000}), True),
    ("clean.encoder-slow", changed(with_parts({**DIAL, "a": "D4"}), loop={"tail_delay_us": 30_000}), False),
    ("clean.encoder-deaf", with_parts({**DIAL, "turns_a_second": 2.0}, least_us=9_000), True),
    ("clean.chatter", with_parts({**LEVEL, "stands_at": 50.0}, above=50.0, below=50.0), True),
    ("clean.no-hysteresis", with_parts({**LEVEL, "stands_at": 20.0}, above=50.0, below=50.0), True),
    ("clean.thin-hysteresis", with_parts({**LEVEL, "stands_at": 20.0, "noise_mv": 100}, above=50.0, below=49.0), True),
    ("clean.full-scale", with_parts({**LEVEL, "most_mv": 5_000}, unit="counts", above=1024.0, below=1000.0), True),
    ("clean.mixed-units", with_parts({**LEVEL, "most": 2.0}, above=700.0, below=690.0), True),
    ("clean.mixed-units", with_parts(LEVEL, unit="counts", above=60.0, below=58.0), True),
    ("clean.unreachable", with_parts(LEVEL, above=5_000.0, below=4_000.0), True),
    ("clean.unreachable", with_parts(LEVEL, above=50.0, below=45.0, marks=[{**BRIM, "above": 5_000.0}]), True),
    ("clean.no-hysteresis", with_parts({**LEVEL, "stands_at": 20.0}, above=50.0, below=45.0, marks=[BRIM]), True),
    ("clean.unreachable", with_parts({**LEVEL, "most_mv": 2_000, "least": 200.0, "most": 300.0}, unit="volts", above=4.9, below=4.8), True),
    ("clean.keys-wait", with_parts({**KEYS, "diodes": True}, scan_us=1_000, interval_us=0), True),
    ("clean.keys-wait", with_parts({**KEYS, "diodes": True}, scan_us=100_000, interval_us=100_000), True),
    ("clean.keys-ghost", with_parts(KEYS, stimuli=[{"kind": "key", "input": "p0", "at_us": 200_000, "hold_us": 300_000, "key": key} for key in ("1-1", "1-2", "2-1")]), True),
    ("clean.command-base", with_parts(SPOKEN, numbers_from=0), True),
    ("clean.command-unmapped", with_parts(SPOKEN, names=["up"]), True),
    ("clean.command-twice", with_parts(SPOKEN, names=["up", "down", "stop", "up"]), False),
    ("clean.command-inactive", with_parts({**SPOKEN, "active_most": 2}, machines=[turned("p0", "command", "stop")]), True),
    ("clean.command-misheard", with_parts({**SPOKEN, "hit_percent": 70}), False),
    ("clean.command-number", with_parts({**SPOKEN, "numbers": [4, 9, 2]}, numbers=[4, 8, 2]), True),
    ("clean.command-number", with_parts({**SPOKEN, "numbers": [4, 9, 2]}, numbers=[]), True),
    ("clean.command-distance", with_parts({**SPOKEN, "hits": [{"cm": 30, "percent": 95}, {"cm": 200, "percent": 40}]}), False),
    ("behave.text-cut", shows("Score {count:9} points"), False),
    ("behave.text-letters", shows("5 °C"), False),
    ("behave.text-fast", shows("{count}"), True),
    ("behave.picks-nothing", picked(most=4), True),
    ("wire.bus-address", with_parts(*({"kind": "display", "data": "A4", "clock": "A5"} for _ in range(2))), True),
    ("wire.hazard", bench_with(("/outputs/0", RELAY)), False),
    ("behave.rest-state", bench_with(("/firmware/machines/0/states/0/drives/lamp", ON), ("/outputs/0", RELAY)), True),
)  # fmt: skip
