"""Things of the shelf: what is kept on one bench does the same on another; what it asks for is what it uses."""

from __future__ import annotations

import json
import unittest

from viva_tick.core.document import Bench, DocumentError, bench_data, bench_from_data
from viva_tick.core.document.parts import Display
from viva_tick.core.edits import apply_patch
from viva_tick.core.shelf import (
    KeptMachine,
    KeptPart,
    choices,
    keep_machine,
    keep_panel,
    keep_part,
    shelf_from_text,
    shelf_text,
    take,
)
from viva_tick.demo import ORDER, demo_bench


def without_machine(bench: Bench, ident: str) -> Bench:
    data = bench_data(bench)
    data["firmware"]["machines"] = [one for one in data["firmware"]["machines"] if one["id"] != ident]
    return bench_from_data(data)


class Machines(unittest.TestCase):
    def test_taken_back_it_is_the_same_machine(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            for machine in bench.firmware.machines:
                with self.subTest(name, machine=machine.id):
                    kept = keep_machine(bench, machine.id, "kept", machine.name)
                    again = shelf_from_text(shelf_text([kept]))[0]
                    self.assertEqual(again, kept)
                    try:
                        bare = without_machine(bench, machine.id)
                    except DocumentError:
                        continue  # others speak of it
                    made = take(bare, kept, {ask.ref: ask.ref for ask in kept.asks})
                    back = apply_patch(bare, made.patch).firmware.machines[-1]
                    self.assertEqual(back, machine)

    def test_what_it_asks_for_is_all_that_it_names(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            others = {one.id for one in bench.parts} | {one.id for one in bench.contacts}
            for machine in bench.firmware.machines:
                kept = keep_machine(bench, machine.id, "kept", "A")
                text = json.dumps(kept.machine.model_dump(mode="json"))
                named = {ident for ident in others if f'"{ident}"' in text}
                self.assertLessEqual(named, {ask.ref for ask in kept.asks}, (name, machine.id))

    def test_on_another_bench_it_does_the_same_to_other_things(self) -> None:
        source, target = demo_bench("bicycle-lamp"), demo_bench("quiz-table")
        machine = source.firmware.machines[0]
        kept = keep_machine(source, machine.id, "lamp-steps", "Lamp steps")
        contact = next(ask.ref for ask in kept.asks if ask.what == "contact")
        output = next(ask.ref for ask in kept.asks if ask.what == "output")
        given = {ask.ref: choices(target, ask.what)[0][0] if choices(target, ask.what) else "" for ask in kept.asks}
        given |= {contact: "judge-button", output: "buzzer"}
        data = bench_data(target)
        data["firmware"]["machines"], data["scenarios"] = [], []
        bare = bench_from_data(data)
        try:
            made = take(bare, kept, given)
        except DocumentError as error:
            self.assertIn("asks for", str(error))
            return
        changed = apply_patch(bare, made.patch)
        text = json.dumps(bench_data(changed)["firmware"]["machines"])
        self.assertNotIn(f'"{output}"', text)
        self.assertIn('"buzzer"', text)
        for ask in kept.asks:
            with self.assertRaisesRegex(DocumentError, "choose what that is here"):
                take(bare, kept, {**given, ask.ref: "nobody"})

    def test_the_same_name_twice_and_an_update_in_its_place(self) -> None:
        bench = demo_bench("print-timer")
        machine = next(
            one for one in bench.firmware.machines if len(one.states) > 1 and one.initial != one.states[-1].id
        )
        kept = keep_machine(bench, machine.id, "kept", "Another name")
        assert isinstance(kept, KeptMachine)
        given = {ask.ref: ask.ref for ask in kept.asks}
        made = take(bench, kept, given)
        self.assertNotEqual(made.local, machine.id)
        new = kept.model_copy(
            update={"machine": kept.machine.model_copy(update={"initial": kept.machine.states[-1].id})}
        )
        self.assertNotEqual(new.digest, kept.digest)
        self.assertEqual(kept.model_copy(update={"name": "B", "note": "x"}).digest, kept.digest)
        updated = apply_patch(bench, take(bench, new, {**given, "of": machine.id}).patch)
        self.assertEqual(len(updated.firmware.machines), len(bench.firmware.machines))
        now = next(one for one in updated.firmware.machines if one.id == machine.id)
        self.assertEqual((now.initial, now.name), (kept.machine.states[-1].id, machine.name))


class Parts(unittest.TestCase):
    def test_every_part_of_every_demo_comes_to_an_empty_bench_as_it_was(self) -> None:
        for name in ORDER:
            bench = demo_bench(name)
            empty = bench_from_data(
                {**bench_data(Bench(name="E")), "board": bench.board, "own_board": bench_data(bench).get("own_board")}
            )
            for part in bench.parts:
                with self.subTest(name, part=part.id):
                    kept = shelf_from_text(shelf_text([keep_part(bench, part.id, "kept", part.name)]))[0]
                    assert isinstance(kept, KeptPart)
                    made = apply_patch(empty, take(empty, kept, {}).patch)
                    data, was = (
                        next(one for one in each.parts if one.id == part.id).model_dump(mode="json")
                        for each in (made, bench)
                    )
                    self.assertEqual(without_pairs(data), without_pairs(was))
                    for line in part.contacts(""):
                        self.assertEqual(made.firmware.debounce.get(line.id), bench.firmware.debounce.get(line.id))
                    self.assertEqual(made.firmware.readings.get(part.id), bench.firmware.readings.get(part.id))
                    # Once more it has pins and an id of its own; in its own place it has that one's.
                    try:
                        twice = apply_patch(bench, take(bench, kept, {}).patch)
                    except DocumentError as error:
                        self.assertIn("no pin left", str(error))
                    else:
                        self.assertEqual(len(twice.parts), len(bench.parts) + 1)
                        pins = [claim.pin for claim in twice.claims]
                        bus = 2 if isinstance(part, Display) else 0  # its lines are for all that hang on them
                        self.assertEqual(len(pins) - len(set(pins)), shared(bench) + bus, "a pin that was taken")
                    again = apply_patch(bench, take(bench, kept, {"of": part.id}).patch)
                    self.assertEqual(again, bench)

    def test_a_contact_that_bounces_as_it_was_captured_brings_its_capture_under_a_free_name(self) -> None:
        data = bench_data(demo_bench("print-timer"))
        edges = [{"at_us": 0, "level": 1}, {"at_us": 5_000, "level": 0}, {"at_us": 90_000, "level": 1}]
        data["captures"] = [{"id": "mine", "name": "Mine", "edges": edges}]
        data["inputs"][0]["contact"] = {"kind": "capture", "capture": "mine"}
        bench = bench_from_data(data)
        kept = keep_part(bench, bench.inputs[0].id, "kept", "Kept")
        data["captures"][0]["edges"] = [*edges[:2], {"at_us": 70_000, "level": 1}]
        other = bench_from_data(data)  # it has one of that name that is another
        made = apply_patch(other, take(other, kept, {}).patch)
        contact = made.contact(made.inputs[-1].id).contact
        self.assertEqual([one.edges[-1].at_us for one in made.captures], [70_000, 90_000])
        self.assertEqual(getattr(contact, "capture", ""), made.captures[1].id)

    def test_a_panel_leaves_out_what_is_not_there(self) -> None:
        data = bench_data(demo_bench("quiz-table"))
        data["panel"] = {"wide_mm": 90, "high_mm": 60, "spots": {"ann-button": {"x_mm": 20, "y_mm": 20, "label": "A"}}}
        bench = bench_from_data(data)
        kept = keep_panel(bench, "panel", "Small")
        self.assertEqual(
            apply_patch(demo_bench("quiz-table"), take(demo_bench("quiz-table"), kept, {}).patch).panel, bench.panel
        )
        other = apply_patch(demo_bench("rain-barrel"), take(demo_bench("rain-barrel"), kept, {}).patch)
        self.assertEqual((other.panel.wide_mm, other.panel.spots), (90, {}))


def shared(bench: Bench) -> int:
    """How many pins are claimed more than once (a bus's are)."""
    pins = [claim.pin for claim in bench.claims]
    return len(pins) - len(set(pins))


def without_pairs(data: dict[str, object]) -> dict[str, object]:
    """A part's data without what speaks of another part."""
    return {name: value for name, value in data.items() if name not in ("paired_with",)}


if __name__ == "__main__":
    unittest.main()
