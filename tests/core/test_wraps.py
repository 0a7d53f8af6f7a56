"""Memories of long ago are over before the counter comes round to them, in the model and in C++; sums stop at their ends."""

from __future__ import annotations

import subprocess
import tempfile
import unittest
from pathlib import Path

from tests.core.on_host import built
from tests.core.pace_benches import TRANSITIONS, bench_of
from tests.core.pace_benches import task as a_task
from viva_tick.core.clock import MASK
from viva_tick.core.debounce import METHODS
from viva_tick.core.debounce.interrupt import InterruptStepper
from viva_tick.core.emit import sketch
from viva_tick.core.readers import MOST_STEPS, PACE_SKETCH, Listener, Pace, listener_sketch
from viva_tick.core.study import study, to_be_fixed
from viva_tick.demo import demo_bench

ROUND = 1 << 32  # ms: 49 d 17 h 2 min 47.296 s
# (the first, a pass after it is over, then the next of the same kind), ms since power-on: the last is 10 ms of the
# counter after the first, and seven weeks in life.
ROWS = ((1_000, 1_100, ROUND + 1_010), (ROUND - 5, ROUND + 90, 2 * ROUND + 3))

MAIN = """
#include "inside.h"
enum Edge : uint8_t { NO_EDGE, PRESS, RELEASE };
%s
%s
%s
void setup() {}
void loop() {}
int test() {
  cost_pass_us = 0;
  const uint32_t rows[][3] = {%s};
  for (const auto &row : rows) {
    OnInterrupt edge;
    counter_start = row[0];
    edge.handle(50);
    edge.step(row[0], false, 50);
    edge.step(row[1], false, 50);
    counter_start = row[2];
    edge.handle(50);
    Pace pace(50);
    pace.steps(row[0], 1);
    pace.steps(row[1], 0);
    const int quick = pace.steps(row[2], 1);
    Listener said(true, false, 50);
    for (const char c : {'7', '\\n'}) line_bytes.push_back({0, c});
    said.hear(row[0]);
    said.hear(row[1]);
    for (const char c : {'7', '\\n'}) line_bytes.push_back({0, c});
    std::printf("%%d %%d %%d\\n", int(edge.flag), quick, int(said.hear(row[2])));
  }
  std::exit(0);
}
static const int tested = (std::setvbuf(stdout, nullptr, _IONBF, 0), counter_zero_us = 0, test());
"""


class LongAgo(unittest.TestCase):
    def test_the_model_forgets(self) -> None:
        for first, over, again in ROWS:
            edge = InterruptStepper(50_000)
            edge.handle(first & MASK)
            edge.step(first & MASK, False)
            edge.step(over & MASK, False)
            edge.handle(again & MASK)
            self.assertTrue(edge.flag, "a lone press is not ignored")
            pace = Pace(50)
            pace.step(first & MASK, True)
            pace.rest(over & MASK)
            self.assertFalse(pace.step(again & MASK, True), "a lone step is not a quick one")
            said = Listener({1: "up"}, 50)
            self.assertTrue(said.is_new(first & MASK, 1))
            said.rest(over & MASK)
            self.assertTrue(said.is_new(again & MASK, 1), "a lone command is not taken for a repeat")

    def test_the_program_forgets(self) -> None:
        rows = ", ".join("{" + ", ".join(f"{at & MASK}UL" for at in row) + "}" for row in ROWS)
        text = MAIN % (METHODS["interrupt"].sketch.text, PACE_SKETCH, listener_sketch(False), rows)
        with tempfile.TemporaryDirectory() as folder:
            source = Path(folder) / "forgets.cpp"
            source.write_text(text)
            built(source, source.with_suffix(""))
            done = subprocess.run([str(source.with_suffix(""))], capture_output=True, text=True, check=True)
        self.assertEqual(done.stdout, "1 0 7\n" * len(ROWS))

    def test_the_handlers_sum_stops_at_its_end(self) -> None:
        dial = sketch(_by_interrupt())
        self.assertIn(f"so_far < {MOST_STEPS}", dial)
        self.assertIn("volatile int16_t time_dial_turned", dial)


def _by_interrupt():  # type: ignore[no-untyped-def]
    bench = demo_bench("print-timer")
    inputs = tuple(
        one.model_copy(update={"read_by": "interrupt"}) if one.id == "time-dial" else one for one in bench.inputs
    )
    return bench.model_copy(update={"inputs": inputs})


class Heads(unittest.TestCase):
    def test_cautions_and_what_must_be_fixed_stand_at_the_head(self) -> None:
        bench = demo_bench("print-timer")
        said = [(one.title, one.sentence) for one in to_be_fixed(bench)]
        head = sketch(bench, said).partition("#include")[0]
        plain = " ".join(line.removeprefix("//").strip() for line in head.splitlines())
        self.assertIn("CAUTION. Focus lamp: Use an enclosed", plain)
        self.assertIn(
            "Follow your local electrical regulations. Have mains work done or checked by a licensed electrician.",
            plain,
        )
        self.assertGreater(len(said), 4)
        for title, sentence in said:
            self.assertIn(f"MUST FIX. {title}. {sentence}", plain)
        everywhere = {
            one.code
            for scenario in bench.scenarios
            for one in study(bench, scenario).findings
            if one.severity == "must"
        }
        self.assertEqual({one.code for one in to_be_fixed(bench)}, everywhere)

    def test_a_mistake_on_purpose_says_so_and_why_it_fails(self) -> None:
        transitions = [
            *TRANSITIONS,
            {"source": "on", "on": {"kind": "timeout", "after_us": 60_000_000}, "target": "off"},
        ]
        for keeping, why in (({"compares": "until"}, "49 days 17 hours"), ({"product": "int"}, "32.767 s")):
            text = sketch(bench_of(timekeeping=keeping, transitions=transitions, tasks=[a_task("work", 60_000, 10)]))
            self.assertEqual(sum("chosen: " in line and why in line for line in text.splitlines()), 2)
            self.assertIn("on purpose", text.partition("const uint8_t")[0])
        self.assertNotIn("on purpose", sketch(bench_of(transitions=transitions)))

    def test_the_watchdog_is_off_before_anything_else(self) -> None:
        for cause in ("lost", "kept", "stored"):
            for mode in ("reset", "interrupt", "interrupt-reset"):
                text = sketch(bench_of(watchdog={"mode": mode, "cause": cause}))
                early = text.partition("void watch_off_early() {")[2].partition("}")[0]
                self.assertIn("MCUSR = 0;", early)
                self.assertIn("wdt_disable();", early)
        self.assertNotIn("watch_off_early", sketch(bench_of(watchdog={"mode": "reset", "off_at_start": False})))


if __name__ == "__main__":
    unittest.main()
