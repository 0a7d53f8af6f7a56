"""A simulated board: the bench's program on a board that differs from what was planned, as the real ones do. What it
prints, and what an instrument sees at its pins."""

from __future__ import annotations

import io
from dataclasses import dataclass, field

from vcd import VCDWriter

from ..document import Bench, Scenario
from ..engine import Fault, Kind, Run, SkippingEngine
from ..slower import slower
from ..switches import SWITCH_CLASSES

NOT_TRACED = (None, -1)


@dataclass(frozen=True)
class Otherness:
    """How a board differs: the chance in its contacts, classes of switch by contact, by how many millionths its clock
    is slow, how many times as long its passes take, and a fault that is in it."""

    seed: int = 1
    switches: dict[str, str] = field(default_factory=dict)
    ppm: float = 0.0
    slower: float = 1.0
    fault: Fault | None = None


def other_bench(bench: Bench, other: Otherness) -> Bench:
    """The bench with other contacts and other costs. Raises KeyError for a contact or a class that is not there."""
    for ident, switch in other.switches.items():
        line, _ = bench.contact(ident), SWITCH_CLASSES[switch]
        side, place = line.at.strip("/").split("/")[:2]
        data = bench.inputs[int(place)].model_dump(mode="json")
        held = data["push"] if ident.endswith(".push") else data
        held["contact"] = {"kind": "model", "switch": switch}
        part = type(bench.inputs[int(place)]).model_validate(data, strict=False)
        bench = bench.model_copy(
            update={side: tuple(part if n == int(place) else one for n, one in enumerate(bench.inputs))}
        )
    return slower(bench, other.slower)


def board_run(bench: Bench, scenario: Scenario, other: Otherness) -> Run:
    """What that board does in a scenario."""
    return SkippingEngine().run(other_bench(bench, other), scenario, seed=other.seed, fault=other.fault)


def trace_lines(bench: Bench, run: Run) -> list[tuple[int, str]]:
    """(µs since power-on, line) of what its program prints: each contact, state and output that changes, with the
    board's own milliseconds."""
    places = {one.id: {state.id: place for place, state in enumerate(one.states)} for one in bench.firmware.machines}
    contacts, outputs = {one.id for one in bench.contacts}, {one.id for one in bench.channels}
    dimmed = {one.of for one in run.trace.signals if one.kind is Kind.DUTY}
    boots = [ready for _, ready in run.boots]
    found: list[tuple[int, str]] = []
    for signal in run.trace.signals:
        what, of = "", signal.of
        if signal.kind is Kind.CLEANED and of in contacts:
            what = "cleaned"
        elif signal.kind is Kind.STATE and of in places:
            what = "state"
        elif of in outputs and signal.kind is (Kind.DUTY if of in dimmed else Kind.OUTPUT):
            what = "output"
        if not what:
            continue
        for at_us, value in zip(signal.times_us, signal.values, strict=True):
            ready_us = max((one for one in boots if one <= at_us), default=None)
            if value in NOT_TRACED or ready_us is None:
                continue
            number = (
                places[of][value]
                if what == "state"
                else 100 * value
                if what == "output" and of not in dimmed
                else value
            )
            told_ms = (at_us - ready_us + bench.the_board.set_up_us) // 1000
            found.append((at_us, f"{told_ms}000,{what},{of},{number}"))
    return sorted(found)


def pins_vcd(
    bench: Bench, run: Run, ppm: float = 0.0, from_us: int = 0, passes: bool = False, only: frozenset[str] | None = None
) -> str:
    """What an instrument sees at its pins, as a value change dump in its own µs: channels are called after the pins.
    `passes`: a spare pin, called “pass”, toggles at each. `only` these channels."""
    told = run.trace.signal(Kind.PASS)
    bench_passes = [(at, *value) for at, value in zip(told.times_us, told.values, strict=True)] if passes else []
    out = io.StringIO()
    ends = {one.id: one.active_level == "low" for one in bench.channels}
    with VCDWriter(out, timescale="1 us", date="") as writer:
        rows = []
        for one in bench.lines:
            if (kind := Kind.OUTPUT if one.id in ends else Kind.LEVEL, one.id) not in run.trace:
                continue
            if only is not None and one.pin not in only:
                continue
            signal = run.trace.signal(kind, one.id)
            levels = [
                (at, max(value, 0) ^ ends.get(one.id, False))
                for at, value in zip(signal.times_us, signal.values, strict=True)
            ]
            before = [level for at, level in levels if at < from_us]
            variable = writer.register_var("pins", one.pin, "wire", size=1, init=int(before[-1]) if before else 0)
            rows += [
                (round((at - from_us) * (1 + ppm / 1e6)), variable, int(level)) for at, level in levels if at >= from_us
            ]
        if bench_passes:
            toggled = writer.register_var("pins", "pass", "wire", size=1, init=0)
            at = [begin + n * length for begin, length, count in bench_passes for n in range(count)]
            rows += [
                (round((one - from_us) * (1 + ppm / 1e6)), toggled, n & 1)
                for n, one in enumerate((one for one in at if one >= from_us), 1)
            ]
        for at_us, variable, level in sorted(rows, key=lambda row: row[0]):
            writer.change(variable, at_us, level)
    return out.getvalue()
