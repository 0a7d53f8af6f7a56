"""One line that says what an edit changed, from the answers before and after it."""

from __future__ import annotations

from ..document import Bench
from ..units import ms, signed_ms
from .answers import Answers

MOST = 3


def _signed(count: int, one: str, many: str) -> str:
    return f"{'+' if count > 0 else '−'}{abs(count)} {one if abs(count) == 1 else many}"


def difference(bench: Bench, before: Answers, after: Answers) -> str:
    """What changed, the weightiest first; "nothing the scenario shows" where nothing did."""
    parts: list[str] = []
    false_presses = missed = 0
    for name, now in after.tallies.items():
        if was := before.tallies.get(name):
            false_presses += len(now.doubled_us) + len(now.from_nothing_us)
            false_presses -= len(was.doubled_us) + len(was.from_nothing_us)
            missed += len(now.missed_us) - len(was.missed_us)
    broken = sum(not one.met for one in after.expected) - sum(not one.met for one in before.expected)
    if broken:
        parts.append(_signed(broken, "check no longer met", "checks no longer met"))
    if false_presses:
        parts.append(_signed(false_presses, "extra press", "extra presses"))
    if missed:
        parts.append(_signed(missed, "missed press", "missed presses"))
    for ident, counted in after.sensed.items():
        old = before.sensed.get(ident)
        if old and (counted.counted, counted.errors) != (old.counted, old.errors):
            name = bench.part(ident).name
            if counted.counted != old.counted:
                parts.append(f"{name}: {_signed(counted.counted - old.counted, 'event', 'events')}")
            else:
                parts.append(f"{name}: {_signed(counted.errors - old.errors, 'error', 'errors')}")
    for name, now_wait in after.waits.items():
        was_wait = before.waits.get(name)
        if now_wait and was_wait and abs(now_wait.median - was_wait.median) >= 500:
            several = len(after.waits) > 1
            where = f" on {bench.contact(name).name}" if several else ""
            parts.append(f"{signed_ms(now_wait.median - was_wait.median)} wait{where}")
    if abs(after.longest_pass_us - before.longest_pass_us) >= 500:
        parts.append(f"longest pass {ms(before.longest_pass_us)} → {ms(after.longest_pass_us)}")
    for part in bench.channels:
        now_on, was_on = after.on_us.get(part.id), before.on_us.get(part.id)
        if now_on is not None and was_on is not None and abs(now_on - was_on) >= 50_000:
            parts.append(f"{part.name} on {signed_ms(now_on - was_on)}")
    if len(after.resets_us) != len(before.resets_us):
        parts.append(_signed(len(after.resets_us) - len(before.resets_us), "reset", "resets"))
    return ", ".join(parts[:MOST]) or "nothing this scenario shows"
