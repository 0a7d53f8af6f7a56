"""What stands out begins exactly where it is said to: the number on one side of each threshold, and the next on the
other, each worked out by hand from the figure beside the rule."""

from __future__ import annotations

import unittest
from collections.abc import Callable
from typing import Any

from tests.core.finding_cases import TO_ON, bench_with, changed, machine_with, with_parts
from tests.core.hazard_cases import BLINK, FAN, MAINS_RELAY, at, drives, relay
from tests.core.pace_benches import bench_of, task, with_hold
from viva_tick.core.document import Bench
from viva_tick.core.study import study

PULL = ("/inputs/0/wiring/pull", "up")
PRINT = {"does": "print", "characters": 5}


def prints(characters: int) -> Bench:
    return bench_of(tasks=[task("say", 100, 0, does="print", characters=characters)])


def guarded(timeout_ms: int) -> Bench:
    lamp = {"kind": "relay", "loads": ["mains"]}
    return bench_of(watchdog={"mode": "reset", "timeout_us": timeout_ms * 1000}, lamp=lamp)


def theirs(baud: int) -> Bench:
    return bench_of(serial={"theirs": baud}, tasks=[task("say", 100, 0, **PRINT)])


def blinking(ms: int) -> Bench:
    return drives(MAINS_RELAY, {**BLINK, "on_us": ms * 1000, "off_us": ms * 1000})


# (code, bench of a number, the last number without it, the first with it). Why there, in the same order:
# 5 V over 1 kΩ and the contact's 0.1 Ω is under 5 mA for silver · over 3 m · over 10 A · a fuse under the load's 2 A ·
# 0.75 mm² carries 6 A · quicker than every half second · all of a 10 ms period · a tenth of a second is felt ·
# 9600 baud carry 96 characters in 100 ms · 16 MHz make 9615.4 baud, 2 % either way · a tap of 100 ms · two seconds
# less 65.4 ms of start-up, for an oscillator 15 % slow · a pass of 25 ms and its rest · the board's 5 V · a peak of 0.1 A.
ROWS: list[tuple[str, Callable[[int], Bench], int, int]] = [
    ("wire.wetting", lambda n: bench_with(("/inputs/0/metal", "silver"), PULL, ("/inputs/0/wiring/pull_ohm", n)), 999, 1_000),
    ("wire.long-cable", lambda n: bench_with(("/inputs/0/wiring/wire_cm", n)), 300, 301),
    ("wire.contact-over", lambda n: relay(ua=n), 10_000_000, 10_000_001),
    ("wire.small-fuse", lambda n: relay(fuse_ua=n), 2_000_000, 1_999_999),
    ("wire.thin-wire", lambda n: relay(fuse_ua=n), 6_000_000, 6_000_001),
    ("behave.fast-relay", blinking, 500, 499),
    ("pace.overload", lambda n: bench_of(tasks=[task("work", 10, n * 100)]), 99, 100),
    ("pace.blocking", with_hold, 99, 100),
    ("pace.prints-too-much", prints, 96, 97),
    ("pace.two-bauds", theirs, 9_811, 9_812),
    ("pace.two-bauds", theirs, 9_427, 9_426),
    ("clean.too-long", lambda n: bench_with(("/firmware/debounce/button/interval_us", n * 1000)), 99, 100),
    ("guard.too-long", guarded, 1_682, 1_683),
    ("behave.short-time", lambda n: changed(machine_with({**TO_ON, "on": {"kind": "timeout", "after_us": n * 1000}}),
                                            loop={"tail_delay_us": 25_000}), 26, 25),
    ("wire.trigger", lambda n: with_parts({**MAINS_RELAY, "trigger_mv": n}), 5_000, 5_001),
    ("wire.start-current", lambda n: at(with_parts({**FAN, "own_supply": False, "load_ua": 20_000, "peak_ua": n}),
                                        power={"bulk_uf": 0}), 99_999, 100_000),
]  # fmt: skip


class Thresholds(unittest.TestCase):
    def test_each_begins_where_it_is_said_to(self) -> None:
        for code, made, without, with_it in ROWS:
            for number, there in ((without, False), (with_it, True)):
                with self.subTest(code, number=number):
                    bench = made(number)
                    scenario: Any = bench.scenarios[0] if bench.scenarios else None
                    codes = {finding.code for finding in study(bench, scenario).findings}
                    self.assertIs(code in codes, there, sorted(codes))


if __name__ == "__main__":
    unittest.main()
