"""The list of wires: each part at its pin, in its colours."""

from __future__ import annotations

import unittest

from viva_tick.core.cautions import cautions
from viva_tick.core.document import bench_data, bench_from_data
from viva_tick.core.emit import wires
from viva_tick.demo import ORDER, demo_bench


class WireList(unittest.TestCase):
    def test_every_part_is_wired_to_its_pin_and_mains_is_cautioned(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            ends = " ".join(f"{wire.from_end} {wire.to_end}" for wire in wires(bench))
            for claim in bench.claims:
                name = bench.part(claim.part).name
                self.assertRegex(ends, rf"(Board {claim.pin} {name})|({name}, output Board {claim.pin})")
        self.assertEqual([part for part, _ in cautions(demo_bench("print-timer"))], ["Focus lamp", "Bath heater"])

    def test_colours_follow_the_scheme_the_part_and_the_pair(self) -> None:
        data = bench_data(demo_bench("quiz-table"))
        data["inputs"][0]["wire_colour"] = "pink"
        data["wire_colours"] |= {"ground": "blue", "signals": ["white"]}
        rows = wires(bench_from_data(data))
        colour = {(wire.part, wire.signal): wire.colour for wire in rows}
        self.assertEqual(colour["ann-button", True], "pink")
        self.assertEqual(colour["ann-lamp", True], "pink", "a pair has one colour")
        self.assertEqual((colour["bo-button", True], colour["bo-lamp", True]), ("white", "white"))
        self.assertEqual({wire.colour for wire in rows if "GND" in wire.from_end + wire.to_end}, {"blue"})
