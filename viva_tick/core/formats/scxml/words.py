"""What both ways have in common: namespaces, names of events, what goes wrong."""

from __future__ import annotations

from typing import get_args
from urllib.parse import quote

from ...document import (
    HEARD,
    AlwaysEvent,
    Event,
    TimeoutEvent,
)

W3C, OURS = "http://www.w3.org/2005/07/scxml", "urn:viva-tick:machine"
MOST_BYTES = 1_000_000
KINDS = tuple(kind for one in HEARD for kind in get_args(one.model_fields["kind"].annotation))


class ScxmlError(ValueError):
    """Something in the file is not in the subset; `line` says where."""

    def __init__(self, line: int, sentence: str) -> None:
        super().__init__(f"Line {line}: {sentence}")
        self.line = line


def event_word(event: Event, timeout: str = "") -> str:
    """An event as SCXML names it: words with dots between them; what has dots or blanks of its own is last."""
    if isinstance(event, TimeoutEvent):
        return timeout
    if isinstance(event, AlwaysEvent):
        return ""
    return ".".join(filter(None, (event.kind, event.input.replace(".", ":"), quote(event.of, safe="*#"))))
