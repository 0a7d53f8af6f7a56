"""While the program loads nothing is let go, so that looking for what could be is time lost: an eighth of the start."""

from __future__ import annotations

import gc


def begin() -> None:
    """More is loaded from here on."""
    gc.disable()


def loaded() -> None:
    """All is there: it stays, and from now on what is made is looked through."""
    gc.freeze()
    gc.enable()


begin()
