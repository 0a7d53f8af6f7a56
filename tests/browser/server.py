"""The real server, as a process of its own, over a data folder of its own."""

from __future__ import annotations

import multiprocessing
import os
import re
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import IO

from tests.browser.forked import serve_demo
from tests.demos import put_demos


def address(said: IO[str]) -> str:
    """Where a server says that it is."""
    line = said.readline()
    found = re.search(r"http://\S+?/", line)
    if found is None:
        raise RuntimeError(line + said.read())
    return found[0]


class Server:
    """`viva-tick demo` on a free port; `url` is where it is."""

    def __init__(self, data: Path | None = None, *arguments: str, command: str = "demo") -> None:
        self.data = data or Path(tempfile.mkdtemp(prefix="viva-tick-data-"))
        self.process = subprocess.Popen(
            [sys.executable, "-m", "viva_tick.cli", command, "--port", "0", "--data", str(self.data), *arguments],
            stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, env={**os.environ, "PYTHONUNBUFFERED": "1"},
        )  # fmt: skip
        assert self.process.stdout is not None
        self.url = address(self.process.stdout)

    def kill(self) -> None:
        """As a power cut would."""
        self.process.kill()
        self.process.wait()
        assert self.process.stdout is not None
        self.process.stdout.close()


_FORKS = multiprocessing.get_context("forkserver")
_FORKS.set_forkserver_preload(["tests.browser.warm"])


class ForkedServer:
    """The same, forked from a process in which all is loaded, over demo benches that were made before: a test has one
    of its own in a moment."""

    def __init__(self, data: Path | None = None) -> None:
        """Over a folder that is there, or a fresh one."""
        self.data = data or Path(tempfile.mkdtemp(prefix="viva-tick-data-"))
        if data is None:
            put_demos(self.data)
        heard, said = _FORKS.Pipe(duplex=False)
        self.process = _FORKS.Process(target=serve_demo, args=(str(self.data), said), daemon=True)
        self.process.start()
        said.close()
        self._heard = os.fdopen(os.dup(heard.fileno()), "r")
        heard.close()
        self.url = address(self._heard)

    def kill(self) -> None:
        """As a power cut would."""
        self.process.kill()
        self.process.join()
        self._heard.close()
