"""The doors: who is let in, from where, and that nobody can keep the others out. docs/security.md names each test."""

from __future__ import annotations

import http.client
import os
import re
import socket
import stat
import tempfile
import threading
import time
import unittest
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any
from unittest.mock import patch
from urllib.parse import urlsplit

from click.testing import CliRunner

from tests.app.client import AppCase
from tests.browser.server import Server
from viva_tick.cli import main
from viva_tick.web.app import create_app
from viva_tick.web.security import WRONG_IN_ALL, WRONG_MOST, Guesses
from viva_tick.web.turns import AT_A_TIME

DOCS = Path(__file__).parents[2] / "docs"


class Doors(AppCase):
    passphrase = "a red lamp and a tray"

    def enter(self, passphrase: str, client: Any = None, **more: Any) -> Any:
        client = client or self.client
        found = re.search(r'csrf_token" value="([^"]+)"', client.get("/enter").text)
        assert found is not None
        return client.post("/enter", data={"passphrase": passphrase, "csrf_token": found[1]}, **more)

    def test_one_who_guesses_too_often_is_not_heard_and_others_are(self) -> None:
        began = time.monotonic()
        for _ in range(WRONG_MOST):
            self.assertEqual(self.enter("a wrong guess").status_code, 403)
        refused = self.enter(self.passphrase or "")
        self.assertEqual(refused.status_code, 429)
        self.assertGreater(int(refused.headers["Retry-After"]), 30)
        self.assertRegex(refused.text, r"Try again in \d+ seconds")
        other = self.app.test_client()
        there = {"environ_base": {"REMOTE_ADDR": "192.0.2.7"}}
        self.assertEqual(self.enter(self.passphrase or "", other, **there).status_code, 302)
        self.assertLess(time.monotonic() - began, 5, "no request waits for a guess")

    def test_guesses_are_forgotten_and_counted_over_all_addresses(self) -> None:
        guesses = Guesses()
        for n in range(WRONG_MOST):
            self.assertEqual(guesses.too_many("a", n), 0)
            guesses.wrong("a", n)
        self.assertEqual(guesses.too_many("a", WRONG_MOST), 60 - WRONG_MOST)
        self.assertEqual(guesses.too_many("a", 61), 0)
        self.assertEqual(guesses.too_many("b", WRONG_MOST), 0)
        for n in range(WRONG_IN_ALL):
            guesses.wrong(f"far {n}", 200)
        self.assertEqual(guesses.too_many("b", 210), 50)
        self.assertEqual(guesses.too_many("b", 261), 0)
        self.assertFalse(guesses._wrong, "nothing is kept of those that are over")

    def test_leaving_gives_the_ticket_back(self) -> None:
        self.enter(self.passphrase or "")
        page = self.client.get("/")
        self.assertIn('id="leave"', page.text)
        self.post("/leave")
        self.assertEqual(self.client.get("/").status_code, 302)

    def test_an_earlier_passphrase_revives_no_ticket(self) -> None:
        self.enter(self.passphrase or "")
        cookie = self.client.get_cookie("session")
        assert cookie is not None
        first = self.passphrase
        for passphrase, code in ((first, 200), ("another lamp, another tray", 302), (first, 302)):
            self.passphrase = passphrase
            self.open()
            self.client.set_cookie("session", cookie.value)
            self.assertEqual(self.client.get("/").status_code, code, passphrase)

    def test_a_page_of_another_site_can_write_nothing(self) -> None:
        self.enter(self.passphrase or "")
        headers = {"X-CSRFToken": self.token()}
        body = {"base": self.head()["revision"], "patch": [{"op": "replace", "path": "/name", "value": "x"}]}
        for more, code in (
            ({"Origin": "https://elsewhere.example"}, 403), ({"Origin": "null"}, 403),
            ({"Sec-Fetch-Site": "cross-site"}, 403), ({"Sec-Fetch-Site": "same-site"}, 403),
            ({"Origin": "http://localhost", "Sec-Fetch-Site": "same-origin"}, 200),
        ):  # fmt: skip
            answer = self.client.post("/api/benches/1/edit", json=body, headers={**headers, **more})
            self.assertEqual(answer.status_code, code, more)
        self.assertEqual(self.client.post("/api/benches/1/edit", json=body).status_code, 400, "without the token")

    def test_cookies_and_what_a_proxy_says(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            for behind in (False, True):
                app = create_app(Path(folder), ["localhost", "bench.example"], None, behind_https=behind)
                headers = {"X-Forwarded-Proto": "https", "X-Forwarded-Host": "bench.example"}
                answer = app.test_client().get("/", headers=headers)
                cookie = answer.headers["Set-Cookie"]
                self.assertEqual("Secure" in cookie, behind)
                self.assertIn("HttpOnly", cookie)
                self.assertIn("SameSite=Strict", cookie)
                stranger = app.test_client().get("/", headers={**headers, "X-Forwarded-Host": "evil.example"})
                self.assertEqual(stranger.status_code, 400 if behind else 200)

    def test_headers_stand_on_every_answer(self) -> None:
        for url in ("/enter", "/static/css/base.css", "/nothing", "/api/benches/1"):
            headers = self.client.get(url).headers
            self.assertIn("default-src 'none'; script-src 'self'", headers["Content-Security-Policy"])
            self.assertNotIn("unsafe", headers["Content-Security-Policy"])
            self.assertEqual((headers["X-Content-Type-Options"], headers["X-Frame-Options"]), ("nosniff", "DENY"))
            self.assertEqual("no-store" in headers.get("Cache-Control", ""), "static" not in url)

    def test_what_is_kept_is_its_owners_alone(self) -> None:
        folder = Path(self.folder.name)
        for path in (folder / "viva-tick.sqlite", folder / "secret"):
            path.chmod(0o644)
        self.open()
        self.client.get("/")
        found = {path.name: stat.S_IMODE(path.stat().st_mode) for path in folder.rglob("*")}
        self.assertEqual({name for name, mode in found.items() if mode & 0o077}, set())
        self.assertGreaterEqual(set(found), {"viva-tick.sqlite", "secret", "door", "backups"})

    def test_a_blank_passphrase_is_none(self) -> None:
        for blank in ("        ", "\t\n        "):
            with patch.dict(os.environ, {"VIVA_TICK_PASSPHRASE": blank}):
                result = CliRunner().invoke(main, ["serve", "--data", self.folder.name, "--host", "0.0.0.0"])
            self.assertIn("passphrase is blank", result.output)

    def test_each_line_of_the_list_has_a_test_that_is_there(self) -> None:
        text = (DOCS / "security.md").read_text()
        named = re.findall(r"`(test_\w+)`", text)
        self.assertGreater(len(named), 20)
        everything = "".join(path.read_text() for path in Path(__file__).parents[1].rglob("test_*.py"))
        for name in named:
            self.assertIn(f"def {name}(", everything)


class Turns(AppCase):
    def test_one_who_asks_for_much_at_once_leaves_room_for_the_others(self) -> None:
        go_on, inside = threading.Event(), threading.Semaphore(0)

        def slow(*_: Any, **__: Any) -> Any:
            inside.release()
            go_on.wait(20)
            return "done"

        def ask(cookie: str | None) -> int:
            client = self.app.test_client()
            if cookie:
                client.set_cookie("session", cookie)
            return client.get("/help").status_code

        self.edit([{"op": "replace", "path": "/name", "value": "Mine"}])  # from here on this browser has a number
        cookie = self.client.get_cookie("session")
        assert cookie is not None
        with patch("viva_tick.web.pages.render_template", slow), ThreadPoolExecutor(AT_A_TIME + 2) as pool:
            asked = [pool.submit(ask, cookie.value) for _ in range(AT_A_TIME)]
            for _ in range(AT_A_TIME):
                self.assertTrue(inside.acquire(timeout=20))
            self.assertEqual(ask(cookie.value), 503)
            other = pool.submit(ask, None)
            self.assertTrue(inside.acquire(timeout=20), "another visitor is heard")
            go_on.set()
            self.assertEqual({one.result() for one in (*asked, other)}, {200})
        self.assertEqual(ask(cookie.value), 200)

    def test_work_stops_for_one_who_has_left(self) -> None:
        gone = {"waitress.client_disconnected": lambda: True}
        base = self.head()["revision"]
        body = {"base": base, "patch": [{"op": "replace", "path": "/name", "value": "Kept"}], "place": {}}
        headers = {"X-CSRFToken": self.token()}
        with patch("viva_tick.web.studies.study") as study:
            answer = self.client.post("/api/benches/1/edit", json=body, headers=headers, environ_overrides=gone)
            self.assertEqual(answer.status_code, 499)
            self.assertEqual(self.client.get("/benches/1/wire", environ_overrides=gone).status_code, 499)
            hangs = "/api/benches/1/hangs?scenario=One+print&fault=stuck&of="
            self.assertEqual(self.client.get(hangs, environ_overrides=gone).status_code, 499)
            study.assert_not_called()
        self.assertEqual(self.head()["document"]["name"], "Kept", "the edit was kept all the same")


class Served(unittest.TestCase):
    def ask(self, url: str, path: str = "/", host: str = "") -> int:
        where = urlsplit(url)
        connection = http.client.HTTPConnection(where.hostname or "", where.port, timeout=30)
        connection.request("GET", path, headers={"Host": host} if host else {})
        status = connection.getresponse().status
        connection.close()
        return status

    def test_the_address_that_is_said_answers_and_names_may_be_in_capitals(self) -> None:
        server = Server(None, "--host", "::1", "--allow-host", "MyBench.Local", command="serve")
        self.addCleanup(server.kill)
        self.assertIn("http://[::1]:", server.url)
        port = urlsplit(server.url).port
        for host, code in (("", 200), (f"MYBENCH.local:{port}", 200), ("LOCALHOST", 200), ("evil.example", 400)):
            self.assertEqual(self.ask(server.url, host=host), code, host)

    def test_slow_pages_idle_connections_and_guessers_keep_nobody_out(self) -> None:
        with patch.dict(os.environ, {"VIVA_TICK_PASSPHRASE": "a red lamp and a tray"}):
            server = Server(None, command="demo")
        self.addCleanup(server.kill)
        where = urlsplit(server.url)
        idle = [socket.create_connection((where.hostname, where.port)) for _ in range(120)]
        for one in idle:
            one.sendall(b"POST /enter HTTP/1.1\r\nHost: localhost\r\nContent-Length: 100\r\n")  # and no more
        with ThreadPoolExecutor(30) as pool:
            began = time.monotonic()
            guessers = [pool.submit(self.guess, server.url) for _ in range(24)]
            self.assertEqual(self.ask(server.url, "/enter"), 200)
            took_s = time.monotonic() - began
            codes = {guess.result() for guess in guessers}
        for one in idle:
            one.close()
        self.assertLessEqual(codes, {403, 429})
        self.assertIn(429, codes)
        self.assertLess(took_s, 10)

    def guess(self, url: str) -> int:
        where = urlsplit(url)
        connection = http.client.HTTPConnection(where.hostname or "", where.port, timeout=30)
        connection.request("GET", "/enter")
        answer = connection.getresponse()
        page, cookie = answer.read().decode(), answer.headers["Set-Cookie"].split(";")[0]
        token = re.search(r'csrf_token" value="([^"]+)"', page)
        assert token is not None
        form = f"passphrase=wrong+one&csrf_token={token[1]}"
        headers = {"Cookie": cookie, "Content-Type": "application/x-www-form-urlencoded"}
        connection.request("POST", "/enter", form, headers)
        return connection.getresponse().status


if __name__ == "__main__":
    unittest.main()
