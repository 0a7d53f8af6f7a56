"""While the program loads nothing is let go, so that looking for what could be is time lost: an eighth of the start."""

from __future__ import annotations

import gc


def begin() -> None:
    """More is loaded from here on."""
    gc.disable()


def loaded() -> None:
    """All is there: it stays, and from now on what is made is looked through; not often, for a run or an answer makes
    many small things and lets all of them go."""
    gc.freeze()
    gc.set_threshold(5_000, 20, 50)
    gc.enable()


begin()
