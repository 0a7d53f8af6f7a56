"""What a scenario does to inputs that are more than a contact, against closed forms and numpy."""

from __future__ import annotations

import itertools
import math
import unittest
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from viva_tick.core.boards import boards
from viva_tick.core.contacts import ModelBouncer
from viva_tick.core.courses import flips, key_course, level_course, noise_mv, rest_value, sent, tried_out, turn_course
from viva_tick.core.courses.turning import bounced
from viva_tick.core.document import Command, KeyPress, Level, Scenario, Turn
from viva_tick.core.document.parts import Commands, Encoder, KeyMatrix, LevelSensor, Potentiometer, Sensed
from viva_tick.core.readers import A_BIT, B_BIT, GRAY
from viva_tick.core.seeds import stream
from viva_tick.core.switches import SWITCH_CLASSES

LENGTH = 2_000_000
BOARD = boards()["mid-8bit-5v"]


def scenario(*stimuli: Any) -> Scenario:
    return Scenario(name="s", length_us=LENGTH, stimuli=stimuli)


class Turning(unittest.TestCase):
    @given(
        st.lists(st.tuples(st.integers(0, 900_000), st.integers(-5, 5), st.integers(1_000, 300_000)), max_size=5),
        st.sampled_from([1, 2, 4]),
    )
    def test_quarters_are_evenly_spaced_and_add_up(self, rows: list[tuple[int, int, int]], counts: int) -> None:
        part = Encoder(id="dial", name="Dial", a="D2", b="D3", counts_a_click=counts)
        turns = [Turn(input="dial", at_us=at, clicks=clicks, over_us=over) for at, clicks, over in rows]
        found = list(flips(part, turns))
        self.assertEqual([at for at, _ in found], sorted(at for at, _ in found))
        places = [0, *(place for _, place in found)]
        self.assertTrue(all(abs(a - b) == 1 for a, b in itertools.pairwise(places)))
        self.assertEqual(places[-1], counts * sum(clicks for _, clicks, _ in rows))

    @given(st.integers(1, 40), st.integers(1_000, 1_500_000), st.booleans(), st.integers(0, 50))
    def test_clean_contacts_run_through_the_gray_code_and_rest_open(
        self, clicks: int, over: int, swapped: bool, seed: int
    ) -> None:
        part = Encoder(id="dial", name="Dial", a="D2", b="D3", switch="logic-signal", swapped=swapped)
        course = turn_course(part, scenario(Turn(input="dial", at_us=1_000, clicks=clicks, over_us=over)), seed)
        states, now = [0], {"a": False, "b": False}
        moves = [(at, "a", on) for at, on in course.a.changes[1:]] + [(at, "b", on) for at, on in course.b.changes[1:]]
        for _, end, on in sorted(moves):
            now[end] = on
            states.append(A_BIT * now["a"] + B_BIT * now["b"])
        way = -1 if swapped else 1
        self.assertEqual(states, [GRAY[way * n % 4] for n in range(4 * clicks + 1)])
        self.assertEqual(course.clicks[-1][1], clicks)

    @given(
        st.lists(st.integers(500, 40_000), min_size=1, max_size=12),
        st.sampled_from(list(SWITCH_CLASSES)),
        st.integers(0, 99),
    )
    def test_bounces_end_where_the_move_went_or_are_cut_off_by_the_next(
        self, steps: list[int], switch: str, seed: int
    ) -> None:
        times = np.cumsum(steps).tolist()
        moves = [(at, number % 2 == 0) for number, at in enumerate(times)]
        changes = bounced(moves, ModelBouncer(SWITCH_CLASSES[switch], seed), 10_000_000)
        self.assertTrue(all(a[0] <= b[0] and a[1] != b[1] for a, b in itertools.pairwise(changes)))
        self.assertEqual(changes[-1][1], moves[-1][1])
        if not SWITCH_CLASSES[switch].bounces:
            self.assertEqual(changes[1:], tuple(moves))


class Levelling(unittest.TestCase):
    part = LevelSensor(id="level", name="Level", pin="A0", stands_at=20.0, noise_mv=80)

    @given(st.lists(st.tuples(st.integers(0, 100), st.floats(0, 100), st.integers(0, 50)), max_size=4))
    def test_a_course_is_piecewise_straight(self, rows: list[tuple[int, float, int]]) -> None:
        # One after another, so that numpy's interpolation says the same.
        now, points, stimuli = 0, [(0, 20.0)], []
        for pause, value, over in rows:
            begin, end = now + pause * 1000 + 1, now + pause * 1000 + 1 + max(over * 1000, 1)
            stimuli.append(Level(input="level", at_us=begin, value=value, over_us=over * 1000))
            points += [(begin, points[-1][1]), (end, value)]
            now = end
        course = level_course(self.part, scenario(*stimuli))
        xs, ys = zip(*points, strict=True)
        for at in np.linspace(0, now + 5_000, 60).astype(int).tolist():
            self.assertAlmostEqual(course.value(at), float(np.interp(at, xs, ys)), 6)

    def test_values_past_the_ends_are_the_ends_and_a_new_move_begins_where_the_last_has_come(self) -> None:
        course = level_course(
            self.part,
            scenario(
                Level(input="level", at_us=100_000, value=500.0, over_us=100_000),
                Level(input="level", at_us=150_000, value=-9.0, over_us=100_000),
            ),
        )
        self.assertEqual([course.value(at) for at in (0, 100_000, 150_000, 250_000)], [20.0, 20.0, 60.0, 0.0])
        self.assertEqual(rest_value(self.part.model_copy(update={"stands_at": None})), 50.0)
        self.assertEqual(rest_value(self.part.model_copy(update={"stands_at": 1e6})), 100.0)

    def test_noise_keeps_within_its_width_and_lies_around_nothing(self) -> None:
        rng = stream("test")
        drawn = np.array([noise_mv(rng, 80) for _ in range(20_000)])
        self.assertLess(np.abs(drawn).max(), 40.0)
        self.assertLess(abs(drawn.mean()), 0.5)
        # Three even draws, each a third of the width: variance 3 · (w/3)² / 12.
        self.assertAlmostEqual(drawn.std(), math.sqrt(3 * (80 / 3) ** 2 / 12), delta=0.3)


class KeysAndNumbers(unittest.TestCase):
    keys = KeyMatrix(id="keys", name="Keys", rows=("D2", "D3"), columns=("D4", "D5"), switch="logic-signal")

    def test_keys_are_held_as_they_are_pressed(self) -> None:
        course = key_course(
            self.keys,
            scenario(
                KeyPress(input="keys", at_us=100, hold_us=1000, key="1-1"),
                KeyPress(input="keys", at_us=600, hold_us=1000, key="2-2"),
                KeyPress(input="keys", at_us=300, hold_us=1000, key="1-1"),  # it is down already
            ),
            1,
        )
        self.assertEqual(
            [course.touching(at) for at in (0, 100, 700, 1_200, 1_600)], [frozenset(), {0}, {0, 3}, {3}, frozenset()]
        )
        self.assertEqual(
            [(at, key) for at, key, _ in course.held], [(100, "1-1"), (600, "2-2"), (1_100, "1-1"), (1_600, "2-2")]
        )

    def test_a_character_is_ten_bits_of_the_line(self) -> None:
        # 1.0417 ms at 9600, 86.8 µs at 115200: arithmetic of 8N1.
        for baud, byte_us in ((9600, 1042), (115_200, 87)):
            part = Commands(id="line", name="Line", pin="D0", baud=baud)
            (one,) = sent(part, scenario(Command(input="line", at_us=1_000, number=42)), 1, (10,))
            self.assertEqual(
                one.bytes_us, ((1_000 + byte_us, 52), (1_000 + 2 * byte_us, 50), (1_000 + 3 * byte_us, 10))
            )
            radio = part.model_copy(update={"source": "radio"})
            self.assertEqual(
                sent(radio, scenario(Command(input="line", at_us=0, number=7)), 1)[0].bytes_us, ((byte_us, 7),)
            )

    def test_so_many_of_a_hundred_are_recognised(self) -> None:
        part = Commands(id="line", name="Line", pin="D0", source="speech", hit_percent=80)
        many = scenario(*(Command(input="line", at_us=n * 1_000, number=1) for n in range(1_900)))
        share = sum(bool(one.bytes_us) for one in sent(part, many, 3)) / 1_900
        self.assertAlmostEqual(share, 0.8, delta=0.03)

    def test_what_is_tried_out_fits_what_it_is_done_to(self) -> None:
        parts: tuple[Sensed, ...] = (
            Encoder(id="x", name="X", a="D2", b="D3"),
            self.keys,
            Potentiometer(id="x", name="X", pin="A0"),
            Commands(id="x", name="X", pin="D0", names=("up", "down"), first_number=0),
        )
        kinds = [[one["kind"] for one in tried_out(part)] for part in parts]
        self.assertEqual([set(row) for row in kinds], [{"turn"}, {"key"}, {"level"}, {"command"}])
        self.assertEqual([one["number"] for one in tried_out(parts[3])], [0, 1])


if __name__ == "__main__":
    unittest.main()
