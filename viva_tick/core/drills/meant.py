"""What a bench is meant to do, as whoever built it would tell it: of the sound one, so that nothing hidden is told."""

from __future__ import annotations

from dataclasses import dataclass

from ..document import Bench
from ..findings.machine_words import in_words
from ..timing.why import drive_words


@dataclass(frozen=True)
class Meant:
    """A state of a machine: its outputs in words, and what leads where."""

    state: str
    outputs: str
    ways: tuple[str, ...]


def meant(bench: Bench) -> dict[str, list[Meant]]:
    """By machine's name, its states in order."""
    names = {line.id: line.name for line in bench.drivable}
    told: dict[str, list[Meant]] = {}
    for machine in bench.firmware.machines:
        rows = told.setdefault(machine.name, [])
        for state in machine.states:
            outputs = ", ".join(f"{names.get(of, of)} {drive_words(drive)}" for of, drive in state.drives.items())
            ways = [
                f"{in_words(bench, one)} → {machine.state(one.target).name}" + (", on conditions" if one.guards else "")
                for one in machine.transitions
                if one.source == state.id
            ]
            rows.append(Meant(state.name, outputs, tuple(ways)))
    return told
