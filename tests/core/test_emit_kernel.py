"""The tasks of a kernel, compiled with the system's compiler on a kernel that is none of ours, do what the engine said
they would."""

from __future__ import annotations

import json
import random
import re
import subprocess
import tempfile
import unittest
from pathlib import Path
from typing import Any

from tests.core.on_host import (
    DOUBLE,
    FLAGS,
    LINKER,
    as_the_engine_had_it,
    as_written,
    code,
    double,
    merged,
    written_by,
)
from tests.core.pace_benches import bench_of
from tests.core.pace_benches import task as a_task
from tests.core.test_between import TALKS, talking
from tests.depth import DEPTH
from viva_tick.core.boards import boards
from viva_tick.core.document import Bench, Scenario, bench_data, bench_from_data
from viva_tick.core.edits import apply_patch
from viva_tick.core.emit import TARGETS
from viva_tick.core.emit.cpp import in_one
from viva_tick.core.emit.kernel import can_kernel
from viva_tick.core.engine import SkippingEngine
from viva_tick.core.pins import move_patch
from viva_tick.core.program import working_pass_us

GATE = Path(__file__).parents[2] / "docs" / "gallery" / "ticket-gate.json"
KERNEL = DOUBLE.parent / "board_kernel"
SLACK_US = 2_200  # two ticks, and what the calls take there
RADIO, CORES = "radio-32bit-3v3", "two-core-32bit-3v3"


def gate() -> Bench:
    return bench_from_data(json.loads(GATE.read_text(encoding="utf-8")))


def moved(bench: Bench, board: str) -> Bench:
    return apply_patch(bench, move_patch(bench, boards()[board]))


def loop_reads(text: str) -> int:
    return text.split("void loop_pass() {", 1)[1].split("\n}\n", 1)[0].count("digitalRead(")


def written_under_a_kernel(bench: Bench, scenario: Scenario, folder: Path) -> dict[int, list[tuple[int, int]]]:
    """Output changes by pin number, as the compiled tasks make them, each working as long as the bench counts on."""
    text = in_one(TARGETS["kernel"].emit(bench, ()))
    work = re.compile(r"  // Your work goes here; the bench counts on (\d+) us")
    source, program, made = folder / "sketch.cpp", folder / "sketch", double()
    # A pass of the loop costs what the engine says; the double counts what is asked of the time and of the pins.
    board, looks = bench.the_board, loop_reads(text)
    rest_us = working_pass_us(bench) - board.cost_us.base - looks * board.cost_us.read
    text = text.replace("    loop_pass();", f"    loop_pass();\n    hold({rest_us});", 1)
    text = text.replace("for (;;) {}", "for (;;) hold(1000);").replace(
        "    return;  //", "    vTaskDelay(portMAX_DELAY);  //"
    )
    source.write_text('#include "board.h"\n#include "kernel.h"\n' + work.sub(r"  hold(\1);  //", text))
    parts = [str(source), str(KERNEL / "kernel.cpp"), str(made / "double.o")]
    priority = f"-DconfigTIMER_TASK_PRIORITY={bench.firmware.kernel.between.timer_priority}"
    subprocess.run(
        ["g++", *FLAGS, priority, LINKER, f"-I{made}", f"-I{KERNEL}", *parts, "-o", str(program)], check=True
    )
    return written_by(program, as_the_engine_had_it(bench, scenario))


def some_between(dice: random.Random, inherits: bool) -> dict[str, Any]:
    """Two to four tasks that wait for each other in every way; no two of one priority: which of equals comes next is
    each kernel's own affair."""

    def ms() -> int:
        return dice.randint(1, 25) * 1_000

    def work() -> dict[str, Any]:
        return {"do": "work", "us": dice.randint(1, 18) * 1_000 + dice.choice([200, 400, 600])}

    def any_step() -> dict[str, Any]:
        do = dice.choice(["put", "receive", "take", "give", "rest", "work"])
        if do == "work":
            return work()
        if do == "rest":
            return {"do": do, "us": ms()}
        step: dict[str, Any] = {"do": do, "of": "f" if do in ("take", "give") else dice.choice("qwo")}
        return step if do == "give" else step | {"within_us": dice.choice([None, ms()])}

    bodies = []
    for number in range(dice.randint(2, 4)):
        steps = [any_step() for _ in range(dice.randint(0, 4))]
        if dice.random() < 0.5:  # who waits in vain for a holder is its equal for a moment
            within_us = None if inherits else dice.choice([None, ms()])
            steps += [{"do": "take", "of": "m", "within_us": within_us}, work(), {"do": "give", "of": "m"}]
        if dice.random() < 0.3:
            steps.append({"do": "start", "of": "t"})
        steps += [work(), {"do": "give", "of": "done"}, {"do": "rest", "us": ms()}]
        bodies.append({"id": f"b{number}", "name": f"B{number}", "priority": number + 1, "steps": steps})
    kinds = {"q": (2, "drop"), "w": (1, "wait"), "o": (2, "overwrite"), "jobs": (2, "drop")}
    once, runs = dice.random() < 0.5, dice.random() < 0.5
    timer = {"id": "t", "name": "T", "period_us": 3 * ms(), "once": once, "runs": runs}
    return {
        "bodies": bodies,
        "queues": [{"id": one, "name": one.upper(), "length": n, "full": full} for one, (n, full) in kinds.items()],
        "flags": [{"id": "f", "name": "F"}, {"id": "done", "name": "Done"}],
        "mutexes": [{"id": "m", "name": "M"}],
        "timers": [timer | {"steps": [{"do": "give", "of": "f"}]}],
    }


class TasksRunAsTheEngineDoes(unittest.TestCase):
    def assert_same(self, bench: Bench, scenario: Scenario, changes: int = 2) -> None:
        with tempfile.TemporaryDirectory() as folder:
            written = written_under_a_kernel(bench, scenario, Path(folder))
        run = SkippingEngine().run(bench, scenario)
        for part in bench.channels:
            engine, double_ = as_written(bench, run, part), merged(written[code(part.pin)])
            longer = max(engine, double_, key=len)
            if len(engine) != len(double_) and longer[-1][0] > scenario.length_us - SLACK_US:
                longer.pop()  # what the other does just after the end
            self.assertGreaterEqual(len(engine), changes, part.id)
            self.assertEqual([level for _, level in engine], [level for _, level in double_], part.id)
            for (wanted, _), (got, _) in zip(engine, double_, strict=True):
                self.assertLessEqual(abs(wanted - got), SLACK_US, part.id)

    def test_a_bench_of_the_gallery_on_both_boards_that_have_a_kernel(self) -> None:
        for board in (RADIO, CORES):
            bench = moved(gate(), board)
            for scenario in bench.scenarios:
                with self.subTest(board=board, scenario=scenario.name):
                    self.assert_same(bench, scenario)

    def test_timeouts_mutexes_queues_that_are_full_hooks_and_timers(self) -> None:
        below = TALKS["bodies"][1]
        slow = {
            "id": "worker",
            "name": "Worker",
            "priority": 1,
            "stack_bytes": 300,
            "steps": [{"do": "receive", "of": "jobs"}, {"do": "work", "us": 200_000}, {"do": "give", "of": "done"}],
        }
        holds = {
            "id": "holds",
            "name": "Holds",
            "priority": 1,
            "period_us": 70_000,
            "steps": [
                {"do": "next"},
                {"do": "take", "of": "m"},
                {"do": "work", "us": 9_000},
                {"do": "give", "of": "m"},
            ],
        }
        high = {"id": "high", "name": "High", "priority": 5, "steps": [
            {"do": "receive", "of": "jobs"}, {"do": "take", "of": "m", "within_us": 4_000}, {"do": "work", "us": 800},
            {"do": "give", "of": "m"}, {"do": "give", "of": "done"}]}  # fmt: skip
        presses = [(100 + 60 * n, 30) for n in range(9)]
        cases: dict[str, tuple[dict[str, Any], str]] = {"as it is": (TALKS, "jobs")}
        cases["once"] = ({**TALKS, "bodies": [below], "timers": TALKS["timers"][1:]}, "late")
        for full in ("drop", "overwrite"):
            queue = {"id": "jobs", "name": "Jobs", "length": 2, "full": full}
            cases[full] = ({"bodies": [slow], "queues": [queue], "flags": TALKS["flags"]}, "jobs")
        one_each = {"id": "jobs", "name": "Jobs", "length": 1, "full": "wait"}
        puts = {"id": "puts", "name": "Puts", "priority": 1, "steps": [
            {"do": "put", "of": "jobs", "within_us": 30_000}, {"do": "work", "us": 2_000}]}  # fmt: skip
        cases["wait"] = (
            {"bodies": [slow | {"priority": 3}, puts], "queues": [one_each], "flags": TALKS["flags"]},
            "jobs",
        )
        shared = {"bodies": [holds, high], "queues": TALKS["queues"], "flags": TALKS["flags"]}
        cases["a mutex, in vain"] = ({**shared, "mutexes": [{"id": "m", "name": "M"}]}, "jobs")
        idles = [{"do": "work", "us": 130_000}, {"do": "give", "of": "done"}]
        cases["idle"] = ({"flags": TALKS["flags"], "queues": TALKS["queues"], "idle_hook": idles}, "jobs")
        ticks = [{"do": "put", "of": "jobs"}]
        rests = slow | {"priority": 3, "steps": [*slow["steps"], {"do": "rest", "us": 40_000}]}
        cases["tick"] = ({"bodies": [rests], "queues": [one_each | {"full": "overwrite"}],
                          "flags": TALKS["flags"], "tick_hook": ticks}, "jobs")  # fmt: skip
        for name, (between, signals) in cases.items():
            data = bench_data(moved(talking(between, presses, signals=signals), RADIO))
            data["firmware"]["kernel"]["switch_us"] = 0  # what is interrupted for long would show it
            bench = bench_from_data(data)
            with self.subTest(name):
                self.assert_same(bench, bench.scenarios[0])

    def test_random_tasks_that_wait_for_each_other(self) -> None:
        for seed in range(8 * DEPTH):
            between = some_between(random.Random(seed), bool(seed % 2))
            data = bench_data(moved(talking(between, [(200, 60), (700, 60)]), RADIO))
            data["firmware"]["kernel"] |= {"switch_us": 0, "loop_priority": 7, "inherits": bool(seed % 2)}
            bench = bench_from_data(data)
            with self.subTest(seed=seed):
                self.assert_same(bench, bench.scenarios[0], changes=1)

    def test_tasks_that_come_again_share_print_spin_and_return(self) -> None:
        presses = [(90 + 170 * n, 60) for n in range(10)]
        busy = a_task("busy", 300, 90_000, priority=5, shares="Bus", holds_us=20_000, offset_us=140_000)
        low = a_task("low", 200, 40_000, priority=1, shares="Bus", holds_us=30_000)
        prints = {"does": "print", "characters": 150}
        cases: dict[str, list[dict[str, Any]]] = {
            "they share": [busy, low],
            "one prints and waits for room": [busy, a_task("says", 400, 2_000, priority=4, **prints, blocking=True)],
            "one prints as there is room": [busy, a_task("says", 400, 2_000, priority=4, **prints)],
            "one never waits": [busy, a_task("spins", 1_200, 500, priority=3, ends="spins")],
            "one returns": [{**busy, "ends": "returns"}],
        }
        for name, tasks in cases.items():
            for between in ({}, {"flags": [{"id": "done", "name": "Done"}], "bodies": [TALKS["bodies"][1]]}):
                kernel = {"loop_priority": 2, "switch_us": 0, "between": between}
                bench = moved(bench_of(2_000, presses, school="kernel", kernel=kernel, tasks=tasks), RADIO)
                with self.subTest(name, between=bool(between)):
                    self.assert_same(bench, bench.scenarios[0])

    def test_a_file_without_the_kernels_headers_says_what_is_missing(self) -> None:
        text = '#include "board.h"\n' + in_one(TARGETS["kernel"].emit(gate(), ()))
        command = ["g++", "-std=c++17", "-fsyntax-only", f"-I{double()}", "-x", "c++", "-"]
        done = subprocess.run(command, input=text, capture_output=True, text=True, check=False)
        self.assertNotEqual(done.returncode, 0)
        first = next(line for line in done.stderr.splitlines() if "error" in line)
        self.assertIn("Include the headers of your kernel", first)

    def test_a_board_without_a_kernel_and_a_machine_that_hears_anothers_input_have_none(self) -> None:
        self.assertFalse(can_kernel(moved(gate(), "mid-8bit-5v")))
        self.assertNotIn("one priority", " ".join(TARGETS["kernel"].emit(gate(), ()).notes))
        alike = TALKS | {"bodies": [body | {"priority": 2} for body in TALKS["bodies"]]}
        notes = TARGETS["kernel"].emit(moved(talking(alike, []), RADIO), ()).notes
        self.assertIn("The loop, Worker and Below have one priority", " ".join(notes))
        data = bench_data(gate())
        self.assertTrue(can_kernel(bench_from_data(data)))
        for body in data["firmware"]["kernel"]["between"]["bodies"]:
            body["owns"] = [one for one in body.get("owns", []) if one != "coin"]
        self.assertFalse(can_kernel(bench_from_data(data)))
