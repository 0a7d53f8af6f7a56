"""What `make audit` asks about: `pins` prints every pinned version, `tools` what asks, as pip wants them."""

from __future__ import annotations

import sys
import tomllib
from pathlib import Path

ROOT = Path(__file__).parents[1]

if __name__ == "__main__":
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    if sys.argv[1:] == ["tools"]:
        print(" ".join(project["optional-dependencies"]["audit"]))
    else:
        lines = (ROOT / "constraints.txt").read_text().splitlines()
        print("\n".join(line for line in lines if "==" in line and not line.startswith("#")))
