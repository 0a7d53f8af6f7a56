"""Benches as bytes and back. The newest are at hand: an edit asks for the bench before it and after it."""

from __future__ import annotations

import json
import zlib
from collections.abc import Callable
from functools import partial
from typing import Any

from ..core.at_hand import AtHand
from ..core.document import Bench, bench_from_data
from ..core.document.parts import Capture

_RECENT: AtHand[bytes, Bench] = AtHand(32)  # benches are values that nobody changes: several may have one
_CAPTURES: AtHand[str, Capture] = AtHand(48)
EdgesOf = Callable[[str], bytes | None]  # the edges that are stored under a digest


def pack(bench: Bench) -> bytes:
    """The bench as it is stored: its captures by name and digest, their edges beside it (`packed_edges`)."""
    captures = json.dumps([capture.bare for capture in bench.captures], separators=(",", ":"))
    packed = zlib.compress(f'{bench.bare_text[:-1]},"captures":{captures}}}'.encode())
    _RECENT.put(packed, bench)
    for capture in bench.captures:
        _CAPTURES.put(json.dumps(capture.bare), capture)
    return packed


def forget(packed: bytes) -> None:
    """Nobody will ask for what was packed so, not soon."""
    _RECENT.drop(packed)


def packed_edges(capture: Capture) -> bytes:
    """The edges of a capture as they are stored."""
    return zlib.compress(capture.edges_text.encode())


def unpack(packed: bytes, edges_of: EdgesOf) -> Bench:
    """The bench that was stored so, by this program or by one before it. Raises `DocumentError` as the reader does,
    ValueError where edges are missing."""
    return _RECENT.made(packed, lambda: _unpacked(packed, edges_of))


def _unpacked(packed: bytes, edges_of: EdgesOf) -> Bench:
    data = json.loads(zlib.decompress(packed))
    rows = data.get("captures", [])
    if not any("digest" in row for row in rows):  # as it was stored before they stood beside it
        return bench_from_data(data)
    del data["captures"]
    captures = [_CAPTURES.made(json.dumps(row), partial(_capture, row, edges_of)) for row in rows]
    return bench_from_data(data, tuple(captures))


def _capture(row: dict[str, Any], edges_of: EdgesOf) -> Capture:
    found = edges_of(row["digest"])
    if found is None:
        raise ValueError(f"the edges of {row['name']} are not there")
    edges = [{"at_us": at_us, "level": level} for at_us, level in json.loads(zlib.decompress(found))]
    rest = {name: value for name, value in row.items() if name != "digest"}
    return Capture.model_validate_json(json.dumps({**rest, "edges": edges}))


def readable(packed: object) -> bytes:
    """As much of it as can be unpacked; nothing where that is nothing at all, or where it is no bytes."""
    if not isinstance(packed, bytes):  # another program's doing
        return b""
    found, reader = b"", zlib.decompressobj()
    for start in range(0, len(packed), 64):
        try:
            found += reader.decompress(packed[start : start + 64])
        except zlib.error:
            break
    return found
