"""A modelled hand: it is as its sources say, and what it says went wrong is what went wrong."""

from __future__ import annotations

import statistics
import unittest
from collections import Counter
from random import Random

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.core.on_host import NO_SHRINK
from tests.depth import DEPTH
from tests.random_benches import benches, sensed_benches
from viva_tick.core.document import Bench, Scenario, bench_data, bench_from_data
from viva_tick.core.engine import Kind, Signal, SkippingEngine, Trace
from viva_tick.core.hand import ACTIONS, PEOPLE, WRONG, Meant, a_round, judged, play_round, play_rounds
from viva_tick.core.live import by_hand
from viva_tick.demo import demo_bench


class Hand(unittest.TestCase):
    def test_they_press_as_the_sources_say(self) -> None:
        """Held 116 ms (SD 23.9), 238.7 ms apart (SD 111.6), Dhakal et al. 2018; 2.46 times that at six, Kail 1991."""
        for who, times in (("practised", 1.0), ("child", 1 + 5.16 * 2.718281828 ** (-0.21 * 6))):
            person, rng = PEOPLE[who], Random(1)
            for figure, mean, spread in ((person.press, 116.25, 23.88), (person.pause, 238.66, 111.6)):
                drawn = [figure.draw_us(rng) / 1000 for _ in range(20_000)]
                self.assertAlmostEqual(statistics.fmean(drawn) / (mean * times), 1, delta=0.04)
                self.assertAlmostEqual(statistics.stdev(drawn) / (spread * times), 1, delta=0.12)
        hurried = PEOPLE["hurried"]
        self.assertTrue(5 <= 1000 / (hurried.press.mean_ms + hurried.pause.mean_ms) <= 7)
        self.assertTrue(50 <= hurried.press.mean_ms <= 120)

    @settings(max_examples=20 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(st.one_of(benches(), sensed_benches()), st.sampled_from(sorted(PEOPLE)), st.integers(0, 39))
    def test_what_it_does_can_be_done_and_is_the_same_again(
        self, made: tuple[Bench, Scenario], who: str, number: int
    ) -> None:
        bench = made[0]
        scenario, meant = a_round(bench, PEOPLE[who], number)
        self.assertEqual((scenario, meant), a_round(bench, PEOPLE[who], number))
        stimuli = [one.model_dump(mode="json") for one in scenario.stimuli]
        self.assertEqual(by_hand(bench, stimuli, [], scenario.length_us, number).stimuli, scenario.stimuli)
        found = play_round(bench, PEOPLE[who], number)
        self.assertLessEqual(found.actions, ACTIONS + 1)
        self.assertEqual(found.actions - sum(found.right.values()), sum(
            many for (of, kind), many in found.wrong.items() if of and kind != "nobody"
        ))  # fmt: skip
        self.assertLessEqual({kind for _, kind in found.wrong}, set(WRONG))

    def test_a_contact_that_bounces_counts_twice_and_a_clean_one_does_not(self) -> None:
        bench = demo_bench("print-timer")  # its pedal's interval is shorter than its bounce
        doubled = play_rounds(bench, PEOPLE["practised"], range(10)).wrong["foot-pedal", "doubled"]
        self.assertGreater(doubled, 5)
        data = bench_data(bench)
        data["firmware"]["debounce"]["foot-pedal"] = {"method": "rest-first", "interval_us": 25_000}
        mended = play_rounds(bench_from_data(data), PEOPLE["practised"], range(10))
        self.assertEqual({kind for (of, kind) in mended.wrong if of == "foot-pedal"}, set())
        # What the tally says of the pedal, counted in another way: presses that counted against pushes that were made.
        more = 0
        for number in range(10):
            scenario, _ = a_round(bench, PEOPLE["practised"], number)
            run = SkippingEngine().run(bench, scenario)
            counted = run.trace.signal(Kind.EVENT, "foot-pedal").values.count("press")
            pushes = sum(one.input == "foot-pedal" and one.pressed for one in scenario.stimuli if one.kind == "set")
            more += counted > pushes
        self.assertGreater(more, 0)
        self.assertLessEqual(more, doubled)

    def test_a_tap_that_is_too_short_is_missed(self) -> None:
        data = bench_data(demo_bench("quiz-table"))
        for ident in ("ann-button", "bo-button", "cy-button", "judge-button"):
            data["firmware"]["debounce"][ident] = {"method": "rest-first", "interval_us": 150_000}
        bench = bench_from_data(data)
        of = Counter(kind for _, kind in play_rounds(bench, PEOPLE["hurried"], range(6)).wrong.elements())
        self.assertGreater(of["missed"], 60)
        self.assertEqual(of["doubled"], 0)

    def test_each_verdict(self) -> None:
        bench, tap = demo_bench("bicycle-lamp"), Meant("saddle-button", "tap", 1_000, 80_000)

        def trace(*said: tuple[int, str]) -> Trace:
            return Trace(
                2_000_000, (Signal(Kind.EVENT, "saddle-button", [at for at, _ in said], [what for _, what in said]),)
            )

        for meant, said, verdict in (
            (tap, ((30_000, "press"), (90_000, "release"), (400_000, "click")), ""),
            (tap, (), "missed"),
            (tap, ((30_000, "press"), (35_000, "press")), "doubled"),
            (Meant("saddle-button", "tap", 1_000, 80_000, "slip"), ((30_000, "press"), (70_000, "press")), "slip"),
            (Meant("saddle-button", "tap", 1_000, 80_000, "twice"), ((30_000, "press"), (70_000, "press")), "twice"),
            (Meant("saddle-button", "tap", 1_000, 80_000, "slip"), ((30_000, "press"),), ""),
            (tap, ((30_000, "press"), (60_000, "hold")), "held"),
            (tap, ((30_000, "press"), (60_000, "double")), "merged"),
            (tap, ((900_000, "press"),), "missed"),  # much later
            (Meant("saddle-button", "hold", 1_000, 80_000), ((30_000, "press"), (70_000, "hold")), ""),
            (Meant("saddle-button", "hold", 1_000, 80_000), ((30_000, "press"),), "not-held"),
            (Meant("saddle-button", "double", 1_000, 80_000), ((9_000, "press"), (60_000, "double")), ""),
            (Meant("saddle-button", "double", 1_000, 80_000), ((9_000, "press"), (60_000, "click")), "not-double"),
        ):
            with self.subTest(meant=meant, said=said):
                self.assertEqual(judged(bench, trace(*said), meant, 500_000), verdict)

    def test_water_and_machines_are_not_for_a_hand(self) -> None:
        _, meant = a_round(demo_bench("rain-barrel"), PEOPLE["child"], 0)
        self.assertEqual({one.of for one in meant}, {"level"})


if __name__ == "__main__":
    unittest.main()
