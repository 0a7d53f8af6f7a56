"""What stands between a kernel's tasks, against a model of it in simpy that knows nothing of ours; and by hand."""

from __future__ import annotations

import unittest
from collections.abc import Generator
from itertools import pairwise
from typing import Any

import simpy
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from tests.core.pace_benches import bench_of, rows
from tests.depth import DEPTH
from viva_tick.core.document import Bench, Kernel, bench_data, bench_from_data
from viva_tick.core.document.kernel import Between
from viva_tick.core.emit import sketch
from viva_tick.core.engine import Kind, PlainEngine, SkippingEngine
from viva_tick.core.kernel.live import LiveKernel
from viva_tick.core.study import study

SOME = settings(max_examples=150 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck))
FEW = settings(max_examples=40 * DEPTH, deadline=None, suppress_health_check=list(HealthCheck))
LENGTH_US = 15_000


class Simpy:
    """The same bodies, as processes that ask for one processor. No two of them have the same priority; nobody inherits.
    Whoever is woken tries again as soon as the processor is its own, once more as its time is over."""

    def __init__(self, between: dict[str, Any]) -> None:
        self.world = simpy.Environment()
        self.processor = simpy.PreemptiveResource(self.world, capacity=1)
        self.rounds: dict[str, list[int]] = {}  # when each was done
        self.fill = {one["id"]: 0 for one in (*between["queues"], *between["flags"])}
        self.queues = {one["id"]: one for one in between["queues"]}
        self.owner: dict[str, str] = {}
        self.mutexes = {one["id"] for one in between["mutexes"]}
        self.waiting: dict[str, list[tuple[int, simpy.Event]]] = {}
        self.putting: dict[str, list[tuple[int, simpy.Event]]] = {}
        self.lost = dict.fromkeys(self.queues, 0)
        self.instants: list[int] = []
        for body in between["bodies"]:
            self.rounds[body["id"]] = []
            self.world.process(self.body(body))
        self.world.run(until=LENGTH_US)

    def wake(self, waiting: dict[str, list[tuple[int, simpy.Event]]], of: str) -> None:
        if rows := waiting.get(of):
            best = max(rows, key=lambda row: row[0])
            rows.remove(best)
            best[1].succeed()

    def patient(self, event: simpy.Event) -> Generator[Any, Any, None]:
        """Wait for it, whoever takes the processor meanwhile: it is not held."""
        while True:
            try:
                yield event
                return
            except simpy.Interrupt:
                continue

    def wait(self, waiting: dict[str, Any], of: str, priority: int, by: float | None) -> Generator[Any, Any, None]:
        """Until it is woken, or its time is over."""
        event = self.world.event()
        waiting.setdefault(of, []).append((priority, event))
        yield from self.patient(event if by is None else event | self.world.timeout(by - self.world.now))
        if by is not None and self.world.now >= by:
            self.instants.append(int(self.world.now))
        if not event.triggered:
            waiting[of] = [row for row in waiting[of] if row[1] is not event]

    def have(self, priority: int, turn: Any) -> Generator[Any, Any, Any]:
        """The processor: the turn that it is held by."""
        while turn is None or turn not in self.processor.users:
            turn = self.processor.request(priority=-priority)
            try:
                yield turn
            except simpy.Interrupt:
                turn.cancel()
                turn = None
        return turn

    def body(self, body: dict[str, Any]) -> Generator[Any, Any, None]:
        priority, world = body["priority"], self.world
        turn = None
        while True:
            began = None
            for step in body["steps"]:
                turn = yield from self.have(priority, turn)
                began = world.now if began is None else began
                if step["do"] == "work":
                    left = step["us"]
                    while left:
                        turn = yield from self.have(priority, turn)
                        since = world.now
                        try:
                            yield world.timeout(left)
                            left = 0
                        except simpy.Interrupt:
                            left -= int(world.now - since)
                    self.instants.append(int(world.now))
                    continue
                by = None if step.get("within_us") is None else world.now + step["within_us"]
                while waits := self.at_once(body["id"], step):
                    if waits != "rest" and by is not None and world.now >= by:
                        break
                    self.processor.release(turn)
                    turn = None
                    if waits == "rest":
                        yield from self.patient(world.timeout(step["us"]))
                        self.instants.append(int(world.now))
                        break
                    where = self.putting if waits == "put" else self.waiting
                    yield from self.wait(where, step["of"], priority, by)
                    turn = yield from self.have(priority, turn)
                if waits and waits != "rest":  # in vain
                    began = None
                    break
                for _ in range(0 if waits else 4):  # whoever was woken by it, and comes first, is before the next step
                    try:
                        yield world.timeout(0)
                    except simpy.Interrupt:
                        continue
            if began is not None:
                self.rounds[body["id"]].append(int(world.now))

    def at_once(self, body: str, step: dict[str, Any]) -> str:
        """Do a step that takes no time; what it waits for, if it does."""
        do, of = step["do"], step.get("of", "")
        if do == "rest":
            return "rest"
        if of in self.mutexes:
            if do == "take":
                if of in self.owner:
                    return "wait"
                self.owner[of] = body
            elif self.owner.get(of) == body:
                del self.owner[of]
                self.wake(self.waiting, of)
        elif do in ("take", "receive"):
            if not self.fill[of]:
                return "wait"
            self.fill[of] -= 1
            self.wake(self.putting, of)
        elif self.fill[of] < (1 if do == "give" else self.queues[of]["length"]):
            self.fill[of] += 1
            self.wake(self.waiting, of)
        elif do == "give":
            pass
        elif self.queues[of]["full"] == "wait":
            return "put"
        else:
            self.lost[of] += 1
        return ""


US = st.integers(37, 2_500)
QUEUES = [{"id": "q", "name": "Q", "length": 2, "full": "drop"}, {"id": "w", "name": "W", "length": 1, "full": "wait"}]


@st.composite
def betweens(draw: st.DrawFn) -> dict[str, Any]:
    """Two to four bodies, each with some work and some wait, that share a queue or two, a flag, a mutex."""
    bodies = []
    within = st.one_of(st.none(), US)
    between = [
        st.fixed_dictionaries({"do": st.just("put"), "of": st.sampled_from(["q", "w"]), "within_us": within}),
        st.fixed_dictionaries({"do": st.just("receive"), "of": st.sampled_from(["q", "w"]), "within_us": within}),
        st.fixed_dictionaries({"do": st.just("take"), "of": st.just("f"), "within_us": within}),
        st.fixed_dictionaries({"do": st.just("give"), "of": st.just("f")}),
        st.fixed_dictionaries({"do": st.just("rest"), "us": US}),
        st.fixed_dictionaries({"do": st.just("work"), "us": US}),
    ]
    for number in range(draw(st.integers(2, 4))):
        steps = draw(st.lists(st.one_of(between), max_size=4))
        if draw(st.booleans()):
            held = {"do": "work", "us": draw(US)}
            steps += [{"do": "take", "of": "m"}, held, {"do": "give", "of": "m"}]
        steps += [{"do": "work", "us": draw(US)}, {"do": "rest", "us": draw(US)}]
        bodies.append({"id": f"b{number}", "name": f"B{number}", "priority": number + 2, "steps": steps})
    flags, mutexes = [{"id": "f", "name": "F"}], [{"id": "m", "name": "M"}]
    return {"bodies": bodies, "queues": QUEUES, "flags": flags, "mutexes": mutexes}


def ours(between: dict[str, Any], inherits: bool = False) -> tuple[dict[str, list[int]], dict[str, int]]:
    """(rounds, lost) as our kernel has them, each microsecond a tick; the loop never wants the processor."""
    rounds: dict[str, list[int]] = {body["id"]: [] for body in between["bodies"]}
    lost = {queue["id"]: 0 for queue in between["queues"]}

    def record(what: str, of: str, at_us: int, value: Any) -> None:
        if what == "round" and at_us + value < LENGTH_US:
            rounds[of].append(at_us + value)
        elif what == "lost" and at_us < LENGTH_US:
            lost[of] = value

    made = Kernel.model_construct(
        tick_us=1, slice_ticks=1 << 40, switch_us=0, loop_priority=1, inherits=inherits, between=parsed(between)
    )
    kernel = LiveKernel(made, (), record, LENGTH_US)
    kernel.begin()
    kernel.rest(0, LENGTH_US)
    return rounds, lost


def parsed(between: dict[str, Any]) -> Between:
    """As a document has it, though its waits are of single microseconds."""
    import json

    scaled = json.loads(json.dumps(between))
    for body in scaled["bodies"]:
        for step in body["steps"]:
            for field in ("within_us", "us"):
                if step.get(field) is not None and (field == "within_us" or step["do"] == "rest"):
                    step[field] *= 1000  # whole milliseconds, as they must be
    made = Between.model_validate_json(json.dumps(scaled))
    steps = [
        tuple(
            step.model_copy(
                update={
                    f: getattr(step, f) // 1000
                    for f in ("within_us", "us")
                    if (f == "within_us" or step.do == "rest") and getattr(step, f, None)
                }
            )
            for step in body.steps
        )
        for body in made.bodies
    ]
    return made.model_copy(
        update={"bodies": tuple(b.model_copy(update={"steps": s}) for b, s in zip(made.bodies, steps, strict=True))}
    )


class AgainstSimpy(unittest.TestCase):
    @SOME
    @given(betweens())
    def test_every_round_of_every_body_is_when_simpy_says(self, between: dict[str, Any]) -> None:
        other = Simpy(between)
        # Of two things at one instant simpy may take either first.
        assume(all(a != b for a, b in pairwise(sorted(other.instants))))
        rounds, lost = ours(between)
        self.assertEqual(rounds, other.rounds)
        self.assertEqual(lost, other.lost)


PRESSED = {"kind": "press", "input": "button"}
TALKS: dict[str, Any] = {
    "bodies": [
        {"id": "worker", "name": "Worker", "priority": 3, "steps": [
            {"do": "receive", "of": "jobs", "within_us": 400_000}, {"do": "work", "us": 3_000}, {"do": "give", "of": "done"},
        ]},
        {"id": "below", "name": "Below", "priority": 1, "period_us": 50_000, "steps": [
            {"do": "next"}, {"do": "work", "us": 7_000}, {"do": "rest", "us": 2_000}, {"do": "work", "us": 500},
        ]},
    ],
    "flags": [{"id": "done", "name": "Done"}],
    "queues": [{"id": "jobs", "name": "Jobs", "length": 2}],
    "timers": [{"id": "beat", "name": "Beat", "period_us": 300_000, "steps": [{"do": "put", "of": "jobs"}]},
               {"id": "late", "name": "Late", "period_us": 120_000, "once": True, "runs": False,
                "steps": [{"do": "give", "of": "done"}]}],
}  # fmt: skip


def talking(between: dict[str, Any], presses: list[tuple[int, int]], **more: Any) -> Bench:
    """A press signals what `signals` names; the lamp goes over as `hears` is taken."""
    signals, hears = more.pop("signals", "jobs"), more.pop("hears", "done")
    over = [
        {"source": a, "on": {"kind": "taken", "signal": hears}, "target": b} for a, b in (("off", "on"), ("on", "off"))
    ]
    tells = [
        {"source": one, "on": PRESSED, "target": one, "actions": [{"do": "signal", "of": signals}]}
        for one in ("off", "on")
    ]
    data = bench_data(
        bench_of(2_000, presses, school="kernel", kernel={"loop_priority": 2, "between": between}, **more)
    )
    data["firmware"]["machines"][0]["transitions"] = over + tells
    return bench_from_data(data)


def both(bench: Bench) -> Any:
    """The run, which both engines must have alike."""
    runs = [engine().run(bench, bench.scenarios[0]) for engine in (PlainEngine, SkippingEngine)]
    assert runs[0] == runs[1]
    return runs[1]


class WithTheLoop(unittest.TestCase):
    def test_a_press_goes_through_a_queue_and_comes_back_as_a_flag(self) -> None:
        run = both(talking(TALKS, [(500, 60), (1_000, 60)]))
        lamp = [at // 1000 for at, value in rows(run, Kind.OUTPUT, "lamp") if at > 70_000]
        # Two presses, 3 ms of work each; and every 300 ms from when the kernel starts, at 65 ms, the timer's.
        wanted = sorted([504, 1_004, *(65 + 300 * n + 3 for n in range(1, 7))])  # a pass of the loop each millisecond
        self.assertEqual([at for at in lamp if at < 2_000], [at for at in wanted if at < 2_000])
        words = {word for _, word in rows(run, Kind.STANDS, "worker")}
        self.assertEqual(words, {"ready", "running", "waiting jobs"})

    def test_a_timer_that_is_started_goes_off_once(self) -> None:
        between = {**TALKS, "bodies": TALKS["bodies"][1:], "timers": TALKS["timers"][1:]}
        run = both(talking(between, [(500, 60), (1_000, 60)], signals="late"))
        lamp = [at // 1000 for at, _ in rows(run, Kind.OUTPUT, "lamp") if at > 70_000]
        self.assertEqual(lamp, [620, 1_120])

    def test_a_full_queue_drops_waits_or_gives_up_the_oldest(self) -> None:
        slow = {
            "id": "worker",
            "name": "Worker",
            "priority": 1,
            "steps": [{"do": "receive", "of": "jobs"}, {"do": "work", "us": 400_000}],
        }
        presses = [(200 + 60 * n, 30) for n in range(6)]
        for full, lost in (("drop", 3), ("overwrite", 3), ("wait", 3)):  # the loop itself never waits
            queues = [{"id": "jobs", "name": "Jobs", "length": 2, "full": full}]
            run = both(talking({"bodies": [slow], "queues": queues, "flags": TALKS["flags"]}, presses))
            self.assertEqual(rows(run, Kind.LOST, "jobs")[-1][1], lost, full)
            self.assertEqual(max(value for _, value in rows(run, Kind.FILL, "jobs")), 2)

    def test_a_mutex_lends_its_holder_the_priority_of_who_waits(self) -> None:
        def held(inherits: bool) -> list[int]:
            steps = [{"do": "take", "of": "m"}, {"do": "work", "us": 4_000}, {"do": "give", "of": "m"}]
            low = {"id": "low", "name": "L", "priority": 1, "steps": [*steps, {"do": "rest", "us": 400_000}]}
            middle = {
                "id": "middle",
                "name": "M",
                "priority": 3,
                "steps": [{"do": "rest", "us": 2_000}, {"do": "work", "us": 60_000}, {"do": "rest", "us": 400_000}],
            }
            high = {
                "id": "high",
                "name": "H",
                "priority": 5,
                "steps": [{"do": "rest", "us": 1_000}, *steps, {"do": "rest", "us": 400_000}],
            }
            between = {"bodies": [low, middle, high], "mutexes": [{"id": "m", "name": "M"}]}
            bench = bench_of(
                400, [], school="kernel", kernel={"inherits": inherits, "switch_us": 0, "between": between}
            )
            return [at for at, word in rows(both(bench), Kind.STANDS, "high") if word == "running"]

        with_it, without = held(True), held(False)
        self.assertLess(with_it[2] - with_it[0], 8_000)
        self.assertGreater(without[2] - without[0], 60_000)

    def test_a_tick_hook_takes_its_time_of_every_tick_and_an_idle_hook_what_is_left(self) -> None:
        hooks = {"tick_hook": [{"do": "work", "us": 100}], "idle_hook": [{"do": "work", "us": 50}]}
        body = {
            "id": "worker",
            "name": "W",
            "priority": 3,
            "period_us": 100_000,
            "steps": [{"do": "next"}, {"do": "work", "us": 9_000}],
        }
        run = both(bench_of(300, [], school="kernel", kernel={"switch_us": 0, "between": {**hooks, "bodies": [body]}}))
        took = [value[0] for _, value in rows(run, Kind.JOB, "worker")]
        self.assertEqual(set(took), {9_000 + 9 * 100})  # nine ticks came meanwhile; the one that woke it, before
        self.assertGreater(len(rows(run, Kind.JOB, "idle")), 500)

    @FEW
    @given(betweens(), st.integers(1, 6), st.sampled_from([0, 1_000, 3_000]), st.sampled_from(["q", "f"]))
    def test_both_engines_have_the_same_beside_whatever_tasks(
        self, between: dict[str, Any], priority: int, loop_us: int, of: str
    ) -> None:
        for body in between["bodies"]:
            for step in body["steps"]:
                if step["do"] == "rest":
                    step["us"] = 1_000 * (1 + step["us"] % 7)
                if step.get("within_us") is not None:
                    step["within_us"] = 1_000 * (1 + step["within_us"] % 7)
        bench = talking(between, [(100, 30), (150, 30), (200, 30)], signals=of, hears="f")
        kernel = bench.firmware.kernel.model_copy(update={"loop_priority": priority, "loop_us": loop_us})
        scenario = bench.scenarios[0].model_copy(update={"length_us": 250_000})
        firmware = bench.firmware.model_copy(update={"kernel": kernel})
        both(bench.model_copy(update={"firmware": firmware, "scenarios": (scenario,)}))

    def test_whoever_starves_the_loop_ends_no_run(self) -> None:
        hog = {"id": "hog", "name": "Hog", "priority": 5, "steps": [{"do": "work", "us": 1_000}]}
        run = both(talking({**TALKS, "bodies": [hog]}, [(500, 60)]))
        self.assertEqual(rows(run, Kind.STATE, "toggle")[-1][1], "off")
        never = {**hog, "steps": [{"do": "give", "of": "done"}]}  # neither works nor waits
        self.assertIsNotNone(both(talking({**TALKS, "bodies": [never]}, [])).trace)


def owned(bodies: list[dict[str, Any]], **more: Any) -> Bench:
    """A button that toggles a lamp, both of them a task's."""
    return bench_of(1_000, [(300, 60), (600, 60)], school="kernel", kernel={"between": {"bodies": bodies}, **more})


OWNER = {"id": "front", "name": "Front", "priority": 4, "period_us": 10_000, "owns": ["button", "toggle"],
         "steps": [{"do": "next"}, {"do": "own"}]}  # fmt: skip


class Owned(unittest.TestCase):
    def lamp(self, bench: Bench) -> list[int]:
        return [at // 1000 for at, _ in rows(both(bench), Kind.OUTPUT, "lamp") if at > 70_000]

    def test_what_a_task_owns_it_reads_and_drives_each_of_its_periods(self) -> None:
        self.assertEqual(self.lamp(bench_of(1_000, [(300, 60), (600, 60)], school="kernel")), [300, 600])
        times = self.lamp(owned([OWNER]))  # its periods begin 65.4 ms after power-on
        self.assertEqual(times, [305, 605])
        words = {word for _, word in rows(both(owned([OWNER])), Kind.STANDS, "front")}
        self.assertEqual(words, {"ready", "running", "waiting"})

    def test_a_task_of_the_kernel_feeds_the_watchdog_and_the_program_does_so_in_its_loop(self) -> None:
        dog = {"mode": "reset", "timeout_us": 64_000, "feed": "task", "feed_task": "front"}
        for period_us, resets in ((10_000, 0), (100_000, 15)):
            bench = bench_of(
                1_000,
                [],
                school="kernel",
                watchdog=dog,
                kernel={"between": {"bodies": [{**OWNER, "period_us": period_us}]}},
            )
            run = both(bench)
            self.assertEqual(len(rows(run, Kind.RESET)) > 5, resets > 5)
            self.assertNotIn("guard.unfed", {one.code for one in study(bench, bench.scenarios[0]).findings})
            text = sketch(bench)
            self.assertIn("wdt_reset();", text[text.index("void loop()") :])
            self.assertIn("leaves out what waits for the kernel: Front", " ".join(text.replace("//", " ").split()))

    def test_one_below_a_task_that_works_waits_for_it_and_one_above_does_not(self) -> None:
        hog = {
            "id": "hog",
            "name": "Hog",
            "priority": 3,
            "period_us": 100_000,
            "steps": [{"do": "next"}, {"do": "work", "us": 60_000}],
        }
        above, below = self.lamp(owned([OWNER, hog])), self.lamp(owned([{**OWNER, "priority": 2}, hog]))
        self.assertEqual(above, [305, 605])
        self.assertEqual(below, [325, 625])  # the hog's turn from 265 to 325 ms, and from 565 to 625

    def test_the_loop_interrupts_a_task_below_it_that_is_at_a_long_pass(self) -> None:
        # Its lamp holds the pass for 50 ms; the loop above goes round every millisecond all the same.
        states = [
            {"id": "off", "name": "Off"},
            {"id": "on", "name": "On", "drives": {"lamp": {"kind": "pulse", "length_us": 50_000, "blocking": True}}},
        ]
        over = [{"source": a, "on": PRESSED, "target": b} for a, b in (("off", "on"), ("on", "off"))]
        bench = bench_of(1_000, [(300, 60)], states, over, school="kernel",
                         kernel={"loop_priority": 6, "between": {"bodies": [OWNER]}})  # fmt: skip
        run = both(bench)
        begun = [at for at, (_, count) in rows(run, Kind.PASS) for _ in range(count)]
        self.assertEqual(sorted(begun), begun)
        during = [at for at in begun if 310_000 < at < 350_000]
        self.assertEqual(len(during), 40)

    @FEW
    @given(st.data())
    def test_both_engines_have_the_same_whatever_belongs_to_whom(self, data: Any) -> None:
        owns = data.draw(st.lists(st.sampled_from(["button", "toggle"]), unique=True))
        steps = data.draw(st.permutations([{"do": "next"}, {"do": "own"}, {"do": "work", "us": data.draw(US)}]))
        first = {
            **OWNER,
            "owns": owns,
            "steps": steps,
            "priority": data.draw(st.integers(1, 5)),
            "period_us": data.draw(st.sampled_from([3_000, 10_000, 17_000])),
        }
        other = {"id": "other", "name": "O", "priority": data.draw(st.integers(1, 5)), "period_us": 7_000,
                 "steps": [{"do": "next"}, {"do": "work", "us": data.draw(US)}]}  # fmt: skip
        loop = {"loop_priority": data.draw(st.integers(1, 5)), "loop_us": data.draw(st.sampled_from([0, 1_000, 5_000]))}
        presses = [(100 + 70 * n, data.draw(st.integers(5, 60))) for n in range(3)]
        both(bench_of(400, presses, school="kernel", kernel={**loop, "between": {"bodies": [first, other]}}))


if __name__ == "__main__":
    unittest.main()
