"""The panel: all of a bench is on it, what is done is run and answered, refused with a sentence, kept."""

from __future__ import annotations

from typing import Any

from tests.app.client import AppCase
from viva_tick.core.panel import inputs_of, outputs_of
from viva_tick.demo import ORDER, demo_bench
from viva_tick.web.gallery import exhibits


class Panel(AppCase):
    def play(self, bench: int = 1, **more: Any) -> tuple[int, dict[str, Any]]:
        body = {
            "revision": self.head(bench)["revision"],
            "stimuli": [],
            "now_us": 0,
            "ahead_us": 0,
            "since_us": -1,
            "seed": 0,
        }
        answer = self.post(f"/api/benches/{bench}/live", {**body, **more})
        return answer.status_code, answer.get_json()

    def test_everything_that_a_bench_has_is_on_it(self) -> None:
        for bench in (*map(demo_bench, ORDER), *exhibits().values()):
            with self.subTest(bench.name):
                inputs, outputs = inputs_of(bench), outputs_of(bench)
                wanted = {line.id for line in bench.contacts} | {part.id for _, part in bench.sensed}
                self.assertEqual({one.id for one in inputs}, wanted)
                shown = {ident for one in outputs for ident in one.of}
                wanted = {one.id for one in bench.channels} | {one.id for one in bench.servos}
                self.assertEqual(shown, wanted | {line.id for line in bench.text_lines})
                keys = [one.key for one in inputs if one.key]
                self.assertEqual(len(keys), len(set(keys)))

    def test_a_press_is_answered_from_where_it_was_done(self) -> None:
        press = {"kind": "set", "input": "foot-pedal", "at_us": 500_000, "pressed": True}
        status, first = self.play(now_us=400_000)
        self.assertEqual((status, first["until_us"], first["stopped"]), (200, 2_400_000, None))
        self.assertNotIn("focus-lamp", str(first["happened"]))
        status, then = self.play(now_us=510_000, stimuli=[press], since_us=499_999)
        self.assertEqual(status, 200)
        self.assertIn("Lamp mode: Dark → Focus", [one["words"] for one in then["happened"]])
        self.assertEqual([value for _, value in then["changes"]["output"]["focus-lamp"]][:1], [1])
        self.assertGreaterEqual(min(at for at, _ in then["changes"]["state"]["lamp-mode"]), 500_000)

    def test_a_fault_is_put_in_by_hand(self) -> None:
        _, sound = self.play(now_us=900_000)
        status, faulty = self.play(now_us=900_000, faults=["closed:foot-pedal:500000"])
        self.assertEqual(status, 200)
        words = "Foot pedal: pressed, and nobody pressed it"
        self.assertIn(words, [one["words"] for one in faulty["happened"] if one["at_us"] > 500_000])
        self.assertNotIn("Foot pedal", str(sound["happened"]))
        status, said = self.play(faults=["closed:nobody:5"])
        self.assertEqual((status, "no such fault" in said["error"]), (422, True), said)

    def test_it_is_refused_with_a_sentence(self) -> None:
        status, said = self.play(revision=999)
        self.assertEqual(status, 409)
        self.assertIn("has changed", said["error"])
        for more in (
            {"now_us": -1},
            {"now_us": "soon"},
            {"stimuli": [{"kind": "set"}]},
            {"stimuli": None},
            {"seed": 1.5},
        ):
            status, said = self.play(**more)
            self.assertEqual(status, 422, more)
            self.assertTrue(said["error"].endswith("."), said)

    def test_what_was_done_is_kept_as_a_scenario(self) -> None:
        down = {"kind": "set", "input": "foot-pedal", "at_us": 500_000, "pressed": True}
        up = {**down, "at_us": 620_000, "pressed": False}
        status, said = self.play(now_us=3_000_000, stimuli=[down, up], keep=True)
        self.assertEqual((status, said["name"]), (200, "By hand"))
        self.assertEqual(self.edit(said["patch"]).status_code, 200)
        made = self.head()["document"]["scenarios"][-1]
        self.assertEqual((made["name"], made["length_us"]), ("By hand", 3_000_000))
        done = [(one["kind"], one["input"], one["at_us"], one["hold_us"]) for one in made["stimuli"]]
        self.assertEqual(done, [("press", "foot-pedal", 500_000, 120_000)])
        self.assertEqual(self.play(stimuli=[], keep=True)[1]["name"], "By hand 2")
