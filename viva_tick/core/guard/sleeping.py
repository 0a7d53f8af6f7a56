"""Sleep: how much of the time the board is awake, what it draws, how long the battery lasts."""

from __future__ import annotations

from dataclasses import dataclass

from ..document import Bench
from ..electrics import draws
from ..program import asleep_us, idle_pass_us
from ..timing import Answers

YEAR_H = 8766.0


@dataclass(frozen=True)
class SleepStudy:
    """`duty` is the share of the time awake, `board_ua` and `outputs_ua` the average currents; `days` how long the cell
    lasts, None without one; `always_days` without sleep, `resting_days` with its outputs off."""

    awake_us: int
    every_us: int
    duty: float
    board_ua: float
    outputs_ua: float
    days: float | None
    always_days: float | None
    resting_days: float | None

    @property
    def average_ua(self) -> float:
        """All together."""
        return self.board_ua + self.outputs_ua


def life_days(capacity_mah: float, usable_percent: float, lost_a_year_percent: float, average_ua: float) -> float:
    """Days: what can be used of a cell over the current and what the cell loses of itself."""
    usable_uah = capacity_mah * 1000 * usable_percent / 100
    own_ua = capacity_mah * 1000 * lost_a_year_percent / 100 / YEAR_H
    return usable_uah / (average_ua + own_ua) / 24


def _share(bench: Bench, part: str, said: Answers | None, length_us: int) -> float:
    """How much of a run a part draws its current: the whole of it where nothing switches it."""
    channels = [channel.id for channel in bench.channels if channel.part.id == part]
    if not channels:
        return 1.0
    if not said or not length_us:
        return 0.0
    return max(said.on_us.get(ident, 0) for ident in channels) / length_us


def sleep_study(bench: Bench, said: Answers | None, length_us: int) -> SleepStudy:
    """A bench's currents at the rate of a run: outputs as long on as there."""
    board, sleep, cell = bench.the_board, bench.firmware.sleep, bench.cell
    every_us = asleep_us(bench)
    awake_us = idle_pass_us(bench) - every_us
    if sleep and sleep.wakes == "pin":  # asleep for all of the run but what it took, and what it stayed awake after
        moves = 1 + 2 * sum(tally.made for tally in said.tallies.values()) if said else 1
        awake_us = min(moves * sleep.awake_us, length_us) or 1
        every_us = length_us - awake_us if length_us else sleep.awake_us
    duty = awake_us / (awake_us + every_us)
    asleep_ua = 0
    if sleep:
        asleep_ua = board.sleep_watchdog_ua if sleep.wakes == "watchdog" else board.sleep_ua
    board_ua = board.run_ua * duty + asleep_ua * (1 - duty)
    outputs_ua = sum(draw.supply_ua * _share(bench, draw.part, said, length_us) for draw in draws(bench))

    def days(average_ua: float) -> float | None:
        if cell is None:
            return None
        return life_days(cell.capacity_mah, cell.usable_percent, cell.lost_a_year_percent, average_ua)

    return SleepStudy(
        awake_us,
        every_us,
        duty,
        board_ua,
        outputs_ua,
        days(board_ua + outputs_ua),
        days(board.run_ua + outputs_ua),
        days(board_ua),
    )
