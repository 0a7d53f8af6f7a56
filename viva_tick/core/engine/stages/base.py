"""A stage of the pass: it begins with a boot, does its part of each pass, and says how long it has nothing to do."""

from __future__ import annotations

from abc import ABC, abstractmethod

from ..trace import Recording

Due = tuple[int, int]  # (counter value, wait in ms) after which there is something to do in any case


class StageRunner(ABC):
    """What all stages have."""

    def begin(self, ready_us: int, now_ms: int) -> None:  # noqa: B027  (some have nothing to begin with)
        """Set-up is done, at `ready_us`."""

    @abstractmethod
    def run(self, clock_us: int) -> int:
        """Its part of a pass, which gets to it at `clock_us`: the instant after it. Raises `Reset`."""

    def quiet_until(self, start_us: int, horizon_us: int, dues: list[Due]) -> int:
        """Passes that begin from `start_us` on and before what this answers change nothing here.

        It answers `horizon_us` or less, and `start_us` or less where nothing is certain; it adds to `dues` what the
        counter leads to."""
        return horizon_us

    @property
    def recordings(self) -> list[Recording]:
        """What it records."""
        return []
