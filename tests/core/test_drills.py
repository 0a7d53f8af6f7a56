"""Drills: every fault that can be hidden can be found, from outside and by name; drills are the same for the same seed."""

from __future__ import annotations

import random
import unittest
from functools import cache
from pathlib import Path

from viva_tick.core.document import Bench, bench_from_text
from viva_tick.core.drills import FAULTS, GROUPS, codes, differences, plant, ready
from viva_tick.core.drills.drill import NoDrill, Past, make, places, swapped, weakest
from viva_tick.demo import ORDER, demo_bench

GALLERY = Path(__file__).parents[2] / "docs" / "gallery"
# Where those can be hidden that the print timer has no place for.
ELSEWHERE = {
    "lamp-bare": "rain-barrel", "lamp-dim": "rain-barrel", "lamp-over": "rain-barrel", "base-weak": "rain-barrel",
    "base-bare": "rain-barrel", "dial-uneven": "loudness-bar", "press-first": "bicycle-lamp", "held-pulse": "bicycle-lamp",
    "late-work": "rain-barrel", "no-line-end": "raffle-desk", "clash": "ghost-box", "pulls-off": "ghost-box",
}  # fmt: skip


@cache
def bench(name: str) -> Bench:
    found = demo_bench(name) if name in ORDER else bench_from_text((GALLERY / f"{name}.json").read_text())
    return ready(found)


@cache
def known(name: str) -> set[tuple[str, str]]:
    return codes(bench(name))


class Catalogue(unittest.TestCase):
    def test_every_fault_is_named_there_and_not_before_and_shows_outside(self) -> None:
        self.assertGreaterEqual(len(FAULTS), 40)
        self.assertEqual({one.group for one in FAULTS.values()}, set(GROUPS))
        for ident, hidden in FAULTS.items():
            name = ELSEWHERE.get(ident, "print-timer")
            with self.subTest(ident, bench=name):
                found = plant(bench(name), known(name), hidden, random.Random(1))
                assert found is not None
                after = {code for code, _ in codes(found.bench) - known(name)}
                self.assertIn(hidden.code, after)
                scenario = bench(name).scenario(found.scenario)
                self.assertTrue(differences(bench(name), found.bench, scenario))
                self.assertNotIn("{of}", found.words)
                self.assertEqual(len(hidden.hints), 3)
                self.assertTrue(hidden.faster)


class Drills(unittest.TestCase):
    def test_the_same_seed_hides_the_same(self) -> None:
        for seed, level, many in ((7, 2, 1), (8, 3, 2), (9, 1, 1)):
            one, other = (make(bench("print-timer"), seed, level, many) for _ in range(2))
            self.assertEqual([(each.hidden.id, each.of) for each in one], [(each.hidden.id, each.of) for each in other])
            self.assertEqual(one[-1].bench, other[-1].bench)
            self.assertEqual(len(one), many)
            self.assertEqual(len({each.hidden.group for each in one}), many)
            self.assertTrue(all(each.hidden.level <= level for each in one))
            # With several each is still to be found.
            after = {code for code, _ in codes(one[-1].bench) - known("print-timer")}
            self.assertLessEqual({each.hidden.code for each in one}, after)
        with self.assertRaises(NoDrill):
            make(ready(Bench(name="Empty")), 1, 3, 1)

    def test_the_meter_shows_what_is_wrong_and_a_new_part_is_sound(self) -> None:
        sound = bench("print-timer")
        found = plant(sound, known("print-timer"), FAULTS["floating"], random.Random(1))
        assert found is not None
        part = next(one for one in sound.parts if one.name == found.of)
        before, after = ({one.id: one.shows for one in places(each)} for each in (sound, found.bench))
        self.assertNotEqual(before[f"pin {part.id}"], after[f"pin {part.id}"])
        self.assertEqual({name for name in before if before[name] != after[name]}, {f"pin {part.id}"})
        self.assertEqual(swapped(found.bench, sound, part.id), sound)
        self.assertEqual(swapped(found.bench, sound, "beeper"), found.bench)
        self.assertIsNone(swapped(found.bench, sound, "nobody"))
        bare = plant(bench("rain-barrel"), known("rain-barrel"), FAULTS["lamp-bare"], random.Random(1))
        assert bare is not None
        self.assertIn("nothing bounds it", " ".join(one.shows for one in places(bare.bench)))

    def test_a_resistor_that_is_hidden_pulls_away_from_where_the_contact_leads(self) -> None:
        for kind in ("pull-strong", "short", "pull-weak"):
            sound = bench("print-timer")
            found = plant(sound, known("print-timer"), FAULTS[kind], random.Random(1))
            assert found is not None
            wiring = next(one.wiring for one in found.bench.contacts if one.name == found.of)
            self.assertEqual((wiring.contact_to, wiring.pull), ("ground", "up"), kind)

    def test_what_comes_up_weakest(self) -> None:
        past = [
            Past(("floating",), ("floating",), 4, gave_up=False),
            Past(("floating", "too-short"), ("floating",), 30, gave_up=True),
            Past(("tail-delay",), ("tail-delay",), 12, gave_up=False),
            Past(("gone from the catalogue",), (), 1, gave_up=True),
        ]
        rows = [(one.group, one.many, one.found, one.cost) for one in weakest(past)]
        self.assertEqual(rows, [("cleaning", 1, 0, 15.0), ("timing", 1, 1, 12.0), ("wiring", 2, 2, 9.5)])


if __name__ == "__main__":
    unittest.main()
