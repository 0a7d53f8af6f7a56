"""Whatever a page offers is accepted: a walk through the benches that takes edits off the pages at random."""

from __future__ import annotations

import html
import json
import random
import re
import unittest
from typing import Any

import jsonpointer

from tests.app.client import AppCase
from tests.depth import DEPTH
from viva_tick.core.document import bench_data, bench_from_data
from viva_tick.core.first_scenario import with_first
from viva_tick.demo import ORDER
from viva_tick.web.stations import STATIONS

STEPS = 25 * DEPTH


def can_be_set(document: Any, path: str, new: bool = False) -> bool:
    """Whether a field at this JSON Pointer can be replaced: it is there; or, of a table whose rows are made as they are
    typed, it may be `new`."""
    *steps, last = jsonpointer.JsonPointer(path).parts
    around = jsonpointer.JsonPointer.from_parts(steps).resolve(document, None)
    return new or last in around if isinstance(around, dict) else isinstance(around, list) and int(last) < len(around)


class Offers(AppCase):
    def test_every_edit_that_a_page_offers_is_accepted(self) -> None:
        rng = random.Random(7)
        token = self.token()
        self.post("/benches/new", data={"name": "Empty"})
        taken = 0
        for bench in range(1, len(ORDER) + 2):
            scenario = picked = chosen = None
            for _ in range(STEPS):
                place = {"station": rng.choice(list(STATIONS)), "picked": picked, "scenario": scenario}
                place |= {"chosen": chosen, "look": rng.choice(["grid", "grid", "map", "both"])}
                query = {key: value for key, value in place.items() if value}
                page = self.client.get(f"/benches/{bench}/{place['station']}", query_string=query)
                self.assertEqual(page.status_code, 200, query)
                items = re.findall(r'data-picked="([^"]+)"', page.text)
                picked = rng.choice(items) if items and rng.random() < 0.5 else picked
                choices = [one for one in re.findall(r'data-choose="([^"]*)"', page.text) if one]
                chosen = rng.choice(choices) if choices and rng.random() < 0.7 else None
                offers = [json.loads(html.unescape(found)) for found in re.findall(r'data-patch="([^"]*)"', page.text)]
                patch = rng.choice([offer for offer in offers if offer] or [[]])
                head = self.head(bench)
                base = head["revision"]
                shown = bench_data(with_first(bench_from_data(head["document"])))
                for tag, path in re.findall(r'(<[^>]*data-path="([^"]+)"[^>]*>)', page.text):
                    with self.subTest(path=path, station=place["station"]):
                        self.assertTrue(can_be_set(shown, html.unescape(path), "data-row" in tag))
                body = {"base": base, "patch": patch, "place": place}
                answer = self.client.post(f"/api/benches/{bench}/edit", json=body, headers={"X-CSRFToken": token})
                # A part may not go while a machine uses it; that offer is on the page, disabled.
                if answer.status_code == 422:
                    self.assertRegex(answer.get_json()["error"], "there is no ")
                    self.assertIn("remove", [operation["op"] for operation in patch])
                    continue
                self.assertEqual(answer.status_code, 200, (patch, answer.get_json()))
                taken += 1
                scenario = answer.get_json()["scenario"]
                if rng.random() < 0.2:
                    body = {"base": answer.get_json()["revision"], "place": place}
                    undone = self.client.post(f"/api/benches/{bench}/undo", json=body, headers={"X-CSRFToken": token})
                    self.assertEqual(undone.status_code, 200)
        self.assertGreater(taken, 100 * DEPTH)


if __name__ == "__main__":
    unittest.main()
