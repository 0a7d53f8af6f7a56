"""Everything that a server loads, loaded, and its pages asked for once: the servers of tests are forked from here."""

from __future__ import annotations

import tempfile
from pathlib import Path

from tests.browser import forked
from tests.demos import put_demos
from viva_tick.web import serve
from viva_tick.web.app import create_app
from viva_tick.web.stations import STATIONS

__all__ = ["forked", "serve"]  # loaded here, not in each server

with tempfile.TemporaryDirectory() as folder:
    put_demos(Path(folder))
    app = create_app(Path(folder), ["localhost"])
    for station in STATIONS:
        app.test_client().get(f"/benches/1/{station}")
    app.extensions["runs"].engine.dispose()
