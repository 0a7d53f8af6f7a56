"""That one visitor leaves room for the others: so many requests at a time, and no more work for one who has left."""

from __future__ import annotations

import threading
from collections import Counter
from typing import Any

from flask import Flask, abort, g, request, session
from werkzeug.exceptions import HTTPException

AT_A_TIME = 12  # of one browser, or of one address that shows no ticket


class Left(HTTPException):
    """The visitor has gone: nobody waits for the answer."""

    code = 499
    description = "The visitor has left."


def stop_if_left() -> None:
    """Between two parts of the work: go no further for one who has left. Raises `Left`."""
    gone = request.environ.get("waitress.client_disconnected")
    if gone is not None and gone():
        raise Left


def init(app: Flask) -> None:
    """Count requests as they come and go."""
    going: Counter[str] = Counter()
    lock = threading.Lock()

    @app.before_request
    def begin() -> None:
        if request.endpoint == "static":
            return
        who = str(session.get("who") or session.get("csrf_token") or request.remote_addr)
        with lock:
            if going[who] >= AT_A_TIME:
                abort(503, f"{AT_A_TIME} things are being worked out for you already; wait for one of them.")
            going[who] += 1
        g.turn = who

    @app.teardown_request
    def end(_error: Any) -> None:
        if who := g.pop("turn", None):
            with lock:
                going[who] -= 1
                if not going[who]:
                    del going[who]
