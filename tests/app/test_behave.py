"""What Behave answers: why an output is as it is, machines in and out, findings played."""

from __future__ import annotations

import io
import re
import unittest
from itertools import pairwise
from typing import Any

from tests.app.client import AppCase
from tests.core.pace_benches import PRESS, bench_of, run_of
from viva_tick.core.edits import apply_patch
from viva_tick.core.engine import Kind
from viva_tick.core.exploring import play
from viva_tick.core.study import study
from viva_tick.core.timing import why
from viva_tick.core.units import ms
from viva_tick.demo import ORDER, demo_bench


class Why(AppCase):
    def test_every_output_of_every_demo_says_why_whenever_it_is_asked(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            for scenario in bench.scenarios:
                run = study(bench, scenario, mends=False).run
                assert run is not None
                for channel in bench.channels:
                    signal = run.trace.signal(Kind.OUTPUT, channel.id)
                    for at, value in zip(signal.times_us, signal.values, strict=True):
                        links = why(bench, run, channel.id, at)
                        times = [link.at_us for link in links]
                        self.assertEqual(
                            times[1:], sorted(times[1:], reverse=True), "each link is behind the one before"
                        )
                        self.assertLessEqual(max(times), at)
                        if value == 1:
                            self.assertIn(" on since ", links[0].words)
                            self.assertTrue(any(link.transition is not None for link in links), links)
                            for link, behind in pairwise(links):
                                if re.search(" touched at| was released at", behind.words):
                                    after = ms(link.at_us - behind.at_us)
                                    self.assertRegex(link.words, f"^accepted as .*, {re.escape(after)} after")
                            # The first link of the chain is something that happened to the bench, or the clock.
                            last = links[-1].words
                            self.assertRegex(
                                last,
                                "touched|released|stood for|started|done to it|guards|waited|finished: .+ for",
                                last,
                            )

    def test_it_is_asked_by_lane_and_instant(self) -> None:
        def ask(lane: str, at: int) -> Any:
            query = {"scenario": "Seven weeks on", "lane": lane, "at": at}
            return self.client.get("/api/benches/1/why", query_string=query).get_json()

        self.assertEqual(ask("state lamp-mode", 1_000_000)["chosen"], "transition 1")
        self.assertEqual(ask("state lamp-mode", 100_000)["chosen"], "state dark")
        said = [link["words"] for link in ask("output focus-lamp", 1_000_000)["links"]]
        self.assertIn("Lamp mode: Focus → Timed", said)
        self.assertTrue(said[-1].startswith("Foot pedal touched"))
        said = [link["words"] for link in ask("output focus-lamp", 2_000_000)["links"]]
        self.assertIn("Timed had stood for 1.2 s", said)
        self.assertEqual(
            ask("output focus-lamp", 1_000)["links"][0]["words"], "Focus lamp floats: its pin is not set up yet"
        )
        self.assertEqual(ask("nothing", 5)["links"], [])
        self.assertEqual(self.client.get("/api/benches/1/why").get_json()["links"], [])

    def test_the_time_of_a_state_around_others_is_counted_from_its_own_entry(self) -> None:
        def state(ident: str, on: bool, **more: Any) -> dict[str, Any]:
            return {"id": ident, "name": ident.title(), "drives": {"lamp": {"kind": "steady", "on": on}}, **more}

        def after(source: str, ms: int, target: str) -> dict[str, Any]:
            return {"source": source, "on": {"kind": "timeout", "after_us": ms * 1000}, "target": target}

        states = [state("off", False), {"id": "busy", "name": "Busy"}]
        states += [state("one", True, parent="busy"), state("two", True, parent="busy")]
        transitions = [{"source": "off", "on": PRESS, "target": "busy"}, after("busy", 2_000, "off")]
        transitions += [after("one", 501, "two"), after("two", 501, "one")]
        again = {"source": "two", "on": PRESS, "target": "busy"}
        for more, presses, at_ms, turned in (
            ([], [(100, 50)], 2_400, 1), ([], [(100, 50)], 2_400, -1), ([again], [(100, 50), (800, 50)], 3_100, 1)
        ):  # fmt: skip
            bench = bench_of(4_000, presses, states=states, transitions=[*transitions, *more][::turned])
            run = run_of(bench)
            links = why(bench, run, "lamp", at_ms * 1000)
            self.assertIn("Toggle: Busy → Off", links[2].words)
            self.assertRegex(links[3].words, r"^Busy had stood for (2 s|200[01]|2000\.\d+)")
            self.assertAlmostEqual(links[3].at_us / 1000, presses[-1][0], delta=60)


class Exchange(AppCase):
    def send(self, text: str | bytes, name: str = "m.scxml") -> Any:
        raw = text.encode() if isinstance(text, str) else text
        data = {"file": (io.BytesIO(raw), name), "base": self.head()["revision"], "station": "behave"}
        return self.post("/api/benches/1/machine", data=data)

    def test_a_machine_goes_out_and_comes_back_beside_itself(self) -> None:
        text = self.client.get("/benches/1/machines/lamp-mode.scxml").text
        answer = self.send(text)
        self.assertEqual((answer.status_code, answer.get_json()["picked"]), (200, "lamp-mode-2"))
        machines = self.head()["document"]["firmware"]["machines"]
        first, second = machines[0], machines[-1]
        self.assertEqual([s["drives"] for s in first["states"]], [s["drives"] for s in second["states"]])
        self.assertIn("digraph", self.client.get("/benches/1/machines/lamp-mode.dot").text)
        self.assertEqual(self.client.get("/benches/1/machines/nobody.dot").status_code, 404)

    def test_what_does_not_fit_is_refused_with_its_line_and_changes_nothing(self) -> None:
        before = self.head()["revision"]
        for sent, says in (
            ("<scxml xmlns='http://www.w3.org/2005/07/scxml'>\n<parallel/></scxml>", "Line 2: <parallel>"),
            ("no XML", "not well-formed"),
            (b"\xff\xfe\x00", "not text in UTF-8"),
            (
                "<scxml xmlns='http://www.w3.org/2005/07/scxml'><state id='a'>"
                "<transition event='press.nobody' target='a'/></state></scxml>",
                "there is no input “nobody”",
            ),
        ):
            answer = self.send(sent)
            self.assertEqual(answer.status_code, 422, sent)
            self.assertIn(says, answer.get_json()["error"])
        self.assertEqual(self.head()["revision"], before)


class Played(AppCase):
    def test_each_finding_that_can_be_played_is(self) -> None:
        from tests.core.finding_cases import CASES

        seen = set()
        for code, bench, _ in CASES:
            for finding in study(bench, bench.scenarios[0], mends=False).findings:
                # What goes round in every pass uses up a run's budget of changes, as it should.
                if finding.code != code or not finding.play or code in ("behave.loop", "behave.level-toggle"):
                    continue
                seen.add(code)
                row = play(bench, finding.play, finding.title)
                made = apply_patch(bench, [{"op": "add", "path": "/scenarios/-", "value": row}])
                done = study(made, made.scenarios[-1], mends=False)
                assert done.run is not None
                self.assertIsNone(done.run.stopped)
                entered = {v for m in made.firmware.machines for v in done.run.trace.signal(Kind.STATE, m.id).values}
                if code in ("behave.dead-end", "behave.for-ever", "behave.trap"):
                    index = int(finding.pointer.split("/")[5])
                    machine = made.firmware.machines[int(finding.pointer.split("/")[3])]
                    self.assertIn(machine.states[index].id, entered, code)
        self.assertLessEqual(
            {"behave.dead-end", "behave.trap", "behave.for-ever", "behave.interlock", "wire.both-directions",
             "behave.press-first", "behave.short-time"}, seen)  # fmt: skip


if __name__ == "__main__":
    unittest.main()
