"""What becomes of the board itself while it runs: unplugged, a dip of its supply, its reset pin."""

from __future__ import annotations

from typing import NoReturn

from ..clock import NEVER
from ..document import Scenario
from .watchdog import Reset

CAUSES = {"off": "power", "pin": "pin", "dip": "dip"}


class Upsets:
    """Those of a scenario, one after another; `next_us` is when the next comes."""

    __slots__ = ("_rest", "next_us")

    def __init__(self, scenario: Scenario) -> None:
        self._rest = sorted(scenario.upsets, key=lambda one: one.at_us, reverse=True)
        self.next_us = self._rest[-1].at_us if self._rest else NEVER

    def take(self) -> Reset:
        """The next one, as a reset; then the one after it is the next."""
        one = self._rest.pop()
        self.next_us = self._rest[-1].at_us if self._rest else NEVER
        return Reset(one.at_us, CAUSES[one.kind], 0 if one.kind == "dip" else one.for_us)

    def go_on_with(self, fresh: Upsets, since_us: int) -> None:
        """Those of one that has not begun, but for those that came before an instant."""
        self._rest = [one for one in fresh._rest if one.at_us >= since_us or one in self._rest]
        self.next_us = self._rest[-1].at_us if self._rest else NEVER

    def come(self) -> NoReturn:
        """It comes now. Raises `Reset`."""
        raise self.take()
