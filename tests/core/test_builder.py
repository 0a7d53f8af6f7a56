"""Programs build in the boards' own builder: prototypes put in, the real cross compiler, every warning an error."""

from __future__ import annotations

import re
import tempfile
import unittest
from itertools import product
from pathlib import Path
from typing import Any

from hypothesis import HealthCheck, given, settings

from tests.core.builder import build, inserted
from tests.core.finding_cases import DIAL, both_asked, turned, with_parts
from tests.core.on_host import NO_SHRINK, plainly
from tests.core.pace_benches import PRESS, STATES, bench_of
from tests.core.pace_benches import task as a_task
from tests.depth import DEPTH
from tests.random_benches import benches, sensed_benches
from viva_tick.core.boards import boards
from viva_tick.core.debounce import METHODS
from viva_tick.core.document import Bench, Scenario, bench_data, bench_from_data
from viva_tick.core.emit import sketch
from viva_tick.core.emit.compiling import KNOWN
from viva_tick.core.emit.cpp import sketch_files
from viva_tick.core.emit.names import TYPES
from viva_tick.core.study import study
from viva_tick.demo import ORDER, demo_bench

WATCHED = {"lamp": {"kind": "steady", "on": True}}
TOLD = [{"source": "off", "on": {"kind": "watchdog-reset"}, "target": "on"}]
NUMBER = [{"id": "count", "name": "Count", "most": 900}]
CHANCE = [{"source": "off", "on": {"kind": "timeout", "after_us": 1000, "until_us": 9000}, "target": "on"}]


def watched(**more: Any) -> dict[str, Any]:
    return {"watchdog": {"mode": "reset", "timeout_us": 250_000} | more, "tasks": [a_task("work", 100, 500)]}


def features() -> list[tuple[str, dict[str, Any]]]:
    """Everything of a program's shape that a board's registers, or the order of a file, have a say in."""
    found: list[tuple[str, dict[str, Any]]] = [
        (method, {"debounce": {"button": {"method": method, "interval_us": 20_000}}}) for method in METHODS
    ]
    modes, places = ("interrupt", "reset", "interrupt-reset"), ("start", "end", "task", "interrupt")
    for mode, feed in product(modes, places):
        found.append((f"{mode} fed {feed}", watched(mode=mode, feed=feed, feed_task="work", also=["wait"])))
    for mode, cause, told_by in product(modes, ("lost", "kept", "stored"), ("flag", "mark")):
        found.append(
            (f"{mode} {cause} {told_by}", {"transitions": TOLD, **watched(mode=mode, cause=cause, told_by=told_by)})
        )
    found.append(("left on", watched(off_at_start=False, cause="kept")))
    for where, when in product(("ram", "store"), ("change", "feed", "every", "interrupt")):
        keeps = [{"of": of, "where": where, "when": when} for of in ("toggle", "count")]
        found.append((f"{where} {when}", {"keeps": keeps, "variables": NUMBER, **watched(mode="interrupt-reset")}))
    for wakes, guard in product(("watchdog", "timer", "pin"), ("off", *modes)):
        found.append((f"sleep {wakes} {guard}", {"sleep": {"wakes": wakes}, **watched(mode=guard)}))
    found += [
        ("chance", {"transitions": CHANCE}),
        ("kept wrongly", {"timekeeping": {"compares": "until", "product": "int"}, "transitions": CHANCE}),
        ("printed", {"tasks": [a_task("say", 100, 50, does="print", characters=90, blocking=False)]}),
        ("slices", {"tasks": [a_task("cut", 100, 9_000, blocking=False)]}),
        ("waits", {"debounce": {"button": {"method": "look-again", "interval_us": 9_000}}, **watched(also=["wait"])}),
        ("limit", {"limits": {"lamp": {"longest_us": 9_000_000}}}),
        ("hold", {"transitions": [{"source": "off", "on": {**PRESS, "kind": "hold"}, "target": "on"}]}),
    ]
    return found


class ProgramsBuild(unittest.TestCase):
    def assert_builds(self, bench: Bench, folder: str) -> None:
        said = [(f.title, f.sentence) for f in study(bench, None).findings if f.severity == "must"]
        build(sketch_files(bench, said), bench.board, Path(folder))

    def test_every_feature_on_both_8_bit_boards(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            for board, (name, firmware) in product(KNOWN, features()):
                with self.subTest(board=board, feature=name):
                    bench = bench_of(board=board, states=STATES, **firmware)
                    self.assert_builds(bench if board == "mid-8bit-5v" else plainly(bench), folder)

    def test_every_demo(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            for name in ORDER:
                self.assert_builds(demo_bench(name), folder)
                self.assert_builds(plainly(demo_bench(name)), folder)

    def test_an_interlock_and_an_encoder_by_interrupt(self) -> None:
        for bench in (both_asked(), with_parts({**DIAL, "read_by": "interrupt"}, machines=[turned("p0", "fast")])):
            with tempfile.TemporaryDirectory() as folder:
                self.assert_builds(bench, folder)

    @settings(max_examples=15 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(benches())
    def test_random_benches(self, made: tuple[Bench, Scenario]) -> None:
        with tempfile.TemporaryDirectory() as folder:
            self.assert_builds(made[0], folder)

    @settings(max_examples=10 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(sensed_benches())
    def test_random_benches_with_every_kind_of_input(self, made: tuple[Bench, Scenario]) -> None:
        with tempfile.TemporaryDirectory() as folder:
            self.assert_builds(plainly(made[0]), folder)

    @settings(max_examples=8 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
    @given(benches())
    def test_random_benches_on_the_small_board(self, made: tuple[Bench, Scenario]) -> None:
        data = bench_data(made[0]) | {"board": "small-8bit-5v"}
        for part, pin in zip((*data["inputs"], *data["outputs"]), ("P2", "P3", "P1", "P4"), strict=True):
            part["pin"] = pin
        with tempfile.TemporaryDirectory() as folder:
            self.assert_builds(bench_from_data(data), folder)

    def test_names_that_could_meet_do_not(self) -> None:
        def machine(ident: str, around: str) -> dict[str, Any]:
            states = [{"id": around, "name": "Around", "remembers": True}]
            states += [{"id": one, "name": one, "parent": around, "drives": {}} for one in ("held", "rim")]
            on = {"kind": "timeout", "after_us": 2_000_000}
            transitions = [
                {"source": "away", "on": PRESS, "target": around},
                {"source": around, "on": on, "target": "away"},
            ]
            states.append({"id": "away", "name": "Away", "drives": {}})
            return {"id": ident, "name": ident, "initial": "held", "states": states, "transitions": transitions}

        met = [
            *(("kept", "open"), ("stored", "state"), ("output", "at"), ("string", "s"), ("print", "s"), ("a1", "pi")),
            *(("door", "open"), ("door-open", "since"), ("door-kept", "state"), ("door-state", "kept-at"), ("kept-door", "open")),
            *(("button", "edge"), ("button-since", "edge"), ("now", "state"), ("lamp", "out"), ("step-door", "mark")),
        ]  # fmt: skip
        keeps = [{"of": ident, "where": where, "when": "every"}
                 for where, some in (("ram", met[:8]), ("store", met[8:])) for ident, _ in some]  # fmt: skip
        bench = bench_of(machines=[machine(*one) for one in met], keeps=keeps, **watched(cause="kept"))
        with tempfile.TemporaryDirectory() as folder:
            self.assert_builds(bench, folder)

    def test_every_type_of_a_program_is_one_that_machines_keep_clear_of(self) -> None:
        found: set[str] = set()

        @settings(max_examples=20 * DEPTH, deadline=None, phases=NO_SHRINK, suppress_health_check=list(HealthCheck))
        @given(sensed_benches())
        def look(made: tuple[Bench, Scenario]) -> None:
            found.update(re.findall(r"^(?:struct|enum(?! class)) (\w+)", sketch(made[0]), re.MULTILINE))

        look()
        for _, firmware in features():
            text = sketch(bench_of(states=STATES, **firmware))
            found.update(re.findall(r"^(?:struct|enum(?! class)) (\w+)", text, re.MULTILINE))
        self.assertEqual(found - TYPES, set())
        self.assertGreater(len(found), 20)

    def test_the_insertion_would_find_a_type_that_comes_too_late(self) -> None:
        late = "void first() {\n}\n\nenum Kind : unsigned char { ONE };\n\nvoid second(Kind kind) {\n  (void)kind;\n}\n"
        self.assertLess(inserted(late).index("void second(Kind kind);"), inserted(late).index("enum Kind"))
        with tempfile.TemporaryDirectory() as folder, self.assertRaises(AssertionError):
            build(late, "mid-8bit-5v", Path(folder))

    def test_registers_vectors_and_macros_of_chips_stand_in_the_boards_files_alone(self) -> None:
        words: set[str] = set()
        for board in boards().values():
            if board.program and board.program.watchdog:
                calls = board.program.model_dump_json(exclude={"pull_up_mode", "pull_down_mode"})
                words |= set(re.findall(r"\b(?=\w*[A-Z])[A-Z0-9_]{4,}\b|\b\w+_vect\b|\bwdt_\w+", calls))
        words -= {"HIGH", "INPUT"}
        core = Path(__file__).parents[2] / "viva_tick" / "core"
        self.assertGreater(len(words), 20)
        for path in core.rglob("*.py"):
            self.assertEqual(words & set(re.findall(r"\w+", path.read_text())), set(), path)


if __name__ == "__main__":
    unittest.main()
