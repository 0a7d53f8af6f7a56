"""The bench document: typed, checked, versioned. `bench_from_text` reads one, `bench_text` writes it."""

from __future__ import annotations

from .bench import Bench, WireColours
from .firmware import ContactEvent, Debounce, Firmware, Loop, Machine, State, Task, TimeoutEvent, Transition, Watchdog
from .load import (
    MOST_BYTES,
    bench_data,
    bench_from_data,
    bench_from_text,
    bench_text,
    board_from_data,
    board_from_text,
    board_text,
    schema,
)
from .parts import (
    Capture,
    CapturedContact,
    Channel,
    Claim,
    ContactLine,
    Edge,
    InputPart,
    ModelledContact,
    OutputPart,
    Part,
    Wiring,
)
from .problems import DocumentError, Problem, pointer
from .scenario import Press, Scenario, SetTo

__all__ = [
    "MOST_BYTES",
    "Bench",
    "Capture",
    "CapturedContact",
    "Channel",
    "Claim",
    "ContactEvent",
    "ContactLine",
    "Debounce",
    "DocumentError",
    "Edge",
    "Firmware",
    "InputPart",
    "Loop",
    "Machine",
    "ModelledContact",
    "OutputPart",
    "Part",
    "Press",
    "Problem",
    "Scenario",
    "SetTo",
    "State",
    "Task",
    "TimeoutEvent",
    "Transition",
    "Watchdog",
    "WireColours",
    "Wiring",
    "bench_data",
    "bench_from_data",
    "bench_from_text",
    "bench_text",
    "board_from_data",
    "board_from_text",
    "board_text",
    "pointer",
    "schema",
]
