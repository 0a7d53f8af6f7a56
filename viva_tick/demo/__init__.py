"""Demo benches, as files, read by the same importer that users have. All invented."""

from __future__ import annotations

from importlib import resources

from ..core.document import Bench, bench_from_text

ORDER = ("print-timer", "rain-barrel", "bicycle-lamp", "quiz-table", "parcel-box", "club-evening")


def demo_text(name: str) -> str:
    """The file of a demo bench."""
    return (resources.files(__name__) / f"{name}.json").read_text(encoding="utf-8")


def demo_bench(name: str) -> Bench:
    """A demo bench by the name of its file."""
    return bench_from_text(demo_text(name))
