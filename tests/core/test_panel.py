"""The panel: everything has a place on it, by itself without a fault, or where the user has put it."""

from __future__ import annotations

import unittest
from pathlib import Path

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.depth import DEPTH
from tests.random_benches import benches, sensed_benches
from viva_tick.core.document import Bench, bench_data, bench_from_data, bench_from_text
from viva_tick.core.document.panel import MOST_HIGH_MM, MOST_WIDE_MM
from viva_tick.core.edits.words import words
from viva_tick.core.panel import Placed, box, cautions, gap_mm, inputs_of, laid_out
from viva_tick.demo import ORDER, demo_bench

GALLERY = Path(__file__).parents[2] / "docs" / "gallery"


def with_panel(bench: Bench, **panel: object) -> Bench:
    return bench_from_data({**bench_data(bench), "panel": panel})


class Panel(unittest.TestCase):
    def fits(self, bench: Bench) -> None:
        laid = laid_out(bench)
        self.assertEqual(len({one.thing.id for one in laid.things}), len(laid.things))
        for one in laid.things:
            self.assertTrue(0 <= one.x_mm <= laid.wide_mm and 0 <= one.y_mm <= laid.high_mm, one)
        if laid.wide_mm < MOST_WIDE_MM and laid.high_mm < MOST_HIGH_MM:
            self.assertEqual(cautions(laid), [])

    def test_by_itself_everything_fits(self) -> None:
        gallery = [bench_from_text(path.read_text()) for path in sorted(GALLERY.glob("*.json"))]
        self.assertGreater(len(gallery), 10)
        for bench in (*map(demo_bench, ORDER), *gallery):
            with self.subTest(bench.name):
                self.fits(bench)

    @settings(max_examples=30 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.one_of(benches(), sensed_benches()))
    def test_by_itself_any_bench_fits(self, made: tuple[Bench, object]) -> None:
        self.fits(made[0])

    def test_what_is_the_users_own_holds(self) -> None:
        bench = demo_bench("quiz-table")
        spots = {
            "ann-button": {"x_mm": 30, "y_mm": 12.5, "label": "Ann", "key": "v", "hole_mm": 24},
            "bo-button": {"key": "w"},
        }
        own = with_panel(bench, wide_mm=120, high_mm=60, spots=spots)
        laid = laid_out(own)
        self.assertEqual((laid.wide_mm, laid.high_mm), (120, 60))
        ann = next(one for one in laid.things if one.thing.id == "ann-button")
        self.assertEqual((ann.x_mm, ann.y_mm, ann.label, ann.across_mm, ann.own), (30, 12.5, "Ann", 24, True))
        keys = {one.id: one.key for one in inputs_of(own) if one.key}
        self.assertEqual((keys["ann-button"], keys["bo-button"]), ("v", "w"))
        self.assertEqual(len(set(keys.values())), len(keys))
        # A part that is not there (any more) is no matter; what lies beyond a smaller panel comes to its edge.
        self.assertEqual(laid_out(with_panel(bench, spots={"nobody": {"x_mm": 1, "y_mm": 1}})), laid_out(bench))
        small = laid_out(with_panel(bench, wide_mm=40, high_mm=40, spots={"ann-button": {"x_mm": 90, "y_mm": 90}}))
        self.assertTrue(all(one.x_mm <= 40 and one.y_mm <= 40 for one in small.things))

    def test_what_would_not_fit_is_said(self) -> None:
        bench = demo_bench("quiz-table")
        for spots, said in (
            ({"ann-button": {"x_mm": 3, "y_mm": 40}}, "The hole of Ann's button goes over the edge."),
            ({"ann-button": {"x_mm": 9, "y_mm": 40}}, "The hole of Ann's button is 3.0 mm from the edge: leave 5."),
            (
                {"ann-button": {"x_mm": 60, "y_mm": 35}, "bo-button": {"x_mm": 66, "y_mm": 35}},
                "The holes of Ann's button and Bo's button meet.",
            ),
            (
                {"ann-button": {"x_mm": 60, "y_mm": 35}, "bo-button": {"x_mm": 73.5, "y_mm": 35}},
                "Between Ann's button and Bo's button 1.5 mm are left: 3 at least.",
            ),
        ):
            with self.subTest(said):
                self.assertIn(said, cautions(laid_out(with_panel(bench, spots=spots))))

    def test_the_gap_between_two_holes(self) -> None:
        thing = inputs_of(demo_bench("quiz-table"))[0]

        def at(x_mm: float, y_mm: float, across_mm: float, cut_mm: tuple[float, float] | None = None) -> Placed:
            return Placed(thing, True, x_mm, y_mm, across_mm, cut_mm, "", True)

        for one, other, gap in (
            (at(0, 0, 10), at(30, 40, 10), 40),  # 3, 4, 5
            (at(0, 0, 0, (20, 10)), at(25, 0, 10), 10),
            (at(0, 0, 0, (20, 10)), at(18, 13, 0, (10, 10)), (3**2 + 3**2) ** 0.5),
            (at(0, 0, 0, (20, 10)), at(5, 2, 4), -5),
        ):
            self.assertAlmostEqual(gap_mm(one, other), gap)
        self.assertEqual(box(at(10, 20, 0, (6, 4))), (7, 18, 13, 22))

    def test_an_edit_of_it_is_said_in_words(self) -> None:
        before = demo_bench("quiz-table")
        for panel, path, said in (
            ({"spots": {"ann-button": {"x_mm": 30, "y_mm": 12.5}}}, "spots/ann-button", "at 30, 12.5 mm"),
            ({"spots": {"ann-button": {"label": "Ann"}}}, "spots/ann-button", "labelled “Ann”"),
            ({"spots": {"ann-button": {"key": "n"}}}, "spots/ann-button", "by the key n"),
            ({"spots": {"ann-button": {"hole_mm": 16}}}, "spots/ann-button", "hole 16 mm"),
        ):
            after = with_panel(before, **panel)
            patch = [{"op": "add", "path": f"/panel/{path}", "value": panel["spots"]["ann-button"]}]
            self.assertEqual(words(before, after, patch), f"panel: Ann's button {said}")


if __name__ == "__main__":
    unittest.main()
