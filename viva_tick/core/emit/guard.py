"""The watchdog and sleep in the sketch: off before anything else, on in its mode, fed where the bench feeds it, its
cause or its mark kept. What the board's compiler calls things stands in the board's file."""

from __future__ import annotations

import re

from ..boards import Board, SketchWords, WatchdogCalls
from ..document import Bench
from .keeping import KeepTexts
from .names import snake, upper
from .restarting import RestartTexts

MARK = "0xB17E"
HELD = re.compile(r"(?<!\w)delay\(")
EARLY = """\
// What runs before memory is set up, and memory that start-up leaves as it is.
#ifndef EARLY
#define EARLY __attribute__((naked, used, section("{early}")))
#endif
#ifndef UNTOUCHED
#define UNTOUCHED __attribute__((section("{kept}")))
#endif
"""


def watchdog_step(board: Board, words: SketchWords, timeout_us: int) -> tuple[int, str]:
    """(µs, what the compiler calls it) of the shortest step of the board that is no shorter than the timeout."""
    step_us = board.watchdog_step_us(timeout_us)
    return step_us, words.watchdog_steps[board.watchdog_steps_us.index(step_us)]


def calls_of(bench: Bench, words: SketchWords) -> WatchdogCalls | None:
    """How the sketch speaks to the watchdog that guards the bench; None where there is none, or the board's words are
    not known."""
    can = bench.firmware.guards and words.watchdog_header and bench.firmware.watchdog.mode in words.modes
    return words.watchdog if can else None


def guarded(bench: Bench, words: SketchWords) -> bool:
    """Whether the sketch can switch the watchdog on."""
    return calls_of(bench, words) is not None


def fed_at(bench: Bench, words: SketchWords, place: str) -> bool:
    """Whether the sketch feeds it there."""
    return guarded(bench, words) and place in bench.firmware.watchdog.places


def fed_in_waits(code: str, feed: str) -> str:
    """The same code, feeding the watchdog wherever it waits. Comments and names stay as they are."""
    lines = []
    for line in code.split("\n"):
        code_part, slashes, note = line.partition("//")
        code_part = HELD.sub("stand_still(", code_part)
        code_part = code_part.replace("while (pressed()) {}", f"while (pressed()) {feed}")
        lines.append(code_part + slashes + note)
    return "\n".join(lines)


def _function(note: str, rows: list[str]) -> str:
    """The function that sleeps, what is in braces further in."""
    deep, lines = 1, [f"// {note}", "void fall_asleep() {"]
    for row in rows:
        deep -= row.startswith("}")
        lines.append("  " * deep + row)
        deep += row.endswith("{")
    return "\n".join([*lines, "}", ""])


def _until(said: str, down: tuple[str, ...]) -> list[str]:
    """Asleep until a handler has said so: asked with interrupts off, so that none comes between."""
    return ["for (;;) {", "noInterrupts();", f"if ({said}) break;", *down, "}", "interrupts();"]


class GuardTexts:
    """The watchdog, and sleep, of one bench in C++."""

    def __init__(
        self, bench: Bench, board: Board, words: SketchWords, keeps: KeepTexts, raises: dict[str, list[str]]
    ) -> None:
        self.bench, self.board, self.words, self.keeps = bench, board, words, keeps
        self.watchdog = bench.firmware.watchdog
        self.calls = calls_of(bench, words)
        self.marks = self.calls is not None and self.watchdog.told_by == "mark" and bool(words.kept_section)
        self.restart = RestartTexts(bench, board, words, raises, self.marks)
        self.sleep = bench.firmware.sleep
        self.sleeps = words.sleep if self.sleep and (self.sleep.wakes != "watchdog" or words.watchdog) else None
        self.wakes = bench.firmware.wakes_by_watchdog and self.sleeps is not None

    def fed_at(self, place: str) -> bool:
        """Whether the sketch feeds the watchdog there."""
        return fed_at(self.bench, self.words, place)

    @property
    def headers(self) -> list[str]:
        """What it needs to be included."""
        known = self.calls or self.wakes or self.keeps_cause or self.restart.by_watchdog
        watch = self.words.watchdog_header if known else None
        return [header for header in (watch, self.sleeps and self.sleeps.header) if header]

    @property
    def keeps_cause(self) -> bool:
        """Whether the register's cause is kept."""
        return (self.calls is not None and self.watchdog.cause != "lost") or bool(self.restart.by_flags)

    @property
    def _off_early(self) -> bool:
        """Whether the watchdog is off before anything else: what restarts the board needs that, too."""
        if self.words.layered:
            return False  # the layer does that
        return (self.calls is not None and self.watchdog.off_at_start) or self.restart.by_watchdog

    def types(self) -> list[str]:
        """How memory and code are placed."""
        calls = self.restart.calls
        if calls is None or self.words.layered or not (self.calls or self.keeps_cause or self._off_early):
            return []
        return [EARLY.format(early=calls.early_section, kept=self.words.kept_section)]

    def early(self) -> list[str]:
        """Prototypes that types need."""
        return ["void stand_still(uint32_t ms);\n"] if self.fed_at("wait") else []

    def values(self) -> list[str]:
        """What outlives a reset, and what handlers say."""
        lines = []
        if self.keeps_cause:
            own = "uint8_t reset_cause = 0;\n" if self.words.layered else "uint8_t reset_cause UNTOUCHED;"
            lines.append(own if self.words.layered else f"{own}  // read before anything else\n")
        if self.marks:
            lines += [
                f"const uint16_t WATCH_MARK = {MARK};\n",
                "uint16_t watch_mark UNTOUCHED;\n",
                "bool watchdog_was_it = false;\n",
            ]
        lines += self.restart.values()
        if self.calls and self.watchdog.mode != "reset":
            lines.append("volatile bool watchdog_called = false;\n")
        if self.fed_at("reports"):
            lines += [f"bool {snake(one.id)}_reported = false;\n" for one in self.bench.firmware.tasks]
        if self.wakes:
            lines.append("volatile bool asleep = false;  // until the watchdog calls its interrupt\n")
        if self._by_pin:
            lines += ["volatile bool woken = true;  // by a pin\n", "uint32_t awake_since = 0;\n"]
        return lines

    @property
    def _by_pin(self) -> bool:
        return bool(self.sleep and self.sleep.wakes == "pin" and self.sleeps and self.sleeps.pin_on)

    @property
    def by_action(self) -> bool:
        """Whether a machine's actions feed it."""
        return self.fed_at("action")

    def reports(self) -> str:
        """The end of a pass, where every task must have done a job since it was fed last."""
        names = [f"{snake(one.id)}_reported" for one in self.bench.firmware.tasks]
        if not self.fed_at("reports") or not names:
            return ""
        feeds = "".join(f"  {row}\n" for row in self.feed().splitlines())
        clears = " = ".join(names)
        return f"\n  if ({' && '.join(names)}) {{\n    {clears} = false;\n{feeds}  }}\n"

    def heard(self, raises: list[str]) -> str:
        """Before the machines step: whether its interrupt was called."""
        if not raises or self.calls is None or self.watchdog.mode == "reset":
            return ""
        rows = "".join(f"    {row}\n" for row in raises)
        return f"  if (watchdog_called) {{\n    watchdog_called = false;\n{rows}  }}\n"

    def functions(self) -> list[str]:
        """Early start, handlers, waits that feed, sleep."""
        found = [f"void feed_watchdog() {{\n{self.feed()}}}\n"] if self.by_action else []
        if self._off_early and self.restart.calls:
            found.append(self._early(self.restart.calls))
        found += self.restart.functions()
        called = self._called()
        if called and self.words.watchdog:
            found.append(f"{self.words.watchdog.handler} {{\n{''.join(f'  {row}{chr(10)}' for row in called)}}}\n")
        if self.fed_at("interrupt") and self.words.timer and self.calls:
            note = "feeds it whatever the loop does: it guards nothing"
            found.append(f"{self.words.timer.handler} {{ {self.calls.feed} }}  // {note}\n")
        if self.marks:
            found += self.waits()
        return found + self._sleep()

    def helping(self) -> list[str]:
        """The wait that feeds, where it knows nothing of this program."""
        return [] if self.marks else self.waits()

    def waits(self) -> list[str]:
        """The wait that feeds."""
        found = []
        if self.early() and self.calls:
            feeds = "".join(f"  {row}\n" for row in self.feed().splitlines())
            found.append(
                "void stand_still(uint32_t ms) {\n  for (; ms; --ms) {\n    delayMicroseconds(1000);\n"
                f"{feeds}  }}\n}}\n"
            )
        return found

    def _early(self, calls: WatchdogCalls) -> str:
        rows = [
            "// The flag of a reset keeps the watchdog on, with its shortest step: off with both first.",
            "void watch_off_early() EARLY;",
            "void watch_off_early() {",
        ]
        rows += [f"  reset_cause = {calls.cause};"] if self.keeps_cause else []
        rows += [f"  {calls.cause} = 0;", f"  {calls.off}", "}", ""]
        return "\n".join(rows)

    def _called(self) -> list[str]:
        """What the watchdog's handler does."""
        rows = []
        if self.wakes:
            rows += ["if (asleep) {", "  asleep = false;", "  return;", "}"]
        if self.calls and self.watchdog.mode != "reset":
            rows.append("watchdog_called = true;")
            if self.marks:
                rows.append("watch_mark = WATCH_MARK;  // unless it is fed now, it resets the board next")
            if self.keeps.is_called:
                rows.append("keep_called();")
        return rows

    def setup(self) -> list[str]:
        """First thing in set-up: what was the cause."""
        lines = []
        calls = self.restart.calls
        if calls and not self._off_early and self.keeps_cause:
            lines.append(f"  reset_cause = {calls.cause};")
            lines += [] if self.words.layered else [f"  {calls.cause} = 0;"]
        if self.marks:
            lines += ["  watchdog_was_it = watch_mark == WATCH_MARK;", "  watch_mark = 0;"]
        return lines + self.restart.setup()

    def _on(self) -> list[str]:
        """On with it, in its mode."""
        if self.calls is None:
            return []
        step_us, word = watchdog_step(self.board, self.words, self.watchdog.timeout_us)
        asked_us = self.watchdog.timeout_us
        note = "" if step_us == asked_us else f"  // the step next to {asked_us // 1000} ms"
        modes = {"interrupt": self.calls.calls, "interrupt-reset": self.calls.calls_first}
        rows = modes.get(self.watchdog.mode, (self.calls.on,))
        return [*(row.format(step=word) for row in rows[:-1]), f"{rows[-1].format(step=word)}{note}"]

    def on(self) -> list[str]:
        """Last thing in set-up: what wakes the board, and the watchdog."""
        lines = []
        if self._by_pin and self.sleeps:
            names = [f"{upper(line.id)}_PIN" for line in self.bench.contacts]
            names += [f"{upper(part.id)}_{end}_PIN" for _, part in self.bench.encoders for end in "AB"]
            lines += [f"  {row.format(pin=name)}" for name in names for row in self.sleeps.pin_on]
        if self.fed_at("interrupt") and self.words.timer:
            lines += [f"  {row}" for row in self.words.timer.on]
        return lines + [f"  {row}" for row in self._on()]

    def feed(self) -> str:
        """Feeding it; one that calls first and resets then is armed again."""
        if self.calls is None:
            return ""
        first = self.watchdog.mode == "interrupt-reset"
        rows = []
        if self.marks:  # written before each feed, where no handler can say it
            rows.append("watch_mark = 0;" if first else "watch_mark = WATCH_MARK;  // it was running")
        rows.append(self.calls.feed)
        if first:
            rows.append(f"{self.calls.arm}  // it calls its interrupt again before it resets")
        return "".join(f"  {row}\n" for row in rows)

    @property
    def feed_text(self) -> str:
        """The call that feeds it."""
        return self.calls.feed if self.calls else ";"

    def _sleep(self) -> list[str]:
        """The function that sleeps."""
        sleep, calls = self.sleep, self.sleeps
        if sleep is None or calls is None:
            return []
        if sleep.wakes == "timer":
            feed = [self.calls.feed] if self.calls else []
            length = f"uint32_t(millis() - from) < {sleep.every_us // 1000}UL"
            rows = ["const uint32_t from = millis();", f"while ({length}) {{", *calls.idle, *feed, "}"]
            return [_function("A timer wakes it each millisecond; the counter runs on.", rows)]
        note = "the millisecond counter does not count meanwhile."
        if self._by_pin:
            handlers = [f"{handler} {{ woken = true; }}\n" for handler in calls.pin_handlers]
            rows = [*self._off(), *_until("woken", calls.down), *self._on()]
            return [*handlers, _function(f"Until a pin wakes it: {note}", rows)]
        if not self.wakes or not self.words.watchdog:
            return []
        step_us, word = watchdog_step(self.board, self.words, sleep.every_us)
        armed = [row.format(step=word) for row in self.words.watchdog.calls]
        after = self._on() or [self.words.watchdog.off]
        length = f"Until the watchdog calls its interrupt, after {step_us // 1000} ms"
        rows = ["asleep = true;", *armed, *_until("!asleep", calls.down), *after]
        return [_function(f"{length}: {note}", rows)]

    def _off(self) -> list[str]:
        """Off with the watchdog, which would reset a board that sleeps."""
        return [self.calls.off] if self.calls else []

    def rest(self) -> str:
        """The last thing in the loop."""
        sleep = self.sleep
        if sleep is None:
            return ""
        if self.sleeps is None or (sleep.wakes == "pin" and not self._by_pin):
            note = "asleep in the bench: your board's own call saves current"
            return (
                f"\n  delay({sleep.every_us // 1000}UL);  // {note}\n" if sleep.wakes != "pin" else f"\n  // {note}\n"
            )
        if not self._by_pin:
            return "\n  fall_asleep();\n"
        return (
            "\n  noInterrupts();\n  const bool moved = woken;\n  woken = false;\n  interrupts();\n"
            "  if (moved) awake_since = now;\n"
            f"  if (uint32_t(now - awake_since) >= {sleep.awake_us // 1000}UL) fall_asleep();\n"
        )
