"""One slot for each input that is more than a contact, registered in `sensed_slot`."""

from __future__ import annotations

from ...document import Bench, Listen, Measure, Scan, Scenario, Turns
from ...document.parts import Analogue, Commands, Encoder, KeyMatrix, Sensed
from ...machines import EventName
from ...program import Program
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


def sensed_slots(program: Program, scenario: Scenario, seed: int) -> dict[str, SensedSlot]:
    """By id, those that the firmware reads."""
    bench, found = program.bench, {}
    for at, part in bench.sensed:
        if slot := sensed_slot(bench, at, part, program.keys, scenario, seed):
            found[part.id] = slot
    return found


__all__ = ["EncoderSlot", "ListenSlot", "SensedSlot", "sensed_slots"]
