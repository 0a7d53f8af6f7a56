"""The tables of a database: benches, their revisions, what stands beside them, cached runs."""

from __future__ import annotations

from typing import Any

from sqlalchemy import (
    BigInteger,
    Boolean,
    Column,
    DateTime,
    ForeignKey,
    Index,
    Integer,
    LargeBinary,
    MetaData,
    String,
    Table,
    Text,
)

METADATA = MetaData()


def _column(name: str, kind: Any, *more: Any, **said: Any) -> Column[Any]:
    """A column that is never empty, unless that is said."""
    return Column(name, kind, *more, **{"nullable": False, **said})


def _number() -> Column[Any]:
    return _column("id", Integer, primary_key=True)


def _of_a_bench(**said: Any) -> Column[Any]:
    """The bench that a row goes with, and is taken away with."""
    return _column("bench_id", Integer, ForeignKey("bench.id", ondelete="CASCADE"), **said)


# A bench: which of its revisions is the one on the screen.
BENCH = Table(
    "bench",
    METADATA,
    _number(),
    _column("head_id", Integer, ForeignKey("revision.id", use_alter=True, name="fk_bench_head"), nullable=True),
    _column("demo", String(40), unique=True, nullable=True),
    _column("made_at", DateTime),
)

# A whole document, where it came from, and what changed, in words. `document` is zlib-packed JSON; `author` a browser
# that it came from, known by a number of its own.
REVISION = Table(
    "revision",
    METADATA,
    _number(),
    _of_a_bench(index=True),
    _column("parent_id", Integer, ForeignKey("revision.id"), nullable=True, index=True),
    _column("document", LargeBinary),
    _column("words", Text),
    _column("at", DateTime),
    _column("author", String(16), nullable=True),
)

# The edges of a capture (`Capture.edges_text`, zlib-packed) by their digest: revisions name them.
CAPTURE = Table(
    "capture",
    METADATA,
    _of_a_bench(primary_key=True),
    _column("digest", String(32), primary_key=True),
    _column("edges", LargeBinary),
)

# An entry of a bench's log beside its revisions: a note, a picture, a program that was made, a test card, a trial.
# `revision_id` is where the bench stood; `words` what is said of it; `data` JSON of its kind.
ENTRY = Table(
    "log_entry",
    METADATA,
    _number(),
    _of_a_bench(index=True),
    _column("revision_id", Integer),
    _column("kind", String(16)),
    _column("words", Text),
    _column("data", Text),
    _column("at", DateTime),
    _column("picture", LargeBinary, nullable=True),
)

# A capture too long for the document. `state` is what its reader must know to go on (JSON), "" when it has been read
# to the end; `rest` a line that is not all there; `taken` the bytes that came; `channels` JSON of each one's name and
# changes.
RECORDING = Table(
    "recording",
    METADATA,
    _number(),
    _of_a_bench(index=True),
    _column("name", Text),
    _column("state", Text),
    _column("rest", LargeBinary),
    _column("taken", Integer),
    _column("channels", Text),
    _column("length_ns", BigInteger),
    _column("at", DateTime),
)

# Some thousand changes of one channel of it: see `core.told.stretches`.
STRETCH = Table(
    "recording_stretch",
    METADATA,
    _number(),
    _column("recording_id", Integer, ForeignKey("recording.id", ondelete="CASCADE")),
    _column("channel", Integer),
    _column("from_ns", BigInteger),
    _column("to_ns", BigInteger),
    _column("changes", Integer),
    _column("level", Integer),
    _column("outline", LargeBinary),
    _column("data", LargeBinary),
    Index("ix_recording_stretch_of", "recording_id", "channel", "to_ns"),
)

# Something else of the user's own that any bench can use, by its kind and id. `document` is JSON.
THING = Table(
    "shelf_thing",
    METADATA,
    _column("kind", String(16), primary_key=True),
    _column("id", String(60), primary_key=True),
    _column("name", Text),
    _column("document", Text),
    _column("at", DateTime),
)

# A thing of the shelf that a bench has taken: what it is called there, what was given for its asks (JSON), the digest
# of what was taken.
USE = Table(
    "shelf_use",
    METADATA,
    _number(),
    _column("kind", String(16)),
    _column("thing_id", String(60)),
    _of_a_bench(index=True),
    _column("local", String(80)),
    _column("given", Text),
    _column("digest", String(32)),
    _column("at", DateTime),
)

# A drill: a bench of its own with faults hidden in it. `sound` is the bench without them (zlib-packed JSON); `faults`
# JSON of {id, of, scenario}; `asked` of {what, of, said, cost}; `found` of the faults' ids.
DRILL = Table(
    "drill",
    METADATA,
    _number(),
    _column("bench_id", Integer, ForeignKey("bench.id", ondelete="SET NULL"), nullable=True, index=True),
    _column("name", Text),
    _column("seed", Integer),
    _column("level", Integer),
    _column("sound", LargeBinary),
    _column("faults", Text),
    _column("asked", Text),
    _column("found", Text),
    _column("gave_up", Boolean),
    _column("began", DateTime),
    _column("ended", DateTime, nullable=True),
)

# A run by its hash (document, scenario, seed, core). `run` is zlib-packed JSON.
RUN = Table(
    "run",
    METADATA,
    _column("key", String(32), primary_key=True),
    _column("run", LargeBinary),
    _column("at", DateTime, index=True),
)

# A board of the user's own. `document` is JSON.
BOARD = Table(
    "shelf_board",
    METADATA,
    _column("id", String(40), primary_key=True),
    _column("document", Text),
    _column("at", DateTime),
)
