"""The panel of Try: what is on it (`things`), and where, with which holes (`layout`)."""

from __future__ import annotations

from .layout import Laid, Placed, box, cautions, gap_mm, laid_out
from .things import PRESSED, Thing, inputs_of, outputs_of

__all__ = ["PRESSED", "Laid", "Placed", "Thing", "box", "cautions", "gap_mm", "inputs_of", "laid_out", "outputs_of"]
