"""Files that other programs read and write. Benches themselves are read and written by `document`."""

from __future__ import annotations

from .captures import Asked, read_capture
from .edges_csv import UNITS, EdgesError, EdgesFile, Unit, read_edges, write_edges
from .trace_csv import write_trace
from .vcd import write_vcd

__all__ = [
    "UNITS",
    "Asked",
    "EdgesError",
    "EdgesFile",
    "Unit",
    "read_capture",
    "read_edges",
    "write_edges",
    "write_trace",
    "write_vcd",
]
