"""Charts with handles: what they show is what the core worked out."""

from __future__ import annotations

import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.depth import DEPTH
from viva_tick.core.boards import boards
from viva_tick.core.document import Measure, Turns
from viva_tick.core.document.parts import Encoder, LevelSensor
from viva_tick.core.electrics import pin_mv, threshold_counts
from viva_tick.core.sweep import noise_study, turn_sweep
from viva_tick.web.slides import noise_slide, turn_slide

BOARD = boards()["mid-8bit-5v"]


class Charts(unittest.TestCase):
    @settings(max_examples=20 * DEPTH, deadline=None)
    @given(
        st.floats(20, 80), st.floats(0, 4), st.integers(0, 200), st.sampled_from(["none", "average", "median", "slow"])
    )
    def test_a_chart_of_thresholds_shows_its_noise_and_both_handles(
        self, above: float, gap: float, noise: int, smooth: Any
    ) -> None:
        part = LevelSensor(id="level", name="Level", pin="A0", stands_at=50.0, noise_mv=noise)
        reading = Measure(above=round(above, 2), below=round(above - gap, 2), smooth=smooth)
        told = noise_study(part, reading, BOARD)
        chart = noise_slide(part, "/at", reading, BOARD, told, "cm")
        self.assertEqual(sum(many for _, _, many in told.bins), 2000)
        lower, upper = chart.handles
        self.assertTrue(chart.left <= lower.x <= upper.x <= chart.right)
        self.assertTrue(all(chart.top - 1 <= y and y + h <= chart.bottom + 1 for _, y, _, h in chart.bars))
        self.assertEqual(len(told.chatter), len(told.places))
        above_now, below_now = told.advised
        advised = reading.model_copy(update={"above": above_now, "below": below_now})
        self.assertGreaterEqual(threshold_counts(part, advised, BOARD)[0], threshold_counts(part, advised, BOARD)[1])
        self.assertTrue(told.stands_at == 50.0 or abs(told.stands_at - 50) < 1e-6)
        self.assertGreater(pin_mv(part, BOARD, 50.0), 0)

    def test_a_chart_of_turns_ends_its_safe_zone_where_the_first_step_is_lost(self) -> None:
        part = Encoder(id="dial", name="Dial", a="D2", b="D3")
        for pass_us in (100, 3_000, 20_000):
            swept = turn_sweep(part, Turns(counts_a_step=4), pass_us)
            chart = turn_slide(part, "/at", swept)
            bad = next((n for n in range(len(swept.lost)) if swept.lost[n] or swept.errors[n]), None)
            if bad:
                self.assertEqual(swept.fastest, swept.turns_a_second[bad - 1])
            assert chart.zone is not None or not swept.fastest
            self.assertEqual([handle.value for handle in chart.handles], [2.0])


if __name__ == "__main__":
    unittest.main()
