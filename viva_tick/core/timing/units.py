"""Times in words: the unit and the digits a person wants."""

from __future__ import annotations

MINUS = "−"


def ms(us: int) -> str:
    """Milliseconds, with as many digits as help: 0.04 ms, 2.1 ms, 18 ms; seconds from 10 s on."""
    value = us / 1000
    if abs(value) >= 10_000:
        return f"{us / 1_000_000:g} s"
    if abs(value) >= 100 or us % 1000 == 0:
        return f"{value:.0f} ms"
    return f"{value:.1f} ms" if abs(value) >= 1 else f"{value:.2f} ms"


def signed_ms(us: int) -> str:
    """The same with its sign."""
    return f"{'+' if us >= 0 else MINUS}{ms(abs(us))}"


def at_s(us: int) -> str:
    """An instant of a run in seconds, to the millisecond."""
    return f"{us / 1_000_000:.3f} s"
