"""Captures too long for the document: read as they come, kept in packed stretches, looked at a window at a time."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np
from sqlalchemy import Engine, delete, insert, select, update

from ..core.formats import EdgesError, Reader, reader_for, reader_of
from ..core.told.stretches import Stretch, drawn, instants, packed
from .tables import RECORDING, STRETCH

_OUTLINES = (
    STRETCH.c.id, STRETCH.c.from_ns, STRETCH.c.to_ns, STRETCH.c.changes, STRETCH.c.level, STRETCH.c.outline,
)  # fmt: skip
MOST_CHANGES = 50_000_000  # of one recording
MOST_LINE = 4_000_000  # bytes without an end
LEFT = timedelta(days=1)  # after so long one that was not read to its end is taken away
Points = dict[str, list[tuple[float, int]]]


class NoRecording(LookupError):
    """There is no such recording."""


@dataclass(frozen=True)
class Recording:
    """A recording: the bytes that came, whether that was all; by channel how often it changes."""

    id: int
    bench_id: int
    name: str
    taken: int
    done: bool
    channels: dict[str, int]
    length_ns: int

    @property
    def changes(self) -> int:
        """Of all channels."""
        return sum(self.channels.values())


class Recordings:
    """The recordings in a database."""

    def __init__(self, engine: Engine) -> None:
        self.engine = engine

    def begin(self, bench_id: int, name: str) -> int:
        """A new one, of which nothing has come yet; its number. Those that were left half-read are taken away."""
        now = datetime.now(UTC).replace(tzinfo=None)
        row = {
            "bench_id": bench_id, "name": name, "state": "{}", "rest": b"", "taken": 0, "channels": "{}",
            "length_ns": 0, "at": now,
        }  # fmt: skip
        with self.engine.begin() as connection:
            connection.execute(delete(RECORDING).where(RECORDING.c.state != "", RECORDING.c.at < now - LEFT))
            return int(connection.execute(insert(RECORDING), row).inserted_primary_key[0])  # type: ignore[index]

    def _row(self, number: int) -> Any:
        if not 0 < number < 1 << 63:  # beyond that there is none
            raise NoRecording(number)
        with self.engine.connect() as connection:
            row = connection.execute(select(RECORDING).where(RECORDING.c.id == number)).first()
        if row is None:
            raise NoRecording(number)
        return row

    def get(self, number: int) -> Recording:
        """One of them. Raises `NoRecording`."""
        row = self._row(number)
        return Recording(
            row.id, row.bench_id, row.name, row.taken, not row.state, json.loads(row.channels), row.length_ns
        )

    def more(self, number: int, at: int, data: bytes, last: bool) -> Recording:
        """The next bytes, which begin at `at` of the file; what came before is not read again. Raises `EdgesError`,
        naming the line, and `NoRecording`."""
        row = self._row(number)
        if at != row.taken or not row.state:
            return self.get(number)
        whole = row.rest + data
        cut = len(whole) if last else whole.rfind(b"\n") + 1
        if len(whole) - cut > MOST_LINE:
            raise EdgesError("The file has no line ends, so that it is no capture that can be read.")
        text = whole[:cut].decode("utf-8", "replace")
        state = json.loads(row.state)
        reader: Reader | None = reader_of(state) if state else reader_for(text)
        if reader is None:
            if cut or last:
                raise EdgesError("That is neither a value change dump nor a table of numbers.")
            reader_state, found = {}, {}
        else:
            found = reader.feed(text, last)
            reader_state = reader.state()
        channels: dict[str, int] = json.loads(row.channels)
        length_ns, rows = row.length_ns, []
        for name, (instants_ns, levels) in found.items():
            place = list(channels).index(name) if name in channels else len(channels)
            channels[name] = channels.get(name, 0) + len(instants_ns)
            length_ns = max(length_ns, instants_ns[-1])
            rows += [{"recording_id": number, "channel": place, **vars(one)} for one in packed(instants_ns, levels[0])]
        if sum(channels.values()) > MOST_CHANGES:
            raise EdgesError(f"It has more than {MOST_CHANGES // 1_000_000} million changes; cut it to what matters.")
        if last and not any(many > 1 for many in channels.values()):
            raise EdgesError("No channel of this file ever changes.")
        said = {
            "state": "" if last else json.dumps(reader_state), "rest": whole[cut:], "taken": row.taken + len(data),
            "channels": json.dumps(channels), "length_ns": length_ns,
        }  # fmt: skip
        mine = (RECORDING.c.id == number, RECORDING.c.taken == row.taken)
        with self.engine.begin() as connection:
            # Two pages that send the same piece: the second has come too late.
            if connection.execute(update(RECORDING).where(*mine).values(**said)).rowcount == 1 and rows:
                connection.execute(insert(STRETCH), rows)
        return self.get(number)

    def drop(self, number: int) -> None:
        """Take one away, with all of it."""
        with self.engine.begin() as connection:
            connection.execute(delete(STRETCH).where(STRETCH.c.recording_id == number))
            connection.execute(delete(RECORDING).where(RECORDING.c.id == number))

    def _data(self, ident: int) -> bytes:
        with self.engine.connect() as connection:
            found: bytes = connection.scalar(select(STRETCH.c.data).where(STRETCH.c.id == ident)) or b""
        return found

    def _found(self, number: int, channel: int, from_ns: int, to_ns: int) -> tuple[list[Any], int | None]:
        """(the stretches that touch a span, by time, without their data; the level before them)."""
        mine = (STRETCH.c.recording_id == number, STRETCH.c.channel == channel)
        asked = select(*_OUTLINES).where(*mine, STRETCH.c.to_ns >= from_ns, STRETCH.c.from_ns <= to_ns)
        before = select(STRETCH.c.level, STRETCH.c.changes).where(*mine, STRETCH.c.to_ns < from_ns)
        with self.engine.connect() as connection:
            rows = list(connection.execute(asked.order_by(STRETCH.c.from_ns)))
            was = connection.execute(before.order_by(STRETCH.c.to_ns.desc()).limit(1)).first()
        return rows, None if was is None else was.level ^ (was.changes - 1) & 1

    def window(self, number: int, names: list[str], from_us: int, to_us: int, columns: int) -> dict[str, Any]:
        """What the lanes of channels show between two instants, by name: see `drawn`."""
        channels = list(self.get(number).channels)
        shown: dict[str, Any] = {}
        for name in names:
            if name not in channels:
                continue
            rows, before = self._found(number, channels.index(name), from_us * 1000, to_us * 1000)
            stretches = [_stretch(row) for row in rows]
            ids = {id(one): row.id for one, row in zip(stretches, rows, strict=True)}
            shown[name] = drawn(
                stretches,
                lambda one, ids=ids: _with(one, self._data(ids[id(one)])),  # type: ignore[misc]
                before,
                (from_us * 1000, to_us * 1000),
                columns,
            )
        return shown

    def points(self, number: int, from_us: int, to_us: int, most: int) -> tuple[Points, int]:
        """(by channel its changes between two instants, (µs from the first of them, level), the level as it begins
        among them; how many changes there are). No changes are read where there are more than `most`."""
        found: Points = {}
        parts = []
        many = 0
        for channel, name in enumerate(self.get(number).channels):
            rows, before = self._found(number, channel, from_us * 1000, to_us * 1000)
            whole = [row for row in rows if row.from_ns >= from_us * 1000 and row.to_ns <= to_us * 1000]
            many += sum(row.changes for row in whole)
            parts.append((name, rows, before))
        if many > most:
            return {}, many
        many = 0
        for name, rows, before in parts:
            points: list[tuple[float, int]] = []
            level = before
            for row in rows:
                one = _with(_stretch(row), self._data(row.id))
                at = instants(one)
                levels = one.level ^ np.arange(len(at)) & 1
                for at_ns, to in zip(at.tolist(), levels.tolist(), strict=True):
                    if at_ns < from_us * 1000:
                        level = to
                    elif at_ns <= to_us * 1000:
                        points.append((at_ns / 1000 - from_us, to))
            many += len(points)
            if level is not None and not (points and points[0][0] == 0):
                points.insert(0, (0.0, level))
            found[name] = points
        return (found, many) if many <= most else ({}, many)


def _stretch(row: Any) -> Stretch:
    return Stretch(row.from_ns, row.to_ns, row.changes, row.level, row.outline, b"")


def _with(one: Stretch, data: bytes) -> Stretch:
    return Stretch(one.from_ns, one.to_ns, one.changes, one.level, one.outline, data)
