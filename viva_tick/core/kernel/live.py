"""The kernel with bodies of steps, and flags, mutexes, queues and timers between them: who has the processor when.

Fixed priorities, preemption, a time-slice among equals, a mutex whose holder inherits the priority of the highest
that waits for it. What comes wakes the highest that waits for it, of equals the one that has waited longest, and is
taken as that has the processor: until then another may be quicker, and a flag that is given again is given once.
Times are µs from when the kernel starts; a wait ends at a tick: n ticks from the one that was last. One of the tasks
is the loop, which the caller runs: `back` and `rest` answer when it has the processor.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from typing import Any

from ..clock import NEVER
from ..document import Kernel
from ..document.kernel import Between, Give, Next, Own, Put, Receive, Rest, StartTimer, Steps, Take, Work, may_wait
from ..document.pacing import Task
from .standing import Live, Thing, as_steps, shared_name

LOOP_ID, TIMERS_ID, TICK_ID, IDLE_ID = "loop", "timers", "tick", "idle"
INTERRUPT = 1_000  # above every priority
MOST_EVENTS = 150_000  # of a run: a second or so
MOST_LAPS = 20

Record = Callable[[str, str, int, Any], None]  # (what, of, instant, value)


class TooMuch(Exception):
    """The kernel has come to more than it is followed for."""


class LiveKernel:
    """It is followed up to `until_us`, whether the loop has had the processor by then or not. `record` is told of how
    each task stands (“running”, “ready”, “waiting …”), of what is in each queue, of what is lost, of each round
    of a body."""

    def __init__(self, kernel: Kernel, tasks: tuple[Task, ...], record: Record, until_us: int = NEVER) -> None:
        between: Between = kernel.between
        self.tick_us, self.switch_us = kernel.tick_us, kernel.switch_us
        self.slice_us = kernel.slice_ticks * kernel.tick_us
        self.inherits, self.record, self.until_us = kernel.inherits, record, until_us
        self.full = between.full
        self.things = {one.id: Thing(one.id, "flag") for one in between.flags}
        self.things |= {one.id: Thing(one.id, "mutex") for one in between.mutexes}
        self.things |= {one.id: Thing(one.id, "queue", one.length, one.full) for one in between.queues}
        for shares in dict.fromkeys(task.shares for task in tasks if task.shares):
            self.things[shared_name(shares)] = Thing(shared_name(shares), "mutex")
        self.timers = {one.id: one for one in between.timers}
        self.expires_us = {one.id: one.period_us if one.runs else NEVER for one in between.timers}
        self.live: list[Live] = []
        self.loop = self._add(LOOP_ID, kernel.loop_priority, 0, ())
        for body in between.bodies:
            self._add(body.id, body.priority, body.period_us, body.steps or (Next(),))
        for task in tasks:
            one = self._add(task.id, task.priority, task.period_us, as_steps(task))
            one.due_us = (task.period_us if task.offset_us is None else task.offset_us) - task.period_us
        if self.timers:
            self._add(TIMERS_ID, between.timer_priority, 0, ()).refill = self._expired
        if between.tick_hook:
            self._add(TICK_ID, INTERRUPT, self.tick_us, (Next(), *self._unwaiting(between.tick_hook)))
        if hook := self._unwaiting(between.idle_hook):
            self._add(IDLE_ID, 0, 0, hook)
        self.turn = deque(one.number for one in self.live)
        self.clock_us = self.events = self.order = 0
        # Those that are at a pass of theirs: the last of them now, those before it were interrupted.
        self.frames: list[Live] = [self.loop]
        # Runs a pass of the loop, or of what a task owns: when that is done, and when the next one of the loop is due.
        self.run_foreign: Callable[[str, int], tuple[int, int]] = lambda ident, at_us: (at_us, at_us)
        self.laps = self.lap_us = 0  # steps in a row that took no time, and when
        self.running: Live | None = None
        self.slice_end_us = NEVER

    def _add(self, ident: str, priority: int, period_us: int, steps: Steps) -> Live:
        one = Live(len(self.live), ident, priority, period_us, steps)
        self.live.append(one)
        return one

    def _unwaiting(self, steps: Steps) -> Steps:
        """The steps of a hook or of a timer, which cannot wait: those that would are passed over."""
        return tuple(step for step in steps if not may_wait(step, self.full))

    # What the caller asks.

    def begin(self) -> None:
        """Everything starts."""
        for one in self.live:
            self._stand(one, "ready")
        for thing in self.things.values():
            if thing.kind == "queue":
                self.record("fill", thing.id, 0, 0)

    def back(self, clock_us: int) -> int:
        """The loop has had the processor up to here: when it has it again."""
        self.clock_us = max(self.clock_us, clock_us)
        return self._until(self.frames[-1])

    def rest(self, clock_us: int, until_us: int) -> int:
        """The loop waits up to an instant: when it has the processor after that."""
        self.clock_us = max(self.clock_us, clock_us)
        if until_us > self.clock_us:
            self.loop.wake_us = until_us
            self._stand(self.loop, "waiting")
        self.frames.pop()
        at_us = self._until(self.loop)
        self.frames.append(self.loop)
        return at_us

    @property
    def next_us(self) -> int:
        """When somebody above the loop may next want the processor, while the loop has it."""
        now, before = self.frames[-1], self.frames[:-1]
        ranks = [self.rank(one) for one in self.live if one is not now and not one.waits and one not in before]
        mine = self.rank(now)
        if any(rank > mine for rank in ranks):
            return self.clock_us
        if mine in ranks:
            return self.slice_end_us
        return min((one.wake_us for one in self.live if one is not now and one.wake_us != NEVER), default=NEVER)

    def holds(self, ident: str) -> bool:
        """Whether there is a flag, or one in a queue."""
        return ident in self.things and self.things[ident].fill > 0

    def begun_us(self, ident: str) -> int:
        """When a task began its last round; −1 where it never did."""
        one = next((one for one in self.live if one.id == ident), None)
        return -1 if one is None else max(one.round_us, one.begun_us)

    @property
    def idle_until_us(self) -> int:
        """Until when nobody but the loop has anything to do; nothing where somebody has."""
        others = [one for one in self.live if one is not self.loop]
        if any(not one.waits for one in others):
            return 0
        return min((one.wake_us for one in others), default=NEVER)

    def signal(self, ident: str, clock_us: int) -> None:
        """The loop gives a flag, puts one into a queue, starts a timer; it never waits."""
        self.clock_us = max(self.clock_us, clock_us)
        if ident in self.timers:
            self._start_timer(ident)
            return
        thing = self.things.get(ident)
        if thing is not None and thing.kind == "flag":
            self._give(self.loop, thing)
        elif thing is not None and thing.kind == "queue" and not self._put(thing):
            thing.lost += 1
            self.record("lost", ident, self.clock_us, thing.lost)

    def taken(self, ident: str, clock_us: int) -> bool:
        """Whether there is a flag, or one in a queue, for the loop, which takes it."""
        self.clock_us = max(self.clock_us, clock_us)
        thing = self.things.get(ident)
        if thing is None or not thing.fill:
            return False
        self._take_out(thing)
        return True

    # What the kernel does.

    def rank(self, one: Live) -> int:
        """Its own priority, or that of the highest that waits for what it holds."""
        if not self.inherits or not one.held:
            return one.priority
        return max([one.priority, *(self.rank(w) for thing in one.held for w in thing.waiting if w is not one)])

    def _stand(self, one: Live, word: str) -> None:
        if one.word != word:
            one.word = word
            if one is not self.loop:
                self.record("stands", one.id, self.clock_us, word)

    def _ready(self, one: Live) -> None:
        one.thing, one.wake_us = None, NEVER
        self.order += 1
        one.since = self.order
        self._stand(one, "ready")

    def _tick_after(self, us: int) -> int:
        """The tick at which a wait of so long ends."""
        return (self.clock_us // self.tick_us + max(-(-us // self.tick_us), 1)) * self.tick_us

    def _wait(self, one: Live, thing: Thing | None, within_us: int | None, word: str) -> None:
        one.thing = thing
        one.wake_us = NEVER if within_us is None else self._tick_after(within_us)
        self.order += 1
        one.since = self.order
        self._stand(one, word)

    def _wake(self) -> None:
        """Every wait that has come to its end."""
        for one in self.live:
            if one.wake_us > self.clock_us:
                continue
            if one.thing is not None:  # it looks once more, and begins anew if there is still nothing
                (one.thing.putting if one in one.thing.putting else one.thing.waiting).remove(one)
            elif one is not self.loop:
                self._next_step(one)
            self._ready(one)

    def _pick(self) -> Live | None:
        """Who has the processor now: of equals, who has it until its time-slice is over."""
        before = self.frames[:-1]
        ready = [one for one in self.live if not one.waits and one not in before]
        if not ready:
            return None
        top = max(map(self.rank, ready))
        equals = [one for one in ready if self.rank(one) == top]
        if self.running in equals and not (self.clock_us >= self.slice_end_us and len(equals) > 1):
            return self.running
        numbers = {one.number for one in equals}
        chosen = next(n for n in self.turn if n in numbers and (self.live[n] is not self.running or len(numbers) == 1))
        self.turn.remove(chosen)
        self.turn.append(chosen)
        return self.live[chosen]

    def _until(self, who: Live) -> int:
        """Everybody who comes before the loop, or the one that is at a pass of its own, has the processor first."""
        while True:
            self.events += 1
            if self.events > MOST_EVENTS:
                raise TooMuch
            self._wake()
            one = self._pick()
            if self.clock_us >= self.until_us:
                return self.clock_us
            if one is None:
                self._leave(None)
                self.clock_us = min(other.wake_us for other in self.live)
                continue
            if one is not self.running:
                self._leave(one)
            if one is who:
                return self.clock_us
            if one is self.loop:
                self.frames.append(one)
                self.clock_us, due_us = self.run_foreign(one.id, self.clock_us)
                self.frames.pop()
                if due_us > self.clock_us:
                    one.wake_us = due_us
                    self._stand(one, "waiting")
                continue
            self._work(one)

    def _leave(self, comes: Live | None) -> None:
        """One gives the processor to another."""
        if (before := self.running) is not None and not before.waits:
            self._stand(before, "ready")
        self.running = comes
        if comes is not None:
            if self.switch_us and before is not None:
                self.clock_us += self.switch_us
            self.slice_end_us = self.clock_us + self.slice_us
            self._stand(comes, "running")

    def _work(self, one: Live) -> None:
        """One goes on: through steps that take no time, or some of the one that it works at."""
        if one.refill is not None and one.pc == 0 and not one.left_us:
            one.refill()
        if one.waits or not one.steps:
            return
        step = one.steps[one.pc]
        if one.round_us < 0 and not isinstance(step, Next):
            one.round_us = self.clock_us
        if not isinstance(step, Work):
            self.laps = self.laps + 1 if self.clock_us == self.lap_us else 0
            self.lap_us = self.clock_us
            if self.laps > MOST_LAPS:  # it never waits and never works: it has the processor all the same
                self.clock_us += 1
            self._do(one, step)
            return
        one.left_us = one.left_us or step.us
        others = (other.wake_us for other in self.live)
        until_us = min(self.clock_us + one.left_us, *others)
        if sum(self.rank(other) == self.rank(one) for other in self.live if not other.waits) > 1:
            until_us = min(until_us, max(self.slice_end_us, self.clock_us))
        one.left_us -= until_us - self.clock_us
        self.clock_us = until_us
        if not one.left_us:
            self._next_step(one)

    def _next_step(self, one: Live) -> None:
        """A step is done, and perhaps with it the round."""
        one.by_us = None
        one.pc += 1
        if one.pc >= len(one.steps):
            self._round_done(one)

    def _round_done(self, one: Live, in_vain: bool = False) -> None:
        """Its last step is done, or it has waited in vain."""
        began_us, one.round_us = one.round_us, -1
        one.pc = one.left_us = 0
        one.by_us = None
        if began_us >= 0 and not in_vain:
            self.record("round", one.id, began_us, self.clock_us - began_us)
            one.begun_us = began_us

    def _do(self, one: Live, step: Any) -> None:
        """A step that takes no time, unless it waits."""
        match step:
            case Own():
                self.frames.append(one)
                self.clock_us = self.run_foreign(one.id, self.clock_us)[0]
                self.frames.pop()
                self._next_step(one)
            case Rest():
                self._wait(one, None, step.us, "waiting")
            case Next():
                one.due_us += one.period_us
                due_us = -(-one.due_us // self.tick_us) * self.tick_us
                if due_us <= self.clock_us:
                    self._next_step(one)
                else:
                    self._wait(one, None, None, "waiting")
                    one.wake_us = due_us
            case Take() | Receive():
                thing = self.things[step.of]
                if thing.kind == "mutex":
                    self._hold(one, thing, step.within_us)
                elif thing.fill:
                    self._take_out(thing)
                    self._next_step(one)
                else:
                    self._wait_for(one, thing, thing.waiting, step.within_us)
            case Give():
                self._give(one, self.things[step.of])
                self._next_step(one)
            case Put():
                thing = self.things[step.of]
                if self._put(thing):
                    self._next_step(one)
                elif thing.full == "wait":
                    self._wait_for(one, thing, thing.putting, step.within_us)
                else:
                    thing.lost += 1
                    self.record("lost", thing.id, self.clock_us, thing.lost)
                    self._next_step(one)
            case StartTimer():
                self._start_timer(step.of)
                self._next_step(one)

    def _hold(self, one: Live, mutex: Thing, within_us: int | None) -> None:
        if mutex.owner is None:
            mutex.owner = one
            one.held.append(mutex)
            self._next_step(one)
        else:
            self._wait_for(one, mutex, mutex.waiting, within_us)

    def _wait_for(self, one: Live, thing: Thing, waiting: list[Live], within_us: int | None) -> None:
        """It waits, or has waited long enough: in vain, its body begins anew."""
        if one.by_us is None:
            one.by_us = NEVER if within_us is None else self._tick_after(within_us)
        if one.by_us <= self.clock_us:
            self._round_done(one, in_vain=True)
            return
        waiting.append(one)
        self._wait(one, thing, None, f"waiting {thing.id}")
        one.wake_us = one.by_us

    def _wake_first(self, waiting: list[Live]) -> None:
        """The highest that waits, of equals the one that has waited longest."""
        if waiting:
            one = max(waiting, key=lambda live: (self.rank(live), -live.since))
            waiting.remove(one)
            self._ready(one)

    def _give(self, one: Live, thing: Thing) -> None:
        if thing.kind == "mutex":
            if thing.owner is not one:
                return
            one.held.remove(thing)
            thing.owner = None
        elif thing.fill:
            return
        else:
            thing.fill = 1
        self._wake_first(thing.waiting)

    def _put(self, thing: Thing) -> bool:
        """One more into a queue; False where it is full, and nothing takes the place of another."""
        if thing.fill >= thing.length:
            if thing.full != "overwrite":
                return False
            thing.lost += 1
            self.record("lost", thing.id, self.clock_us, thing.lost)
            return True
        thing.fill += 1
        self.record("fill", thing.id, self.clock_us, thing.fill)
        self._wake_first(thing.waiting)
        return True

    def _take_out(self, thing: Thing) -> None:
        """One out of what has some; who waits with a full queue may put theirs in."""
        thing.fill -= 1
        if thing.kind == "queue":
            self.record("fill", thing.id, self.clock_us, thing.fill)
        self._wake_first(thing.putting)

    def _start_timer(self, ident: str) -> None:
        self.expires_us[ident] = self._tick_after(self.timers[ident].period_us)
        task = next(one for one in self.live if one.id == TIMERS_ID)
        if task.wake_us > self.expires_us[ident] and task.waits:
            task.wake_us = self.expires_us[ident]

    def _expired(self) -> None:
        """What the timer task does next: the steps of those timers that are over, or it waits for the first."""
        task = next(one for one in self.live if one.id == TIMERS_ID)
        steps: list[Any] = []
        for ident, timer in self.timers.items():
            if self.expires_us[ident] <= self.clock_us:
                again = self.expires_us[ident] + timer.period_us
                self.expires_us[ident] = NEVER if timer.once else -(-again // self.tick_us) * self.tick_us
                steps += self._unwaiting(timer.steps)
        task.steps = tuple(steps)
        if not steps:
            first_us = min(self.expires_us.values())
            self._wait(task, None, None, "waiting")
            task.wake_us = NEVER - 1 if first_us == NEVER else -(-first_us // self.tick_us) * self.tick_us
            task.pc = -1  # the end of the wait makes it 0
