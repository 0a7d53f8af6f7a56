"""Tables: benches, their revisions, cached runs."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import BigInteger, ForeignKey, Index, LargeBinary, String, Text
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """The tables' base."""


class BenchRow(Base):
    """A bench: which of its revisions is the one on the screen."""

    __tablename__ = "bench"

    id: Mapped[int] = mapped_column(primary_key=True)
    head_id: Mapped[int | None] = mapped_column(ForeignKey("revision.id", use_alter=True, name="fk_bench_head"))
    demo: Mapped[str | None] = mapped_column(String(40), unique=True)
    made_at: Mapped[datetime]


class RevisionRow(Base):
    """A whole document, where it came from, and what changed, in words. `document` is zlib-packed JSON; `author` a
    browser that it came from, known by a number of its own."""

    __tablename__ = "revision"

    id: Mapped[int] = mapped_column(primary_key=True)
    bench_id: Mapped[int] = mapped_column(ForeignKey("bench.id", ondelete="CASCADE"), index=True)
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("revision.id"), index=True)
    document: Mapped[bytes] = mapped_column(LargeBinary)
    words: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime]
    author: Mapped[str | None] = mapped_column(String(16))


class CaptureRow(Base):
    """The edges of a capture (`Capture.edges_text`, zlib-packed) by their digest: revisions name them."""

    __tablename__ = "capture"

    bench_id: Mapped[int] = mapped_column(ForeignKey("bench.id", ondelete="CASCADE"), primary_key=True)
    digest: Mapped[str] = mapped_column(String(32), primary_key=True)
    edges: Mapped[bytes] = mapped_column(LargeBinary)


class EntryRow(Base):
    """An entry of a bench's log beside its revisions: a note, a picture, a program that was made, a test card, a trial.
    `revision_id` is where the bench stood; `words` what is said of it; `data` JSON of its kind."""

    __tablename__ = "log_entry"

    id: Mapped[int] = mapped_column(primary_key=True)
    bench_id: Mapped[int] = mapped_column(ForeignKey("bench.id", ondelete="CASCADE"), index=True)
    revision_id: Mapped[int]
    kind: Mapped[str] = mapped_column(String(16))
    words: Mapped[str] = mapped_column(Text)
    data: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime]
    picture: Mapped[bytes | None] = mapped_column(LargeBinary)


class RecordingRow(Base):
    """A capture too long for the document. `state` is what its reader must know to go on (JSON), "" when it has been
    read to the end; `rest` a line that is not all there; `taken` the bytes that came; `channels` JSON of each one's
    name and changes."""

    __tablename__ = "recording"

    id: Mapped[int] = mapped_column(primary_key=True)
    bench_id: Mapped[int] = mapped_column(ForeignKey("bench.id", ondelete="CASCADE"), index=True)
    name: Mapped[str] = mapped_column(Text)
    state: Mapped[str] = mapped_column(Text)
    rest: Mapped[bytes] = mapped_column(LargeBinary)
    taken: Mapped[int]
    channels: Mapped[str] = mapped_column(Text)
    length_ns: Mapped[int] = mapped_column(BigInteger)
    at: Mapped[datetime]


class StretchRow(Base):
    """Some thousand changes of one channel of it: see `core.told.stretches`."""

    __tablename__ = "recording_stretch"
    __table_args__ = (Index("ix_recording_stretch_of", "recording_id", "channel", "to_ns"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    recording_id: Mapped[int] = mapped_column(ForeignKey("recording.id", ondelete="CASCADE"))
    channel: Mapped[int]
    from_ns: Mapped[int] = mapped_column(BigInteger)
    to_ns: Mapped[int] = mapped_column(BigInteger)
    changes: Mapped[int]
    level: Mapped[int]
    outline: Mapped[bytes] = mapped_column(LargeBinary)
    data: Mapped[bytes] = mapped_column(LargeBinary)


class ShelfThingRow(Base):
    """Something else of the user's own that any bench can use, by its kind and id. `document` is JSON."""

    __tablename__ = "shelf_thing"

    kind: Mapped[str] = mapped_column(String(16), primary_key=True)
    id: Mapped[str] = mapped_column(String(60), primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    document: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime]


class ShelfUseRow(Base):
    """A thing of the shelf that a bench has taken: what it is called there, what was given for its asks (JSON), the
    digest of what was taken."""

    __tablename__ = "shelf_use"

    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str] = mapped_column(String(16))
    thing_id: Mapped[str] = mapped_column(String(60))
    bench_id: Mapped[int] = mapped_column(ForeignKey("bench.id", ondelete="CASCADE"), index=True)
    local: Mapped[str] = mapped_column(String(80))
    given: Mapped[str] = mapped_column(Text)
    digest: Mapped[str] = mapped_column(String(32))
    at: Mapped[datetime]


class DrillRow(Base):
    """A drill: a bench of its own with faults hidden in it. `sound` is the bench without them (zlib-packed JSON);
    `faults` JSON of {id, of, scenario}; `asked` of {what, of, said, cost}; `found` of the faults' ids."""

    __tablename__ = "drill"

    id: Mapped[int] = mapped_column(primary_key=True)
    bench_id: Mapped[int | None] = mapped_column(ForeignKey("bench.id", ondelete="SET NULL"), index=True)
    name: Mapped[str] = mapped_column(Text)
    seed: Mapped[int]
    level: Mapped[int]
    sound: Mapped[bytes] = mapped_column(LargeBinary)
    faults: Mapped[str] = mapped_column(Text)
    asked: Mapped[str] = mapped_column(Text)
    found: Mapped[str] = mapped_column(Text)
    gave_up: Mapped[bool]
    began: Mapped[datetime]
    ended: Mapped[datetime | None]


class RunRow(Base):
    """A run by its hash (document, scenario, seed, core). `run` is zlib-packed JSON."""

    __tablename__ = "run"

    key: Mapped[str] = mapped_column(String(32), primary_key=True)
    run: Mapped[bytes] = mapped_column(LargeBinary)
    at: Mapped[datetime] = mapped_column(index=True)


class ShelfBoardRow(Base):
    """A board of the user's own. `document` is JSON."""

    __tablename__ = "shelf_board"

    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    document: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime]
