"""Benches as bytes and back. The newest are at hand: an edit asks for the bench before it and after it."""

from __future__ import annotations

import json
import threading
import zlib
from collections import OrderedDict

from ..core.document import Bench, bench_data, bench_from_data

AT_HAND = 4

_recent: OrderedDict[bytes, Bench] = OrderedDict()
_lock = threading.Lock()


def pack(bench: Bench) -> bytes:
    """The bench as it is stored."""
    packed = zlib.compress(json.dumps(bench_data(bench), separators=(",", ":")).encode())
    _keep(packed, bench)
    return packed


def unpack(packed: bytes) -> Bench:
    """The bench that was stored so, by this program or by one before it. Raises `DocumentError` as the reader does."""
    with _lock:
        known = _recent.get(packed)
    bench = known or bench_from_data(json.loads(zlib.decompress(packed)))
    _keep(packed, bench)
    return bench


def _keep(packed: bytes, bench: Bench) -> None:
    """Benches are values that nobody changes, so that one may be handed to several who ask."""
    with _lock:
        _recent[packed] = bench
        _recent.move_to_end(packed)
        while len(_recent) > AT_HAND:
            _recent.popitem(last=False)
