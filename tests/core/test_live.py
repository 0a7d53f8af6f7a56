"""A bench under somebody's hands: what was seen live is what the scenario shows, whatever is done later."""

from __future__ import annotations

import unittest
from bisect import bisect_right
from typing import Any
from unittest.mock import patch

from hypothesis import HealthCheck, event, given, settings
from hypothesis import strategies as st

from tests.core.on_host import NO_SHRINK
from tests.depth import DEPTH
from tests.random_benches import benches, sensed_benches
from viva_tick.core.document import Bench, DocumentError, Scenario
from viva_tick.core.engine import Budget, Fault, Going, Kind, PlainEngine, Signal, SkippingEngine, Trace
from viva_tick.core.going_on import Sessions
from viva_tick.core.guard import fault_at, faults_of
from viva_tick.core.live import BUDGET, LONGEST_US, SESSIONS, by_hand, ended, kept, live, next_pass, with_what_was_seen
from viva_tick.core.timing.expected import judged
from viva_tick.demo import demo_bench

Stimuli = list[dict[str, Any]]


def as_done(scenario: Scenario) -> Stimuli:
    """What a hand on the panel does for the stimuli of a scenario: a press is put down and let go."""
    found: Stimuli = []
    for one in scenario.stimuli:
        if one.kind == "press":
            for at_us, pressed in ((one.at_us, True), (one.at_us + one.hold_us, False)):
                found.append({"kind": "set", "input": one.input, "at_us": at_us, "pressed": pressed})
        else:
            found.append(one.model_dump(mode="json"))
    return sorted(found, key=lambda one: int(one["at_us"]))


def before(trace: Trace, at_us: int) -> dict[tuple[str, str], list[tuple[int, Any]]]:
    """All that a trace says of the time before an instant; a pass that began then is not over."""
    rows = {}
    for one in trace.signals:
        if one.kind in ("pass", "blocked", "job"):
            continue
        found = [row for row in zip(one.times_us, one.values, strict=True) if row[0] < at_us]
        if found:
            rows[str(one.kind), one.of] = found
    return rows


def value_at(signal: Signal, at_us: int) -> Any:
    return signal.values[bisect_right(signal.times_us, at_us) - 1]


def after(trace: Trace, at_us: int) -> dict[tuple[str, str], list[tuple[int, Any]]]:
    """All that a trace says of the time after an instant."""
    rows = {(str(one.kind), one.of): zip(one.times_us, one.values, strict=True) for one in trace.signals}
    return {name: found for name, of in rows.items() if (found := [row for row in of if row[0] > at_us])}


class ByHand(unittest.TestCase):
    @settings(max_examples=30 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(st.one_of(benches(), sensed_benches()), st.integers(20_000, 380_000))
    def test_what_was_seen_stays_whatever_is_done_later(self, made: tuple[Bench, Scenario], now_us: int) -> None:
        bench, scenario = made
        done, upsets = as_done(scenario), [one.model_dump(mode="json") for one in scenario.upsets]
        # A press is let go in time: what is still held then is held in both.
        then = [one for one in done if one["at_us"] < now_us]
        early = [one for one in upsets if one["at_us"] < now_us]
        seen = by_hand(bench, then, early, scenario.length_us + 50_000, scenario.seed)
        later = by_hand(bench, done, upsets, scenario.length_us + 100_000, scenario.seed)
        runs = [live(bench, one, -1).run for one in (seen, later)]
        if any(run.stopped for run in runs):
            return
        self.assertEqual(*(before(run.trace, now_us) for run in runs))

    @settings(max_examples=30 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(st.one_of(benches(), sensed_benches()))
    def test_what_is_kept_is_what_was_played(self, made: tuple[Bench, Scenario]) -> None:
        bench, scenario = made
        upsets = [one.model_dump(mode="json") for one in scenario.upsets]
        played = by_hand(bench, as_done(scenario), upsets, scenario.length_us + 500_000, scenario.seed)
        made_of_it = kept(bench, played, scenario.length_us + 500_000)
        self.assertEqual(made_of_it.length_us, played.length_us)
        one, other = (SkippingEngine().run(bench, each) for each in (played, made_of_it))
        self.assertEqual(
            [(s.kind, s.of, s.times_us, s.values) for s in one.trace.signals],
            [(s.kind, s.of, s.times_us, s.values) for s in other.trace.signals],
        )
        seen = with_what_was_seen(bench, made_of_it)
        self.assertGreaterEqual(len(seen.expects), len(bench.channels))
        self.assertEqual([one for one in judged(bench, seen, other) if not one.met], [])

    @patch("viva_tick.core.live.EVERY_US", 15_000)
    @patch("viva_tick.core.engine.resuming.EVERY_US", 15_000)
    @patch("viva_tick.core.engine.resuming.KEPT_US", 60_000)
    @settings(max_examples=40 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(st.one_of(benches(), sensed_benches()), st.lists(st.integers(10_000, 380_000), min_size=3, max_size=6))
    def test_taken_up_again_it_is_as_if_it_had_never_stopped(
        self, made: tuple[Bench, Scenario], looks: list[int]
    ) -> None:
        bench, scenario = made
        done, upsets = as_done(scenario), [one.model_dump(mode="json") for one in scenario.upsets]
        faults = [fault_at(bench, one.id, of, looks[0]) for one, of, _ in faults_of(bench)][: looks[1] % 4]
        taken_up = 0
        for now_us in sorted(looks):
            then = [one for one in done if one["at_us"] <= now_us]
            early = [one for one in upsets if one["at_us"] <= now_us]
            seen = by_hand(bench, then, early, now_us + 100_000, scenario.seed)
            wrong = [one for one in faults if one.at_us <= now_us]
            key = SESSIONS.key(bench, scenario.seed, "s")
            taken_up += SESSIONS.latest(key, seen, wrong, now_us - 1) is not None
            found = live(bench, seen, now_us - 1, wrong, "s", now_us)
            run = SkippingEngine().run(bench, seen, budget=BUDGET, fault=wrong)
            if run.stopped or found.run.stopped:
                return
            self.assertEqual(after(found.run.trace, now_us - 1), after(run.trace, now_us - 1))
        if bench.firmware.school != "kernel":
            event(f"taken up {taken_up} times")

    def test_what_happened_is_said_as_it_is(self) -> None:
        bench = demo_bench("print-timer")  # its pedal counts bounces: that is what Clean mends
        done = as_done(bench.scenario("One print"))
        found = live(bench, by_hand(bench, done, [], 2_600_000, bench.scenarios[0].seed), -1)
        words = [one.words for one in found.happened]
        self.assertIn("Safelight on", words)
        self.assertIn("Lamp mode: Dark → Focus", words)
        odd = [one.words for one in found.happened if one.odd]
        self.assertEqual(odd, ["Foot pedal: pressed again, a bounce counted"])
        self.assertEqual([one.at_us for one in found.happened], sorted(one.at_us for one in found.happened))
        # What is asked for again begins after what is known.
        after = live(bench, by_hand(bench, done, [], 2_600_000, bench.scenarios[0].seed), 700_000)
        self.assertTrue(all(at > 700_000 for rows in after.changes.values() for of in rows.values() for at, _ in of))
        self.assertEqual(after.happened, tuple(one for one in found.happened if one.at_us > 700_000))

    def test_several_faults_come_and_go(self) -> None:
        bench = demo_bench("print-timer")
        scenario = by_hand(bench, as_done(bench.scenario("One print")), [], 4_000_000, 0)
        faults = [
            Fault("closed", 1_500_000, "safelight-switch", for_us=300_000),
            Fault("off", 2_000_000, "foot-pedal"),
            Fault("welded", 400_000, "focus-lamp", for_us=1_600_000),
            Fault("stuck", 3_000_000),
        ]
        run = SkippingEngine().run(bench, scenario, fault=faults)
        sound = SkippingEngine().run(bench, scenario)
        signals = [one.trace.signal(Kind.CONTACT, "safelight-switch") for one in (run, sound)]
        self.assertEqual(*(value_at(one, 1_400_000) for one in signals))
        self.assertEqual(*(value_at(one, 1_900_000) for one in signals))
        self.assertEqual(value_at(signals[0], 1_700_000), 1)
        lamp, was = (one.trace.signal(Kind.OUTPUT, "focus-lamp") for one in (run, sound))
        off_us = next(at for at, value in zip(was.times_us, was.values, strict=True) if at > 400_000 and value == 0)
        self.assertEqual([value_at(lamp, at) for at in (off_us + 10, 1_999_000)], [1, 1])
        self.assertEqual(value_at(lamp, 2_100_000), value_at(was, 2_100_000))
        # The watchdog ends the loop that hangs, and is seen to.
        self.assertEqual(run.trace.signal(Kind.RESET).values, ["watchdog"])
        self.assertEqual(ended(faults, run), {3: run.trace.signal(Kind.RESET).times_us[0]})
        words = [one.words for one in live(bench, scenario, -1, faults).happened]
        for said in ("A wire has come off: Foot pedal", "Safelight switch is as it was", "A block never returns"):
            self.assertIn(said, words)

    def test_a_press_that_is_missed_is_said(self) -> None:
        bench = demo_bench("quiz-table")
        down = {"kind": "set", "input": "ann-button", "at_us": 500_000, "pressed": True}
        done = [down, {**down, "at_us": 502_000, "pressed": False}, {**down, "at_us": 900_000}]
        found = live(bench, by_hand(bench, done, [], 1_400_000, 0), -1)
        self.assertEqual([(one.at_us, one.words) for one in found.happened if one.odd],
                         [(702_000, "Ann's button: a press was missed")])  # fmt: skip

    def test_passes_one_by_one(self) -> None:
        bench = demo_bench("quiz-table")
        run = PlainEngine().run(bench, by_hand(bench, [], [], 80_000, 0))
        skipped = SkippingEngine().run(bench, by_hand(bench, [], [], 80_000, 0))
        begins: list[int] = []
        at_us: int | None = -1
        while (at_us := next_pass(skipped, at_us)) is not None:
            begins.append(at_us)
        rows = run.trace.signal(Kind.PASS)
        wanted = [at + n * v[0] for at, v in zip(rows.times_us, rows.values, strict=True) for n in range(v[1])]
        self.assertEqual(begins, wanted)
        self.assertGreater(len(begins), 100)

    @patch("viva_tick.core.live.BUDGET", Budget(passes=300, changes=200_000))
    def test_what_takes_long_comes_in_pieces(self) -> None:
        bench = demo_bench("rain-barrel")
        whole = by_hand(bench, [], [], 30_000_000, 0)
        self.assertTrue(live(bench, whole, -1, (), "slow", 0).goes_on)
        now_us, looks = 0, 0
        while now_us < 10_000_000:
            found = live(bench, by_hand(bench, [], [], now_us + 20_000_000, 0), now_us - 1, (), "slow", now_us)
            self.assertGreater(found.run.trace.length_us, now_us)
            now_us, looks = min(found.run.trace.length_us, 10_000_000), looks + 1
        self.assertGreater(looks, 3)

    def test_sessions_take_no_more_room_than_they_may(self) -> None:
        bench, sessions = demo_bench("rain-barrel"), Sessions(200_000)
        scenario = by_hand(bench, [], [], 12_000_000, 0)
        for number in range(40):
            going = Going(None, (2_000_000, 11_000_000))
            SkippingEngine().go_on(bench, scenario, BUDGET, (), going)
            assert going.kept is not None
            sessions.keep(str(number), scenario, (), going.kept)
            self.assertLessEqual(sessions.size, 200_000)
        self.assertIsNone(sessions.latest("0", scenario, (), 11_000_000))
        self.assertIsNotNone(sessions.latest("39", scenario, (), 11_000_000))
        self.assertIsNone(sessions.latest("39", scenario, (), -5))  # it does not know what was then

    def test_what_cannot_be_done(self) -> None:
        bench = demo_bench("quiz-table")
        press = {"kind": "set", "input": "ann-button", "at_us": 5, "pressed": True}
        for stimuli, until_us, where in (
            ([{**press, "input": "nobody"}], 1_000_000, "/stimuli/0/input"),
            ([{**press, "kind": "fly"}], 1_000_000, "/stimuli/0"),
            ("much", 1_000_000, "/stimuli"),
            ([], LONGEST_US + 1, "/until_us"),
            (
                [{"kind": "turn", "input": "ann-button", "at_us": 5, "clicks": 1, "over_us": 1000}],
                9_000,
                "/stimuli/0/input",
            ),
        ):
            with self.subTest(where), self.assertRaises(DocumentError) as refused:
                by_hand(bench, stimuli, [], until_us, 0)
            self.assertTrue(refused.exception.problems[0].pointer.startswith(where), refused.exception.problems)


if __name__ == "__main__":
    unittest.main()
