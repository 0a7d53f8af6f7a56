"""What happens while a pass stands still: the watchdog counts, tasks above the loop take the processor."""

from __future__ import annotations

from ..clock import NEVER
from .living import LiveProcessor
from .shared import Processor
from .upsets import Upsets
from .watchdog import Watchdog


class Blocking:
    """`taken_us`: when tasks above the loop next have the processor. `processor` is there under a kernel."""

    __slots__ = ("processor", "taken_us", "upsets", "watchdog")

    def __init__(self, watchdog: Watchdog, upsets: Upsets, processor: Processor | LiveProcessor | None) -> None:
        self.watchdog, self.upsets = watchdog, upsets
        self.processor = processor
        self.taken_us = NEVER

    def hold(self, clock_us: int, length_us: int, what: str, works: bool = False, feeds: bool = True) -> int:
        """The pass stands still, the watchdog does not: the instant after it. `works`: the processor has to do all of
        it, whatever comes between; otherwise it waits for a time, which goes on. `feeds`: a watchdog that is fed in
        waits is fed in it."""
        if isinstance(self.processor, LiveProcessor):
            clock_us, length_us = self._interrupted(clock_us, length_us, what, works, feeds)
        end_us = self.stand(clock_us, length_us, what, works, feeds)
        return self.give_way(end_us) if end_us >= self.taken_us else end_us

    def _interrupted(self, clock_us: int, length_us: int, what: str, works: bool, feeds: bool) -> tuple[int, int]:
        """It stands still as far as others interrupt it meanwhile: the instant from which nobody does, and what is left
        then."""
        end_us = clock_us + length_us
        while clock_us < end_us and self.taken_us < end_us:
            if self.taken_us > clock_us:
                clock_us = self.stand(clock_us, self.taken_us - clock_us, what, works, feeds)
            back_us = self.give_way(clock_us)
            end_us += back_us - clock_us if works else 0
            clock_us = back_us
        return clock_us, max(end_us - clock_us, 0)

    def stand(self, clock_us: int, length_us: int, what: str, works: bool = False, feeds: bool = True) -> int:
        """`hold`, for what gives the processor to nobody."""
        watchdog = self.watchdog
        end_us = clock_us + length_us
        if end_us > self.upsets.next_us:  # the board does not come to its end
            upset_us = self.upsets.next_us
            if upset_us > watchdog.bites_us and not self._kept_fed(upset_us, works):
                watchdog.bite(clock_us, upset_us, what, works)
            watchdog.blocked.add(clock_us, (max(upset_us - clock_us, 0), what))
            self.upsets.come()
        if watchdog.feeds_in_waits and feeds and not works:
            watchdog.feed(end_us)
        elif end_us > watchdog.bites_us and not self._kept_fed(end_us, works):
            end_us = watchdog.bite(clock_us, end_us, what, works)
        watchdog.blocked.add(clock_us, (end_us - clock_us, what))
        return end_us

    def _kept_fed(self, end_us: int, works: bool) -> bool:
        """Whether a task of the kernel feeds the watchdog up to an instant, while the loop stands still: one above the
        loop, or any where the loop but waits."""
        watchdog, processor = self.watchdog, self.processor
        if not isinstance(processor, Processor) or not processor.runs_beside(watchdog.feed_task, works):
            return False
        while (bites_us := watchdog.bites_us) < end_us:
            self._fed(bites_us)
            if watchdog.bites_us == bites_us:
                return False
        return True

    def give_way(self, clock_us: int) -> int:
        """Tasks of a higher priority have the processor at `clock_us`: the instant at which the loop has it back."""
        if self.processor is None:
            return clock_us
        clock_us, self.taken_us = self.processor.back(clock_us)
        return self._fed(clock_us)

    def rest(self, clock_us: int) -> int:
        """The loop waits for its next pass, if it waits at all, and then for the processor: when it has it."""
        processor = self.processor
        if processor is None:
            return clock_us
        if isinstance(processor, LiveProcessor):
            clock_us, self.taken_us = processor.rest(clock_us)
            return self._fed(clock_us)
        return self.give_way(processor.next_pass(clock_us))

    def _fed(self, clock_us: int) -> int:
        """A task that feeds the watchdog may have begun meanwhile."""
        watchdog = self.watchdog
        if (
            watchdog.feed_task
            and self.processor is not None
            and (fed_us := self.processor.fed_us(watchdog.feed_task, clock_us)) + watchdog.timeout_us
            > watchdog.bites_us
        ):
            watchdog.feed(fed_us)
        return clock_us
