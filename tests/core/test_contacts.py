"""Contacts: the model's figures, replayed captures, and the sweep held against the engine press by press."""

from __future__ import annotations

import itertools
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.core.test_engine import push_bench
from tests.depth import DEPTH
from viva_tick.core.contacts import (
    CaptureBouncer,
    ContactCourse,
    bounce_figures,
    capture_bursts,
    contact_course,
    distribution,
)
from viva_tick.core.contacts.statistics import source_bouncer
from viva_tick.core.debounce import FAR, METHODS, PassClock
from viva_tick.core.document import Bench, Capture, Edge, Scenario, bench_data, bench_from_data
from viva_tick.core.engine.firmware import Firmware
from viva_tick.core.engine.watchdog import Reset
from viva_tick.core.program import idle_pass_us
from viva_tick.core.sweep import (
    TapStyle,
    Trials,
    advise,
    decide,
    doubled_rate,
    evaluate,
    make_trials,
    sampled,
    sweep_input,
)
from viva_tick.core.sweep.trials import START_US, _padded, _trial
from viva_tick.core.switches import SWITCH_CLASSES
from viva_tick.demo import demo_bench


def with_switch(switch: str, hold_us: int = 100_000) -> Bench:
    data = bench_data(push_bench())
    data["inputs"][0]["contact"]["switch"] = switch
    data["scenarios"][0]["stimuli"][0]["hold_us"] = hold_us
    return bench_from_data(data)


class TheModel(unittest.TestCase):
    def test_every_class_keeps_its_figures(self) -> None:
        for switch in SWITCH_CLASSES.values():
            bouncer = source_bouncer(switch.id)
            for pressed, wanted in ((True, switch.press), (False, switch.release)):
                for number in range(300):
                    burst = bouncer.burst(pressed, number)
                    self.assertEqual(len(burst) % 2, 0)
                    self.assertTrue(all(b - a >= 20 for a, b in itertools.pairwise(burst)))
                    if burst:
                        self.assertLessEqual(len(burst) // 2, wanted.count[1])
                        self.assertLessEqual(burst[-1], wanted.settle_us[1] + 40 * len(burst))

    def test_ordinary_switches_rest_within_what_the_survey_found(self) -> None:
        # A Guide to Debouncing (from memory): ordinary switches up to 6.2 ms; common practice: worn 10 to 20 ms.
        for switch, most_us in (("small-button", 6_200), ("toggle-switch", 6_200), ("worn-button", 20_000)):
            bench = with_switch(switch)
            self.assertLessEqual(bounce_figures(bench, bench.contacts[0]).longest_settle_us, most_us)

    @settings(max_examples=60 * DEPTH, deadline=None)
    @given(st.sampled_from(list(SWITCH_CLASSES)), st.integers(1000, 60_000), st.integers(0, 500))
    def test_a_contact_ends_where_it_was_pushed(self, switch: str, hold_us: int, seed: int) -> None:
        bench = with_switch(switch, hold_us)
        course = contact_course(bench, bench.contacts[0], bench.scenarios[0], seed)
        times = [at for at, _ in course.changes]
        self.assertEqual(times, sorted(set(times)))
        self.assertFalse(course.changes[-1][1])
        self.assertEqual([move.pressed for move in course.moves], [True, False])
        states = [touching for _, touching in course.changes]
        self.assertTrue(all(a != b for a, b in itertools.pairwise(states)))

    def test_what_is_done_on_one_instant_comes_in_turn(self) -> None:
        on, off = ({"kind": "set", "at_us": 200_000, "pressed": pressed} for pressed in (True, False))
        press = {"kind": "press", "at_us": 100_000, "hold_us": 100_000}
        again = {"kind": "press", "at_us": 200_000, "hold_us": 50_000}
        pressed, let_go = (100_000, True), (200_000, False)
        for done, moves, touches in (
            ([on, off], [], False),  # let go as it is pressed it never touched
            ([on, off, on], [(200_000, True)], True),
            ([off, on], [(200_000, True)], True),
            ([press, on], [pressed, let_go, (200_000, True)], True),
            ([on, press], [pressed, let_go, (200_000, True)], True),
            ([again, press], [pressed, let_go, (200_000, True), (250_000, False)], False),
        ):
            with self.subTest(done=done):
                data = bench_data(push_bench())
                data["scenarios"][0]["stimuli"] = [{"input": data["inputs"][0]["id"], **one} for one in done]
                bench = bench_from_data(data)
                course = contact_course(bench, bench.contacts[0], bench.scenarios[0], 1)
                self.assertEqual([(move.at_us, move.pressed) for move in course.moves], moves)
                self.assertEqual(course.changes[-1][1], touches)

    def test_a_four_legged_button_on_joined_legs_touches_always(self) -> None:
        data = bench_data(push_bench())
        data["inputs"][0] |= {"kind": "four-legged", "legs": "joined"}
        bench = bench_from_data(data)
        self.assertEqual(contact_course(bench, bench.contacts[0], bench.scenarios[0], 1).changes, ((0, True),))


def capture(*edges: tuple[int, int]) -> Capture:
    return Capture(id="c", name="C", edges=tuple(Edge(at_us=at, level=level) for at, level in edges))


class Captures(unittest.TestCase):
    def test_presses_and_releases_are_cut_apart(self) -> None:
        # Rest high; a press with one bounce, a release with two, a glitch that moves nothing, a clean press.
        read = capture(
            (0, 1), (1000, 0), (1300, 1), (1900, 0), (90_000, 1), (90_200, 0), (90_500, 1), (90_600, 0), (90_900, 1),
            (200_000, 0), (200_100, 1), (300_000, 0),
        )  # fmt: skip
        self.assertEqual(capture_bursts(read), (((300, 900), ()), ((200, 500, 600, 900),)))

    def test_a_replayed_press_bounces_as_captured(self) -> None:
        data = bench_data(push_bench())
        data["captures"] = [{"id": "c", "name": "C", "edges": [
            {"at_us": at, "level": v} for at, v in ((0, 1), (500, 0), (700, 1), (1500, 0), (80_000, 1))]}]  # fmt: skip
        data["inputs"][0]["contact"] = {"kind": "capture", "capture": "c"}
        bench = bench_from_data(data)
        course = contact_course(bench, bench.contacts[0], bench.scenarios[0], 1)
        self.assertEqual(
            course.changes,
            ((0, False), (200_000, True), (200_200, False), (201_000, True), (300_000, False)),
        )

    def test_a_file_without_a_press_is_refused(self) -> None:
        with self.assertRaisesRegex(ValueError, "holds no press"):
            capture_bursts(capture((0, 1), (500, 0), (900, 1)))


class Distributions(unittest.TestCase):
    def test_percentiles_are_numpys_and_every_move_is_in_a_bin(self) -> None:
        for switch in ("foot-pedal", "worn-button", "float-contact", "logic-signal"):
            data = bench_data(push_bench())
            data["inputs"][0]["contact"]["switch"] = switch
            bench = bench_from_data(data)
            spread = distribution(bench, bench.contacts[0])
            source = source_bouncer(switch)
            settles = [burst[-1] if (burst := source.burst(True, n)) else 0 for n in range(1000)]
            for percent, value in spread.press_settle.percentiles.items():
                self.assertEqual(value, np.percentile(settles, percent, method="inverted_cdf"), (switch, percent))
            self.assertEqual(sum(many for _, _, many in spread.press_settle.bins), 1000)
            self.assertEqual(spread.press_settle.longest, max(settles))

    def test_few_moves_prove_little(self) -> None:
        # The rule of three: with n moves and none longer, 95 % sure that at most about 3/n are; exactly 1 − 0.05^(1/n).
        bench = push_bench()
        spread = distribution(bench, bench.contacts[0])
        self.assertAlmostEqual(spread.unseen, 3 / 2000, delta=0.00001)
        self.assertAlmostEqual((1 - spread.unseen) ** 2000, 0.05, delta=1e-9)

    def test_the_rest_that_cuts_presses_apart_can_be_changed(self) -> None:
        edges = [
            Edge(at_us=at, level=level) for at, level in ((0, 1), (10_000, 0), (60_000, 1), (100_000, 0), (200_000, 1))
        ]
        for rest_us, presses in ((30_000, 2), (45_000, 1), (1_000_000, 1)):
            capture = Capture(id="c", name="C", edges=tuple(edges), rest_us=rest_us)
            self.assertEqual(len(CaptureBouncer(capture).presses), presses, rest_us)


class Deciding(unittest.TestCase):
    def test_the_best_stands_in_its_window_and_waits_least(self) -> None:
        for name, part in (
            ("print-timer", "foot-pedal"),
            ("bicycle-lamp", "saddle-button"),
            ("quiz-table", "bo-button"),
        ):
            bench = demo_bench(name)
            made = decide(bench, part, idle_pass_us(bench))
            assert made.best is not None
            assert made.best.advice is not None
            self.assertTrue(made.best.advice.low_us <= made.best.advice.advised_us <= made.best.advice.high_us)
            standing = [one for one in made.choices.values() if one.stands]
            calm = [one for one in standing if not METHODS[one.method].blocks]
            self.assertLessEqual(made.best.wait_us[0], min(one.wait_us[0] for one in calm) + 1000)
            self.assertEqual(made.why.count(". "), 1, made.why)

    def test_what_speaks_against_a_method_is_heard(self) -> None:
        bench = demo_bench("print-timer")
        made = decide(bench, "foot-pedal", idle_pass_us(bench)).choices
        self.assertIn("holds the loop", made["fixed-delay"].against)
        self.assertIn("deafen", made["shared-ignore"].against)
        self.assertIn("cannot interrupt", made["interrupt"].against)
        data = bench_data(bench)
        data["inputs"][0]["wiring"]["wire_cm"] = 500
        far = decide(bench_from_data(data), "foot-pedal", idle_pass_us(bench))
        self.assertIn("spike", far.choices["act-ignore"].against)
        assert far.best is not None
        self.assertNotEqual(far.best.method, "act-ignore")

    def test_where_no_interval_is_safe_it_says_what_would_open_a_window(self) -> None:
        data = bench_data(demo_bench("rain-barrel"))
        data["taps"]["low-float"] = {"hold_us": 80_000}
        bench = bench_from_data(data)
        made = decide(bench, "low-float", idle_pass_us(bench))
        self.assertIsNone(made.best)
        self.assertIn("would open a window", made.why)
        data["taps"]["low-float"] = {"hold_us": 3_000_000, "rest_us": 3_000_000}
        self.assertIsNotNone(decide(bench_from_data(data), "low-float", idle_pass_us(bench)).best)
        self.assertIsNone(decide(push_bench(), "button", 22).best, "what does not bounce needs no method")

    def test_a_tolerance_widens_the_window(self) -> None:
        swept = sweep_input(demo_bench("print-timer"), "foot-pedal", "rest-first", 42)
        strict, loose = advise(swept), advise(swept, 50)
        assert strict is not None
        assert loose is not None
        self.assertTrue(loose.low_us <= strict.low_us and loose.high_us >= strict.high_us and loose != strict)


class SamplesAgainstArrays(unittest.TestCase):
    """The integrator and the history, a sample a millisecond, against the same rules over whole arrays at once."""

    def accepted(self, method: str, interval_ms: int, rows: list[list[bool]]) -> list[list[bool]]:
        found = []
        for row in rows:
            stepper = METHODS[method].make(interval_ms * 1000)
            mine = []
            for now_ms, pressed in enumerate(row):
                stepper.step(now_ms, pressed)
                mine.append(stepper.accepted)
            found.append(mine)
        return found

    @given(st.integers(1, 9), st.integers(0, 10_000))
    def test_integrator_and_history(self, ends: int, seed: int) -> None:
        drawn = np.random.default_rng(seed)
        rows = drawn.random((20, 120)) < drawn.choice([0.15, 0.5, 0.85], size=(20, 120))
        count = np.zeros(20, dtype=int)
        held = np.zeros(20, dtype=bool)
        steps = []
        for column in rows.T:
            count = np.clip(count + np.where(column, 1, -1), 0, ends)
            held = np.where(count == ends, True, np.where(count == 0, False, held))
            steps.append(held)
        self.assertEqual(self.accepted("count-samples", ends, rows.tolist()), np.array(steps).T.tolist())
        # N in a row decide: the sum over a window of N is N or nothing, and the last such window holds.
        padded = np.hstack([np.zeros((20, ends), dtype=int), rows.astype(int)])
        sums = np.lib.stride_tricks.sliding_window_view(padded, ends, axis=1)[:, 1:].sum(axis=2)
        marks = np.where(sums == ends, 1, np.where(sums == 0, 0, -1))
        last = np.maximum.accumulate(np.where(marks >= 0, np.arange(marks.shape[1]), 0), axis=1)
        wanted = np.take_along_axis(marks, last, axis=1) == 1
        self.assertEqual(self.accepted("history", ends, rows.tolist()), wanted.tolist())


class SweepAgainstEngine(unittest.TestCase):
    """The engine samples 13 µs into a pass of 22 µs and reads the counter as the pass begins; shifting the contact by
    13 µs lays the two on one another exactly."""

    STYLE = TapStyle(45_000, 50_000)
    INTERVALS = (0, 2_000, 5_000, 11_000, 30_000, 44_000, 60_000)

    def engine_presses(self, method: str, interval_us: int, edges: list[int]) -> list[int]:
        bench = push_bench(method, interval_us // 1000)
        changes = tuple((at + 13, number % 2 == 0) for number, at in enumerate(edges))
        course = ContactCourse((), ((0, False), *changes))
        end_us = edges[-1] + 400_000
        firmware = Firmware(bench, {"button": course}, Scenario(name="run", length_us=end_us), 1)
        clock_us = firmware.boot(Reset(0, "power"), 0)
        while clock_us < end_us:
            clock_us = firmware.skip(clock_us, firmware.idle_passes(clock_us, end_us))
            clock_us = firmware.one_pass(clock_us)
        events = firmware.reading.contacts["button"].events
        return [at - 13 for at, what in zip(events.times_us, events.values, strict=True) if what == "press"]

    def test_press_by_press(self) -> None:
        period = idle_pass_us(push_bench())
        clock = PassClock(period, np.array([[65_400 % period]], dtype=np.int32))
        checked = agreed = 0
        for switch in ("worn-button", "foot-pedal", "small-button"):
            bouncer = source_bouncer(switch)
            for number in range(12):
                edges = [START_US + 137 * number + at for at in _trial(bouncer, number, self.STYLE)]
                second_us = START_US + 137 * number + 95_000
                table = sampled(_padded([edges]), clock)
                first = np.array([[edges[0]]], dtype=np.int32)
                raw = _padded([edges])
                trials = Trials(table, raw, first, np.array([[second_us]], dtype=np.int32), clock)
                for method in METHODS.values():
                    intervals = [us for us in self.INTERVALS if us <= method.limits_us[1]]
                    swept = evaluate(method, trials, intervals)
                    for place, interval_us in enumerate(intervals):
                        presses = self.engine_presses(method.id, interval_us, edges)
                        own = [at for at in presses if at < second_us], [at for at in presses if at >= second_us]
                        counts = [len(mine) for mine in own]
                        begins = (edges[0], second_us)
                        waits = [mine[0] - begin for mine, begin in zip(own, begins, strict=True) if mine]
                        mine = (sum(c > 1 for c in counts), sum(c == 0 for c in counts))
                        same = mine == (swept.doubled[place], swept.missed[place])
                        checked += 1
                        agreed += same
                        # A delay leaves the passes out of step with the sweep's, by less than one pass.
                        if not method.blocks:
                            self.assertTrue(same, (switch, number, method.id, interval_us, counts))
                            self.assertEqual(
                                int(swept.wait_us[place][2]),
                                max(waits, default=-1),
                                (switch, number, method.id, interval_us),
                            )
        self.assertGreater(agreed / checked, 0.99)

    def test_a_press_that_counts_hundreds_of_times_is_one_that_counts_more_than_once(self) -> None:
        clock, second = PassClock(42, np.array([[7]], dtype=np.int32)), np.array([[START_US + 500_000]], dtype=np.int32)
        for times in (1, 2, 127, 128, 255, 256, 300):
            raw = _padded([[START_US + 100 * number for number in range(2 * times)]])
            trials = Trials(sampled(raw, clock), raw, raw[:, :1], second, clock)
            for method in ("none", "fixed-delay"):
                swept = evaluate(METHODS[method], trials, [0])
                self.assertEqual((swept.doubled[0], swept.missed[0]), (times > 1, 1), (method, times))
                self.assertLess(int(swept.wait_us[0][2]), 42, "the first of them is the answer")

    def test_percentiles_and_rates_of_a_clean_contact_are_exact(self) -> None:
        swept = evaluate(
            METHODS["rest-first"], make_trials("logic-signal", 22, TapStyle(), 500), [0, 20_000, 79_000, 90_000]
        )
        self.assertEqual(swept.doubled.tolist(), [0, 0, 0, 0])
        self.assertEqual(swept.missed.tolist()[:2] + swept.missed.tolist()[3:], [0, 0, 1000])
        self.assertLess(FAR, 2**31)
        median, p95, worst = swept.wait_us[1].tolist()
        self.assertTrue(19_000 < median <= p95 <= worst < 21_044)
        # Half the waits lie in the first half of the millisecond that the counter adds.
        self.assertLess(abs(median - 19_511), 120)

    def test_what_one_interval_counts_is_what_the_curves_show_there(self) -> None:
        for method, interval_us in itertools.product(
            ("rest-first", "act-ignore", "history"), (1_000, 2_000, 5_000, 33_000)
        ):
            data = bench_data(demo_bench("print-timer"))
            data["firmware"]["debounce"]["foot-pedal"] = {"method": method, "interval_us": interval_us}
            bench = bench_from_data(data)
            by_itself = doubled_rate(bench, "foot-pedal", 43)
            sweep_input(bench, "foot-pedal", method, 43)
            self.assertEqual(doubled_rate(bench, "foot-pedal", 43), by_itself, (method, interval_us))

    def test_the_advice_serves_a_6_ms_switch_with_20_ms_and_not_with_5(self) -> None:
        # Common practice: 20 ms for a good button; the survey's worst ordinary switch bounced 6.2 ms.
        bench = demo_bench("print-timer")
        swept = sweep_input(bench, "foot-pedal", "act-ignore", 42)
        advice = advise(swept)
        assert advice is not None
        self.assertTrue(6_200 < advice.low_us <= 20_000 <= advice.high_us, advice)
        self.assertTrue(advice.low_us <= advice.advised_us <= advice.high_us)
        self.assertIsNone(advise(sweep_input(bench, "foot-pedal", "none", 42)))


if __name__ == "__main__":
    unittest.main()
