"""Tables: benches, their revisions, cached runs."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey, LargeBinary, String, Text
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
