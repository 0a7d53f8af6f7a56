"""The catalogue of findings. A new rule is a function beside its siblings and a name in the row below."""

from __future__ import annotations

from . import behave, clean, contacts, electric, pins, wire
from .finding import SEVERITY_WORDS, Case, Finding, Severity

RULES = (
    wire.floating,
    pins.shared,
    pins.abilities,
    pins.board_pulls,
    contacts.joined_legs,
    electric.same_rail,
    electric.pull_value,
    electric.inverted,
    electric.lamp,
    electric.all_pins,
    electric.relay_supply,
    electric.unheld,
    clean.none,
    clean.counted,
    clean.too_short,
    clean.too_long,
    behave.blocking,
    behave.rest_state,
    contacts.magnet,
    pins.starting,
    wire.hazard,
)

_ORDER = {severity: place for place, severity in enumerate(Severity)}


def find(case: Case) -> list[Finding]:
    """Every finding of a case, the weightiest first, otherwise in the order of the rules."""
    found = [finding for rule in RULES for finding in rule(case)]
    return sorted(found, key=lambda finding: _ORDER[finding.severity])


__all__ = ["RULES", "SEVERITY_WORDS", "Case", "Finding", "Severity", "find"]
