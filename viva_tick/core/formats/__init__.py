"""Files that other programs read and write. Benches themselves are read and written by `document`."""

from __future__ import annotations

from .captures import Asked, is_table, read_capture, reader_for, table_signals, vcd_signals
from .dot import write_dot
from .edges_csv import UNITS, EdgesError, EdgesFile, Unit, read_edges, write_edges
from .scxml import ScxmlError, arrival_patch, read_scxml, write_scxml
from .streams import Changes, Reader, reader_of
from .trace_csv import write_trace
from .vcd import write_vcd

__all__ = [
    "UNITS",
    "Asked",
    "Changes",
    "EdgesError",
    "EdgesFile",
    "Reader",
    "ScxmlError",
    "Unit",
    "arrival_patch",
    "is_table",
    "read_capture",
    "read_edges",
    "read_scxml",
    "reader_for",
    "reader_of",
    "table_signals",
    "vcd_signals",
    "write_dot",
    "write_edges",
    "write_scxml",
    "write_trace",
    "write_vcd",
]
