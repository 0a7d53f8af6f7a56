"""The four steps of a new bench: which one is next, and the control that does it."""

from __future__ import annotations

from ..core.document import Bench

# title, what to do, the control, its station
STEPS = (
    (
        "Add what you press or turn",
        "Type what it does, “press” or “turn”, and Enter. It arrives wired to a free pin.",
        "#find-part",
        "wire",
    ),
    ("Add what it switches", "A lamp, a relay, a buzzer: “light”, “switch”, “sound”.", "#find-part", "wire"),
    ("Say what it does", "Choose a recipe; it becomes a machine that you can change.", "#find-recipe", "behave"),
    (
        "See it run, then build",
        "The strip below shows every press and what it does. Build has the program.",
        "#stop-build",
        "build",
    ),
)


def step_of(bench: Bench, station: str) -> int:
    """The number of the step that is next; 4 when the bench has come to its program."""
    done = (bool(bench.inputs), bool(bench.outputs), bool(bench.firmware.machines), station == "build")
    return next((number for number, so in enumerate(done) if not so), len(done))
