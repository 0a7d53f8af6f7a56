"""A program with all that belongs to it: the wiring card, and the bench itself, its scenarios in it."""

from __future__ import annotations

from .document import Bench, bench_text
from .emit import Emitted, File
from .wiring import card_text


def bundled(made: Emitted, bench: Bench) -> Emitted:
    """The program's files and the others, in one folder."""
    more = (File("", card_text(bench), "wiring.txt"), File("", bench_text(bench), "bench.json"))
    return Emitted((*made.files, *more), made.notes)
