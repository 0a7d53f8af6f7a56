"""The record: intervals as a reference library has them, cards that say what is so, and what a bench takes over."""

from __future__ import annotations

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import binomtest

from viva_tick.core.document import Press, Turn, bench_data, bench_from_data
from viva_tick.core.edits import apply_patch
from viva_tick.core.rates import wilson
from viva_tick.core.record import Trial, lines_of, over_to, said_of, stale, step_words, steps
from viva_tick.core.timing.expected import expected_words
from viva_tick.demo import ORDER, demo_bench


class Trials(unittest.TestCase):
    @settings(max_examples=200, deadline=None)
    @given(st.integers(1, 3000).flatmap(lambda of: st.tuples(st.integers(0, of), st.just(of))))
    def test_the_interval_is_as_a_reference_has_it(self, tried: tuple[int, int]) -> None:
        low, high = wilson(*tried)
        wanted = binomtest(*tried).proportion_ci(0.95, method="wilson")
        self.assertAlmostEqual(low, wanted.low, places=9)
        self.assertAlmostEqual(high, wanted.high, places=9)

    def test_the_interval_as_published(self) -> None:
        """81 of 263: 0.2553 to 0.3662; 1 of 29: 0.0061 to 0.1718; R. G. Newcombe, Statistics in Medicine 17:857, 1998,
        Table I, method 3 (quoted from memory)."""
        for so, of, low, high in ((81, 263, 0.2553, 0.3662), (1, 29, 0.0061, 0.1718)):
            for got, wanted in zip(wilson(so, of), (low, high), strict=True):
                self.assertAlmostEqual(got, wanted, places=4)
        self.assertEqual(wilson(0, 0), (0.0, 1.0))

    def test_how_many_more(self) -> None:
        """The least number after which it is sure, held against trying one by one."""
        rows = [{"at": 0.5, "so": 10, "of": 10}, {"at": 1, "so": 9, "of": 10}, {"at": 2, "so": 4, "of": 10}, {"at": 3}]
        trial = Trial.model_validate({"title": "Said", "rows": rows, "aim": 80}, strict=False)
        said = said_of(trial)
        self.assertEqual([one.verdict for one in said], ["unsure", "unsure", "missed", "untried"])
        for one in said[:2]:
            more = 1
            while wilson(round(one.row.so * (one.row.of + more) / one.row.of), one.row.of + more)[0] < 0.8:
                more += 1
            self.assertEqual(one.more, more)
        near = Trial.model_validate({"title": "Said", "rows": [{"at": 1, "so": 8, "of": 10}], "aim": 80}, strict=False)
        self.assertIsNone(said_of(near)[0].more)

    def test_what_is_not_wanted_must_stay_below(self) -> None:
        rows = [{"at": 5, "so": 7, "of": 50}, {"at": 20, "so": 0, "of": 100}]
        trial = Trial.model_validate({"title": "Twice", "outcome": "doubled", "aim": 5, "rows": rows}, strict=False)
        self.assertEqual([one.verdict for one in said_of(trial)], ["missed", "met"])

    def test_a_bench_takes_it_over(self) -> None:
        timer, table = demo_bench("print-timer"), demo_bench("quiz-table")
        rows = [{"at": 5, "so": 7, "of": 50}, {"at": 20, "so": 0, "of": 100}, {"at": 30, "so": 0, "of": 100}]
        twice = {"title": "Twice", "of": "foot-pedal", "outcome": "doubled", "unit": "ms", "aim": 5, "rows": rows}
        found = over_to(timer, Trial.model_validate(twice, strict=False))
        assert found is not None
        self.assertEqual(apply_patch(timer, found[1]).debounce("foot-pedal").interval_us, 20_000)
        heard = {"title": "Heard", "of": "handset", "unit": "m"}
        heard["rows"] = [{"at": 0.5, "so": 10, "of": 10}, {"at": 2, "so": 4, "of": 10}, {"at": 4}]  # type: ignore[assignment]
        found = over_to(table, Trial.model_validate(heard, strict=False))
        assert found is not None
        part = apply_patch(table, found[1]).part("handset")
        self.assertEqual([(one.cm, one.percent) for one in part.hits], [(50, 100), (200, 40)])  # type: ignore[attr-defined]
        for change in ({"of": "nobody"}, {"unit": "paces"}, {"rows": []}):
            self.assertIsNone(over_to(table, Trial.model_validate({**heard, **change}, strict=False)))


class Cards(unittest.TestCase):
    def test_every_measurement_check_and_fault_has_its_line(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            lines = lines_of(bench)
            self.assertEqual(len({one.id for one in lines}), len(lines))
            said = [one.expect for one in lines]
            for scenario in bench.scenarios:
                if not scenario.answers and not scenario.repeats:
                    for one in scenario.expects:
                        self.assertIn(expected_words(bench, one), said)
            for line in bench.contacts:
                self.assertIn(f"fault closed {line.id}", {one.id for one in lines})
            self.assertEqual(stale(lines, bench), (set(), []))

    def test_a_scenario_as_a_hand_does_it(self) -> None:
        bench = demo_bench("print-timer")
        self.assertEqual(
            steps(bench, bench.scenario("One print")),
            "switch it on; switch on Safelight switch; 0.1 s later press Foot pedal briefly; "
            "0.4 s later press Foot pedal briefly",
        )
        long = Press(input="foot-pedal", at_us=0, hold_us=2_000_000)
        self.assertEqual(step_words(bench, long), "press Foot pedal for 2 s")
        turn = Turn(input="time-dial", at_us=0, clicks=-1, over_us=30_000)
        self.assertEqual(step_words(bench, turn), "turn Time dial 1 click to the left")

    def test_a_card_of_an_older_bench_says_which_lines_no_longer_hold(self) -> None:
        bench = demo_bench("print-timer")
        card = lines_of(bench)
        data = bench_data(bench)
        data["scenarios"][0]["expects"][0]["at_us"] = 2_400_000
        data["scenarios"][1]["expects"].append({"kind": "count", "of": "foot-pedal", "what": "press", "times": 4})
        old, new = stale(card, bench_from_data(data))
        self.assertEqual(old, {"scenario One print 0"})
        self.assertEqual({one.id for one in new}, {"scenario One print 0", "scenario Next sheet in a hurry 1"})

    def test_a_number_is_judged(self) -> None:
        rails = next(one for one in lines_of(demo_bench("print-timer")) if one.id == "power rails")
        self.assertEqual(rails.judged(4_700_000), "")
        self.assertIn("joined", rails.judged(2))


if __name__ == "__main__":
    unittest.main()
