"""A capture too long to be held at once: stretches of a channel, packed, each with an outline to draw it by."""

from __future__ import annotations

import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

MOST = 4096  # changes of a stretch
BINS = 64  # of an outline
BUSY = "*"  # more changes than a column of the screen can show
Instants = NDArray[np.int64]


@dataclass(frozen=True)
class Stretch:
    """Changes of one channel that follow one another: the first and the last, ns; how many; the level from the first
    on (the next is the other one). `outline`: by each of `BINS` equal parts of it, a byte: twice how many changes (127
    at the most), and 1 where it ends high. `data`: their times, packed."""

    from_ns: int
    to_ns: int
    changes: int
    level: int
    outline: bytes
    data: bytes

    @property
    def ends(self) -> int:
        """The level after the last change."""
        return self.level ^ (self.changes - 1) & 1


def packed(at_ns: list[int], level: int) -> Iterator[Stretch]:
    """The stretches of changes that alternate, the first of them to `level`."""
    at = np.array(at_ns, dtype=np.int64)
    for begin in range(0, len(at), MOST):
        mine = at[begin : begin + MOST]
        yield _stretch(mine, level ^ begin & 1)


def _stretch(at: Instants, level: int) -> Stretch:
    first, last = int(at[0]), int(at[-1])
    bins = np.minimum((at - first) * BINS // max(last - first, 1), BINS - 1)
    counts = np.bincount(bins, minlength=BINS)
    ends = level ^ (np.cumsum(counts) - 1) & 1
    outline = (np.minimum(counts, 127) * 2 + ends).astype(np.uint8).tobytes()
    apart = np.diff(at, prepend=at[:1])
    width = "<u4" if int(apart.max()) < 1 << 32 else "<i8"
    return Stretch(
        first, last, len(at), level, outline, width[2:].encode() + zlib.compress(apart.astype(width).tobytes(), 6)
    )


def instants(one: Stretch) -> Instants:
    """When it changes, ns."""
    width = "<u4" if one.data[:1] == b"4" else "<i8"
    apart = np.frombuffer(zlib.decompress(one.data[1:]), dtype=width).astype(np.int64)
    return one.from_ns + np.cumsum(apart)


def drawn(
    found: list[Stretch], load: Callable[[Stretch], Stretch], before: int | None, span: tuple[int, int], columns: int
) -> dict[str, list[Any]]:
    """What a lane shows of stretches between two instants (ns), `t` in µs and `v`: levels, and BUSY where more than two
    changes share a column. `before` is the level as it begins. Only stretches whose outline is coarser than a column
    are loaded: a few dozen at the most."""
    from_ns, to_ns = span
    column_ns = max((to_ns - from_ns) / columns, 1.0)
    times: list[Instants] = []
    counts: list[Instants] = []
    levels: list[Instants] = []
    for one in found:
        if (one.to_ns - one.from_ns) / BINS <= column_ns:
            said = np.frombuffer(one.outline, dtype=np.uint8).astype(np.int64)
            at = one.from_ns + np.arange(BINS) * (one.to_ns - one.from_ns) // BINS
            keep = said > 1
            times.append(at[keep])
            counts.append(said[keep] >> 1)
            levels.append(said[keep] & 1)
        else:
            at = instants(load(one))
            times.append(at)
            counts.append(np.ones(len(at), dtype=np.int64))
            levels.append(one.level ^ np.arange(len(at)) & 1)
    if not times:
        return {"t": [from_ns // 1000], "v": [before or 0]}
    at, many, level = np.concatenate(times), np.concatenate(counts), np.concatenate(levels)
    early = int(np.searchsorted(at, from_ns, side="right"))
    start = int(level[early - 1]) if early else before
    inside = slice(early, int(np.searchsorted(at, to_ns, side="right")))
    at, many, level = at[inside], many[inside], level[inside]
    t: list[float] = [from_ns / 1000]
    v: list[Any] = [int(level[0]) ^ 1 if start is None and len(level) else start or 0]
    if not len(at):
        return {"t": t, "v": v}
    place = np.minimum(((at - from_ns) / column_ns).astype(np.int64), columns - 1)
    begins = np.flatnonzero(np.diff(place, prepend=-1))
    for begin, stop in zip(begins.tolist(), [*begins[1:].tolist(), len(at)], strict=True):
        if int(many[begin:stop].sum()) <= 2:
            t += (at[begin:stop] / 1000).tolist()
            v += level[begin:stop].tolist()
            continue
        left, right = (from_ns + (int(place[begin]) + n) * column_ns for n in (0, 1))
        if len(v) > 1 and v[-2] == BUSY and abs(t[-1] - left / 1000) < column_ns / 1e6:
            t.pop()  # busy columns side by side are one
            v.pop()
        else:
            t.append(left / 1000)
            v.append(BUSY)
        t.append(right / 1000)
        v.append(int(level[stop - 1]))
    return {"t": t, "v": v}
