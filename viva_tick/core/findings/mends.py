"""Patches that more than one rule offers."""

from __future__ import annotations

from ..debounce import METHODS
from ..document import Channel, pointer
from ..units import ms
from .finding import Asked, Evidence, Patch


def replaced(path: str, value: object) -> Patch:
    """Another value in that place."""
    return ({"op": "replace", "path": path, "value": value},)


LONGEST_US = {"motion": 30_000_000, "light": 10_000_000, "heat": 1_800_000_000, "wet": 60_000_000}


def longest_on(channel: Channel) -> Asked:
    """Asks how long an output may be on, with a suggestion by what it switches: the shortest of them; ten minutes where
    none is known (common practice: guesses to begin with)."""
    suggested = min((LONGEST_US[load] for load in channel.loads if load in LONGEST_US), default=600_000_000)
    return Asked("On for at most", pointer("firmware", "limits", channel.id), "longest_us", suggested)


def set_debounce(evidence: Evidence, input_id: str, method: str, interval_us: int) -> Patch:
    """Clean that input with the method at the interval."""
    where = pointer("firmware", "debounce", input_id)
    value = {"method": method, "interval_us": interval_us, "sample_us": evidence.bench.debounce(input_id).sample_us}
    op = "replace" if input_id in evidence.bench.firmware.debounce else "add"
    return ({"op": op, "path": where, "value": value},)


def advised_debounce(evidence: Evidence, input_id: str, method: str) -> tuple[Patch, str]:
    """The advised interval of a method as a patch and its button's words; nothing where there is no safe window or
    the bench has it already."""
    if not evidence.mends:
        return (), ""
    advice = evidence.advice(input_id, method)
    now = evidence.bench.debounce(input_id)
    if advice is None or (now.method == method and now.interval_us == advice.advised_us):
        return (), ""
    words = f"Set {ms(advice.advised_us)}"
    if now.method != method:
        words = f"{METHODS[method].title}, {ms(advice.advised_us)}"
    return set_debounce(evidence, input_id, method, advice.advised_us), words
