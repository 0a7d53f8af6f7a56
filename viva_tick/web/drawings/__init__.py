"""Circuits drawn from the wiring: one or two figures for the part that is picked."""

from __future__ import annotations

from ...core.document import Bench, Part
from ...core.document.parts import Analogue, Commands, Encoder, KeyMatrix, PanelButton
from .contacts import contact_figures
from .dial import dial
from .histogram import histograms
from .outputs import output_figures, panel_lamp
from .pass_bar import pass_bar
from .pen import Figure
from .sensing import analogue_figures, command_figures, encoder_figures, matrix_figures
from .start_strip import start_strip
from .timeline import timeline


def figures(bench: Bench, part: Part, at: str) -> list[Figure]:
    """The part in its two states, or from its two sides."""
    board = bench.the_board
    if isinstance(part, Encoder):
        return encoder_figures(part, at, board)
    if isinstance(part, KeyMatrix):
        return matrix_figures(part, at)
    if isinstance(part, Analogue):
        return analogue_figures(part, at, board)
    if isinstance(part, Commands):
        return command_figures(part, at)
    if lines := part.contacts(at):
        lamp = panel_lamp(bench, part, at) if isinstance(part, PanelButton) else []
        return contact_figures(lines[0], board) + lamp[1:]
    return output_figures(bench, part, at)


__all__ = ["Figure", "dial", "figures", "histograms", "pass_bar", "start_strip", "timeline"]
