"""Gestures against a description in words, and machines before they run against brute force."""

from __future__ import annotations

import itertools
import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_engine import push_bench
from viva_tick.core.document import Bench, TimeoutEvent, bench_data, bench_from_data
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.findings.machine_words import in_words
from viva_tick.core.gestures import Recogniser, Wanted, wanted_by
from viva_tick.core.study import study

FULL = Wanted(most=3, window_ms=300, hold_ms=600, repeat_ms=200, quicken=False)


def told(wanted: Wanted, moves: list[tuple[int, int]], until: int = 6000) -> list[tuple[int, str]]:
    """(ms, gesture) of a button pressed (1) and released (−1) at instants, a pass a millisecond."""
    edges = dict(moves)
    recogniser = Recogniser(wanted)
    return [(now, what) for now in range(until) for what in recogniser.step(now, edges.get(now, 0))]


def taps(*spans: tuple[int, int]) -> list[tuple[int, int]]:
    return [move for at, to in spans for move in ((at, 1), (to, -1))]


class Gestures(unittest.TestCase):
    def test_in_words(self) -> None:
        for wanted, moves, said in (
            # A click is told when no other can follow it any more.
            (FULL, taps((100, 180)), [(480, "click")]),
            (FULL, taps((100, 180), (300, 350)), [(650, "double")]),
            # The third of three needs no waiting.
            (FULL, taps((100, 180), (300, 350), (500, 560)), [(560, "triple")]),
            (FULL, taps((100, 180), (600, 650)), [(480, "click"), (950, "click")]),
            # Held it is no click; let go after that is an event of its own.
            (FULL, taps((100, 1150)), [(700, "hold"), (900, "repeat"), (1100, "repeat"), (1150, "long-release")]),
            # Clicked, then held: both.
            (FULL, taps((100, 180), (300, 1000)), [(900, "click"), (900, "hold"), (1000, "long-release")]),
            # What nobody listens for is not waited for.
            (Wanted(1, 300, 0, 0, False), taps((100, 180), (300, 3000)), [(180, "click"), (3000, "click")]),
            (Wanted(1, 300, 600, 0, False), taps((100, 180)), [(180, "click")]),
            (Wanted(2, 300, 0, 0, False), taps((100, 180), (300, 350)), [(350, "double")]),
        ):
            self.assertEqual(told(wanted, moves), said, (wanted, moves))

    def test_repeats_that_quicken_come_sooner_each_time_but_no_faster_than_a_bound(self) -> None:
        said = [at for at, what in told(Wanted(1, 300, 600, 200, True), taps((0, 5000))) if what == "repeat"]
        gaps = [later - earlier for earlier, later in itertools.pairwise([600, *said])]
        self.assertEqual(gaps[:6], [200, 150, 112, 84, 63, 47])
        self.assertEqual(set(gaps[6:]), {40})

    @given(st.lists(st.tuples(st.integers(1, 900), st.integers(1, 900)), max_size=8))
    def test_every_press_ends_in_one_thing(self, spans: list[tuple[int, int]]) -> None:
        moves, now = [], 0
        for pause, held in spans:
            moves += [(now + pause, 1), (now + pause + held, -1)]
            now += pause + held
        said = [what for _, what in told(FULL, moves, now + 1000)]
        clicks = sum({"click": 1, "double": 2, "triple": 3}.get(what, 0) for what in said)
        self.assertEqual(clicks + said.count("hold"), len(spans))
        self.assertEqual(said.count("hold"), said.count("long-release"))
        # Let go in the very millisecond in which it would become a hold, it is a click: the edge comes first.
        self.assertEqual(said.count("hold"), sum(held > 600 for _, held in spans))

    def gestured(self, *transitions: dict[str, Any], stimuli: Any) -> Bench:
        data = bench_data(push_bench())
        machine = data["firmware"]["machines"][0]
        machine["transitions"] = [{"source": "off", "target": "on", "on": on} for on in transitions]
        data["scenarios"][0] |= {"stimuli": stimuli, "length_us": 3_000_000}
        data["inputs"].append({**data["inputs"][0], "id": "other", "name": "Other", "pin": "D4"})
        return bench_from_data(data)

    def test_only_what_a_machine_listens_for_is_told_apart(self) -> None:
        press = {"kind": "press", "input": "button", "at_us": 500_000, "hold_us": 120_000}
        for kinds, waits in ((["click"], 620), (["click", "double"], 920)):
            bench = self.gestured(*({"kind": kind, "input": "button"} for kind in kinds), stimuli=[press])
            signal = SkippingEngine().run(bench, bench.scenarios[0]).trace.signal(Kind.EVENT, "button")
            at = signal.times_us[signal.values.index("click")] // 1000
            self.assertTrue(waits <= at <= waits + 22, (kinds, at))
        self.assertEqual(wanted_by(push_bench()), {})

    def test_a_chord_is_two_at_once_and_no_click_of_either(self) -> None:
        transitions = ({"kind": "chord", "input": "button", "of": "other"}, {"kind": "click", "input": "button"})
        for apart_us, chord in ((50_000, True), (300_000, False)):
            stimuli = [
                {"kind": "press", "input": name, "at_us": 500_000 + at, "hold_us": 600_000}
                for name, at in (("button", 0), ("other", apart_us))
            ]
            bench = self.gestured(*transitions, stimuli=stimuli)
            said = SkippingEngine().run(bench, bench.scenarios[0]).trace.signal(Kind.EVENT, "button").values
            self.assertEqual(("chord other" in said, "click" in said), (chord, not chord))


class BeforeItRuns(unittest.TestCase):
    def test_every_way_has_words(self) -> None:
        for name in ("print-timer", "parcel-box", "bicycle-lamp"):
            from viva_tick.demo import demo_bench

            bench = demo_bench(name)
            for machine in bench.firmware.machines:
                for transition in machine.transitions:
                    said = in_words(bench, transition)
                    self.assertTrue(said.startswith("wait") == isinstance(transition.on, TimeoutEvent), said)

    def test_a_run_never_enters_what_is_called_unreachable(self) -> None:
        data = bench_data(push_bench())
        machine = data["firmware"]["machines"][0]
        machine["states"].append({"id": "lost", "name": "Lost", "drives": {}})
        machine["transitions"].append({"source": "lost", "target": "on", "on": {"kind": "press", "input": "button"}})
        bench = bench_from_data(data)
        done = study(bench, bench.scenarios[0])
        finding = next(f for f in done.findings if f.code == "behave.unreachable")
        self.assertIn("Lost", finding.title)
        assert done.run is not None
        self.assertNotIn("lost", done.run.trace.signal(Kind.STATE, data["firmware"]["machines"][0]["id"]).values)


if __name__ == "__main__":
    unittest.main()
