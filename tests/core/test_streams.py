"""Captures read as they come: the same as in one piece and as another library reads it; drawn without being loaded."""

from __future__ import annotations

import json
import tempfile
import unittest
from bisect import bisect_right
from itertools import pairwise
from pathlib import Path
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st
from vcdvcd import VCDVCD

from tests.core.test_captured import as_table, as_vcd
from tests.depth import DEPTH
from viva_tick.core.formats import EdgesError, reader_for, reader_of
from viva_tick.core.formats.tables import head_of
from viva_tick.core.told.stretches import BUSY, MOST, drawn, instants, packed

ROWS = st.lists(
    st.tuples(st.integers(0, 3_000_000), st.sampled_from(["pedal", "lamp", "d/3"]), st.integers(0, 1)), max_size=60
)
BEGINS = {"pedal": 1, "lamp": 0, "d/3": 0}


def by_channel(text: str, cuts: list[int]) -> dict[str, list[tuple[int, int]]]:
    """What is read of a text that comes in pieces, the reader being put down as JSON between them."""
    reader: Any = reader_for(text)
    found: dict[str, list[tuple[int, int]]] = {}
    places = sorted({min(cut, len(text)) for cut in cuts} | {0, len(text)})
    pieces = [text[a:b] for a, b in pairwise(places)]
    for number, piece in enumerate(pieces):
        for name, (at, levels) in reader.feed(piece, number == len(pieces) - 1).items():
            found.setdefault(name.rpartition(".")[2], []).extend(zip(at, levels, strict=True))
        reader = reader_of(json.loads(json.dumps(reader.state())))
    return found


class Streams(unittest.TestCase):
    @settings(max_examples=60 * DEPTH, deadline=None)
    @given(ROWS, st.lists(st.integers(0, 3000), max_size=12))
    def test_in_pieces_it_is_what_another_library_reads(self, rows: Any, cuts: list[int]) -> None:
        rows.sort()
        text = as_vcd(BEGINS, rows)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.vcd"
            path.write_text(text)
            other = VCDVCD(str(path))
        wanted: dict[str, list[tuple[int, int]]] = {}
        for name in BEGINS:
            level = None
            for at, value in other[f"analyser.{name}"].tv:
                if int(value) != level:
                    level = int(value)
                    wanted.setdefault(name, []).append((at * 1000, level))
        self.assertEqual(by_channel(text, cuts), wanted)

    @settings(max_examples=40 * DEPTH, deadline=None)
    @given(ROWS, st.lists(st.integers(0, 3000), max_size=8), st.sampled_from([",", ";", "\t"]))
    def test_a_table_in_pieces_is_what_it_is_in_one(self, rows: Any, cuts: list[int], delimiter: str) -> None:
        rows.sort()
        text = as_table(BEGINS, [*rows, (3_000_001, "lamp", 1)], delimiter, 1, "us") + "\n"
        self.assertEqual(by_channel(text, cuts), by_channel(text, []))
        last = {name: found[-1][1] for name, found in by_channel(text, cuts).items()}
        levels = dict(BEGINS) | {name: level for _, name, level in rows} | {"lamp": 1}
        self.assertEqual(last, levels)

    def test_heads_of_several_lines(self) -> None:
        for text, names, timed, tick_ns, step_ns in (
            ("Device: x\nSample rate: 2 MHz\n\nch0,ch1\n0,1\n1,1\n", ("ch0", "ch1"), False, 1e9, 500.0),
            ("Time;A;B\n(ms);(V);(mV)\n0,5;3,3;10\n1;0;0\n", ("A", "B"), True, 1e6, None),
            ("t_us\tpedal\n0\t1\n", ("pedal",), True, 1e3, None),
            ("0,1,0\n1,0,0\n", ("channel 1", "channel 2"), True, 1e9, None),
            ("Increment,4,us\nSample,CH1 (V)\n0,5\n1,5\n", ("CH1",), True, 1e9, 4000.0),
            ("time [s],a,a\n0,1,1\n", ("a", "a 2"), True, 1e9, None),
        ):
            with self.subTest(text):
                found = head_of(text)
                self.assertEqual(
                    (found.names, found.timed, found.tick_ns, found.step_ns), (names, timed, tick_ns, step_ns)
                )
        for text, said in (("nothing\n", "a time and a level"), ("Sample,A\n0,1\n", "how many there are a second")):
            with self.subTest(text), self.assertRaisesRegex(EdgesError, said):
                head_of(text)

    def test_volts_rise_above_noise_only_where_they_move(self) -> None:
        rows = [(n, 3.3 if n % 50 < 25 else 0.02, 0.01 + 0.002 * (n % 3)) for n in range(400)]
        text = "t (ms),pedal,idle\n" + "".join(f"{at},{a},{b}\n" for at, a, b in rows)
        found = by_channel(text, [600, 1500, 2500])
        self.assertEqual(found["idle"], [(0, 0)])
        self.assertEqual(found["pedal"], [(n * 25_000_000, 1 - n % 2) for n in range(16)])

    def test_what_is_wrong_is_said_with_its_line_wherever_a_piece_ends(self) -> None:
        head = "$timescale 1 us $end $var wire 1 ! a $end $enddefinitions $end\n"
        for text, said in (
            (head + "#0\n0!\n#5\n1!\n#4\n0!\n", "Line 6, column 1: “#4” is a time before"),
            (head + "#0\n0!\n#5 q!\n", "Line 4, column 4: “q!” is no change"),
            ("t,a\n0,0\n1,1\n2,x\n", "Line 4, column 2: “x” is not a number"),
            ("t,a\n0,0\n1,1\n2,1,1\n", "Line 4 has another number of columns"),
            ("t,a\n0,0\n3,1\n2,1\n", "Line 4: its time is before"),
        ):
            for cut in (0, len(text) - 9, len(text) - 3):
                with self.subTest(text, cut=cut), self.assertRaisesRegex(EdgesError, said):
                    by_channel(text, [cut])


class Stretches(unittest.TestCase):
    @settings(max_examples=120 * DEPTH, deadline=None)
    @given(
        st.lists(st.integers(1, 3_000_000), min_size=1, max_size=3 * MOST // 8),
        st.integers(0, 1),
        st.integers(1, 9),
        st.tuples(st.floats(0, 1), st.floats(0, 1)),
        st.integers(20, 600),
    )
    def test_what_is_drawn_is_what_was_there(
        self, gaps: list[int], level: int, times: int, span: tuple[float, float], columns: int
    ) -> None:
        at, now = [], 0
        for gap in gaps * times:
            now += gap
            at.append(now)
        made = list(packed(at, level))
        self.assertEqual([ns for one in made for ns in instants(one).tolist()], at)
        from_ns, to_ns = sorted(int(now * share) for share in span)
        to_ns = max(to_ns, from_ns + 1000 * columns)
        found = [one for one in made if one.to_ns >= from_ns and one.from_ns <= to_ns]
        before = [one for one in made if one.to_ns < from_ns]
        loaded: list[int] = []

        def load(one: Any) -> Any:
            loaded.append(1)
            return one

        shown = drawn(found, load, before[-1].ends if before else None, (from_ns, to_ns), columns)
        self.assertEqual(shown["t"], sorted(shown["t"]))
        column_ns = (to_ns - from_ns) / columns
        for n in range(columns):
            middle = from_ns + (n + 0.5) * column_ns
            value = shown["v"][max(bisect_right(shown["t"], middle / 1000) - 1, 0)]
            near = [bisect_right(at, middle + wide * column_ns) for wide in (-2, 2)]
            if value == BUSY:
                self.assertGreater(near[1] - near[0], 2)
            elif near[0] == near[1] and near[0]:  # before the first nothing is known
                self.assertEqual(value, (level if near[0] % 2 else 1 - level))
        # Few are opened, however many there are.
        self.assertLessEqual(len(loaded), columns // 64 + 2)


if __name__ == "__main__":
    unittest.main()
