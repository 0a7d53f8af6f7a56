"""Machines as SCXML (W3C Recommendation "State Chart XML", 1 September 2015), out and in.

The subset, which `docs/scxml.md` states for people: `scxml`, `datamodel`/`data`, `state` (one level inside another),
`initial`, `history` (deep), `transition` with `event`, `cond` and `target`, `onentry`, `onexit`, `assign`, `send` with
a `delay` and `cancel` for timeouts, `send` of type "drive" for what an output does. Everything else is refused by name
and line. What SCXML has no word for stands in attributes of a namespace of our own.
"""

from __future__ import annotations

from .read import arrival_patch, read_scxml
from .words import ScxmlError, event_word
from .write import write_scxml

__all__ = ["ScxmlError", "arrival_patch", "event_word", "read_scxml", "write_scxml"]
