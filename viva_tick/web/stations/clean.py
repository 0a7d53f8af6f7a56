"""Clean: how long to wait before a contact is believed."""

from __future__ import annotations

from typing import Any

from ...core.contacts import bounce_figures
from ...core.debounce import METHODS
from ...core.document import Bench
from ...core.sweep import shortest_tap_us
from ...core.switches import SWITCH_CLASSES
from ..charts import sweep_chart
from .base import Desk, Station


def _items(bench: Bench) -> list[str]:
    return [part.id for part in bench.contacts]


def _context(desk: Desk) -> dict[str, Any]:
    bench = desk.bench
    figures = {part.id: bounce_figures(bench, part) for part in bench.contacts}
    if desk.picked is None:
        return {"figures": figures}
    debounce = bench.debounce(desk.picked)
    method = METHODS[debounce.method]
    said = desk.study.answers
    shortest = shortest_tap_us(bench, desk.picked)
    return {
        "figures": figures,
        "part": bench.contact(desk.picked),
        "debounce": debounce,
        "is_named": desk.picked in bench.firmware.debounce,
        "method": method,
        "methods": list(METHODS.values()),
        "switches": list(SWITCH_CLASSES.values()),
        "chart": sweep_chart(bench, desk.picked) if method.has_interval else None,
        "tally": said.tallies[desk.picked] if said else None,
        "wait": said.waits[desk.picked] if said else None,
        "to_output": said.to_output_us[desk.picked] if said else None,
        "shortest_us": shortest[0] if shortest else None,
    }


STATION = Station("clean", "Clean", _items, _context)
