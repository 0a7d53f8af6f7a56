"""The real server, as a process of its own, over a data folder of its own."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
from pathlib import Path


class Server:
    """`viva-tick demo` on a free port; `url` is where it is."""

    def __init__(self, data: Path | None = None, *arguments: str, command: str = "demo") -> None:
        self.data = data or Path(tempfile.mkdtemp(prefix="viva-tick-data-"))
        self.process = subprocess.Popen(
            [sys.executable, "-m", "viva_tick.cli", command, "--port", "0", "--data", str(self.data), *arguments],
            stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, env={**os.environ, "PYTHONUNBUFFERED": "1"},
        )  # fmt: skip
        assert self.process.stdout is not None
        line = self.process.stdout.readline()
        found = re.search(r"http://\S+?/", line)
        if found is None:
            raise RuntimeError(line + self.process.stdout.read())
        self.url = found[0]

    def kill(self) -> None:
        """As a power cut would."""
        self.process.kill()
        self.process.wait()
        assert self.process.stdout is not None
        self.process.stdout.close()
