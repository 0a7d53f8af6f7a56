"""Encoders, thresholds, keys and commands, against definitions, against numpy and scipy, and against the engine."""

from __future__ import annotations

import itertools
import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import lfilter

from tests.depth import DEPTH
from tests.random_benches import sensed_benches
from viva_tick.core.boards import boards
from viva_tick.core.debounce import METHODS
from viva_tick.core.document import Bench, Listen, Measure, Scan, Scenario, Turns, bench_data, bench_from_data
from viva_tick.core.document.parts import Encoder, KeyMatrix, LevelSensor, TemperatureSensor
from viva_tick.core.electrics import mv_in, pin_mv, said_in, threshold_counts
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.readers import GRAY, Band, CodeLock, KeyCleaner, Listener, Pace, Quadrature, Smoother, Threshold
from viva_tick.core.study import study
from viva_tick.core.sweep import advised_band, chatter, noise_study, sweep_keys, turn_sweep
from viva_tick.core.sweep.noise import an_hour, crossings, smoothed_samples
from viva_tick.demo import demo_bench

BOARD = boards()["mid-8bit-5v"]
LEVEL = LevelSensor(id="level", name="Level", pin="A0", noise_mv=60, stands_at=50.0)


def decoded(states: list[int], step: int = 1) -> tuple[int, int]:
    decoder = Quadrature(step)
    return sum(map(decoder.see, states)), decoder.errors


class GrayCode(unittest.TestCase):
    def test_every_walk_of_eight_quarters_from_every_start_adds_up_to_where_it_ends(self) -> None:
        # The definition: one contact changes at a time, and a position is the number of quarters to the right.
        for start, walk in itertools.product(range(4), itertools.product((1, -1), repeat=8)):
            places = [start, *itertools.accumulate(walk, initial=start)]
            states = [GRAY[place % 4] for place in places]
            self.assertTrue(all(bin(a ^ b).count("1") <= 1 for a, b in itertools.pairwise(states)))
            self.assertEqual(decoded(states), (sum(walk), 0))

    def test_bounces_of_one_contact_add_up_to_nothing(self) -> None:
        for start, way, bounces in itertools.product(range(4), (1, -1), range(4)):
            before, after = GRAY[start], GRAY[(start + way) % 4]
            self.assertEqual(decoded([before, *[after, before] * bounces, after]), (way, 0))

    def test_a_change_of_both_is_an_error_and_counts_for_nothing(self) -> None:
        for start in range(4):
            self.assertEqual(decoded([GRAY[start], GRAY[(start + 2) % 4]]), (0, 1))

    @given(st.lists(st.sampled_from([1, -1]), max_size=60), st.sampled_from([1, 2, 4]))
    def test_divided_counts_are_the_walk_by_so_many(self, walk: list[int], step: int) -> None:
        places = itertools.accumulate(walk, initial=0)
        steps, _ = decoded([GRAY[place % 4] for place in places], step)
        self.assertLess(abs(sum(walk) - steps * step), step)

    def test_where_a_click_is_whole_it_is_counted_once_by_the_whole_run(self) -> None:
        for counts, read_by, swapped in itertools.product((1, 2, 4), ("polling", "interrupt"), (False, True)):
            data = bench_data(demo_bench("print-timer"))
            data["inputs"][2] |= {"counts_a_click": counts, "read_by": read_by, "swapped": swapped}
            data["firmware"]["readings"]["time-dial"] |= {"counts_a_step": counts, "reversed": swapped}
            bench = bench_from_data(data)
            said = study(bench, bench.scenario("Setting the time")).answers
            assert said is not None
            tally = said.sensed["time-dial"]
            self.assertEqual((tally.made, tally.errors), (5, 0))
            if counts > 1:
                self.assertEqual((tally.counted, tally.wrong), (5, 0), (counts, read_by))
            else:  # each count is a step: bounces step to and fro, and add up to the same
                self.assertGreater(tally.counted, 5)
                trace = SkippingEngine().run(bench, bench.scenario("Setting the time")).trace
                self.assertEqual(trace.signal(Kind.COUNT, "time-dial").values[-1], 3)

    def test_the_fastest_turn_is_one_change_a_pass_where_nothing_bounces(self) -> None:
        part = Encoder(id="dial", name="Dial", a="D2", b="D3", switch="logic-signal")
        for pass_us, counts in itertools.product((1_000, 5_000, 20_000), (1, 2, 4)):
            dial = part.model_copy(update={"counts_a_click": counts})
            limit = 1e6 / (pass_us * dial.clicks_a_turn * counts)
            fastest = turn_sweep(dial, Turns(counts_a_step=counts), pass_us).fastest
            # A change that is seen once a pass is enough as long as the next one but one is not yet there.
            self.assertTrue(0.8 * limit <= fastest <= 2.05 * limit, (pass_us, counts, fastest, limit))
        edges = turn_sweep(part.model_copy(update={"read_by": "interrupt"}), Turns(counts_a_step=4), 20_000)
        self.assertTrue(edges.open_ended, "an interrupt at each edge misses none")


samples = st.lists(st.integers(0, 1023), min_size=1, max_size=80)


class Smoothing(unittest.TestCase):
    @given(samples, st.integers(1, 12))
    def test_average_and_median_against_numpy(self, counts: list[int], over: int) -> None:
        for method, of in (
            ("average", lambda w: int(np.sum(w)) // len(w)),
            ("median", lambda w: np.sort(w)[len(w) // 2]),
        ):
            smoother = Smoother(method, over)
            got = [smoother.take(count) for count in counts]
            padded = [np.array(counts[max(0, n + 1 - over) : n + 1]) for n in range(len(counts))]
            self.assertEqual(got, [of(window) for window in padded])

    @given(samples, st.integers(1, 6))
    def test_the_slow_follower_against_scipy(self, counts: list[int], shift: int) -> None:
        smoother = Smoother("slow", 1 << shift)
        got = [smoother.take(count) for count in counts]
        share = 1 / (1 << shift)
        wanted, _ = lfilter([share], [1, share - 1], counts, zi=[(1 - share) * counts[0]])
        # What whole numbers cut off is never more than a count.
        self.assertTrue(all(abs(exact - whole) <= 1.0 + 1e-6 for exact, whole in zip(wanted, got, strict=True)))

    @given(samples, st.integers(0, 1023), st.integers(0, 200), st.booleans())
    def test_hysteresis_against_a_vectorised_one(self, counts: list[int], upper: int, gap: int, falling: bool) -> None:
        lower = upper + gap if falling else upper - gap
        line = Threshold(upper, lower, falling, 0)
        accepted = []
        for number, count in enumerate(counts):
            line.step(number, count)
            accepted.append(line.accepted)
        sign = -1 if falling else 1
        values = sign * np.array(counts)
        # The last sample that was past a threshold decides: 1 past the upper, 0 under the lower, none yet: below.
        marks = np.where(values >= sign * upper, 1, np.where(values < sign * lower, 0, -1))
        last = np.maximum.accumulate(np.where(marks >= 0, np.arange(len(marks)), -1))
        wanted = np.where(last >= 0, marks[last] == 1, False)
        self.assertEqual(accepted, wanted.tolist())
        if len(counts) > 1 and (accepted[0] == (values[0] >= sign * upper)):
            total = int(np.sum(wanted[1:] != wanted[:-1]))
            self.assertEqual(crossings(counts, [upper], [lower], falling), [total])

    def test_dwell_waits_out_what_is_shorter(self) -> None:
        line = Threshold(500, 400, False, 50)
        rows = [(0, 600), (40, 300), (60, 600), (100, 600), (109, 600), (110, 600), (120, 300), (170, 300)]
        self.assertEqual([line.step(at, count) for at, count in rows], [0, 0, 0, 0, 0, 1, 0, -1])


class Noise(unittest.TestCase):
    def reading(self, above: float, below: float, **more: Any) -> Measure:
        return Measure(above=above, below=below, **more)

    def test_a_threshold_that_moves_into_the_noise_chatters_more_and_hysteresis_ends_it(self) -> None:
        rates = [
            chatter(LEVEL, self.reading(at, at), BOARD, pin_mv(LEVEL, BOARD, 50.0)) for at in (54, 50.8, 50.4, 50.0)
        ]
        self.assertEqual(rates[0], 0)
        self.assertEqual(rates, sorted(rates))
        # Around the middle of even noise every second sample is on the other side: 36,000 samples an hour.
        self.assertTrue(9_000 < rates[-1] < 20_000, rates)
        above, below = advised_band(LEVEL, self.reading(50.0, 50.0), BOARD)
        self.assertEqual(chatter(LEVEL, self.reading(above, below), BOARD, pin_mv(LEVEL, BOARD, 50.0)), 0)

    def test_the_table_that_the_browser_reads_agrees_with_the_rule(self) -> None:
        reading = self.reading(50.4, 50.0)
        told = noise_study(LEVEL, reading, BOARD)
        counted = smoothed_samples(LEVEL, reading, BOARD, pin_mv(LEVEL, BOARD, 50.0))
        for up, down in ((20, 20), (22, 18), (40, 0), (25, 20)):
            tried = self.reading(told.places[up], told.places[down])
            upper, lower, falling = threshold_counts(LEVEL, tried, BOARD)
            times = crossings(counted, [upper], [lower], falling)[0]
            self.assertEqual(told.chatter[up][down], min(an_hour(times, tried.sample_us), 1_000_000))

    def test_units_are_said_back_and_forth(self) -> None:
        warm = TemperatureSensor(id="t", name="T", pin="A0", noise_mv=0)
        for part, own in ((LEVEL, 30.0), (warm, 24.0)):
            at_mv = pin_mv(part, BOARD, own)
            for unit in ("own", "counts", "volts", "percent"):
                self.assertAlmostEqual(mv_in(part, BOARD, unit, said_in(part, BOARD, unit, at_mv)), at_mv, 6)
        # 2.5 V of 5 V: half the scale in every unit; a thermistor to ground falls as it warms.
        for unit, half in (("counts", 512), ("volts", 2.5), ("percent", 50), ("own", 50)):
            self.assertAlmostEqual(said_in(LEVEL, BOARD, unit, 2500.0), half, 9)
        self.assertEqual(threshold_counts(warm, Measure(above=30.0, below=29.0), BOARD)[2], True)
        for odd in (-400.0, -273.15, 1e300):
            self.assertTrue(np.isfinite(mv_in(warm, BOARD, "own", odd)))

    def test_a_slow_crossing_of_the_rain_barrel_is_counted_once_when_it_is_mended(self) -> None:
        bench = demo_bench("rain-barrel")
        before = study(bench, bench.scenario("Rain"))
        finding = next(f for f in before.findings if f.code == "clean.no-hysteresis")
        data = bench_data(bench)
        for operation in finding.patch:
            data["firmware"]["readings"]["level"][operation["path"].rsplit("/", 1)[1]] = operation["value"]
        after = study(bench_from_data(data), bench.scenario("Rain"))
        assert before.answers is not None
        assert after.answers is not None
        self.assertGreater(before.answers.sensed["level"].counted, 5)
        self.assertEqual(after.answers.sensed["level"].counted, 1)


class KeysAndCommands(unittest.TestCase):
    @given(st.lists(st.tuples(st.integers(1, 20), st.booleans()), max_size=60), st.integers(0, 30))
    def test_a_key_is_cleaned_as_a_contact_that_must_rest(self, scans: list[tuple[int, bool]], wait: int) -> None:
        keys = KeyCleaner(1, wait)
        stepper = METHODS["rest-first"].make(wait * 1000)
        now = 0
        for later, closed in scans:
            now += later
            edge = {(): 0, ((0, True),): 1, ((0, False),): -1}[tuple(keys.scan(now, [closed]))]
            self.assertEqual(edge, stepper.step(now, closed))

    def test_the_sweep_of_the_keys_says_what_the_engine_does(self) -> None:
        data = bench_data(demo_bench("parcel-box"))
        data["inputs"][0] |= {"diodes": True}
        for scan_us, interval_us in ((20_000, 50_000), (5_000, 20_000), (50_000, 60_000)):
            data["firmware"]["readings"]["keys"] |= {"scan_us": scan_us, "interval_us": interval_us, "ignored": []}
            stimuli = [
                {
                    "kind": "key",
                    "input": "keys",
                    "at_us": 300_000 + 201_300 * n,
                    "hold_us": 80_000,
                    "key": "1234567890*#"[n % 12],
                }
                for n in range(120)
            ]
            data["scenarios"] = [{"name": "many", "length_us": 25_000_000, "stimuli": stimuli}]
            bench = bench_from_data(data)
            part, reading = bench.part("keys"), bench.firmware.readings["keys"]
            assert isinstance(part, KeyMatrix)
            assert isinstance(reading, Scan)
            swept = sweep_keys(bench, part, reading)
            place = int(np.argmin(np.abs(swept.interval_us - interval_us)))
            said = study(bench, bench.scenarios[0]).answers
            assert said is not None
            missed = said.sensed["keys"].made - said.sensed["keys"].counted
            expected = int(swept.missed[place]) / swept.presses
            self.assertAlmostEqual(missed / 120, expected, delta=0.12)

    def test_numbers_mean_what_the_table_says(self) -> None:
        for first, rows, wanted in (
            (1, [(0, 1), (10, 2), (20, 3)], ["up", "", "down"]),
            (0, [(0, 0), (10, 2), (20, 9)], ["up", "down", ""]),
            (1, [(0, 1), (50, 1), (200, 1), (210, 3), (211, 1)], ["up", "", "up", "down", "up"]),
        ):
            listener = Listener(Listen(numbers_from=first, names=("up", "", "down")).by_number, 100)  # type: ignore[arg-type]
            heard = [listener.meaning(number) if listener.is_new(at, number) else "" for at, number in rows]
            self.assertEqual(heard, wanted)

    def test_a_least_time_between_edges_loses_what_its_arithmetic_says(self) -> None:
        # 20 detents of 4 changes a turn: at v turns a second 80 v changes a second, 12.5 / v ms apart.
        dial = Encoder(id="dial", name="Dial", a="D2", b="D3", switch="logic-signal", read_by="interrupt")
        for least_ms in (5, 20):
            swept = turn_sweep(dial, Turns(counts_a_step=4, least_us=least_ms * 1_000), 100)
            self.assertAlmostEqual(swept.fastest, 12.5 / least_ms, delta=0.15 * 12.5 / least_ms + 200 / 36)
            for speed, lost, errors in zip(swept.turns_a_second, swept.lost, swept.errors, strict=True):
                if speed < 12.5 / (least_ms + 1):  # the counter says a whole millisecond more at most
                    self.assertEqual((lost, errors), (0, 0), speed)
                elif speed > 12.5 / (least_ms - 1):
                    self.assertGreater(lost, 0, speed)

    def test_with_acceleration_a_fast_step_is_several(self) -> None:
        dial = {"kind": "encoder", "id": "dial", "name": "Dial", "a": "D2", "b": "D3", "switch": "logic-signal"}
        turns = [
            {"kind": "turn", "input": "dial", "at_us": at, "clicks": clicks, "over_us": over}
            for at, clicks, over in ((300_000, 4, 1_600_000), (2_500_000, 5, 100_000))
        ]
        reading = {"kind": "turns", "counts_a_step": 4, "fast_us": 60_000, "fast_steps": 10}
        data = {"version": 4, "name": "d", "inputs": [dial], "firmware": {"readings": {"dial": reading}}}
        bench = bench_from_data({**data, "scenarios": [{"name": "s", "length_us": 3_500_000, "stimuli": turns}]})
        total = SkippingEngine().run(bench, bench.scenarios[0]).trace.signal(Kind.COUNT, "dial").values[-1]
        # Four slow ones; of the five quick ones the first follows none, the others count ten each.
        self.assertEqual(total, 4 + 1 + 4 * 10)

    @settings(max_examples=25 * DEPTH, deadline=None)
    @given(sensed_benches(watchdog=False))
    def test_what_was_made_is_in_the_trace_as_the_scenario_says(self, made: tuple[Bench, Scenario]) -> None:
        bench, scenario = made
        trace = SkippingEngine().run(bench, scenario).trace
        sent = [one.number for one in scenario.stimuli if one.kind == "command"]
        there = [n if n >= 0 else -n - 1 for n in trace.signal(Kind.MADE, "line").values]
        self.assertEqual(sorted(there), sorted(sent))
        counts = trace.signal(Kind.SAMPLE, "probe").values
        self.assertTrue(all(0 <= count <= 1023 for count in counts))
        total = trace.signal(Kind.COUNT, "dial").values[-1]
        events = trace.signal(Kind.EVENT, "dial").values
        self.assertEqual(total, events.count("step") - events.count("back"))


class Beside(unittest.TestCase):
    """What is told beside steps, crossings and keys, against its definition over whole lists."""

    @given(st.lists(st.tuples(st.integers(1, 120), st.booleans()), max_size=40), st.integers(1, 90))
    def test_a_fast_step_follows_one_the_same_way_within_the_time(
        self, rows: list[tuple[int, bool]], fast: int
    ) -> None:
        times = list(itertools.accumulate((gap for gap, _ in rows), initial=0xFFFF_FFF0))[1:]
        pace = Pace(fast)
        said = [pace.step(at & 0xFFFF_FFFF, right) for at, (_, right) in zip(times, rows, strict=True)]
        wanted = [n > 0 and rows[n][1] == rows[n - 1][1] and times[n] - times[n - 1] <= fast for n in range(len(rows))]
        self.assertEqual(said, wanted)

    @given(st.lists(st.integers(0, 9), max_size=60), st.integers(1, 50))
    def test_staying_between_two_is_said_once_a_stay(self, counts: list[int], wait: int) -> None:
        band = Band(6, 3, wait)
        said = [band.step(10 * n, count) for n, count in enumerate(counts)]
        wanted, since, told = [], None, False
        for n, count in enumerate(counts):
            inside = 3 <= count <= 6
            since, told = (since if since is not None else n, told) if inside else (None, False)
            now = inside and not told and 10 * (n - since) >= wait
            told = told or now
            wanted.append(now)
        self.assertEqual(said, wanted)

    @given(
        st.lists(st.tuples(st.integers(1, 70), st.integers(0, 2)), max_size=50), st.lists(st.integers(0, 2), max_size=4)
    )
    def test_a_code_takes_as_many_keys_as_it_has(self, rows: list[tuple[int, int]], code: list[int]) -> None:
        lock, at, taken = CodeLock(code, 50), 0, []
        for gap, key in rows:
            at += gap
            taken = [] if gap > 50 else taken
            taken.append(key)
            wanted = ""
            if code and len(taken) == len(code):
                wanted, taken = ("code" if taken == code else "wrong"), []
            self.assertEqual(lock.key(at, key), wanted)


if __name__ == "__main__":
    unittest.main()
