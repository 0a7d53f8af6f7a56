"""That one visitor leaves room for the others: so many requests at a time, and no more work for one who has left."""

from __future__ import annotations

import threading
from collections import Counter
from collections.abc import Mapping
from typing import Any

from flask import Flask, abort, g, request, session
from werkzeug.exceptions import HTTPException

AT_A_TIME = 12  # of one browser, or of one address that shows no ticket
TOO_MANY = f"{AT_A_TIME} things are being worked out for you already; wait for one of them."
REFUSED = "viva_tick.refused"  # in the environment of a request that is not to be worked on: why


class Left(HTTPException):
    """The visitor has gone: nobody waits for the answer."""

    code = 499
    description = "The visitor has left."


def stop_if_left() -> None:
    """Between two parts of the work: go no further for one who has left. Raises `Left`."""
    gone = request.environ.get("waitress.client_disconnected")
    if gone is not None and gone():
        raise Left


class Turns:
    """How many requests of each visitor are being answered."""

    def __init__(self) -> None:
        self._going: Counter[str] = Counter()
        self._lock = threading.Lock()

    def begin(self, who: str) -> bool:
        """Whether one more may begin; it is counted then."""
        with self._lock:
            if self._going[who] >= AT_A_TIME:
                return False
            self._going[who] += 1
            return True

    def end(self, who: str) -> None:
        """One less."""
        with self._lock:
            self._going[who] -= 1
            if not self._going[who]:
                del self._going[who]


def _named(ticket: Mapping[str, Any], address: str | None) -> str:
    return str(ticket.get("who") or ticket.get("csrf_token") or address)


def visitor(app: Flask, environ: dict[str, Any]) -> str:
    """Whose request it is, before the application sees it."""
    with app.request_context(environ) as context:
        return _named(context.session or {}, environ.get("REMOTE_ADDR"))


def init(app: Flask) -> None:
    """Count requests as they come and go."""
    turns = app.extensions["turns"] = Turns()

    @app.before_request
    def begin() -> None:
        if REFUSED in request.environ:
            abort(503, request.environ[REFUSED])
        if request.endpoint in ("static", "door.enter"):  # no work; guesses are counted for themselves
            return
        who = _named(session, request.remote_addr)
        if not turns.begin(who):
            abort(503, TOO_MANY)
        g.turn = who

    @app.teardown_request
    def end(_error: Any) -> None:
        if who := g.pop("turn", None):
            turns.end(who)
