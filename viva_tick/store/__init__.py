"""What is kept: benches, revisions, runs, in one SQLite file."""

from __future__ import annotations

from .benches import Benches, NoBench, Revision, Stale
from .database import open_database
from .runs import Runs

__all__ = ["Benches", "NoBench", "Revision", "Runs", "Stale", "open_database"]
