"""What outlives a reset: when it is written, what that takes, what is remembered."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ..clock import MASK, US_PER_MS
from ..document import Keep
from ..program import Program
from .trace import Kind, Recording

SUPPLY = ("power", "dip")  # resets that take the supply away
RAM_US = 1  # what a write to memory takes that does not wear


class Memory:
    """`kept` is what outlives a reset, by (where, of); `now_is` tells what a variable holds, or the state that a
    machine is in."""

    def __init__(self, program: Program, now_is: Callable[[str], Any]) -> None:
        bench = program.bench
        self.now_is = now_is
        self.keeps: tuple[Keep, ...] = bench.firmware.keeps
        self.kept: dict[tuple[str, str], Any] = {}
        self.written_ms: dict[str, int] = {}  # when what is kept now and then was last written
        self.cell_us = bench.the_board.store.write_us if bench.the_board.store else 0
        self.bytes_of = {keep.of: bench.kept_bytes(keep.of) for keep in self.keeps}
        self.by_handler = [keep for keep in self.keeps if keep.when == "interrupt"]
        self.writes = Recording(Kind.WRITE)

    def begin(self, now_ms: int) -> None:
        """Set-up is done."""
        self.written_ms = dict.fromkeys(self.bytes_of, now_ms)

    def forget(self, cause: str) -> None:
        """A reset: a lost supply takes the memory with it that does not wear."""
        if cause in SUPPLY:
            self.kept = {key: value for key, value in self.kept.items() if key[0] == "store"}

    def begun(self) -> None:
        """The machines stand where they begin: what is there already is not written."""
        for keep in self.keeps:
            self.kept.setdefault((keep.where, keep.of), self.now_is(keep.of))

    def remembered(self, of: str) -> Any:
        """What was kept of it; None if nothing was."""
        return self.kept.get(("store", of), self.kept.get(("ram", of)))

    def takes_us(self, keep: Keep) -> int:
        """How long writing it takes now: of the store only bytes that differ are written."""
        if keep.where != "store":
            return RAM_US
        size = self.bytes_of[keep.of]
        old, new = (
            int(value).to_bytes(size, "little", signed=value < 0)
            for value in (self.kept.get(("store", keep.of), 0), self.now_is(keep.of))
        )
        return self.cell_us * sum(one != other for one, other in zip(old, new, strict=True))

    def save(self, keep: Keep, at_us: int) -> int:
        """It is written; how long that takes."""
        took_us = self.takes_us(keep)
        self.kept[keep.where, keep.of] = self.now_is(keep.of)
        if keep.where == "store" and took_us:
            self.writes.add(at_us, keep.of)
        return took_us

    def save_in_handler(self, at_us: int) -> int:
        """What the watchdog's handler writes; how long that takes."""
        return sum(self.save(keep, at_us) for keep in self.by_handler)

    def to_be_saved(self, keep: Keep, now_ms: int) -> bool:
        """Whether it is written in this pass."""
        if keep.when == "change":
            return bool(self.kept.get((keep.where, keep.of)) != self.now_is(keep.of))
        if keep.when == "every":
            if (now_ms - self.written_ms[keep.of]) & MASK < keep.every_us // US_PER_MS:
                return False
            self.written_ms[keep.of] = now_ms
        return True
