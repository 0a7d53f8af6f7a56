"""The scenario that makes itself: everything that a bench listens for, and its recipes' drawings, which are such runs."""

from __future__ import annotations

import json
import unittest
from importlib import resources
from typing import Any

from hypothesis import HealthCheck, given, settings

from tests.core.machine_benches import bench_with
from tests.depth import DEPTH
from viva_tick.core.document import HEARD, Bench, bench_data
from viva_tick.core.edits import apply_patch
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.first_scenario import first_scenario, touched, with_first
from viva_tick.core.kinds import KINDS
from viva_tick.core.pins import Room, arrival_patch
from viva_tick.core.recipes import RECIPES, made_from
from viva_tick.web.drawings import map as maps
from viva_tick.web.drawings import recipes

OF_ITSELF = {
    "code",
    "wrong",
    "entered",
    "left",
    "reached",
    "ended",
    "number",
    "outside",
    "boot",
    "watchdog-reset",
}  # no hand does these


def recipe_bench(ident: str) -> Bench:
    bench, asked = recipes._bench(RECIPES[ident])
    return apply_patch(bench, made_from(RECIPES[ident], bench, asked).patch())


def happened(bench: Bench) -> set[tuple[str, str]]:
    run = SkippingEngine().run(bench, bench.scenarios[0])
    return {(signal.of, value) for signal in run.trace.signals if signal.kind is Kind.EVENT for value in signal.values}


class First(unittest.TestCase):
    def test_everything_that_a_recipe_listens_for_happens_in_it(self) -> None:
        for ident in RECIPES:
            bench = with_first(recipe_bench(ident))
            seen = happened(bench) if bench.scenarios else set()
            for transition in bench.firmware.machines[0].transitions:
                on = transition.on
                if not isinstance(on, HEARD) or on.kind in OF_ITSELF or on.kind == "command":
                    continue
                wanted = f"{on.kind} {on.of}".strip() if on.kind in ("key", "chord") else on.kind
                with self.subTest(recipe=ident, event=wanted):
                    self.assertIn((on.input, wanted), seen)

    def test_it_follows_the_bench_until_it_is_touched(self) -> None:
        bench = Bench(name="Empty")
        self.assertIs(with_first(bench), bench, "nothing to press, nothing to do")
        bench = apply_patch(bench, arrival_patch(Room.of(bench), KINDS["button"])[1])  # type: ignore[index]
        one = with_first(bench)
        self.assertEqual(([row.input for row in one.scenarios[0].stimuli], bench.scenarios), (["button"], ()))
        more = apply_patch(bench, arrival_patch(Room.of(bench), KINDS["switch"])[1])  # type: ignore[index]
        self.assertEqual({row.input for row in with_first(more).scenarios[0].stimuli}, {"button", "switch"})
        # Something else that takes a press out of it on the way leaves it to itself; a change of its own keeps it.
        out: list[dict[str, Any]] = [{"op": "remove", "path": "/scenarios/0/stimuli/0"}, {"op": "replace", "path": "/name", "value": "x"}]  # fmt: skip
        self.assertEqual(touched(bench, out), out[1:])
        later = [{"op": "replace", "path": "/scenarios/0/stimuli/0/at_us", "value": 420_000}]
        kept = apply_patch(bench, touched(bench, later))
        self.assertEqual((kept.scenarios[0].stimuli[0].at_us, with_first(kept) is kept), (420_000, True))
        self.assertEqual(touched(kept, later), later)
        self.assertEqual(first_scenario(kept)["name"], "Each once 2", "one more has a name of its own")

    def test_recipes_are_drawn_as_they_run(self) -> None:
        written = json.loads(resources.files(recipes.__package__).joinpath(recipes.FILE).read_text(encoding="utf-8"))
        self.assertEqual(written, {one.id: recipes.figure_of(one) for one in RECIPES.values()}, "run `make docs`")
        self.assertEqual([role for role, _ in written["interlocked"]], ["contact", "contact", "output", "output"])


class Maps(unittest.TestCase):
    @settings(max_examples=40 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck))
    @given(bench_with())
    def test_words_of_a_map_lie_on_no_box_and_on_no_other(self, bench: Bench) -> None:
        for machine in bench.firmware.machines:
            words = [f"after {n} ms, and more" for n, _ in enumerate(machine.transitions)]
            drawn = maps.machine_map(machine, words)
            boxes = [(n.x - maps.BOX_W / 2, n.y - maps.BOX_H / 2, maps.BOX_W, maps.BOX_H) for n in drawn.nodes]
            for arrow in drawn.arrows:
                x, y, w, h = arrow.label.rect
                for bx, by, bw, bh in boxes:
                    self.assertFalse(
                        x < bx + bw and bx < x + w and y < by + bh and by < y + h, (words, bench_data(bench))
                    )
                self.assertTrue(drawn.left <= x and x + w <= drawn.left + drawn.width, "inside the picture")
                boxes.append((x, y, w, h))


if __name__ == "__main__":
    unittest.main()
