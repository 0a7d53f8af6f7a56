"""Clean: how long to wait before a contact is accepted."""

from __future__ import annotations

from functools import partial
from typing import Any

from ...core.contacts import bounce_figures, contact_source, distribution
from ...core.debounce import METHODS, Method
from ...core.document import Bench, ContactLine, TapTiming
from ...core.document.parts import OpenWire, Sensed
from ...core.kinds import KINDS
from ...core.program import idle_pass_us
from ...core.shelf import KeptContact, uses
from ...core.sweep import Decision, decide, shortest_tap_us
from ...core.switches import SWITCH_CLASSES
from ...core.units import ms
from ..answers import shelf
from ..charts import sweep_chart
from ..drawings import histograms
from ..patches import Patch, add, put
from .base import Station, StationRequest
from .clean_readers import reader_context


def _items(bench: Bench) -> list[str]:
    """Contacts and the other inputs, in the order of the parts."""
    found: list[str] = []
    for at, part in bench.placed:
        found += [line.id for line in part.contacts(at) if not isinstance(line.part, OpenWire)]  # nothing bounces there
        if isinstance(part, Sensed):
            found.append(part.id)
    return found


def _listed(bench: Bench) -> list[tuple[str, str, str]]:
    """(id, name, what stands under it) of everything that can be picked."""
    rows = []
    sensed = {part.id: part for _, part in bench.sensed}
    for ident in _items(bench):
        if part := sensed.get(ident):
            read = ident in bench.firmware.readings
            rows.append((ident, part.name, f"{KINDS[part.kind].name.lower()}{'' if read else ', not read'}"))  # type: ignore[attr-defined]
            continue
        line = bench.contact(ident)
        figures = bounce_figures(bench, line)
        rests = f"bounces up to {ms(figures.longest_settle_us)}" if figures.bounces else "does not bounce"
        rows.append((ident, line.name, f"{line.kind}, {rests}"))
    return rows


def _rest(bench: Bench, line: ContactLine) -> dict[str, Any]:
    """Where the rest that cuts a capture's presses apart stands, and what it is."""
    if line.contact.kind != "capture":
        return {"rest_path": "", "rest_us": 0}
    number = next(n for n, capture in enumerate(bench.captures) if capture.id == line.contact.capture)
    return {"rest_path": f"/captures/{number}/rest_us", "rest_us": bench.captures[number].rest_us}


def _take(bench: Bench, input_id: str, decision: Decision) -> Patch:
    """The patch that takes the best choice; nothing where the bench has it, or there is none."""
    best, now = decision.best, bench.debounce(input_id)
    if best is None or best.advice is None:
        return Patch()
    if (now.method, now.interval_us) == (best.method, best.advice.advised_us):
        return Patch()
    return _debounced(bench, input_id, best.method, best.advice.advised_us)


def _debounced(bench: Bench, input_id: str, method: str, interval_us: int) -> Patch:
    """The patch that cleans a contact so."""
    value = {"method": method, "interval_us": interval_us, "sample_us": bench.debounce(input_id).sample_us}
    named = input_id in bench.firmware.debounce
    return (put if named else add)(f"/firmware/debounce/{input_id}", value)


def _with_method(bench: Bench, input_id: str, method: Method) -> Patch:
    """The patch that takes another method; the interval stays where it means something there."""
    now_us = bench.debounce(input_id).interval_us
    if not method.has_interval:
        return _debounced(bench, input_id, method.id, now_us)
    keeps = now_us and now_us <= method.limits_us[1]
    return _debounced(bench, input_id, method.id, now_us if keeps else method.default_us)


def _bounces_as(at: str, **contact: str) -> Patch:
    """The patch that takes a class of switch, or a capture, for what bounces."""
    return put(f"{at}/contact", contact)


def _family(method: Method, alone: bool) -> list[Method]:
    """The method's variants, itself among them; nothing where there is but one. A contact that is `alone` has nobody to
    share anything with."""
    head = method.family or method.id
    found = [one for one in METHODS.values() if head in (one.id, one.family)]
    found = [one for one in found if one is method or not (alone and one.id.startswith("shared-"))]
    return found if len(found) > 1 else []


VARIANTS = {
    "look-again": "both edges",
    "look-press": "press only",
    "look-release": "act on release",
    "rest-first": "a memory for each input",
    "shared-rest": "one function for all",
    "interrupt": "a handler for each pin",
    "shared-interrupt": "one handler for all",
}


def _kept(bench: Bench, line: ContactLine) -> list[KeptContact]:
    """Contacts of the shelf as which it does not bounce already."""
    return [one for one in shelf().contacts() if line.name not in uses(bench, one)]


def _context(asked: StationRequest) -> dict[str, Any]:
    bench = asked.bench
    figures = {part.id: bounce_figures(bench, part) for part in bench.contacts}
    listed = _listed(bench)
    if asked.picked is None:
        return {"listed": listed}
    for at, sensed in bench.sensed:
        if sensed.id == asked.picked:
            return {"listed": listed, **reader_context(asked, at, sensed)}
    debounce = bench.debounce(asked.picked)
    method = METHODS[debounce.method]
    said = asked.study.answers
    shortest = shortest_tap_us(bench, asked.picked)
    line = bench.contact(asked.picked)
    spread = distribution(bench, line)
    decision = decide(bench, asked.picked, idle_pass_us(bench))
    return {
        "listed": listed,
        "editor": "contact",
        "figures": figures,
        "part": line,
        "debounce": debounce,
        "is_named": asked.picked in bench.firmware.debounce,
        "with_method": partial(_with_method, bench, asked.picked),
        "bounces_as": partial(_bounces_as, line.at),
        "method": method,
        "variants": VARIANTS,
        "methods": [one for one in METHODS.values() if not one.family],
        "family": _family(method, len(bench.contacts) == 1),
        "kept_contacts": _kept(bench, line),
        "switches": list(SWITCH_CLASSES.values()),
        "decision": decision,
        "spread": spread,
        "histograms": histograms(contact_source(bench, line)),
        **_rest(bench, line),
        "take": _take(bench, asked.picked, decision),
        "taps": bench.taps.get(asked.picked, TapTiming()),
        "tapped": asked.picked in bench.taps,
        "chart": sweep_chart(bench, asked.picked) if method.has_interval and decision.choices else None,
        "tally": said.tallies[asked.picked] if said else None,
        "wait": said.waits[asked.picked] if said else None,
        "to_output": said.to_output_us[asked.picked] if said else None,
        "shortest_us": shortest[0] if shortest else None,
    }


STATION = Station("clean", "Clean", _items, _context)
