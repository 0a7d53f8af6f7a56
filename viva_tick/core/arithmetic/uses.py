"""Where the result of a sum goes on a bench, as an edit."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..document import Bench
from ..document.parts import Switched
from ..electrics import lamp_legs
from .base import Sum, Values

Patch = list[dict[str, Any]]


@dataclass(frozen=True)
class Use:
    """One place that a result fits: what it is called, and the edit."""

    label: str
    patch: Patch


def _put(path: str, value: Any) -> dict[str, Any]:
    return {"op": "replace", "path": path, "value": value}


def uses(bench: Bench, one: Sum, values: Values) -> list[Use]:
    """Every place on a bench that a sum's result fits; `values` are what was asked and what came out."""
    match one.use:
        case "resistor":
            ohm = round(values["R_E"])
            return [Use(leg.name, [_put(f"{leg.at}/resistor_ohm", ohm)]) for leg in lamp_legs(bench) if ohm]
        case "base":
            ohm = round(values["R_E"])
            found = [(at, part) for at, part in bench.placed if isinstance(part, Switched) and part.fed == "transistor"]
            return [Use(part.name, [_put(f"{at}/base_ohm", ohm)]) for at, part in found if ohm and not part.by_field]
        case "pull":
            lines = [line for line in bench.contacts if line.wiring.pull in ("up", "down")]
            return [Use(line.name, [_put(f"{line.at}/wiring/pull_ohm", max(round(values["R"]), 1))]) for line in lines]
        case "filter":
            ohm, farad = max(round(values["R"]), 1), min(max(round(values["C"] * 1e9), 1), 1_000_000)
            return [
                Use(
                    line.name,
                    [
                        _put(f"{line.at}/wiring/filter", "rc"),
                        _put(f"{line.at}/wiring/series_ohm", ohm),
                        _put(f"{line.at}/wiring/filter_nf", farad),
                    ],
                )
                for line in bench.contacts
            ]
        case "watchdog":
            step_us = round(values["step"] * 1e6) if values["step"] < 1e6 else 0
            return [Use("its watchdog", [_put("/firmware/watchdog/timeout_us", step_us)])] if step_us else []
        case "baud":
            return [Use("its serial line", [_put("/firmware/serial/baud", round(values["baud"]))])]
    return []
