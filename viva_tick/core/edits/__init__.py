"""Edits: patches against a bench, and what they changed in words."""

from __future__ import annotations

from .instants import refuse_twice
from .patch import apply_patch
from .rebase import rebased
from .words import words

__all__ = ["apply_patch", "rebased", "refuse_twice", "words"]
