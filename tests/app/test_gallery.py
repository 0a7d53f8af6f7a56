"""The gallery: every bench of it does what its checks say, in both engines and as a program, and can be opened."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from tests.app.client import AppCase
from tests.core import on_host
from tests.core.builder import build
from viva_tick.core.document import bench_text
from viva_tick.core.drives import Picked, Text
from viva_tick.core.emit.cpp import sketch_files
from viva_tick.core.engine import Budget, PlainEngine, SkippingEngine
from viva_tick.core.timing import judged
from viva_tick.web.gallery import FOLDER, exhibits


class Exhibits(unittest.TestCase):
    def test_each_does_what_its_checks_say_in_both_engines(self) -> None:
        self.assertGreaterEqual(len(exhibits()), 12)
        for name, bench in exhibits().items():
            self.assertTrue(bench.scenarios, name)
            for scenario in bench.scenarios:
                with self.subTest(name, scenario=scenario.name):
                    self.assertTrue(scenario.expects)
                    found = SkippingEngine().run(bench, scenario)
                    self.assertEqual([(v.words, v.got) for v in judged(bench, scenario, found) if not v.met], [])
                    if scenario.length_us <= 6_000_000:  # pass by pass it takes a second for each of these
                        plain = PlainEngine().run(bench, scenario, budget=Budget(passes=5_000_000))
                        self.assertEqual(plain, found)

    def test_each_as_a_program(self) -> None:
        for name, bench in exhibits().items():
            if bench.the_board.program is None:
                self.assertEqual(name, "ghost-box")
                continue
            with self.subTest(name), tempfile.TemporaryDirectory() as folder:
                if bench.firmware.kernel.between.used:  # see test_emit_kernel
                    self.assertEqual(name, "ticket-gate")
                    continue
                build(sketch_files(bench), bench.board, Path(folder))
                on_host.AsTheEngine().assert_same(bench, bench.scenarios[0], 1_500)

    def test_they_show_what_they_are_for(self) -> None:
        drives = [d for bench in exhibits().values() for m in bench.firmware.machines for _, _, d in m.drives]
        for kind in (Text, Picked):
            self.assertTrue(any(isinstance(drive, kind) for drive in drives), kind)
        self.assertTrue(any(scenario.answers for bench in exhibits().values() for scenario in bench.scenarios))
        for path in FOLDER.glob("*.json"):
            self.assertEqual(bench_text(exhibits()[path.stem]), path.read_text(), "as the program writes it")


class Opening(AppCase):
    def test_any_of_them_can_be_opened(self) -> None:
        page = self.client.get("/gallery")
        self.assertEqual(page.status_code, 200)
        for name, bench in exhibits().items():
            self.assertIn(bench.name, page.text)
            opened = self.client.post(f"/gallery/{name}", data={"csrf_token": self.token()}, follow_redirects=True)
            self.assertEqual(opened.status_code, 200)
            self.assertNotIn("could not be worked out", opened.text)
            self.assertIn(bench.name, opened.text)
            at = opened.request.path.rsplit("/", 1)[0]
            bodies = [body.id for body in bench.firmware.kernel.between.bodies]
            for picked in [*bodies, "_between"] if bodies else []:
                page_of = self.client.get(f"{at}/pace?picked={picked}").text
                self.assertNotIn("could not be worked out", page_of)
                self.assertIn("Add a step", page_of)
            tasks = self.client.get(f"{at}/kernel.code")
            self.assertEqual(tasks.status_code, 200 if bodies else 404, name)
            page_of = self.client.get(f"{at}/build").text
            self.assertEqual("xTaskCreate" in page_of, bool(bodies), name)
            self.assertEqual("C++, tasks" in page_of, bool(bodies), name)
        self.assertEqual(self.client.post("/gallery/nothing", data={"csrf_token": self.token()}).status_code, 404)


if __name__ == "__main__":
    unittest.main()
