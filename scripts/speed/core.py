"""The core by itself: runs, hangs, sweeps, repeats, machines, captures, hands."""

from __future__ import annotations

import json
import os
import random
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterable
from functools import partial
from pathlib import Path
from typing import Any

from transitions import Machine as Flat

from scripts.compiled import ROOT
from scripts.compiled import TO as COMPILED
from viva_tick.core.debounce import METHODS
from viva_tick.core.engine import PlainEngine, SkippingEngine
from viva_tick.core.exploring import Abstract, explore
from viva_tick.core.formats import read_capture
from viva_tick.core.guard import hang_tests
from viva_tick.core.hand import PEOPLE, play_rounds
from viva_tick.core.live import by_hand, live
from viva_tick.core.machines import RunningMachine, compile_machine, event_keys
from viva_tick.core.program import program_of, under
from viva_tick.core.repeats import repeated_by_all
from viva_tick.core.spread import Hands, spread
from viva_tick.core.sweep import Swept, TapStyle, evaluate, make_trials
from viva_tick.demo import demo_bench
from viva_tick.store import Benches, Recordings, open_database

from .benches import five_machines, pressed
from .table import ROWS, Row, Times, median, row


def engines() -> None:
    """Simulation of a minute and of a day."""
    minute, day = pressed(60, 1_500_000), pressed(86_400, 60_000_000)
    skipping = SkippingEngine()
    fast = median(lambda: skipping.run(minute, minute.scenarios[0]))
    row("60 s of the flagship, a press every 1.5 s", fast, 15, "ms")
    row("a day of the flagship, a press a minute", median(lambda: skipping.run(day, day.scenarios[0]), 3), 0.7, "s")
    plain = median(lambda: PlainEngine().run(minute, minute.scenarios[0]), 1)
    print(
        f"     the skipping engine is {plain.yardsticks / fast.yardsticks:,.0f} times as fast as the plain one on that minute"
    )


def hangs() -> None:
    """Hang tests: every fault of the flagship at fifty instants of a minute."""
    minute = pressed(60, 1_500_000)
    done = len(runs := hang_tests(minute, minute.scenarios[0], 50))
    taken = median(lambda: hang_tests(minute, minute.scenarios[0], 50), 1).times(500 / done)
    verdicts = sorted({run.verdict for run in runs})
    row("500 hang runs of 60 s of the flagship, a press every 1.5 s", taken, 20, "s")
    print(f"     {done} runs, {', '.join(verdicts)}")


def kernels() -> None:
    """A minute of the rain barrel under the kernel, every pass of it run."""
    bench = under(demo_bench("rain-barrel"), "kernel")
    minute = bench.scenarios[0].model_copy(update={"length_us": 60_000_000})
    row("60 s of the rain barrel under the kernel", median(lambda: SkippingEngine().run(bench, minute), 3), 2, "s")


def machines() -> None:
    """Events through a machine, beside another library's; the product of five machines explored."""
    bench = five_machines(False)
    machine, keys = bench.firmware.machines[0], event_keys(bench)
    mine = RunningMachine(compile_machine(machine, keys), Abstract(bench, []))
    mine.begin(0)
    press, many = keys["press", "b0", ""], 300_000

    def ours() -> None:
        for _ in range(many):
            mine.fire(press, 0)

    class Model:
        """What the other library puts its state on."""

    model: Any = Model()
    flat = Flat(model, [state.id for state in machine.states], initial="s0", auto_transitions=False)
    for transition in machine.transitions[:8]:
        flat.add_transition("press", transition.source, transition.target)

    def theirs() -> None:
        for _ in range(many // 30):
            model.press()

    rate, other = many / median(ours, 3).seconds, many / 30 / median(theirs, 3).seconds
    beside = f"(through `transitions`, in the same run: {other:,.0f})"
    row(f"machine events a second, each leading to another state {beside}", rate, 300_000, "/s", least=True)
    for guarded, words in ((False, "that look at nothing else"), (True, "that look at each other")):
        product = five_machines(guarded)
        job = partial(explore, program_of(product), product.firmware.machines, [("o0", "o1")])
        many = job().standings
        row(f"product of five machines of eight states {words}: {many:,} combinations", median(job, 3), 2, "s")


INNER = ("engines", "hangs", "repeats", "edits", "big_edits", "in_the_browser")


def figures(folder: Path, parts: Iterable[str], env: dict[str, str]) -> tuple[list[str], list[Row]]:
    """What parts of this print in a process of their own, begun in a folder, and their rows."""
    command = [sys.executable, "-W", "ignore", "-m", "scripts.speed", "figures", *parts]
    said = subprocess.run(command, env=env, cwd=folder, check=True, stdout=subprocess.PIPE, text=True).stdout
    *shown, rows = said.splitlines()
    return shown, [Row(*one) for one in json.loads(rows)]


def by_machine_code() -> None:
    """What runs through the inner pass, and what a person sees of it, by the copy that `make compiled` has made."""
    env = {**os.environ, "PYTHONSAFEPATH": "1", "PYTHONPATH": f"{COMPILED}{os.pathsep}{ROOT}"}
    shown, rows = figures(ROOT, INNER, env)
    print("\n".join(shown), flush=True)
    ROWS.extend(one._replace(what=f"by machine code: {one.what}") for one in rows)


def _swept(method: str) -> Swept:
    """One method over 10,000 presses × 60 intervals."""
    trials = make_trials("foot-pedal", 42, TapStyle(), 5000)
    return evaluate(METHODS[method], trials, [number * 1000 for number in range(60)])


def sweeps() -> None:
    """10,000 presses × 60 intervals × every method, on one process and on two, their start included; the presses are at
    hand."""
    what = f"sweep of 10,000 presses × 60 intervals × {len(METHODS)} methods"
    row(what, median(lambda: [_swept(method) for method in METHODS], 3), 0.7, "s")
    pieces = [(method,) for method in METHODS]
    taken = median(lambda: list(spread(Hands(2), _swept, pieces)), 5)
    row(f"{what}, two processes", taken, 0.7, "s")


def repeats() -> None:
    """A thousand repeats of one scenario on two processes, their start included."""
    bench = demo_bench("print-timer")
    scenario = bench.scenario("One print")
    row(
        "1,000 repeats of “One print”, two processes",
        median(lambda: repeated_by_all(bench, scenario, 1_000, Hands(2)), 3),
        4,
        "s",
    )


def imports() -> None:
    """A million samples of a contact, in volts."""
    rows = "\n".join(f"{number * 5},{3.3 if number % 60_000 < 50_000 else 0.1}" for number in range(1_000_000))
    text = "time (us),v\n" + rows
    row("a capture of 1,000,000 samples read", median(lambda: read_capture(text), 3), 3, "s")
    long_capture()


def long_capture(changes: int = 1_000_000, piece: int = 1_000_000) -> None:
    """A value change dump of four channels, as it comes from a page, kept, and looked at whole."""
    rng = random.Random(1)
    now, parts = 0, ["$timescale 1 ns $end\n", *(f"$var wire 1 {one} d{one} $end\n" for one in "abcd")]
    parts.append("$enddefinitions $end\n#0\n0a\n0b\n0c\n0d\n")
    levels = dict.fromkeys("abcd", 0)
    for _ in range(changes):
        now += rng.randrange(200, 20_000)
        one = rng.choice("aaaaaaabcd")
        levels[one] ^= 1
        parts.append(f"#{now}\n{levels[one]}{one}\n")
    raw = "".join(parts).encode()
    with tempfile.TemporaryDirectory() as folder:
        engine = open_database(Path(folder) / "a.sqlite")
        kept, bench = Recordings(engine), Benches(engine).create(demo_bench("print-timer"), "made")
        number = kept.begin(bench.bench_id, "long")
        taken = Times()
        for at in range(0, len(raw), piece):
            sent = time.perf_counter()
            kept.more(number, at, raw[at : at + piece], at + piece >= len(raw))
            taken.seconds.append(time.perf_counter() - sent)
            taken.mark()
        row(f"a long capture, {changes:,} changes read and kept", taken.of(sum), 2.5, "s")
        row("its slowest piece of 1 MB", taken.of(max), 250, "ms")
        found = kept.get(number)
        whole = partial(kept.window, number, list(found.channels), 0, found.length_ns // 1000, 2000)
        row("all of it drawn, 2,000 columns", median(whole, 5), 100, "ms")
        engine.dispose()


def by_hands() -> None:
    """What is worked out for who plays by hand, and for a hand that is modelled."""
    bench, done = demo_bench("print-timer"), []
    for at_us in range(500_000, 590_000_000, 1_000_000):
        done += [
            {"kind": "set", "input": "foot-pedal", "at_us": at_us + 110_000 * up, "pressed": not up} for up in (0, 1)
        ]
    scenario = by_hand(bench, done, [], 592_000_000, 0)
    again = median(lambda: live(bench, scenario, 589_999_999, (), "speed", 590_000_000))
    row("what a press does after ten minutes of play, worked out", again, 50, "ms")
    hand = median(lambda: play_rounds(bench, PEOPLE["hurried"], range(40)), 3)
    row("a thousand actions of a modelled hand, flagship", hand, 2, "s")
