"""The catalogue of findings. A new rule is a function beside its siblings and a name in the row below."""

from __future__ import annotations

from . import behave, clean, contacts, driving, electric, loads, machines, pins, readers, thresholds, volts, ways, wire
from .finding import SEVERITY_WORDS, Case, Finding, Severity
from .machine_words import row_words

RULES = (
    wire.floating,
    wire.module_legs,
    volts.over_volts,
    pins.shared,
    pins.abilities,
    pins.no_converter,
    pins.board_pulls,
    contacts.joined_legs,
    electric.same_rail,
    electric.undecided,
    electric.pull_value,
    electric.long_wire,
    electric.rc_filter,
    electric.inverted,
    volts.trigger,
    wire.grounds,
    loads.lamp,
    loads.base,
    loads.pin_over,
    loads.diode,
    loads.sums_over,
    loads.relay_supply,
    wire.both_directions,
    wire.cut_out,
    loads.unheld,
    loads.dims_mains,
    contacts.ghosts,
    volts.scales,
    clean.none,
    clean.counted,
    clean.too_short,
    clean.one_edge,
    clean.too_long,
    clean.shared_timer,
    clean.no_interrupt,
    clean.few_samples,
    clean.lag,
    clean.unneeded,
    readers.undivided,
    readers.reversed_,
    readers.too_fast,
    thresholds.reach,
    thresholds.thresholds,
    readers.key_wait,
    readers.ghost_keys,
    readers.commands,
    readers.unread,
    behave.blocking,
    behave.rest_state,
    behave.unexpected,
    machines.nobody,
    machines.unreachable,
    machines.dead_end,
    ways.second_way,
    ways.both_open,
    ways.goes_round,
    ways.out_of_range,
    machines.interlocks,
    ways.conflict,
    ways.short_time,
    ways.undriven,
    machines.for_ever,
    driving.cannot,
    driving.unread,
    contacts.magnet,
    pins.starting,
    wire.hazard,
)

_ORDER = {severity: place for place, severity in enumerate(Severity)}


def find(case: Case) -> list[Finding]:
    """Every finding of a case, the weightiest first, otherwise in the order of the rules."""
    found = [finding for rule in RULES for finding in rule(case)]
    return sorted(found, key=lambda finding: _ORDER[finding.severity])


__all__ = ["RULES", "SEVERITY_WORDS", "Case", "Finding", "Severity", "find", "row_words"]
