"""All of it, one figure after another."""

from __future__ import annotations

from .core import by_hands, engines, hangs, imports, kernels, machines, repeats, sweeps
from .served import big_edits, edits, panels
from .shown import in_the_browser
from .table import OUT, stolen, write

if __name__ == "__main__":
    before = stolen()
    for part in (
        engines,
        hangs,
        kernels,
        machines,
        sweeps,
        repeats,
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
