"""Each rule speaks where it should, is silent where it should be, and its mend mends."""

from __future__ import annotations

import unittest
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

from hypothesis import HealthCheck, given, settings

from tests.core.finding_cases import (
    BUS,
    BUTTON,
    CASES,
    DIAL,
    KEYS,
    LEVEL,
    MODULE,
    MOTOR,
    PEDAL,
    RADIO,
    RGB,
    SHORT_TAP,
    VALVE,
    bench_with,
    expecting,
    spin,
    with_parts,
)
from tests.core.hazard_cases import HAZARD_CASES
from tests.core.pace_cases import PACE_CASES
from tests.core.test_engine import push_bench
from tests.depth import DEPTH
from tests.random_benches import benches
from viva_tick.core.document import Bench, Scenario, bench_data
from viva_tick.core.edits import apply_patch
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.findings import Finding, Severity
from viva_tick.core.study import study
from viva_tick.core.timing import answers, difference, spread, tally
from viva_tick.core.units import ms, signed_ms
from viva_tick.demo import ORDER, demo_bench

ALL_CASES = (*CASES, *PACE_CASES, *((code, bench, mends) for code, bench, mends, _ in HAZARD_CASES))
# What a mend may bring up that it cannot know of.
ALLOWED: dict[str, set[str]] = {}
DOCS = Path(__file__).parents[2] / "docs"


def every(findings: Iterable[Finding]) -> Iterator[Finding]:
    """Findings, and those that follow from them."""
    for finding in findings:
        yield from (finding, *finding.lines)


def found(bench: Bench) -> dict[str, Finding]:
    """Findings by code, worked out once for each bench that is one of the cases."""
    if id(bench) not in FOUND:
        FOUND[id(bench)] = bench, {one.code: one for one in every(study(bench, bench.scenarios[0]).findings)}
    return FOUND[id(bench)][1]


FOUND: dict[int, tuple[Bench, dict[str, Finding]]] = {}
MENDED: dict[int, tuple[Finding, Bench]] = {}


def mended(bench: Bench, finding: Finding) -> Bench:
    """The bench with the finding's mend, or with what it asks for as it suggests it."""
    if id(finding) not in MENDED:
        MENDED[id(finding)] = finding, _mended(bench, finding)
    return MENDED[id(finding)][1]


def _mended(bench: Bench, finding: Finding) -> Bench:
    patch = [dict(operation) for operation in finding.patch]
    if asked := finding.asks:
        patch = [{"op": "add", "path": asked.path, "value": {asked.field: asked.suggested_us}}]
    return apply_patch(bench, patch)


class Rules(unittest.TestCase):
    def test_a_sound_bench_shows_nothing(self) -> None:
        self.assertEqual(found(push_bench()), {})
        so = [
            {"kind": "count", "of": "lamp", "what": "on", "times": 1}, {"kind": "count", "of": "button", "what": "press", "times": 1},
            {"kind": "on", "output": "lamp", "on": False, "from_us": 70_000, "to_us": 190_000},
            {"kind": "on", "output": "lamp", "from_us": 250_000, "to_us": 1_000_000},
            {"kind": "state", "machine": "toggle", "state": "on", "at_us": 500_000},
        ]  # fmt: skip
        self.assertEqual(found(expecting(*so)), {})
        self.assertEqual(found(bench_with(PEDAL, interval_ms=20)), {})
        self.assertEqual(found(push_bench("none", 0)), {}, "a contact that does not bounce needs no debounce")

    def test_each_rule_speaks_and_its_mend_mends(self) -> None:
        for code, bench, mends in ALL_CASES:
            with self.subTest(code=code):
                finding = found(bench).get(code)
                assert finding is not None
                self.assertEqual(bool(finding.patch or finding.asks), mends)
                self.assertEqual(bool(finding.mend), bool(finding.patch))
                self.assertEqual(bool(finding.numbers), code != "wire.hazard")
                if mends:
                    self.assertNotIn(code, found(mended(bench, finding)))

    def test_no_mend_makes_anything_worse(self) -> None:
        for code, bench, mends in ALL_CASES:
            with self.subTest(code=code):
                before = found(bench)
                if mends:
                    after = found(mended(bench, before[code]))
                    grave = {name for name, one in after.items() if one.severity is Severity.MUST}
                    self.assertLessEqual(grave - set(before), ALLOWED.get(code, set()))

    def test_each_rule_is_silent_beside_it(self) -> None:
        for code, _, _, silent in HAZARD_CASES:
            with self.subTest(code=code):
                self.assertNotIn(code, found(silent))

    def test_every_pointer_points_into_the_document(self) -> None:
        for code, bench, _ in ALL_CASES:
            here: Any = bench_data(bench)
            for step in found(bench)[code].pointer.strip("/").split("/")[:-1]:
                here = here[int(step)] if isinstance(here, list) else here[step]
            self.assertIsNotNone(here)

    def test_no_rule_speaks_where_all_is_well(self) -> None:
        for bench in (
            with_parts(MODULE), with_parts({**MODULE, "wired": "pin-ground-supply", "active_level": "high"}),
            with_parts({**KEYS, "diodes": True}), with_parts(DIAL), with_parts(BUS, {**BUS, "address": 40}),
            with_parts(RGB), with_parts({**BUTTON, "wiring": {"wire_cm": 800, "pull": "up", "pull_ohm": 2_700, "guard": "clamp"}}),
            with_parts({"kind": "slide-switch", "pin": "D4", "other_throw": "wired"}),
            with_parts({"kind": "relay", "pin": "D4", "opto": True, "own_supply": True, "grounds_joined": False, "loads": ["nothing"]}),
            with_parts({"kind": "panel-button", "pin": "D4", "lamp": {"pin": "D7"}}), with_parts(LEVEL), with_parts(VALVE),
            with_parts({**LEVEL, "pin": "P34", "upper_ohm": 6_800}, board=RADIO),
        ):  # fmt: skip
            self.assertEqual(found(bench), {}, bench.parts)
        self.assertNotIn("wire.both-directions", found(with_parts(MOTOR, machines=[spin(True)])))
        self.assertNotIn(
            "wire.both-directions", found(with_parts({**MOTOR, "both_on": "brakes"}, machines=[spin(False)]))
        )

    def test_both_directions_are_found_where_the_run_shows_them(self) -> None:
        for forgets in (False, True):
            bench = with_parts(MOTOR, machines=[spin(forgets)])
            trace = SkippingEngine().run(bench, bench.scenarios[0]).trace
            transitions = [trace.signal(Kind.OUTPUT, f"p0.{transition}") for transition in ("forward", "backward")]
            at_end = [signal.values[-1] for signal in transitions]
            self.assertEqual(at_end == [1, 1], "wire.both-directions" in found(bench))
        finding = found(with_parts(MOTOR, machines=[spin(False)]))["wire.both-directions"]
        self.assertTrue(finding.show_us)

    def test_severity_of_a_lamp_that_can_hurt(self) -> None:
        self.assertEqual(
            found(next(b for c, b, _ in CASES if c == "behave.rest-state"))["behave.rest-state"].severity, Severity.LOOK
        )
        self.assertEqual(found(CASES[-1][1])["behave.rest-state"].severity, Severity.MUST)

    def test_the_catalogue_is_described(self) -> None:
        text = (DOCS / "findings.md").read_text()
        for code in {code for code, _, _ in ALL_CASES}:
            self.assertIn(f"`{code}`", text)

    @settings(max_examples=50 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck))
    @given(benches())
    def test_every_mend_offered_anywhere_can_be_applied(self, made: tuple[Bench, Scenario]) -> None:
        bench, scenario = made
        for finding in every(study(bench, scenario).findings):
            self.assertNotEqual(finding.code, "build.unchecked", finding.sentence)
            if finding.patch:
                self.assertNotEqual(apply_patch(bench, [dict(operation) for operation in finding.patch]), bench)

    def test_each_demo_shows_its_planted_weakness(self) -> None:
        planted = {
            "print-timer": {
                "wire.unheld",
                "clean.counted",
                "clean.too-short",
                "pace.blocking",
                "clean.encoder-undivided",
                "pace.promised",
                "guard.alone",
            },
            "rain-barrel": {
                "wire.floating",
                "wire.no-diode",
                "wire.long-wire",
                "clean.no-hysteresis",
                "pace.drift",
                "pace.pile-up",
            },
            "parcel-box": {"wire.ghosts", "wire.unheld", "clean.keys-wait", "guard.none"},
            "club-evening": {"wire.lamp-bare"},
            "quiz-table": {"clean.counted", "clean.too-long", "clean.command-base", "clean.command-misheard"},
            "bicycle-lamp": {"clean.counted", "clean.too-long", "behave.rest-state", "clean.mixed-units"},
        }
        for name in ORDER:
            self.assertLessEqual(planted[name], set(found(demo_bench(name))), name)


class Answers(unittest.TestCase):
    def test_the_flagship_counts_one_press_twice_and_the_advice_mends_it(self) -> None:
        bench = demo_bench("print-timer")
        before = study(bench, bench.scenarios[0])
        counted = next(f for f in every(before.findings) if f.code == "clean.counted")
        after_bench = apply_patch(bench, [dict(operation) for operation in counted.patch])
        after = study(after_bench, after_bench.scenarios[0])
        assert before.answers is not None
        assert after.answers is not None
        was, now = before.answers.tallies["foot-pedal"], after.answers.tallies["foot-pedal"]
        self.assertEqual((was.made, was.counted, len(was.doubled_us)), (2, 3, 1))
        self.assertEqual((now.made, now.counted, now.agrees), (2, 2, True))
        line = difference(after_bench, before.answers, after.answers)
        self.assertTrue(line.startswith("−1 extra press, +10"), line)
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
