"""What a board did, held against the bench: the trace that its program prints, or a capture of its pins."""

from .board import Otherness, board_run, pins_vcd, trace_lines
from .captured import Capture, Cause, Clock, Signal, aligned, causes, clock_of, is_capture, read_channels, signals_of
from .compared import Compared, Difference, compared, in_words, named
from .lines import Lines, Told, read_lines

__all__ = [
    "Capture",
    "Cause",
    "Clock",
    "Compared",
    "Difference",
    "Lines",
    "Otherness",
    "Signal",
    "Told",
    "aligned",
    "board_run",
    "causes",
    "clock_of",
    "compared",
    "in_words",
    "is_capture",
    "named",
    "pins_vcd",
    "read_channels",
    "read_lines",
    "signals_of",
    "trace_lines",
]
