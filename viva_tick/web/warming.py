"""Before there are processes: every station is shown once, of a bench that nobody keeps.

What a first page loads and works out for good (templates, the readers of documents, patterns) is then there once, for
all processes that are forked after it, and the first page of a bench is as quick as the next.
"""

from __future__ import annotations

import gc
import logging
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from flask import Flask
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError

from ..demo import demo_bench
from ..store import Benches, Drills, Record, Recordings, Runs, Shelf, open_database
from .stations import STATIONS
from .workers import Job, answer_of

BENCH = "parcel-box"
_ASKED = {
    "REQUEST_METHOD": "GET", "SERVER_NAME": "localhost", "SERVER_PORT": "80", "HTTP_HOST": "localhost",
    "SERVER_PROTOCOL": "HTTP/1.1", "wsgi.url_scheme": "http",
}  # fmt: skip
log = logging.getLogger(__name__)


def stores(engine: Engine) -> dict[str, Any]:
    """What an application keeps things in, by the names of its extensions."""
    kinds = {
        "benches": Benches, "runs": Runs, "record": Record, "recordings": Recordings, "drills": Drills, "shelf": Shelf
    }  # fmt: skip
    return {name: kind(engine) for name, kind in kinds.items()}


@contextmanager
def _kept_in(app: Flask, elsewhere: dict[str, Any]) -> Iterator[None]:
    """For a while the application keeps nothing where it should, and lets everybody in."""
    kept, passphrase = {name: app.extensions[name] for name in elsewhere}, app.config["PASSPHRASE"]
    app.extensions |= elsewhere
    app.config["PASSPHRASE"] = None
    try:
        yield
    finally:
        app.extensions |= kept
        app.config["PASSPHRASE"] = passphrase


def warm(app: Flask, stations: Iterable[str] = STATIONS) -> Iterator[str]:
    """Ask for each station; gives what was said to it, and the application is itself then. A machine that cannot do it
    goes without."""
    try:
        with TemporaryDirectory(prefix="viva-tick-") as folder:
            engine = open_database(Path(folder) / "warm.sqlite")
            elsewhere = stores(engine)
            try:
                number = elsewhere["benches"].create(demo_bench(BENCH), "to be looked at").bench_id
                for path in ("/", *(f"/benches/{number}/{station}" for station in stations)):
                    with _kept_in(app, elsewhere):
                        said = answer_of(app, Job({**_ASKED, "PATH_INFO": path}, b""), lambda: False).status
                    yield said
            finally:
                elsewhere["runs"].close()
                engine.dispose()
    except (OSError, SQLAlchemyError) as error:
        log.warning("Pages could not be looked at beforehand: %s", error)
    gc.collect()
