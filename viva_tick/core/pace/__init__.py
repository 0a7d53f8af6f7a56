"""Pace: whether everything gets its turn in time."""

from __future__ import annotations

from .anatomy import Anatomy, Block, anatomy, longest_of, serial_wait_us
from .plan import Hold, holds
from .reach import InputReach, longest_unread_us, reach
from .schedulable import (
    Response,
    Schedulability,
    bound,
    hyperperiod_us,
    is_harmonic,
    judge,
    response,
    schedulability,
    utilisation,
)
from .serial import LineStudy, best_divider, divider, line_study
from .spread import Spread, piled, spread
from .timekeeping import across_the_wrap, counted, fires_since, fires_until, off_a_day_s, waits
from .versus import SchoolRun, in_school, school_run

__all__ = [
    "Anatomy",
    "Block",
    "Hold",
    "InputReach",
    "LineStudy",
    "Response",
    "Schedulability",
    "SchoolRun",
    "Spread",
    "across_the_wrap",
    "anatomy",
    "best_divider",
    "bound",
    "counted",
    "divider",
    "fires_since",
    "fires_until",
    "holds",
    "hyperperiod_us",
    "in_school",
    "is_harmonic",
    "judge",
    "line_study",
    "longest_of",
    "longest_unread_us",
    "off_a_day_s",
    "piled",
    "reach",
    "response",
    "schedulability",
    "school_run",
    "serial_wait_us",
    "spread",
    "utilisation",
    "waits",
]
