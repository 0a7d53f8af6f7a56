"""Benches as bytes and back. The newest are at hand: an edit asks for the bench before it and after it."""

from __future__ import annotations

import json
import zlib

from ..core.at_hand import AtHand
from ..core.document import Bench, bench_from_data

_RECENT: AtHand[bytes, Bench] = AtHand(96)  # benches are values that nobody changes: several may have one


def pack(bench: Bench) -> bytes:
    """The bench as it is stored."""
    packed = zlib.compress(bench.text.encode())
    _RECENT.put(packed, bench)
    return packed


def unpack(packed: bytes) -> Bench:
    """The bench that was stored so, by this program or by one before it. Raises `DocumentError` as the reader does."""
    return _RECENT.made(packed, lambda: bench_from_data(json.loads(zlib.decompress(packed))))


def readable(packed: bytes) -> bytes:
    """As much of it as can be unpacked; nothing where that is nothing at all."""
    found, reader = b"", zlib.decompressobj()
    for start in range(0, len(packed), 64):
        try:
            found += reader.decompress(packed[start : start + 64])
        except zlib.error:
            break
    return found
