"""A server in a process that was forked."""

from __future__ import annotations

import os
import sys
from multiprocessing.connection import Connection
from unittest.mock import patch

from viva_tick.cli import main
from viva_tick.web import serve


def serve_demo(data: str, said: Connection) -> None:
    """What `viva-tick demo` does over the folder `data`; it says its address through `said`."""
    os.dup2(said.fileno(), 1)
    sys.stdout = os.fdopen(1, "w", buffering=1)
    with patch.object(serve, "warm"):  # it is forked from one that is
        main(["demo", "--port", "0", "--data", data], standalone_mode=False)
