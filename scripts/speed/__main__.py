"""All of it, one figure after another; `figures` and names of parts: those alone, their rows as JSON in the last line."""

from __future__ import annotations

import json
import sys

from viva_tick.loading import loaded

from .core import by_hands, by_machine_code, engines, hangs, imports, kernels, machines, repeats, sweeps
from .served import big_edits, edits, panels
from .shown import in_the_browser
from .table import OUT, ROWS, stolen, write

loaded()  # as the program itself does
if __name__ == "__main__" and sys.argv[1:2] == ["figures"]:
    for name in sys.argv[2:]:
        globals()[name]()
    print(json.dumps(ROWS))
elif __name__ == "__main__":
    before = stolen()
    for part in (
        engines,
        hangs,
        kernels,
        machines,
        repeats,  # before there are threads, as where a command does it
        sweeps,
        by_machine_code,
        imports,
        edits,
        big_edits,
        by_hands,
        panels,
        in_the_browser,
    ):
        part()
    taken, all_of_it = (now - then for now, then in zip(stolen(), before, strict=True))
    write(taken / max(all_of_it, 1))
    print(f"wrote {OUT.name}")
