"""The user's shelf: parts, contacts, machines, panels that any bench can use."""

from __future__ import annotations

from .kept import (
    KINDS,
    Asked,
    Kept,
    KeptContact,
    KeptMachine,
    KeptPanel,
    KeptPart,
    kept_from_data,
    shelf_from_text,
    shelf_text,
)
from .using import Taken, choices, contact_patch, keep_machine, keep_panel, keep_part, take, uses

__all__ = [
    "KINDS", "Asked", "Kept", "KeptContact", "KeptMachine", "KeptPanel", "KeptPart", "Taken", "choices",
    "contact_patch", "keep_machine", "keep_panel", "keep_part", "kept_from_data", "shelf_from_text", "shelf_text",
    "take", "uses",
]  # fmt: skip
