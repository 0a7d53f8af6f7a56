"""Drives against closed forms and the books' curves; one that holds the loop against one beside it."""

from __future__ import annotations

import math
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from tests.depth import DEPTH
from tests.random_benches import drives
from viva_tick.core.drives import DRIVES, Blockable, Colour, Drive, Picked, ramp_level


class _World:
    def input_level(self, input_id: str) -> int:
        return 37

    def variable_level(self, variable_id: str) -> int:
        return 37

    def variable_value(self, variable_id: str) -> int:
        return 7


class Drives(unittest.TestCase):
    """Each drive's course, stepped a millisecond at a time across the counter's wrap, against its closed form."""

    def course(self, data: dict[str, Any], ms: int = 400) -> list[int]:
        drive = TypeAdapter(Drive).validate_python(data)
        begun = 0xFFFF_FFFF - 90
        running = drive.course(_World())
        running.stand(64)
        levels = [running.begin(begun)]
        for passed in range(1, ms):
            now = (begun + passed) & 0xFFFF_FFFF
            due = running.due()
            levels.append(running.update(now))
            if levels[-1] != levels[-2]:  # a change comes neither before nor after it is due
                self.assertIsNotNone(due)
                self.assertEqual((now - due[0]) & 0xFFFF_FFFF, due[1], data)  # type: ignore[index]
        return levels

    def test_against_closed_forms(self) -> None:
        def beat(t: int) -> int:
            return 100 if t % 70 < 20 else 0

        def burst(t: int) -> int:
            within = t % 130
            return 100 if within < 50 and within % 30 < 20 else 0

        cases: list[tuple[dict[str, Any], Any]] = [
            ({"kind": "steady", "on": True}, lambda t: 100),
            ({"kind": "level", "percent": 30}, lambda t: 30),
            ({"kind": "blink", "on_us": 20_000, "off_us": 50_000}, beat),
            ({"kind": "blink", "on_us": 20_000, "off_us": 50_000, "times": 3}, lambda t: beat(t) if t < 210 else 0),
            (
                {"kind": "blink", "on_us": 20_000, "off_us": 50_000, "for_us": 150_000},
                lambda t: beat(t) if t < 150 else 0,
            ),
            ({"kind": "pulse", "length_us": 33_000}, lambda t: 100 if t < 33 else 0),
            ({"kind": "burst", "on_us": 20_000, "off_us": 10_000, "times": 2, "rest_us": 80_000}, burst),
            (
                {"kind": "burst", "on_us": 20_000, "off_us": 10_000, "times": 2, "rest_us": 80_000, "rounds": 2},
                lambda t: burst(t) if t < 260 else 0,
            ),
            (
                {
                    "kind": "sequence",
                    "rounds": 2,
                    "steps": [{"percent": 100, "us": 40_000}, {"percent": 20, "us": 60_000}],
                },
                lambda t: 20 if t >= 200 else (100 if t % 100 < 40 else 20),
            ),
            ({"kind": "tone", "hz": 440, "length_us": 50_000}, lambda t: 100 if t < 50 else 0),
            ({"kind": "follow", "input": "x"}, lambda t: 37),
            ({"kind": "blink-rate", "variable": "x", "unit_us": 3_000}, lambda t: 100 if t // 21 % 2 == 0 else 0),
            ({"kind": "follow-variable", "variable": "x", "inverted": True}, lambda t: 63),
        ]
        for end in (100, 0, 64):  # from where it stands, at 64
            way = end - 64
            said = {"kind": "ramp", "start": None, "end": end, "time_us": 200_000}
            cases.append(
                (said, lambda t, b=end, w=way: b if t >= 200 else 64 + int(math.copysign(abs(w) * (5 * t) // 1000, w)))
            )
        for start, end in ((0, 100), (100, 0), (20, 70)):
            cases.append(
                (
                    {"kind": "ramp", "start": start, "end": end, "time_us": 300_000},
                    lambda t, a=start, b=end: (
                        b if t >= 300 else a + int(math.copysign(abs(b - a) * (1000 * t // 300) // 1000, b - a))
                    ),
                )
            )
        single = {
            kind.model_fields["kind"].default for kind in DRIVES if not (kind.writes or kind.for_group or kind.turns)
        }
        self.assertEqual({data["kind"] for data, _ in cases}, single)
        for data, wanted in cases:
            with self.subTest(drive=data):
                self.assertEqual(self.course(data), [wanted(t) for t in range(400)])

    def test_the_curves_are_those_of_the_books_to_a_percent(self) -> None:
        curves = {"straight": lambda x: x, "square": lambda x: x * x, "smooth": lambda x: 3 * x * x - 2 * x**3}
        for name, curve in curves.items():
            levels = [ramp_level(0, 100, name, t, 5_000) for t in range(5_001)]
            self.assertEqual(levels, sorted(levels))
            for t, level in enumerate(levels):
                self.assertLessEqual(abs(level - 100 * curve(t / 5_000)), 1.2, (name, t))

    @settings(max_examples=150 * DEPTH, deadline=None)
    @given(st.data())
    def test_a_drive_that_holds_the_loop_takes_as_long_as_one_beside_it(self, data: st.DataObject) -> None:
        from tests.random_benches import drives

        drive = TypeAdapter(Drive).validate_python(data.draw(drives()))
        if not isinstance(drive, Blockable) or not drive.blocking:
            return
        waits = drive.course(_World()).waits
        beside = drive.model_copy(update={"blocking": False}).course(_World())
        levels = [beside.begin(0), *(beside.update(t) for t in range(1, 3_000))]
        held = [level for level, us in waits for _ in range(us // 1000)]
        if drive.kind == "ramp":  # in steps of ten milliseconds
            self.assertTrue(
                all(abs(a - b) <= 100 * 10_000 // drive.time_us + 30 for a, b in zip(held, levels, strict=False))
            )
        else:
            self.assertEqual(held, levels[: len(held)])
        self.assertEqual(set(levels[len(held) :]), {drive.rest})


class Ends(unittest.TestCase):
    @settings(max_examples=150 * DEPTH, deadline=None)
    @given(drives())
    def test_what_ends_says_so_once_its_course_is_over(self, data: dict[str, Any]) -> None:
        if data["kind"] in ("follow", "follow-variable", "blink-rate"):
            return
        drive = TypeAdapter(Drive).validate_python({**data, "blocking": False} if "blocking" in data else data)
        running = drive.course(_World())
        running.stand(20)
        running.begin(0)
        ended = []
        for now in range(1, 3_000):
            running.update(now)
            ended.append(running.ended)
        whole_ms = sum(us for _, us in drive.spans()) // 1000 if isinstance(drive, Blockable) else 0
        ends = isinstance(drive, Blockable) and not drive.endless and whole_ms > 0
        if drive.kind == "blink" and drive.for_us and not drive.times:  # it may be off before its time is up
            whole_ms = drive.for_us // 1000
        self.assertEqual(ended, [ends and now >= whole_ms for now in range(1, 3_000)], data)

    def test_a_row_and_a_colour_place_by_place(self) -> None:
        for shows, first, value, lit in (
            ("one", 0, 2, [0, 0, 1, 0]), ("one", 1, 2, [0, 1, 0, 0]), ("one", 0, 9, [0] * 4), ("one", 1, 0, [0] * 4),
            ("bar", 0, 2, [1, 1, 0, 0]), ("bar", 1, 2, [1, 1, 0, 0]), ("bar", 0, 0, [0] * 4), ("bar", 0, -3, [0] * 4),
            ("bar", 0, 9, [1] * 4), ("bits", 0, 5, [1, 0, 1, 0]), ("bits", 0, 0, [0] * 4), ("bits", 0, -1, [1] * 4),
        ):  # fmt: skip
            world = _World()
            world.variable_value = lambda _, value=value: value  # type: ignore[method-assign]
            row = Picked(variable="x", shows=shows, first=first)  # type: ignore[arg-type]
            found = [row.at_place(place).course(world).begin(0) // 100 for place in range(4)]
            self.assertEqual(found, lit, (shows, first, value))
        colour = Colour(red=100, green=40, blue=0)
        self.assertEqual([colour.at_place(n).course(_World()).begin(0) for n in range(3)], [100, 40, 0])


class Said(unittest.TestCase):
    def test_what_holds_the_loop_needs_an_end(self) -> None:
        step = [{"percent": 50, "us": 1_000}]
        for data, ends, endless in (
            ({"kind": "blink", "on_us": 1_000, "off_us": 1_000}, {"times": 2}, {}),
            ({"kind": "blink", "on_us": 1_000, "off_us": 1_000}, {"for_us": 9_000}, {}),
            ({"kind": "burst", "on_us": 1_000, "off_us": 1_000, "rest_us": 9_000}, {"rounds": 2}, {"rounds": 0}),
            ({"kind": "sequence", "steps": step}, {"rounds": 2}, {"rounds": 0}),
            ({"kind": "tone", "hz": 440}, {"length_us": 2_000}, {"length_us": 0}),
        ):
            made = [TypeAdapter(Drive).validate_python({**data, **more, "blocking": True}) for more in (ends, endless)]
            self.assertEqual([bool(one.fault) for one in made], [False, True], data)
            if data["kind"] != "tone":  # a note without an end goes on, but in one span
                self.assertEqual([one.endless for one in made if isinstance(one, Blockable)], [False, True], data)
            beside = TypeAdapter(Drive).validate_python({**data, **endless, "blocking": False})
            self.assertEqual(beside.fault, "", data)

    def test_what_goes_on_is_drawn_going_on(self) -> None:
        burst = {"kind": "burst", "on_us": 1_000, "off_us": 1_000, "times": 2, "rest_us": 9_000}
        blink = {"kind": "blink", "on_us": 1_000, "off_us": 1_000}
        for data, goes_on in (
            ({**burst, "rounds": 0}, True), ({**burst, "rounds": 1}, False), ({**burst, "rounds": 2}, True),
            ({**blink, "times": 0}, True), ({**blink, "times": 3}, False), ({**blink, "times": 4}, True),
            ({"kind": "pulse", "length_us": 1_000}, False),
        ):  # fmt: skip
            self.assertEqual(TypeAdapter(Drive).validate_python(data).drawn().goes_on, goes_on, data)

    @settings(max_examples=300 * DEPTH, deadline=None)
    @given(drives())
    def test_what_is_said_of_a_drive_is_what_it_does(self, data: dict[str, Any]) -> None:
        if data["kind"] in ("follow", "follow-variable", "blink-rate"):
            return  # that depends on something else
        drive = TypeAdapter(Drive).validate_python({**data, "blocking": False} if "blocking" in data else data)
        if drive.fault:
            return
        running = drive.course(_World())
        running.stand(80)
        levels = [running.begin(0), *(running.update(now) for now in range(1, 6_000))]
        self.assertEqual(drive.ever_on, any(levels), data)
        self.assertEqual(drive.lasting, any(levels[5_000:]), data)
        self.assertEqual(drive.dims or not any(0 < level < 100 for level in levels), True, data)
        if isinstance(drive, Blockable) and not drive.endless:
            spans = [level for level, us in drive.spans() for _ in range(us // 1000)]
            self.assertEqual(levels[len(spans)], drive.rest if spans else levels[0], data)


if __name__ == "__main__":
    unittest.main()
