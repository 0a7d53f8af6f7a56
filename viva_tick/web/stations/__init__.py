"""The stations that exist, in the order of the work. A new one is a module here, two templates, a name in the row."""

from __future__ import annotations

from . import behave, build, clean, guard, log, pace, trying, wire
from .base import Station, StationRequest

STATIONS: dict[str, Station] = {
    module.STATION.id: module.STATION for module in (wire, clean, behave, pace, guard, trying, build, log)
}

__all__ = ["STATIONS", "Station", "StationRequest"]
