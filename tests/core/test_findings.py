"""Each rule speaks where it should, is silent where it should be, and its mend mends."""

from __future__ import annotations

import unittest
from pathlib import Path
from typing import Any

from hypothesis import HealthCheck, given, settings

from tests.core.test_engine import push_bench
from tests.random_benches import benches
from viva_tick.core.document import Bench, Scenario, bench_data, bench_from_data
from viva_tick.core.edits import apply_patch
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.findings import Finding, Severity
from viva_tick.core.study import study
from viva_tick.core.timing import answers, difference, spread, tally
from viva_tick.core.units import ms, signed_ms
from viva_tick.demo import ORDER, demo_bench

DOCS = Path(__file__).parents[2] / "docs"
LAMP = {"id": "lamp", "name": "Lamp", "pin": "D8", "resistor_ohm": 100}
RELAY = {"id": "lamp", "name": "Lamp", "pin": "D8", "kind": "relay", "load": "mains"}


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


def found(bench: Bench) -> dict[str, Finding]:
    return {finding.code: finding for finding in study(bench, bench.scenarios[0]).findings}


def on_board(board: str, button: str, lamp: str) -> Bench:
    return bench_with(("/board", board), ("/inputs/0/pin", button), ("/outputs/0/pin", lamp))


def relays(count: int, coil_ua: int) -> Bench:
    boards = [
        {"id": f"r{n}", "name": f"R{n}", "pin": f"D{n + 3}", "kind": "relay", "coil_ua": coil_ua} for n in range(count)
    ]
    return bench_with(("/outputs", boards), ("/firmware/machines", []))


PEDAL = ("/inputs/0/contact/switch", "foot-pedal")
SHORT_TAP = ("/scenarios/0/stimuli/0/hold_us", 40_000)
ON = {"kind": "steady", "on": True}
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
    ("wire.reset", on_board("small-8bit-5v", "P0", "P5"), True),
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
    ("wire.unheld", bench_with(("/outputs/0", {**RELAY, "load": "none", "active_level": "low"})), True),
    ("wire.unheld", bench_with(("/outputs/0", RELAY)), True),
    ("wire.relay-supply", relays(2, 75_000), True),
    ("wire.relay-supply", relays(1, 480_000), True),
    ("wire.all-pins", bench_with(("/outputs", [{**LAMP, "id": f"l{n}", "pin": f"D{n + 3}"} for n in range(8)]), ("/firmware/machines", [])), False),
    ("clean.none", bench_with(PEDAL, method="none", interval_ms=0), True),
    ("clean.too-short", bench_with(PEDAL, interval_ms=1), True),
    ("clean.too-short", bench_with(PEDAL, method="act-ignore", interval_ms=3), True),
    ("clean.too-long", bench_with(SHORT_TAP, interval_ms=50), True),
    ("clean.counted", bench_with(SHORT_TAP, interval_ms=50), False),
    ("clean.counted", bench_with(("/inputs/0/contact/switch", "worn-button"), method="none", interval_ms=0), True),
    ("pace.blocking", bench_with(("/firmware/machines/0/states/1/drives/lamp", WAIT)), True),
    ("pace.blocking", bench_with(SHORT_TAP, method="fixed-delay", interval_ms=50), True),
    ("pace.blocking", bench_with(("/firmware/loop/tail_delay_us", 100_000)), True),
    ("pace.blocking", bench_with(("/firmware/tasks", [{"id": "t", "name": "T", "period_us": 500_000, "run_us": 150_000}])), False),
    ("behave.rest-state", bench_with(("/firmware/machines/0/states/0/drives/lamp", ON)), True),
    ("behave.rest-state", bench_with(("/outputs/0/at_rest", "on")), True),
    ("wire.hazard", bench_with(("/outputs/0", RELAY)), False),
    ("behave.rest-state", bench_with(("/firmware/machines/0/states/0/drives/lamp", ON), ("/outputs/0", RELAY)), True),
)  # fmt: skip


class Rules(unittest.TestCase):
    def test_a_sound_bench_shows_nothing(self) -> None:
        self.assertEqual(found(push_bench()), {})
        self.assertEqual(found(bench_with(PEDAL, interval_ms=20)), {})
        self.assertEqual(found(push_bench("none", 0)), {}, "a contact that does not bounce needs no debounce")

    def test_each_rule_speaks_and_its_mend_mends(self) -> None:
        for code, bench, mends in CASES:
            with self.subTest(code=code):
                finding = found(bench).get(code)
                assert finding is not None
                self.assertEqual(bool(finding.patch), mends)
                self.assertEqual(bool(finding.mend), mends)
                self.assertEqual(bool(finding.numbers), code != "wire.hazard")
                if mends:
                    mended = apply_patch(bench, [dict(operation) for operation in finding.patch])
                    self.assertNotIn(code, found(mended))

    def test_every_pointer_points_into_the_document(self) -> None:
        for code, bench, _ in CASES:
            here: Any = bench_data(bench)
            for step in found(bench)[code].pointer.strip("/").split("/")[:-1]:
                here = here[int(step)] if isinstance(here, list) else here[step]
            self.assertIsNotNone(here)

    def test_severity_of_a_lamp_that_can_hurt(self) -> None:
        self.assertEqual(found(CASES[-4][1])["behave.rest-state"].severity, Severity.LOOK)
        self.assertEqual(found(CASES[-1][1])["behave.rest-state"].severity, Severity.MUST)

    def test_the_catalogue_is_described(self) -> None:
        text = (DOCS / "findings.md").read_text()
        for code in {code for code, _, _ in CASES}:
            self.assertIn(f"`{code}`", text)

    @settings(max_examples=80, deadline=None, suppress_health_check=list(HealthCheck))
    @given(benches())
    def test_every_mend_offered_anywhere_can_be_applied(self, made: tuple[Bench, Scenario]) -> None:
        bench, scenario = made
        for finding in study(bench, scenario).findings:
            if finding.patch:
                self.assertNotEqual(apply_patch(bench, [dict(operation) for operation in finding.patch]), bench)

    def test_each_demo_shows_its_planted_weakness(self) -> None:
        planted = {
            "print-timer": {"wire.unheld", "clean.counted", "clean.too-short", "pace.blocking"},
            "rain-barrel": {"wire.floating"},
            "quiz-table": {"clean.counted", "clean.too-long"},
            "bicycle-lamp": {"clean.counted", "clean.too-long", "behave.rest-state"},
        }
        for name in ORDER:
            self.assertLessEqual(planted[name], set(found(demo_bench(name))), name)


class Answers(unittest.TestCase):
    def test_the_flagship_counts_one_press_twice_and_the_advice_mends_it(self) -> None:
        bench = demo_bench("print-timer")
        before = study(bench, bench.scenarios[0])
        counted = next(f for f in before.findings if f.code == "clean.counted")
        after_bench = apply_patch(bench, [dict(operation) for operation in counted.patch])
        after = study(after_bench, after_bench.scenarios[0])
        assert before.answers is not None
        assert after.answers is not None
        was, now = before.answers.tallies["foot-pedal"], after.answers.tallies["foot-pedal"]
        self.assertEqual((was.made, was.counted, len(was.doubled_us)), (2, 3, 1))
        self.assertEqual((now.made, now.counted, now.agrees), (2, 2, True))
        line = difference(after_bench, before.answers, after.answers)
        self.assertTrue(line.startswith("−1 false press, +10"), line)
        self.assertEqual(difference(bench, before.answers, before.answers), "nothing this scenario shows")

    def test_missed_doubled_and_from_nothing(self) -> None:
        for bench, missed, doubled in (
            (bench_with(SHORT_TAP, interval_ms=50), 1, 0),
            (bench_with(("/inputs/0/contact/switch", "worn-button"), method="none", interval_ms=0), 0, 4),
        ):
            run = SkippingEngine().run(bench, bench.scenarios[0], seed=4)
            said = tally(run, "button", bench.debounce("button").interval_us)
            self.assertEqual((len(said.missed_us), len(said.doubled_us) > 0), (missed, doubled > 0))
        floats = bench_with(("/inputs/0/wiring/pull", "none"), method="none", interval_ms=0)
        run = SkippingEngine().run(floats, floats.scenarios[0])
        self.assertTrue(tally(run, "button", 0).from_nothing_us)

    def test_on_time_is_what_the_trace_says(self) -> None:
        bench = push_bench()
        run = SkippingEngine().run(bench, bench.scenarios[0])
        lamp = run.trace.signal(Kind.OUTPUT, "lamp")
        self.assertEqual(answers(bench, run).on_us["lamp"], 1_000_000 - lamp.times_us[-1])

    def test_spread_is_by_nearest_rank(self) -> None:
        for values, wanted in (([5], (5, 5, 5, 5)), (list(range(1, 101)), (1, 50, 95, 100)), ([3, 1, 2], (1, 2, 3, 3))):
            said = spread(values)
            assert said is not None
            self.assertEqual((said.least, said.median, said.p95, said.most), wanted)
        self.assertIsNone(spread([]))

    def test_units(self) -> None:
        for us, text in (
            (42, "0.04 ms"),
            (2_100, "2.1 ms"),
            (18_000, "18 ms"),
            (112_042, "112 ms"),
            (12_000_000, "12 s"),
        ):
            self.assertEqual(ms(us), text)
        self.assertEqual((signed_ms(-13_000), signed_ms(13_000)), ("−13 ms", "+13 ms"))


if __name__ == "__main__":
    unittest.main()
