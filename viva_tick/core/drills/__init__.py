"""Fault drills: a fault is hidden in a copy of a bench, and found with what a person at a real bench has."""

from __future__ import annotations

from . import behaviour, electric
from .base import GROUPS, Hidden
from .finding import Planted, codes, differences, meter, plant, ready

FAULTS: dict[str, Hidden] = {one.id: one for module in (electric, behaviour) for one in module.FAULTS}

__all__ = ["FAULTS", "GROUPS", "Hidden", "Planted", "codes", "differences", "meter", "plant", "ready"]
