"""One slot for each input that is more than a contact, registered in `sensed_slot`."""

from __future__ import annotations

from ...document import Bench, Listen, Measure, Scan, Scenario, Turns
from ...document.parts import Analogue, Commands, Encoder, KeyMatrix, Sensed
from ...machines import EventName
from .base import SensedSlot
from .encoder import EncoderSlot
from .listen import ListenSlot
from .measure import MeasureSlot
from .scan import ScanSlot


def sensed_slot(
    bench: Bench, at: str, part: Sensed, keys: dict[EventName, int], scenario: Scenario, seed: int
) -> SensedSlot | None:
    """The slot of an input; None where the firmware does not read it."""
    board = bench.the_board.model_copy(update={"cost_us": bench.costs})
    match part, bench.firmware.readings.get(part.id):
        case Encoder(), Turns() as turns:
            return EncoderSlot(at, part, turns, scenario, seed, scenario.length_us, board, keys)
        case Analogue(), Measure() as measure:
            return MeasureSlot(part, measure, scenario, seed, board, keys)
        case KeyMatrix(), Scan() as scan:
            return ScanSlot(part, scan, scenario, seed, board, keys)
        case Commands(), Listen() as listen:
            return ListenSlot(part, listen, scenario, seed, bench.firmware.serial, bench.line_baud, board, keys)
    return None


def idle_reading_us(bench: Bench) -> int:
    """What these inputs take of a pass in which they have nothing to do."""
    cost = bench.costs
    total = 0
    for _, part in bench.sensed:
        if part.id in bench.firmware.readings:
            polled = isinstance(part, Encoder) and part.read_by == "polling"
            total += 2 * cost.read if polled else cost.task
    return total


__all__ = ["SensedSlot", "idle_reading_us", "sensed_slot"]
