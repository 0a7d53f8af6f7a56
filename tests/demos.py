"""Data folders with the demo benches in them: made once, then copied."""

from __future__ import annotations

import atexit
import shutil
import tempfile
from functools import cache
from pathlib import Path

from viva_tick.web.app import create_app


@cache
def _made() -> Path:
    folder = Path(tempfile.mkdtemp(prefix="viva-tick-demos-"))
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    app = create_app(folder, ["localhost"], demo=True)
    app.extensions["runs"].engine.dispose()
    return folder


def put_demos(folder: Path) -> None:
    """Put a database with the demo benches into a folder, as a first start does."""
    shutil.copytree(_made(), folder, dirs_exist_ok=True)
