"""A bench whose passes take longer, or less long."""

from __future__ import annotations

from .document import Bench


def slower(bench: Bench, times: float) -> Bench:
    """The bench with all that a pass costs so many times as long, as if that had been measured."""
    if times == 1:
        return bench
    costs = {name: max(round(value * times), 1) for name, value in bench.costs.model_dump().items()}
    known = {name: value for name, value in costs.items() if name in type(bench.firmware.measured).model_fields}
    measured = bench.firmware.measured.model_copy(update=known)
    return bench.model_copy(update={"firmware": bench.firmware.model_copy(update={"measured": measured})})
