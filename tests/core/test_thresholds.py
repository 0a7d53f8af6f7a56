"""What stands out begins exactly where it is said to: the number on one side of each threshold, and the next on the
other, each worked out by hand from the figure beside the rule."""

from __future__ import annotations

import unittest
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from tests.core.finding_cases import (
    KEYS,
    LEVEL,
    SPOKEN,
    TO_ON,
    VALVE,
    bench_with,
    changed,
    counting,
    machine_with,
    relays,
    turned,
    with_parts,
)
from tests.core.hazard_cases import BLINK, FAN, LOAD, MAINS_RELAY, SSR, STRIP, at, drives, magnet, moved, relay
from tests.core.pace_benches import PRESS, TRANSITIONS, bench_of, task, with_hold
from tests.core.pace_cases import COUNT, KERNEL, dogged, held
from viva_tick.core.document import Bench, Measure
from viva_tick.core.findings.finding import Evidence
from viva_tick.core.findings.pace import drift
from viva_tick.core.program import idle_pass_us
from viva_tick.core.study import study
from viva_tick.core.sweep import threshold_facts

INTERVAL = "/firmware/debounce/button/interval_us"
SIGNAL = {"kind": "signal", "pin": "D2", "drives": "both"}
SIGNAL_OUT = {"kind": "signal-out", "pin": "D4"}
POT = {"kind": "potentiometer", "pin": "A0"}
RANGE = {"kind": "range", "variable": "n"}
SIGNS = (("<", 1, 0), ("<=", 0, -1), (">", 4, 5), (">=", 5, 6), ("=", 5, 6), ("=", 0, -1))


def WIRE(cm: int) -> tuple[str, int]:
    return "/inputs/0/wiring/wire_cm", cm


def held_for(ms: int) -> tuple[str, int]:
    return "/scenarios/0/stimuli/0/hold_us", ms * 1_000


def tail(ms: int) -> dict[str, int]:
    return {"tail_delay_us": ms * 1_000}


def pulled(ohm: int, *more: tuple[str, Any]) -> Bench:
    return bench_with(("/inputs/0/wiring/pull", "up"), ("/inputs/0/wiring/pull_ohm", ohm), *more)


def filtered(nf: int) -> Bench:
    fields = {"filter": "rc", "schmitt": True, "filter_nf": nf}
    return bench_with(held_for(100), *((f"/inputs/0/wiring/{name}", value) for name, value in fields.items()))


def lamp(ohm: int) -> Bench:
    return bench_with(("/outputs/0/resistor_ohm", ohm))


def valve(base_ohm: int, load_ua: int | None = None) -> Bench:
    return with_parts({**VALVE, "base_ohm": base_ohm, **({"load_ua": load_ua} if load_ua else {})})


def beepers(load_ua: int, *pins: int) -> Bench:
    return with_parts(*({"kind": "beeper", "pin": f"D{pin}", "load_ua": load_ua} for pin in pins))


def servo(load_ua: int) -> Bench:
    return with_parts({"kind": "servo", "pin": "D4", "own_supply": False, "load_ua": load_ua})


def fan(peak_ua: int) -> Bench:
    return with_parts({**FAN, "own_supply": False, "load_ua": 20_000, "peak_ua": peak_ua})


def halved(hundredths: int) -> Bench:
    both = {"upper_ohm": 10_000, "lower_ohm": 10_000, "tolerance_percent": hundredths / 100}
    return with_parts({**LEVEL, "least_mv": 0, "most_mv": 5_000, **both})


def passing(mm_s: int) -> Bench:
    part = {"kind": "magnet", "pin": "D2", "magnet_mm": 20, "speed_mm_s": mm_s}
    return with_parts(part, debounce={"p0": {"interval_us": 20_000}})


def sampled(every_ms: int, tap_ms: int, interval_ms: int) -> Bench:
    every = ("/firmware/debounce/button/sample_us", every_ms * 1_000)
    return bench_with(held_for(tap_ms), every, method="count-samples", interval_ms=interval_ms)


def level(**reading: Any) -> Bench:
    return with_parts({**LEVEL, **({"most_mv": 5_000} if "unit" in reading else {})}, **reading)


def spoken(most: int) -> Bench:
    return with_parts({**SPOKEN, "active_most": most}, machines=[turned("p0", "command", "stop")])


def without_contacts(tail_ms: int) -> Bench:
    after = {"kind": "timeout", "after_us": 300_000}
    transitions = [{"source": "off", "on": after, "target": "on"}, {"source": "on", "on": after, "target": "off"}]
    return at(bench_of(transitions=transitions, loop=tail(tail_ms)), inputs=[])


def promised(ms: int, *presses: tuple[int, int]) -> Bench:
    return bench_of(presses=list(presses), taps={"button": {"respond_us": ms * 1_000}}, loop=tail(30))


def blink(ms: int) -> dict[str, Any]:
    return {**BLINK, "on_us": ms * 1_000, "off_us": ms * 1_000}


def blinks(ms: int) -> Bench:
    state = {"id": "off", "name": "Off", "drives": {"lamp": {**blink(90), "on_us": ms * 1_000}}}
    return bench_of(states=[state], transitions=[], loop=tail(20))


def timed(ms: int) -> Bench:
    return machine_with({**TO_ON, "on": {"kind": "timeout", "after_us": ms * 1_000}})


def after(ms: int) -> list[dict[str, Any]]:
    return [*TRANSITIONS, {"source": "on", "on": {"kind": "timeout", "after_us": ms * 1_000}, "target": "off"}]


def sleeps(ms: int) -> Bench:
    return bench_of(sleep={"wakes": "pin", "awake_us": 1_000_000}, transitions=after(ms))


def ends_after(ms: int) -> Bench:
    return bench_of(transitions=after(ms), limits={"lamp": {"longest_us": 9_000_000}})


def said(characters: int) -> dict[str, Any]:
    return task("say", 100, 0, does="print", characters=characters)


def theirs(baud: int) -> Bench:
    return bench_of(serial={"theirs": baud}, tasks=[said(5)])


def ours(baud: int) -> Bench:
    return bench_of(serial={"baud": baud}, tasks=[said(5)])


def guarded(timeout_ms: int) -> Bench:
    mains = {"kind": "relay", "loads": ["mains"]}
    return bench_of(watchdog={"mode": "reset", "timeout_us": timeout_ms * 1_000}, lamp=mains)


def worn(length_s: int) -> Bench:
    """One press, that is one write, in so long."""
    counts = [{"do": "add", "variable": "count", "number": 1}]
    transitions = [{"source": "off", "on": PRESS, "target": "on", "actions": counts}]
    keeps = [{"of": "count", "where": "store", "when": "change"}]
    return bench_of(
        length_ms=length_s * 1_000, presses=[(500, 100)], variables=COUNT, transitions=transitions, keeps=keeps
    )


def asks(sign: str) -> Callable[[int], Bench]:
    guard = {"kind": "compare", "variable": "n", "sign": sign}
    return lambda n: counting({**TO_ON, "guards": [{**guard, "number": n}]})


# (code and what of it, bench of a number, the last number without it, the first with it, why there). Of a code: that it
# is a must, that it is worth a look, that it has a mend.
ROWS: list[tuple[str, Callable[[int], Bench], int, int, str]] = [
    ("wire.short", pulled, 50, 49, "100 mA: 5 V over it and the contact's 0.1 Ω"),
    ("wire.pull-strong", pulled, 2_502, 2_501, "2 mA: 5 V over it, and the input's 1 µA"),
    ("wire.pull-weak", pulled, 47_000, 47_001, "47 kΩ on a short wire"),
    ("wire.pull-weak", lambda n: pulled(n, WIRE(100)), 23_500, 23_501, "47 kΩ and half of it at twice 50 cm"),
    ("wire.pull-weak", lambda n: pulled(n, WIRE(300)), 10_000, 10_001, "never less than 10 kΩ"),
    ("wire.pull-weak must", pulled, 2_000_000, 2_000_001, "1 µA takes 2 V of 5: it is high from 3"),
    ("wire.long-wire", lambda n: bench_with(WIRE(n)), 117, 118, "47 kΩ × 50 cm over the 20 kΩ that the pull may have"),
    ("wire.long-cable", lambda n: bench_with(WIRE(n)), 300, 301, "3 m"),
    ("wire.wetting", lambda n: pulled(n, ("/inputs/0/metal", "silver")), 999, 1_000, "5 mA keep silver clean"),
    ("wire.rc-slow", filtered, 1_311, 1_312, "10 kΩ and √(20 · 50) kΩ charge to 0.6 in half of 100 ms: 0.916 RC"),
    ("wire.starting", lambda n: bench_with(("/scenarios/0/stimuli/0/at_us", n)), 65_400, 65_399, "start-up and set-up"),
    ("wire.lamp-over", lamp, 150, 149, "20 mA: 5 V less 2 V"),
    ("wire.lamp-over must", lamp, 75, 74, "40 mA"),
    ("wire.lamp-dim", lamp, 3_000, 3_001, "1 mA"),
    ("wire.base-weak", lambda n: valve(1_000, n), 215_000, 215_001, "fifty times 4.3 V over 1 kΩ"),
    ("wire.base-weak mend", lambda n: valve(22_000, n), 977_273, 977_272, "220 Ω are the least at 20 mA: fifty times 19.5 mA"),
    ("wire.pin-over", valve, 215, 214, "4.3 V, 20 mA"),
    ("wire.pin-over must", valve, 108, 107, "40 mA"),
    ("wire.port-over", lambda n: beepers(n, 2, 3, 4, 5, 6, 7), 16_666, 16_667, "100 mA over six"),
    ("wire.all-pins", lambda n: beepers(n, 2, 3, 4, 5, 6, 8, 9, 10, 11, 12), 20_000, 20_001, "200 mA over ten"),
    ("wire.supply-over", servo, 450_000, 450_001, "500 mA, of which the board takes 50"),
    ("wire.relay-supply", lambda n: relays(1, n), 450_000, 450_001, "the same"),
    ("wire.relay-supply must", lambda n: relays(2, n), 225_000, 225_001, "two of them"),
    ("wire.start-current", lambda n: at(fan(n), power={"bulk_uf": 0}), 99_999, 100_000, "a start that is felt"),
    ("wire.start-current must", fan, 430_454, 430_455, "500 mA less 50, and 4.3 V over 220 Ω at its base"),
    ("wire.contact-over", lambda n: relay(ua=n), 10_000_000, 10_000_001, "10 A"),
    ("wire.contact-dc", lambda n: relay(supply="dc", mv=n), 30_000, 30_001, "30 V"),
    ("wire.inrush", lambda n: relay(sort="lamp", ua=n), 1_000_000, 1_000_001, "ten times, of 10 A"),
    ("wire.inrush", lambda n: relay(sort="motor", snubber=True, ua=n), 1_666_666, 1_666_667, "six times"),
    ("wire.small-fuse", lambda n: relay(fuse_ua=n), 2_000_000, 1_999_999, "the load's 2 A"),
    ("wire.thin-wire", lambda n: relay(fuse_ua=n, wire_mm2=0.5), 3_000_000, 3_000_001, "IEC 60335-1, table 11"),
    ("wire.thin-wire", lambda n: relay(fuse_ua=n), 6_000_000, 6_000_001, "0.75 mm²"),
    ("wire.thin-wire", lambda n: relay(fuse_ua=n, wire_mm2=1.0), 10_000_000, 10_000_001, "1 mm²"),
    ("wire.thin-wire", lambda n: relay(fuse_ua=n, wire_mm2=1.5), 16_000_000, 16_000_001, "1.5 mm²"),
    ("wire.thin-wire", lambda n: relay(fuse_ua=n, wire_mm2=2.5), 25_000_000, 25_000_001, "2.5 mm²"),
    ("wire.thin-wire", lambda n: relay(fuse_ua=10_000_000, wire_mm2=n / 100), 100, 99, "a wire between two rows is the thinner"),
    ("wire.leaks", lambda n: with_parts({**SSR, "leak_ua": 1_000, "burden": {**LOAD, "ua": n}}), 20_000, 19_999, "a twentieth"),
    ("wire.gate-low", lambda n: with_parts({**STRIP, "gate_mv": n}), 5_000, 5_001, "the board's high"),
    ("wire.trigger", lambda n: with_parts({**MAINS_RELAY, "trigger_mv": n}), 5_000, 5_001, "the board's high"),
    ("wire.over-volts", lambda n: with_parts({**SIGNAL, "high_mv": n}), 5_500, 5_501, "half a volt above the supply"),
    ("wire.over-volts", lambda n: with_parts({**LEVEL, "most_mv": n}), 5_500, 5_501, "the same"),
    ("wire.over-volts", lambda n: with_parts({**SIGNAL_OUT, "stands_mv": n}), 5_000, 4_999, "the board's high"),
    ("wire.over-scale", lambda n: with_parts({**LEVEL, "most_mv": n}), 5_000, 5_001, "the reference"),
    ("wire.narrow", lambda n: with_parts({**LEVEL, "least_mv": 0, "most_mv": n}), 500, 499, "a tenth of 5 V"),
    ("wire.source", lambda n: with_parts({**POT, "track_ohm": n}), 40_000, 40_001, "10 kΩ: a quarter of the track"),
    ("wire.tolerance", halved, 500, 501, "two equal resistors, each n/100 % off either way, move half by n/100 %: 5 % of it"),
    ("wire.magnet", passing, 951, 952, "20 mm in 20 ms of rest, 1 ms and a pass of 22 µs"),
    ("wire.magnet-hold", lambda n: magnet(n * 1_000), 48, 49, "a fifth more than 20 mm at 500 mm/s"),
    ("wire.magnet-hold", lambda n: magnet(n * 1_000), 32, 31, "a fifth less"),
    ("wire.ghosts must", lambda n: with_parts({**KEYS, "keys_at_once": n}), 2, 3, "three show a fourth"),
    ("clean.too-long", lambda n: bench_with((INTERVAL, n * 1_000)), 99, 100, "a tap of 100 ms"),
    ("clean.lag", lambda n: bench_with(held_for(400), (INTERVAL, n * 1_000)), 100, 101, "a tenth of a second is felt"),
    ("clean.few-samples", lambda n: sampled(n, 400, 30), 10, 11, "three in 30 ms"),
    ("clean.few-samples", lambda n: sampled(10, n, 50), 50, 49, "five of 10 ms in the tap"),
    ("clean.full-scale", lambda n: level(unit="counts", above=n, below=1_000.0), 1_023, 1_024, "10 bits"),
    ("clean.unreachable", lambda n: level(above=n, below=50.0), 99, 100, "from 0 to 100"),
    ("clean.unreachable", lambda n: level(above=50.0, below=n), 1, 0, "from 0 to 100"),
    ("clean.slow-sampling", lambda n: moved(n * 1_000), 200, 199, "two samples of 100 ms"),
    ("clean.command-inactive", spoken, 3, 2, "the third is waited for"),
    ("clean.command-misheard", lambda n: with_parts({**SPOKEN, "hit_percent": n}), 90, 89, "90 %"),
    ("pace.overload", lambda n: bench_of(tasks=[task("work", 10, n * 100)]), 99, 100, "all of a 10 ms period"),
    ("pace.blocking", with_hold, 99, 100, "a tap of 100 ms"),
    ("pace.blocking", lambda n: bench_of(loop=tail(n)), 49, 50, "a quick hand, where none taps"),
    ("pace.blocking look", without_contacts, 99, 100, "a tenth of a second is felt, where there is no contact"),
    ("pace.promised", lambda n: promised(n), 61, 60, "two passes of 30 ms and 22 µs"),
    ("pace.promised must", lambda n: promised(n, (200, 150)), 16, 15, "the pass after 200 ms begins 65.4 + 5 × 30.022 ms"),
    ("pace.catch-up", lambda n: bench_of(tasks=[task("work", 20, 10), task("long", 400, n)]), 39_973, 39_974, "two periods, but for a pass of 26 µs"),
    ("pace.pile-up", lambda n: bench_of(tasks=[task("a", 100, 9_000), task("b", 200, n)]), 999, 1_000, "a millisecond"),
    ("pace.overflow", lambda n: bench_of(tasks=[task("work", n * 1_000, 100)], timekeeping={"product": "int"}), 32, 33, "16 bits"),
    ("pace.too-fine", blinks, 21, 20, "a pass of 20 ms and 22 µs"),
    ("pace.asleep", sleeps, 999, 1_000, "awake for 1 s"),
    ("pace.prints-too-much", lambda n: bench_of(tasks=[said(n)]), 96, 97, "9600 baud, 100 ms, ten bits each"),
    ("pace.two-bauds", theirs, 9_811, 9_812, "16 MHz make 9615.4 baud, 2 % either way"),
    ("pace.two-bauds", theirs, 9_427, 9_426, "the same"),
    ("pace.baud", ours, 115_909, 115_908, "16 MHz over 8 × 17 at double speed, 1.5 % off"),
    ("pace.baud must", ours, 214_294, 214_293, "over 8 × 9, 3.7 % off"),
    ("pace.overrun", lambda n: changed(with_parts(SPOKEN), loop=tail(n)), 66, 67, "64 characters of ten bits at 9600 baud"),
    ("pace.kernel-overload", lambda n: bench_of(tasks=[held(5, 50_000), held(4, n)], **KERNEL), 47_800, 47_801, "half, and the loop's 22 µs of 1 ms"),
    ("pace.unschedulable", lambda n: bench_of(tasks=[held(5, n)], **KERNEL), 79_938, 79_939, "a tap of 80 ms, the loop's 22 µs and two changes of 20 µs"),
    ("pace.busy-loop", lambda n: bench_of(tasks=[held(1)], school="kernel", kernel={"loop_us": 0, "loop_priority": n}), 1, 2, "above 1"),
    ("pace.stack-room", lambda n: bench_of(tasks=[{**held(5), "stack_bytes": n}], **KERNEL), 1_336, 1_337, "three quarters of 2048 less 200"),
    ("guard.too-long", guarded, 1_682, 1_683, "two seconds less 65.4 ms of start-up, for an oscillator 15 % slow"),
    ("guard.too-short", lambda n: dogged(250_000, [task("work", 500, n)]), 140_938, 140_939, "85 % of it, over 1.5, by a clock 0.5 % off, less 24 µs"),
    ("guard.too-short must", lambda n: dogged(250_000, [task("work", 500, n)]), 211_418, 211_419, "the same without the margin"),
    ("guard.worn", worn, 3_156, 3_155, "100,000 writes in ten years: one in 3,155.76 s"),
    ("behave.fast-relay", lambda n: drives(MAINS_RELAY, blink(n)), 500, 499, "every half second"),
    ("behave.fast-relay", lambda n: drives(SSR, blink(n)), 20, 19, "two half waves at 50 Hz"),
    ("behave.short-time", lambda n: changed(timed(n), loop=tail(25)), 26, 25, "a pass of 25 ms and its rest"),
    ("behave.limit-stays", ends_after, 9_000, 9_001, "the longest time, 9 s"),
    *(("behave.out-of-range", asks(sign), without, first, "from 0 to 5") for sign, without, first in SIGNS),
    ("behave.out-of-range", lambda n: counting({**TO_ON, "actions": [{"do": "set", "variable": "n", "number": n}]}), 5, 6, "to 5"),
    ("behave.out-of-range", lambda n: counting({**TO_ON, "on": {"kind": "reached", "variable": "n", "value": n}}), 5, 6, "to 5"),
    ("behave.out-of-range", lambda n: counting({**TO_ON, "guards": [{**RANGE, "least": n, "most": 9}]}), 5, 6, "to 5"),
    ("behave.out-of-range", lambda n: counting({**TO_ON, "guards": [{**RANGE, "least": -9, "most": n}]}), 0, -1, "from 0"),
]  # fmt: skip


def is_there(bench: Bench, code: str) -> bool:
    code, _, what = code.partition(" ")
    found = [one for one in study(bench, bench.scenarios[0] if bench.scenarios else None).findings if one.code == code]
    return any(not what or (bool(one.patch) if what == "mend" else one.severity.name.lower() == what) for one in found)


class Thresholds(unittest.TestCase):
    def test_each_begins_where_it_is_said_to(self) -> None:
        for code, made, without, first, why in ROWS:
            with self.subTest(code, why=why):
                self.assertEqual(
                    [(n, is_there(made(n), code)) for n in (without, first)], [(without, False), (first, True)]
                )

    def test_a_drift_is_weighed_against_the_boards_clock(self) -> None:
        # 5000 ppm of an hour are 18 s. What a run loses is its own; here it is given.
        bench = bench_of(tasks=[task("work", 500, 100, keeps="now")])
        found = study(bench, bench.scenarios[0])
        assert found.answers is not None
        tally = found.answers.jobs["work"]
        for lost_us, severity in ((18_000_000, "NOTE"), (18_000_001, "LOOK")):
            given = replace(found.answers, jobs={"work": replace(tally, drift_us=lost_us)})
            (one,) = drift(Evidence(bench, found.scenario, found.run, given, idle_pass_us(bench)))
            self.assertEqual(one.severity.name, severity, lost_us)

    def test_hysteresis_is_weighed_against_the_noise(self) -> None:
        noisy = {**LEVEL, "stands_at": 20.0, "noise_mv": 100}
        bench = with_parts(noisy, above=50.0, below=40.0)
        _, part = bench.sensed[0]
        reading = bench.firmware.readings["p0"]
        assert isinstance(reading, Measure)
        peak = threshold_facts(part, reading, bench.the_board).peak
        self.assertTrue(0 < peak < 100 * 100 / 4_000 + 0.3, peak)  # 100 mV of a range of 4 V, and a count
        for below, there in ((50 - peak - 1e-6, False), (50 - peak + 1e-6, True)):
            self.assertIs(is_there(with_parts(noisy, above=50.0, below=below), "clean.thin-hysteresis"), there)

    def test_keys_are_weighed_against_how_many_may_go_wrong(self) -> None:
        def wrong(per_thousand: int) -> tuple[int, int] | None:
            keys = with_parts({**KEYS, "diodes": True}, scan_us=1_000, interval_us=0)
            bench = at(keys, taps={"p0": {"per_thousand": per_thousand}})
            found = [one for one in study(bench, bench.scenarios[0]).findings if one.code == "clean.keys-wait"]
            return (
                (sum(int(said) for _, said in found[0].numbers), int(found[0].sentence.split()[2])) if found else None
            )

        counted = wrong(0)
        assert counted is not None
        enough = next(n for n in range(1_000) if counted[1] * n // 1_000 >= counted[0])
        self.assertIsNotNone(wrong(enough - 1))
        self.assertIsNone(wrong(enough))


if __name__ == "__main__":
    unittest.main()
