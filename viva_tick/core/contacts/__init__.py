"""Contacts: whether the metal touches. Modelled or replayed bounces, and their figures."""

from __future__ import annotations

from .bounce import Bouncer, Burst, CaptureBouncer, ModelBouncer, capture_bursts
from .moves import MOST_CHANGES, ContactCourse, Move, contact_course
from .rc import Filter, pin_levels, reaches_us
from .statistics import (
    BounceFigures,
    Distribution,
    Spread,
    bounce_figures,
    contact_source,
    distribution,
    distribution_of,
    source_bouncer,
)

__all__ = [
    "MOST_CHANGES",
    "BounceFigures",
    "Bouncer",
    "Burst",
    "CaptureBouncer",
    "ContactCourse",
    "Distribution",
    "Filter",
    "ModelBouncer",
    "Move",
    "Spread",
    "bounce_figures",
    "capture_bursts",
    "contact_course",
    "contact_source",
    "distribution",
    "distribution_of",
    "pin_levels",
    "reaches_us",
    "source_bouncer",
]
