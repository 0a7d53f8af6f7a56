"""Who comes before there are threads and processes is answered if it takes little, and waits if not."""

from __future__ import annotations

import socket
import tempfile
import threading
import unittest
from collections.abc import Iterable
from pathlib import Path
from typing import Any
from unittest.mock import patch

from viva_tick.demo import demo_bench
from viva_tick.store import Runs
from viva_tick.web import serve
from viva_tick.web.app import create_app
from viva_tick.web.opening import Opening
from viva_tick.web.workers import Pool, Wsgi


def says(word: str) -> Wsgi:
    """An application that says it, and what was sent to it."""

    def app(environ: dict[str, Any], start: Any) -> Iterable[bytes]:
        said = f"{word} {environ['REQUEST_METHOD']} {environ['PATH_INFO']} ".encode() + environ["wsgi.input"].read()
        start("200 OK", [("Content-Length", str(len(said)))])
        return [said]

    return app


class BeforeThereAreThreads(unittest.TestCase):
    def setUp(self) -> None:
        self.opening = Opening(says("early"), "127.0.0.1", 0)
        self.addCleanup(self.opening.close)

    def visit(self, request: str) -> socket.socket:
        line = socket.create_connection(("127.0.0.1", self.opening.port), timeout=5)
        self.addCleanup(line.close)
        line.sendall(request.encode())
        return line

    def open(self) -> None:
        threading.Thread(target=self.opening.run, args=(says("late"),), daemon=True).start()

    def heard(self, line: socket.socket) -> str:
        """All that is said until the other end is closed."""
        said = b""
        while some := line.recv(65536):
            said += some
        return said.decode()

    def test_pages_are_answered_early_and_what_begins_something_when_all_are_there(self) -> None:
        cases = (
            ("GET", "/", "early"), ("HEAD", "/", "early"), ("GET", "/static/page.css", "early"),
            ("GET", "/benches/12/try", "early"), ("GET", "/benches/12/clean?picked=pedal", "early"),
            ("POST", "/", "late"), ("GET", "/benches/12/program", "late"), ("GET", "/benches/x/try", "late"),
            ("GET", "/api/benches/1", "late"), ("POST", "/api/benches/1/edit", "late"), ("GET", "/enter", "late"),
            ("GET", "/static/", "late"), ("BREW", "/", "late"),
        )  # fmt: skip
        lines = [self.visit(f"{method} {path} HTTP/1.0\r\nContent-Length: 4\r\n\r\nbody") for method, path, _ in cases]
        bad = self.visit("GET / HTTP/1.0\r\nContent-Length: many\r\n\r\n")
        self.opening.answer_early(wait_s=0.2)
        self.assertIn(" 400 ", self.heard(bad).splitlines()[0])
        for opened in (False, True):
            for line, (method, path, when) in zip(lines, cases, strict=True):
                with self.subTest(method=method, path=path):
                    if opened == (when == "late"):
                        head, _, body = self.heard(line).partition("\r\n\r\n")
                        self.assertIn(" 200 ", head.splitlines()[0])
                        self.assertEqual(f"{when} {method} {path.partition('?')[0]} body", body)
                    elif not opened:
                        line.settimeout(0.01)
                        self.assertRaises(TimeoutError, line.recv, 1)
                        line.settimeout(5)
            if not opened:
                self.open()

    def test_who_says_nothing_yet_holds_up_nobody_and_is_not_forgotten(self) -> None:
        silent, half = self.visit(""), self.visit("GET / HT")
        self.opening.answer_early(wait_s=0.05)
        whole = self.visit("GET / HTTP/1.1\r\nHost: here\r\n\r\n")
        self.opening.answer_early()
        self.assertIn(b"early GET /", whole.recv(65536))
        whole.sendall(b"GET /api HTTP/1.1\r\nHost: here\r\nConnection: close\r\n\r\n")
        half.sendall(b"TP/1.0\r\n\r\n")
        self.opening.answer_early(wait_s=0.05)
        self.assertIn("early GET /", self.heard(half))
        self.open()
        self.assertIn("late GET /api", self.heard(whole), "the same line goes on")
        silent.sendall(b"GET / HTTP/1.0\r\n\r\n")
        self.assertIn("late GET /", self.heard(silent))

    def test_there_are_as_many_threads_as_visitors_at_a_time(self) -> None:
        together = threading.Barrier(12, timeout=10)

        def app(environ: dict[str, Any], start: Any) -> Iterable[bytes]:
            if environ["PATH_INFO"] == "/together":
                together.wait()
            return says("late")(environ, start)

        early = [self.visit("GET /together HTTP/1.0\r\n\r\n") for _ in range(4)]
        self.opening.answer_early(wait_s=0.05)
        before = threading.active_count()
        threading.Thread(target=self.opening.run, args=(app,), daemon=True).start()
        lines = [*early, *(self.visit("GET /together HTTP/1.0\r\n\r\n") for _ in range(8))]
        for line in lines:
            self.assertIn("late GET /together", self.heard(line))
        for _ in range(20):
            self.assertIn("late GET /api", self.heard(self.visit("GET /api HTTP/1.0\r\n\r\n")))
        self.assertLess(threading.active_count() - before, 20, "none more for those who come one after another")

    def test_who_looked_at_a_station_early_leaves_no_thread_that_a_process_would_lack(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            app = create_app(Path(folder), ["127.0.0.1"])
            number = app.extensions["benches"].create(demo_bench("print-timer"), "made").bench_id
            opening = Opening(app, "127.0.0.1", 0)
            self.addCleanup(opening.close)
            line = socket.create_connection(("127.0.0.1", opening.port), timeout=5)
            self.addCleanup(line.close)
            line.sendall(f"GET /benches/{number}/try HTTP/1.0\r\nHost: 127.0.0.1\r\n\r\n".encode())
            before, runs = set(threading.enumerate()), app.extensions["runs"]

            def forks(*_: Any, **__: Any) -> None:
                self.assertLessEqual(set(threading.enumerate()), before)
                self.assertIn(" 200 ", self.heard(line).splitlines()[0])

            with patch.object(serve, "Pool", side_effect=forks), patch.object(runs, "put", wraps=runs.put) as put:
                serve._with_processes(app, opening, 1, False)
            key, run = put.call_args.args
            self.assertEqual(Runs(runs.engine).get(key), run, "it is on disk")
            runs.put("another", run)
            runs.settle()
            self.assertEqual(Runs(runs.engine).get("another"), run)
            runs.close()

    @unittest.skipUnless(Pool.possible(), "this machine does not fork")
    def test_a_process_that_is_forked_meanwhile_keeps_no_line_open(self) -> None:
        waits = self.visit("GET /api HTTP/1.0\r\n\r\n")
        self.opening.answer_early(wait_s=0.1)
        pool = Pool(says("worked"), 1, before=self.opening.leave)
        self.addCleanup(pool.renew)
        self.open()
        self.assertIn("late GET /api", self.heard(waits), "it ends although the process lives on")


if __name__ == "__main__":
    unittest.main()
