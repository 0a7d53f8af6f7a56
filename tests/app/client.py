"""A test client over a data folder of its own."""

from __future__ import annotations

import re
import tempfile
import unittest
from pathlib import Path
from typing import Any

from flask.testing import FlaskClient

from tests.demos import put_demos
from viva_tick.web.app import create_app


class AppCase(unittest.TestCase):
    """The demo benches in a fresh database; `post` sends the token as the browser does."""

    passphrase: str | None = None

    def setUp(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)
        put_demos(Path(self.folder.name))
        self.open()

    def open(self) -> None:
        """Start the application, anew over the same folder if it ran before."""
        app = create_app(Path(self.folder.name), ["localhost"], self.passphrase, demo=True)
        self.app = app
        before = self.client.get_cookie("session") if hasattr(self, "client") else None
        self.client: FlaskClient = app.test_client()
        if before:  # as a browser keeps it
            self.client.set_cookie("session", before.value)

    def token(self, page: str = "/") -> str:
        found = re.search(r'csrf-token" content="([^"]+)"', self.client.get(page).text)
        assert found is not None
        return found[1]

    def post(self, url: str, json: Any = None, data: Any = None) -> Any:
        return self.client.post(url, json=json, data=data, headers={"X-CSRFToken": self.token()})

    def head(self, bench: int = 1) -> Any:
        return self.client.get(f"/api/benches/{bench}").get_json()

    def edit(self, patch: Any, base: int | None = None, bench: int = 1, **more: Any) -> Any:
        base = self.head(bench)["revision"] if base is None else base
        place = {"station": "clean", "picked": "foot-pedal"}
        return self.post(f"/api/benches/{bench}/edit", {"base": base, "patch": patch, "place": place, **more})


def interval(us: int, part: str = "foot-pedal") -> list[dict[str, Any]]:
    """The edit of the story."""
    return [{"op": "replace", "path": f"/firmware/debounce/{part}/interval_us", "value": us}]
