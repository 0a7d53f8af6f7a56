"""What is kept: benches, revisions, runs, in one SQLite file."""

from __future__ import annotations

from .backups import Backup, NoBackup, back_up_today, backups, restore
from .benches import Benches, Damaged, DamagedBench, Glance, NoBench, Revision, Stale
from .database import NewerDatabase, open_database
from .drills import Drill, Drills
from .record import Entry, NoEntry, Record
from .recordings import NoRecording, Recording, Recordings
from .runs import Runs
from .shelf import Shelf, Use

__all__ = [
    "Backup",
    "Benches",
    "Damaged",
    "DamagedBench",
    "Drill",
    "Drills",
    "Entry",
    "Glance",
    "NewerDatabase",
    "NoBackup",
    "NoBench",
    "NoEntry",
    "NoRecording",
    "Record",
    "Recording",
    "Recordings",
    "Revision",
    "Runs",
    "Shelf",
    "Stale",
    "Use",
    "back_up_today",
    "backups",
    "open_database",
    "restore",
]
