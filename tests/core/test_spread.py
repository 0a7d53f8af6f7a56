"""Work in pieces: by one, by several processes, by a cluster that loses a worker, and stopped."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
import unittest
from itertools import count
from pathlib import Path
from threading import Thread
from unittest.mock import patch

import distributed
from click.testing import CliRunner

from viva_tick.cli import main
from viva_tick.core.guard import hang_tests
from viva_tick.core.repeats import repeat, repeated_by_all
from viva_tick.core.spread import ALONE, Hands, NoHands, _context, checked, spread
from viva_tick.core.sweep import full_sweep
from viva_tick.demo import demo_bench

DEMO = Path(__file__).parents[2] / "viva_tick" / "demo"


def squared(number: int) -> int:
    return number * number


def dies(number: int) -> int:
    os._exit(3)


def slow(number: int) -> int:
    time.sleep(0.05)
    return number


class Pieces(unittest.TestCase):
    def test_each_is_done_once_by_whomever(self) -> None:
        for hands in (ALONE, Hands(2)):
            done = dict(spread(hands, squared, [(n,) for n in range(50)]))
            self.assertEqual(done, {n: n * n for n in range(50)})

    def test_a_stop_begins_no_more_and_what_is_begun_comes(self) -> None:
        for hands in (ALONE, Hands(2)):
            left = iter([True, True, False])
            done = list(spread(hands, slow, ((n,) for n in count()), lambda left=left: next(left, False)))  # type: ignore[misc]
            self.assertTrue(3 <= len(done) <= 7, (hands, done))

    def test_processes_are_forked_only_where_there_is_one_thread(self) -> None:
        for threads, begun in ((1, "fork"), (2, "spawn")):
            with patch("viva_tick.core.spread.threading.active_count", return_value=threads):
                self.assertEqual(begun, _context().get_start_method())
        asked = (
            "import viva_tick.core.spread as s; h = s.Hands(2); "
            "print(s._context().get_start_method(), sorted(s.spread(h, abs, [(-3,), (-4,)])))"
        )
        done = subprocess.run([sys.executable, "-c", asked], capture_output=True, text=True, check=True, timeout=60)
        self.assertEqual("fork [(0, 3), (1, 4)]", done.stdout.strip())

    def test_other_versions_and_absent_clusters_are_sentences(self) -> None:
        with self.assertRaisesRegex(NoHands, "another version"):
            checked("another", squared, 3)
        with self.assertRaisesRegex(NoHands, "ended from outside"):
            list(spread(Hands(2), dies, [(n,) for n in range(4)]))
        for address, words in (
            ("tcp://127.0.0.1:1", "refused"),
            ("nonsense", "write it as tcp://"),
            ("tcp://a:99999", "out of"),
        ):
            said = CliRunner().invoke(main, ["hang", str(DEMO / "print-timer.json"), "--on", address])
            self.assertEqual(said.exit_code, 1)
            self.assertIn(f"No cluster answers at {address}", said.output)
            self.assertIn(words, said.output)

    def test_sweeps_and_fault_tests_come_to_the_same_by_two(self) -> None:
        bench = demo_bench("print-timer")
        alone, two = (
            {
                one.method: (one.swept.doubled.tolist(), one.advice)
                for one in full_sweep(bench, "foot-pedal", 400, hands=hands)
            }
            for hands in (ALONE, Hands(2))
        )
        self.assertEqual(alone, two)
        self.assertEqual(hang_tests(bench, bench.scenarios[0], 2), hang_tests(bench, bench.scenarios[0], 2, Hands(2)))


class OnACluster(unittest.TestCase):
    def test_a_worker_that_dies_costs_nothing_but_time(self) -> None:
        bench = demo_bench("print-timer")
        scenario = bench.scenario("One print")
        whole = repeat(bench, scenario, range(400)).text()
        with distributed.LocalCluster(
            n_workers=2, threads_per_worker=1, dashboard_address=None, silence_logs=50
        ) as cluster:  # type: ignore[no-untyped-call]
            address = cluster.scheduler_address
            told: list[int] = []

            def on(so_far: int) -> bool:
                told.append(so_far)
                return True

            def kill() -> None:
                while not told:
                    time.sleep(0.005)
                os.kill(next(iter(cluster.workers.values())).pid, signal.SIGKILL)

            killer = Thread(target=kill)
            killer.start()
            done = repeated_by_all(bench, scenario, 400, Hands(address=address), on)
            killer.join()
            self.assertLess(told[0], 400)
            self.assertEqual(done.text(), whole)
            stopped = repeated_by_all(bench, scenario, 100_000, Hands(address=address), lambda so_far: so_far < 100)
            self.assertTrue(100 <= stopped.runs < 1_000, stopped.runs)
            said = CliRunner().invoke(
                main, ["repeat", str(DEMO / "print-timer.json"), "--runs", "50", "--on", address, "--json"]
            )
            self.assertEqual(json.loads(said.output)["runs"], 50)


if __name__ == "__main__":
    unittest.main()
