"""What cannot be worked out takes down one card, not the page: an edit that is kept never shuts its bench."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar

from flask import current_app, g
from werkzeug.exceptions import HTTPException

from ..core.document import DocumentError
from ..store import DamagedBench, NoBench, Stale
from .turns import stop_if_left

V = TypeVar("V")


@dataclass(frozen=True)
class Failed:
    """Something that could not be worked out: what, and the number under which the program's log has the rest."""

    what: str
    number: str


def failures() -> list[Failed]:
    """What has failed in this request so far."""
    if "failures" not in g:
        g.failures = []
    found: list[Failed] = g.failures
    return found


def shielded(what: str, make: Callable[[], V], instead: Callable[[], V]) -> V:
    """What `make` makes; or, where it fails, what `instead` does, with the fault in the log and among `failures`."""
    stop_if_left()
    try:
        return make()
    except (HTTPException, DocumentError, NoBench, DamagedBench, Stale):
        raise  # these are answers
    except Exception:
        failed = Failed(what, secrets.token_hex(3))
        current_app.logger.exception("%s could not be worked out (%s)", what, failed.number)
        failures().append(failed)
        return instead()
