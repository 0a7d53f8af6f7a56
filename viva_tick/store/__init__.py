"""What is kept: benches, revisions, runs, in one SQLite file."""

from __future__ import annotations

from .benches import Benches, NoBench, Revision, Stale
from .database import NewerDatabase, open_database
from .runs import Runs
from .shelf import Shelf

__all__ = ["Benches", "NewerDatabase", "NoBench", "Revision", "Runs", "Shelf", "Stale", "open_database"]
