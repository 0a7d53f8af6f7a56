"""The catalogue of findings. A new rule is a function beside its siblings and a name in the row below."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable

from . import (
    aftermath,
    behave,
    between,
    broken,
    clean,
    contacts,
    driving,
    electric,
    guard,
    kernel,
    loads,
    machines,
    pace,
    pins,
    power,
    readers,
    sampling,
    serial,
    showing,
    switching,
    thresholds,
    transitions,
    volts,
    wire,
)
from .finding import SEVERITY_WORDS, Asked, Evidence, Finding, Severity, must_fix
from .grouping import grouped
from .machine_words import row_words

log = logging.getLogger(__name__)
Rule = Callable[[Evidence], Iterable[Finding]]
RULES: tuple[Rule, ...] = (
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
    electric.output_inverted,
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
    contacts.magnet_hold,
    volts.scales,
    electric.lamp_pull,
    electric.wetting,
    electric.long_cable,
    electric.between_throws,
    switching.unsaid,
    switching.no_stop,
    switching.contact_rating,
    switching.snubber,
    switching.fuse,
    switching.solid_state,
    switching.gate,
    power.inrush,
    power.boot_pins,
    power.timers,
    power.bus,
    sampling.source,
    broken.open_stop,
    clean.none,
    clean.counted,
    clean.too_short,
    clean.one_edge,
    clean.too_long,
    clean.shared_state,
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
    sampling.reference,
    sampling.slow,
    pace.blocking,
    behave.rest_state,
    behave.unexpected,
    machines.nobody,
    machines.unreachable,
    machines.dead_end,
    transitions.second_transition,
    transitions.both_open,
    transitions.goes_round,
    transitions.out_of_range,
    machines.interlocks,
    transitions.conflict,
    transitions.short_time,
    transitions.undriven,
    machines.for_ever,
    driving.cannot,
    switching.fast_switching,
    switching.undriven_speed,
    broken.sensor_wire,
    broken.deaf,
    broken.limit_stays,
    driving.unread,
    showing.too_long,
    showing.too_fast,
    showing.picks_nothing,
    showing.same_address,
    pace.promised,
    pace.overload,
    kernel.unschedulable,
    kernel.busy,
    kernel.inversion,
    kernel.unshared,
    between.asleep,
    between.full,
    between.deadlock,
    between.starves,
    between.hook_waits,
    between.never_given,
    between.unguarded,
    between.owners,
    pace.missed_jobs,
    pace.drift,
    pace.wrap,
    pace.overflow,
    serial.printing,
    serial.bauds,
    serial.line_ends,
    serial.unended,
    serial.overrun,
    pace.too_fine,
    pace.spread_out,
    pace.asleep,
    kernel.stacks,
    guard.unguarded,
    guard.timeout,
    guard.feeding,
    aftermath.after,
    aftermath.never_known,
    aftermath.worn,
    aftermath.survives,
    aftermath.long_handler,
    power.brown_out,
    guard.alone,
    contacts.magnet,
    pins.left_analogue,
    pins.starting,
    wire.hazard,
)

_ORDER = {severity: place for place, severity in enumerate(Severity)}


def _looked(rule: Rule, evidence: Evidence) -> list[Finding]:
    """What a rule finds; one that fails on a bench is a line of its own, and the others hold."""
    try:
        return list(rule(evidence))
    except Exception:
        name = f"{rule.__module__.rpartition('.')[2]}.{getattr(rule, '__name__', rule)}"
        log.exception("the check %s could not be worked out", name)
        return [
            Finding(
                code="build.unchecked",
                severity=Severity.LOOK,
                station="build",
                part="",
                title="A check could not be worked out",
                sentence=f"On this bench the check “{name}” fails: our fault. The others hold; the log has more.",
                numbers=(),
                pointer="",
            )
        ]


def find(evidence: Evidence) -> list[Finding]:
    """Everything that stands out: cautions first, then the weightiest, otherwise in the order of the rules."""
    found = grouped(evidence, (finding for rule in RULES for finding in _looked(rule, evidence)))
    return sorted(found, key=lambda finding: (finding.code != "wire.hazard", _ORDER[finding.severity]))


__all__ = ["RULES", "SEVERITY_WORDS", "Asked", "Evidence", "Finding", "Severity", "find", "must_fix", "row_words"]
