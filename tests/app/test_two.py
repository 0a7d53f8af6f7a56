"""Two people, one bench: what an edit means, it means wherever that stands now; nothing is taken back unseen."""

from __future__ import annotations

import html
import json
import random
import re
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.app.client import AppCase
from tests.core.pace_benches import bench_of
from tests.depth import DEPTH
from viva_tick.core.document import Bench, DocumentError, bench_data, bench_from_data
from viva_tick.core.edits import apply_patch, rebased
from viva_tick.web.stations import STATIONS

PRESSES = [(at, 50) for at in (260, 700, 1_000, 1_400)]


def presses(bench: Bench) -> list[int]:
    """When the button is pressed, in the order of the document, ms."""
    return [one.at_us // 1000 for one in bench.scenarios[0].stimuli]


class Rebased(unittest.TestCase):
    @settings(max_examples=60 * DEPTH, deadline=None)
    @given(st.data())
    def test_a_press_is_changed_wherever_it_stands_now_or_not_at_all(self, data: st.DataObject) -> None:
        base = bench_of(presses=PRESSES)
        place = data.draw(st.integers(0, 3))
        path = f"/scenarios/0/stimuli/{place}"
        moved = {**bench_data(base)["scenarios"][0]["stimuli"][place], "at_us": 1_800_000}
        kinds: dict[str, list[dict[str, Any]]] = {
            "replace": [{"op": "replace", "path": f"{path}/at_us", "value": 1_800_000}],
            "whole": [{"op": "replace", "path": path, "value": moved}],
            "remove": [{"op": "remove", "path": path}],
            "twice": [{"op": "replace", "path": f"{path}/at_us", "value": 1_700_000},
                      {"op": "replace", "path": f"{path}/at_us", "value": 1_800_000}],
            "add": [{"op": "add", "path": path, "value": moved}],
        }  # fmt: skip
        kind = data.draw(st.sampled_from(sorted(kinds)))
        patch = kinds[kind]
        # Meanwhile: presses and scenarios in another order, some gone, some new.
        changed = bench_data(base)
        stimuli = changed["scenarios"][0]["stimuli"]
        kept = data.draw(st.permutations(range(4)))[: data.draw(st.integers(0, 4))]
        new = [{**stimuli[0], "at_us": at} for at in data.draw(st.lists(st.sampled_from([5_000, 9_000]), max_size=2))]
        changed["scenarios"][0]["stimuli"] = [*new, *(stimuli[n] for n in kept)]
        if data.draw(st.booleans()):
            changed["scenarios"].insert(0, {**changed["scenarios"][0], "name": "before it"})
        head = bench_from_data(changed)
        at = next(n for n, one in enumerate(head.scenarios) if one.name == "run")
        before = [one.at_us // 1000 for one in head.scenarios[at].stimuli]
        mine = PRESSES[place][0]
        try:
            after = apply_patch(head, rebased(patch, base, head))
        except DocumentError as error:
            self.assertNotIn(mine, before)
            self.assertIn(f"at {mine} ms, which your edit changes, has been changed or removed", str(error))
            return
        if kind != "add":
            self.assertIn(mine, before)
        wanted = [one for one in before if one != mine or kind == "add"] + ([] if kind == "remove" else [1_800])
        self.assertEqual(sorted(one.at_us // 1000 for one in after.scenarios[at].stimuli), sorted(wanted))
        others = [one for n, one in enumerate(after.scenarios) if n != at]
        self.assertEqual(others, [one for n, one in enumerate(head.scenarios) if n != at])


class Two(AppCase):
    def as_another(self) -> Any:
        """A second browser."""
        other = Two()
        other.app, other.client = self.app, self.app.test_client()
        return other

    def test_mine_on_top_means_the_same_part(self) -> None:
        other = self.as_another()
        base = self.head(2)["revision"]
        names = [part["name"] for part in self.head(2)["document"]["inputs"]]
        other.edit([{"op": "move", "from": "/inputs/0", "path": f"/inputs/{len(names) - 1}"}], bench=2)
        patch = [{"op": "replace", "path": "/inputs/0/name", "value": "Renamed"}]
        answer = self.edit(patch, base=base, bench=2)
        self.assertEqual(answer.status_code, 409)
        sides = answer.get_json()["conflict"]
        self.assertIn(names[0], sides["yours"])
        self.assertEqual(sides["made"], base)
        mine = self.edit(patch, base=sides["revision"], bench=2, made=sides["made"])
        self.assertEqual(mine.status_code, 200)
        after = [part["name"] for part in self.head(2)["document"]["inputs"]]
        self.assertEqual(after, [*names[1:], "Renamed"])

    def test_what_has_gone_is_refused_with_both_sides(self) -> None:
        other = self.as_another()
        base = self.head(1)["revision"]
        other.edit([{"op": "remove", "path": "/scenarios/0/stimuli/0"}])
        patch = [{"op": "replace", "path": "/scenarios/0/stimuli/0/hold_us", "value": 90_000}]
        sides = self.edit(patch, base=base).get_json()["conflict"]
        answer = self.edit(patch, base=sides["revision"], made=base)
        self.assertEqual(answer.status_code, 422)
        said = " ".join(problem["sentence"] for problem in answer.get_json()["problems"])
        self.assertRegex(said, "which your edit changes, has been changed or removed meanwhile")
        self.assertRegex(said, "Yours: .+ Saved meanwhile: .+")
        for made in (10**30, 0, -1, "1", True, 999_999):
            self.assertEqual(self.edit(patch, base=sides["revision"], made=made).status_code, 422, made)

    def test_what_another_saved_is_taken_back_only_by_one_who_is_sure(self) -> None:
        other = self.as_another()
        other.edit([{"op": "replace", "path": "/name", "value": "Theirs"}])
        base = self.head()["revision"]
        answer = self.post("/api/benches/1/undo", {"base": base})
        self.assertEqual(answer.status_code, 409)
        self.assertRegex(answer.get_json()["unsure"], "not yours: .*Theirs.*Undo it all the same")
        self.assertEqual(self.head()["document"]["name"], "Theirs")
        self.assertEqual(self.post("/api/benches/1/undo", {"base": base, "sure": True}).status_code, 200)
        self.assertEqual(self.head()["document"]["name"], "Print timer")
        self.edit([{"op": "replace", "path": "/name", "value": "Mine"}])
        self.assertEqual(self.post("/api/benches/1/undo", {"base": self.head()["revision"]}).status_code, 200)

    def test_any_row_of_edits_undo_and_redo_by_two_leaves_a_bench_that_opens_and_says_what_was_done(self) -> None:
        rng = random.Random(11)
        people = [self, self.as_another()]
        tokens = [one.token() for one in people]
        # What each has on the screen: the revision, and what it offers.
        seen: list[tuple[int, list[Any]]] = []

        def look(person: int) -> tuple[int, list[Any]]:
            page = people[person].client.get(f"/benches/1/{rng.choice(list(STATIONS))}")
            self.assertEqual(page.status_code, 200)
            self.assertFalse("could not be worked out" in page.text)
            found = [json.loads(html.unescape(one)) for one in re.findall(r'data-patch="([^"]*)"', page.text)]
            revision = re.search(r'data-revision="(\d+)"', page.text)
            assert revision is not None
            return int(revision[1]), [one for one in found if one]

        def send(person: int, what: str, body: dict[str, Any]) -> Any:
            headers = {"X-CSRFToken": tokens[person]}
            return people[person].client.post(f"/api/benches/1/{what}", json=body, headers=headers)

        seen = [look(0), look(1)]
        codes: dict[int, int] = {}
        for _ in range(40 * DEPTH):
            person = rng.randrange(2)
            base, offers = seen[person]
            what = rng.choices(["edit", "undo", "redo"], [6, 2, 1])[0]
            body: dict[str, Any] = {"base": base}
            if what == "edit":
                body["patch"] = rng.choice(offers or [[{"op": "replace", "path": "/note", "value": str(rng.random())}]])
            answer = send(person, what, body)
            said = answer.get_json()
            codes[answer.status_code] = codes.get(answer.status_code, 0) + 1
            if answer.status_code == 409 and "unsure" in said:
                answer = send(person, what, {**body, "sure": True})
            elif answer.status_code == 409:
                sides = said["conflict"]
                self.assertTrue(sides["yours"] and sides["theirs"])
                if what == "edit" and rng.random() < 0.7:
                    answer = send(person, what, {**body, "base": sides["revision"], "made": sides["made"]})
            self.assertIn(answer.status_code, (200, 409, 422), answer.text[:300])
            if answer.status_code == 200:
                history = people[person].client.get("/api/benches/1/history").get_json()["history"]
                self.assertTrue(history[0]["words"])
            if answer.status_code != 200 or rng.random() < 0.5:
                seen[person] = look(person)
            bench_from_data(self.head()["document"])
        self.assertGreater(codes[200], 10)
        self.assertGreater(codes[409], 3)


if __name__ == "__main__":
    unittest.main()
