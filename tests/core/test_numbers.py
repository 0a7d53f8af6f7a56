"""Numbers that arrive and bytes that go out: ranges, rests, a module's own numbering, distances, sets of words."""

from __future__ import annotations

import json
import unittest
from typing import Any

from viva_tick.core.courses import sent
from viva_tick.core.document import Bench, DocumentError, Scenario, bench_from_data
from viva_tick.core.document.parts import Commands, HitsAt
from viva_tick.core.engine import Kind, Run, SkippingEngine

AT_US = 500_000


def bench_of(
    said: list[int], reading: dict[str, Any], machine: dict[str, Any] | None = None, ending: str = "lf", **part: Any
) -> Bench:
    """A source of commands that is given numbers, half a second apart, and a variable that they go into."""
    source = {"kind": "commands", "id": "line", "name": "Line", "pin": "D0", "names": ["up", "down", "stop"], **part}
    stimuli = [
        {"kind": "command", "input": "line", "at_us": AT_US * (n + 1), "number": number}
        for n, number in enumerate(said)
    ]
    firmware = {
        "readings": {"line": {"kind": "listen", "into": "got", **reading}},
        "variables": [{"id": "got", "name": "Got", "least": -1, "most": 70_000, "begins": -1}],
        "machines": [machine] if machine else [],
        "serial": {"ending": ending},
    }
    scenario = {"name": "s", "length_us": AT_US * (len(said) + 2), "stimuli": stimuli}
    lamp = {"kind": "lamp", "id": "lamp", "name": "Lamp", "pin": "D8"}
    data = {"version": 4, "name": "b", "inputs": [source], "outputs": [lamp], "firmware": firmware}
    return bench_from_data({**data, "scenarios": [scenario]})


def run(bench: Bench) -> Run:
    return SkippingEngine().run(bench, bench.scenarios[0])


def taken(bench: Bench) -> list[tuple[int, int]]:
    signal = run(bench).trace.signal(Kind.VALUE, "got")
    return list(zip(signal.times_us, signal.values, strict=True))[1:]


class Into(unittest.TestCase):
    def test_what_goes_into_the_variable(self) -> None:
        for reading, numbers, wanted in (
            ({}, [7, 300, 65_535], [7, 300, 65_535]),
            ({"least": 10, "most": 200}, [9, 10, 200, 201], [10, 200]),
            ({"least": 10, "most": 200, "outside": "nearest"}, [9, 50, 999], [10, 50, 200]),
            ({"least": 10, "most": 200, "outside": "told"}, [9, 50, 999], [50]),
            ({"repeat_us": 2_000_000}, [5, 5, 6], [5, 6]),
        ):
            with self.subTest(reading=reading):
                self.assertEqual([value for _, value in taken(bench_of(numbers, reading))], wanted)

    def test_a_number_is_whole_with_its_line_or_after_a_rest(self) -> None:
        # 9600 baud, 8N1: ten bits a character are 1042 µs; three digits and a line feed take 4168.
        byte_us = 1_042
        (at_us, value), *_ = taken(bench_of([123], {}))
        self.assertEqual(value, 123)
        self.assertTrue(0 <= at_us - AT_US - 4 * byte_us < 300, at_us)
        self.assertEqual(taken(bench_of([123], {}, ending="none")), [], "without an end it is never whole")
        (at_us, value), *_ = taken(bench_of([123], {"ends_us": 40_000}, ending="none"))
        self.assertEqual(value, 123)
        self.assertTrue(-1_000 <= at_us - AT_US - 3 * byte_us - 40_000 < 1_300, at_us)

    def test_each_is_told_as_what_it_is(self) -> None:
        names = ("wait", "inside", "beyond", "named")
        on = [("number", "", "inside"), ("outside", "", "beyond"), ("command", "down", "named")]
        transitions = [
            {"source": source, "on": {"kind": kind, "input": "line", "of": of}, "target": target}
            for source in names
            for kind, of, target in on
        ]
        states = [{"id": name, "name": name} for name in names]
        machine = {"id": "m", "name": "M", "initial": "wait", "states": states, "transitions": transitions}
        reading = {"names": ["up", "down"], "numbers": [40, 7], "least": 5, "most": 30, "outside": "told"}
        seen = run(bench_of([12, 99, 7, 40], reading, machine)).trace.signal(Kind.STATE, "m").values
        # 7 is “down” and within the range, in this order; 40 is “up”, which is beyond it.
        self.assertEqual(seen, [None, "wait", "inside", "beyond", "named", "inside", "beyond"])

    def test_what_does_not_fit_is_refused(self) -> None:
        cases: tuple[tuple[dict[str, Any], dict[str, Any], str], ...] = (
            ({"into": "nobody"}, {}, "no variable"),
            ({"least": 9, "most": 3}, {}, "less than the least"),
            ({"names": ["a", "b"], "numbers": [1]}, {}, "1 numbers for 2 names"),
            ({"names": ["a", "b"], "numbers": [4, 4]}, {}, "4 is there twice"),
            ({}, {"numbers": [1]}, "1 numbers for 3 names"),
            ({}, {"sets": [{"bytes": [1], "words": ["jump"]}]}, "knows no “jump”"),
        )
        for reading, part, says in cases:
            with self.subTest(says), self.assertRaises(DocumentError) as refused:
                bench_of([], reading, **part)
            self.assertIn(says, str(refused.exception))


class Modules(unittest.TestCase):
    def test_hits_by_distance_lie_straight_between_what_is_known(self) -> None:
        hits = (HitsAt(cm=200, percent=40), HitsAt(cm=50, percent=90))
        part = Commands(id="m", name="M", pin="D0", source="speech", names=("go",), hit_percent=99, hits=hits)
        for cm, percent in ((None, 99), (0, 90), (50, 90), (125, 65), (200, 40), (900, 40)):
            self.assertAlmostEqual(part.hits_at(cm), percent, msg=str(cm))
        stimuli = [{"kind": "command", "input": "m", "at_us": 1_000 * n, "number": 1, "cm": 125} for n in range(2_000)]
        scenario = Scenario.model_validate_json(json.dumps({"name": "s", "length_us": 3_000_000, "stimuli": stimuli}))
        heard = sum(bool(one.bytes_us) for one in sent(part, scenario, 3))
        self.assertAlmostEqual(heard / 2_000, 0.65, delta=0.035)  # three standard deviations

    def test_a_set_of_words_is_loaded_by_its_bytes(self) -> None:
        # It begins with the first word alone; hearing that loads the third; that loads the first and the second.
        sets = [{"bytes": [170, 3], "words": ["stop"]}, {"bytes": [170, 2], "words": ["down", "up"]}]
        states = [{"id": name, "name": name} for name in ("a", "b", "c", "d")]

        def loads(source: str, word: str, target: str, *codes: int) -> dict[str, Any]:
            on = {"kind": "command", "input": "line", "of": word}
            actions = [{"do": "send", "input": "line", "bytes": list(codes)}]
            return {"source": source, "on": on, "target": target, "actions": actions}

        transitions = [loads("a", "up", "b", 170, 3), loads("b", "stop", "c", 170, 2), loads("c", "down", "d", 9, 9)]
        machine = {"id": "m", "name": "M", "initial": "a", "states": states, "transitions": transitions}
        reading = {"names": ["up", "down", "stop"], "into": None}
        said = [2, 3, 1, 1, 3, 3, 2, 1]
        bench = bench_of(said, reading, machine, ending="none", source="speech", active_most=1, sets=sets)
        found = run(bench)
        made = found.trace.signal(Kind.MADE, "line").values
        # Active: up (three are said), stop (two), down and up (three; 9 9 means nothing to it).
        self.assertEqual([value >= 0 for value in made], [False, False, True, False, True, False, True, True])
        self.assertEqual(found.trace.signal(Kind.STATE, "m").values, [None, "a", "b", "c", "d"])


if __name__ == "__main__":
    unittest.main()
