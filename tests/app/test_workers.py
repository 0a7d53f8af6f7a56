"""Work is done by processes: one for each browser while that is free, more while all are at something long, none that
goes on for ever, none that is left."""

from __future__ import annotations

import json
import os
import socket
import tempfile
import threading
import time
import unittest
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any
from unittest.mock import patch
from urllib.parse import urlsplit

from werkzeug.test import Client

from scripts.crowd import Person
from tests.browser.server import ForkedServer
from tests.processes import family, gone_within
from viva_tick.web import workers
from viva_tick.web.app import create_app
from viva_tick.web.front import Front
from viva_tick.web.stations import STATIONS
from viva_tick.web.warming import warm
from viva_tick.web.workers import EACH, EXTRA, Answer, Ended, Gone, Job, Pool, TooLong


def toy(environ: dict[str, Any], start: Callable[..., Any]) -> Iterable[bytes]:
    """Does as its path says, and answers with the number of its process."""
    what, _, more = environ["PATH_INFO"].strip("/").partition("/")
    if what == "sleep":
        time.sleep(float(more))
    elif what == "for-ever":
        while True:
            time.sleep(0.01)
    elif what == "until-left":
        while not environ["waitress.client_disconnected"]():
            time.sleep(0.01)
    elif what == "dies":
        os._exit(3)
    start("404 No" if what == "missing" else "200 OK", [("X-Pid", str(os.getpid()))])
    return [environ["wsgi.input"].read(), b"!"]


def pid(answer: Answer) -> str:
    return dict(answer.headers)["X-Pid"]


def job(path: str, body: bytes = b"") -> Job:
    return Job({"PATH_INFO": path}, body)


class BeforeThereAreProcesses(unittest.TestCase):
    def test_every_station_is_shown_and_nothing_is_kept(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            app = create_app(Path(folder), ["localhost"], "a passphrase")
            threads = set(threading.enumerate())
            said = [(status, app.test_client().get("/").status_code) for status in warm(app)]
            self.assertEqual([("200 OK", 302)] * (1 + len(STATIONS)), said, "in between it is itself")
            self.assertLessEqual(set(threading.enumerate()), threads, "no thread is there when processes are forked")
            self.assertEqual([], app.extensions["benches"].heads())
            self.assertEqual(302, app.test_client().get("/").status_code, "the door is shut again")
            with patch("viva_tick.web.warming.open_database", side_effect=OSError("no room")):
                self.assertEqual([], [*warm(app)])
            self.assertEqual([], app.extensions["benches"].heads())


class TheProcesses(unittest.TestCase):
    def pool(self, base: int, limit_s: float = 30) -> Pool:
        pool = Pool(toy, base, limit_s)
        self.addCleanup(pool.renew)
        return pool

    def test_work_beside_an_edit_makes_room_for_the_next_request_of_its_browser(self) -> None:
        pool = self.pool(2)
        home = pid(pool.answer(job("/hello"), "ann"))
        with ThreadPoolExecutor(2) as hands:
            beside = hands.submit(pool.answer, job("/until-left/sure"), "ann")
            time.sleep(0.3)
            self.assertEqual(pid(pool.answer(job("/hello"), "bob")) == home, False)
            self.assertFalse(beside.done())  # another's request is none of its business
            self.assertEqual(pid(pool.answer(job("/hello"), "ann")), home)  # or it would wait for ever
            self.assertEqual(pid(beside.result()), home)

    def test_a_browser_comes_to_the_process_that_knows_it_and_others_to_the_next(self) -> None:
        pool = self.pool(2)
        first, other = pool.answer(job("/", b"word"), "ann"), pool.answer(job("/"), "ben")
        self.assertEqual((first.status, first.body), ("200 OK", b"word!"))
        with ThreadPoolExecutor(2) as both:  # while ann's is busy, ben is given one of his own
            slow = both.submit(pool.answer, job("/sleep/1"), "ann")
            time.sleep(0.1)
            other = pool.answer(job("/"), "ben")
            self.assertEqual(pid(slow.result()), pid(first))
        self.assertNotEqual(pid(other), pid(first))
        for who, known in (("ann", first), ("ben", other)) * 3:
            self.assertEqual(pid(pool.answer(job("/"), who)), pid(known))
        self.assertEqual(len(pool.workers), 2)

    def test_slow_pages_of_as_many_as_there_are_processes_do_not_stop_the_next_visitor(self) -> None:
        pool = self.pool(1)
        with ThreadPoolExecutor(EXTRA) as all_of_them:
            slow = [all_of_them.submit(pool.answer, job("/sleep/8"), f"slow {n}") for n in range(EXTRA)]
            time.sleep(1)
            began = time.monotonic()
            pool.answer(job("/"), "quick")
            took_s = time.monotonic() - began
            self.assertLess(took_s, 7)
            pool.answer(job("/"), "quick")
            self.assertLess(time.monotonic() - began - took_s, 3)
            self.assertTrue(all(one.result().status == "200 OK" for one in slow))

    def test_a_preview_lets_an_edit_go_before_it_but_not_for_ever(self) -> None:
        pool = self.pool(1)
        pool.base = 1
        pool.answer(job("/"), "ann")
        done: list[str] = []

        def ask(name: str, query: str) -> None:
            pool.answer(Job({"PATH_INFO": "/sleep/0.3", "QUERY_STRING": query}, b""), name)
            done.append(name)

        with patch.object(workers, "MOST_PATIENT_S", 0.7), ThreadPoolExecutor(6) as all_of_them:
            asked = [("at work", ""), ("preview", workers.PREVIEW), *((f"edit {n}", "") for n in range(4))]
            for name, query in asked:
                all_of_them.submit(ask, name, query)
                time.sleep(0.05)
        self.assertEqual(done[:2], ["at work", "edit 0"])
        self.assertIn("preview", done[2:4], done)

    def test_one_browser_has_so_many_at_a_time(self) -> None:
        pool = self.pool(6)
        with ThreadPoolExecutor(7) as many:
            mine = [many.submit(pool.answer, job("/sleep/4"), "greedy") for _ in range(6)]
            until = time.monotonic() + 1.5  # a machine that is busy takes its time to fork them
            while (busy := sum(one.busy == "greedy" for one in pool.workers)) < EACH and time.monotonic() < until:
                time.sleep(0.02)
            time.sleep(0.1)
            self.assertEqual((busy, sum(one.busy == "greedy" for one in pool.workers)), (EACH, EACH))
            began = time.monotonic()
            pool.answer(job("/"), "other")
            self.assertLess(time.monotonic() - began, 2.3)
            for one in mine:
                one.result()

    def test_work_without_an_end_is_ended(self) -> None:
        pool = self.pool(1, limit_s=0.6)
        pool.answer(job("/"), "ann")
        (process,) = pool.workers
        with self.assertLogs("viva_tick.web.workers"), self.assertRaises(TooLong):
            pool.answer(job("/for-ever"), "ann")
        self.assertTrue(gone_within(process.pid, 3))
        self.assertEqual(pool.answer(job("/"), "ann").status, "200 OK")

    def test_a_process_that_dies_takes_down_its_own_work_alone(self) -> None:
        pool = self.pool(1)
        with self.assertLogs("viva_tick.web.workers"), self.assertRaises(Ended):
            pool.answer(job("/dies"), "ann")
        self.assertEqual(pool.answer(job("/"), "ann").status, "200 OK")

    def test_nobody_works_for_one_who_has_left(self) -> None:
        pool = self.pool(1)
        left = threading.Event()
        threading.Timer(0.3, left.set).start()
        first = pool.answer(job("/until-left"), "ann", left.is_set)
        self.assertEqual(pid(pool.answer(job("/"), "ann")), pid(first))  # it was told, and is kept
        with patch.object(workers, "GRACE_S", 0.3), self.assertRaises(Gone):
            pool.answer(job("/for-ever"), "ann", lambda: True)
        with ThreadPoolExecutor(1) as slow:
            busy = slow.submit(pool.answer, job("/sleep/1"), "ben")
            time.sleep(0.2)
            self.assertRaises(Gone, pool.answer, job("/"), "ann", lambda: True)  # while it still waits
            busy.result()
        self.assertNotEqual(pid(pool.answer(job("/"), "ann")), pid(first))

    def test_what_has_been_put_aside_is_known_to_none(self) -> None:
        pool = self.pool(2)
        before = pid(pool.answer(job("/"), "ann"))
        pool.renew()
        self.assertNotEqual(pid(pool.answer(job("/"), "ann")), before)
        with patch.object(workers, "MOST_KB", -1):  # as if it had grown
            grown = Pool(toy, 1)
        first = pid(grown.answer(job("/"), "ann"))
        self.assertNotEqual(pid(grown.answer(job("/"), "ann")), first)

    def test_where_no_process_is_to_be_had_the_thread_does_the_work(self) -> None:
        pool = self.pool(1)
        pool._tell.close()
        with self.assertLogs("viva_tick.web.workers"), self.assertRaises(OSError):
            pool.answer(job("/"), "ann")
        with tempfile.TemporaryDirectory() as folder:
            front = Front(create_app(Path(folder), ["localhost"]), pool)
            self.assertEqual(Client(front).get("/help").status_code, 200)

    def test_others_are_asked_for_what_one_has_only_in_memory(self) -> None:
        pool = self.pool(2)
        told = pool.answer(job("/missing"), "ann")
        self.assertTrue(pool.elsewhere(job("/missing"), "ann", told).status.startswith("404"))
        self.assertEqual(pool.elsewhere(job("/"), "ann", told).status, "200 OK")

    def test_who_may_have_it_and_is_at_work_is_waited_for(self) -> None:
        pool = self.pool(1)
        told = pool.answer(job("/missing"), "ann")
        busy = threading.Thread(target=pool.answer, args=(job("/sleep/0.3"), "bob"))
        busy.start()
        while not pool.workers[0].busy:
            time.sleep(0.001)
        self.assertEqual(pool.elsewhere(job("/"), "ann", told).status, "200 OK")
        busy.join()


class TheServer(unittest.TestCase):
    def setUp(self) -> None:
        self.server = ForkedServer()
        self.addCleanup(self.server.kill)

    def test_no_process_is_left_when_the_server_is_killed(self) -> None:
        Person(self.server.url).ask("GET", "/api/benches/1")
        numbers = family(self.server.process.pid or 0)
        self.assertGreaterEqual(len(numbers), 3)  # the server, what forks, one that works
        self.server.kill()
        self.assertTrue(all(gone_within(number, 5) for number in numbers[1:]), numbers)

    def test_odd_requests_are_answered_before_the_work_too(self) -> None:
        asked = [(host, b"/", b"", 400) for host in (b"a b", b"[::1", b"\xff\xfe", b"", b"evil.example", b"a" * 3000)]
        asked += [
            (b"[::1]:80", b"/", b"", 200),
            (b"localhost", b"/%ff%fe", b"", 404),
            (b"localhost", b"//evil", b"", 404),
        ]
        cookies = (b"session=x", b"session=\xff", b"=;;;", b"session=" + b"A" * 5000)
        asked += [(b"localhost", b"/benches/1/wire", cookie, 200) for cookie in cookies]
        where = urlsplit(self.server.url)
        for host, path, cookie, status in asked:
            with self.subTest(host=host[:20], path=path, cookie=cookie[:20]):
                with socket.create_connection((where.hostname, where.port), timeout=20) as line:
                    line.sendall(b"GET %s HTTP/1.0\r\nHost: %s\r\nCookie: %s\r\n\r\n" % (path, host, cookie))
                    said = line.makefile("rb").readline()
                self.assertEqual(int(said.split()[1]), status)

    def test_a_restore_is_seen_by_every_process(self) -> None:
        people = [Person(self.server.url) for _ in range(3)]

        def rename(one: Person, name: str) -> int:
            body = {"base": json.loads(one.ask("GET", "/api/benches/1")[1])["revision"], "place": {"station": "wire"}}
            body["patch"] = [{"op": "replace", "path": "/name", "value": name}]
            return one.ask("POST", "/api/benches/1/edit", body)[0]

        backup = next((self.server.data / "backups").glob("day-*.sqlite"), None)
        assert backup is not None
        for number, one in enumerate(people):
            self.assertEqual(rename(one, f"Renamed {number}"), 200)
        one = people[0]
        one.line.request(
            "POST", "/restore", f"csrf_token={one.token}&name={backup.name}",
            {"Cookie": one.cookie, "Content-Type": "application/x-www-form-urlencoded"},
        )  # fmt: skip
        answer = one.line.getresponse()
        answer.read()
        self.assertEqual(answer.status, 302)
        for one in people:
            self.assertNotIn(b"Renamed", one.ask("GET", "/benches/1/wire")[1])
            self.assertEqual(rename(one, "After it"), 200)


if __name__ == "__main__":
    unittest.main()
