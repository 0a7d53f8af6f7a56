"""The watchdog in the sketch: switched on in its mode, fed where the bench feeds it, its cause kept."""

from __future__ import annotations

from ..boards import Board, SketchWords
from ..document import Bench
from .keeping import KeepTexts

MODE = """\
  noInterrupts();
  wdt_reset();
  WDTCSR = (1 << WDCE) | (1 << WDE);  // the change needs two writes within four cycles
  WDTCSR = {bits} | (({step} & 8) ? (1 << WDP3) : 0) | ({step} & 7);
  interrupts();"""


def watchdog_step(board: Board, words: SketchWords, timeout_us: int) -> tuple[int, str]:
    """(µs, what the compiler calls it) of the shortest step of the board that is no shorter than the timeout."""
    steps = list(zip(board.watchdog_steps_us, words.watchdog_steps, strict=True))
    return next((step for step in steps if step[0] >= timeout_us), steps[-1])


def guarded(bench: Bench, words: SketchWords) -> bool:
    """Whether the sketch can switch the watchdog on."""
    return bench.firmware.watchdog.on and words.watchdog_header is not None


def fed_at(bench: Bench, words: SketchWords, place: str) -> bool:
    """Whether the sketch feeds it there."""
    return guarded(bench, words) and place in bench.firmware.watchdog.places


def guard_head(bench: Bench, words: SketchWords, keeps: KeepTexts) -> str:
    """Memory that outlives a reset, and handlers."""
    if not guarded(bench, words):
        return ""
    watchdog = bench.firmware.watchdog
    lines = []
    if watchdog.cause != "lost":
        lines.append('uint8_t reset_cause __attribute__((section(".noinit")));  // a reset leaves it as it is')
    if watchdog.mode != "reset":
        again = "" if watchdog.mode == "interrupt" else "  // then it resets, unless it is fed and armed again"
        saves = " keep_called();" if keeps.is_called else ""
        lines += ["void keep_called();"] if saves else []
        lines.append("volatile bool watchdog_called = false;")
        lines.append(f"ISR(WDT_vect) {{ watchdog_called = true;{saves} }}{again}")
    if "interrupt" in watchdog.places:
        lines.append("ISR(TIMER0_COMPA_vect) { wdt_reset(); }  // feeds it whatever the loop does: it guards nothing")
    if "wait" in watchdog.places:
        lines += [
            "void stand_still(uint32_t ms) {",
            "  for (; ms; --ms) {",
            "    delayMicroseconds(1000);",
            "    wdt_reset();",
            "  }",
            "}",
        ]
    return "\n".join([*lines, ""]) if lines else ""


def guard_setup(bench: Bench, words: SketchWords, bitten: list[str]) -> list[str]:
    """First thing in set-up: the cause, and off with it."""
    lines = []
    keeps = guarded(bench, words) and bench.firmware.watchdog.cause != "lost"
    if keeps:
        lines.append("  reset_cause = MCUSR;")
    if bitten:
        if words.watchdog_header is not None:
            lines += ["  if (MCUSR & (1 << WDRF)) {  // the watchdog bit", *(f"    {line}" for line in bitten), "  }"]
        else:
            lines.append("  // Whether the watchdog bit: look up this board's own call, and say so here.")
    if keeps or (bitten and words.watchdog_header is not None):
        lines.append("  MCUSR = 0;")
    if guarded(bench, words) and bench.firmware.watchdog.off_at_start:
        lines.append("  wdt_disable();  // it is still on after it has reset the board")
    return lines


def guard_on(bench: Bench, board: Board, words: SketchWords) -> list[str]:
    """Last thing in set-up: on with it."""
    if not guarded(bench, words):
        return []
    watchdog = bench.firmware.watchdog
    step_us, word = watchdog_step(board, words, watchdog.timeout_us)
    note = "" if step_us == watchdog.timeout_us else f"  // the step next to {watchdog.timeout_us // 1000} ms"
    lines = []
    if "interrupt" in watchdog.places:
        lines += ["  OCR0A = 128;", "  TIMSK0 |= 1 << OCIE0A;"]
    if watchdog.mode == "reset":
        return [*lines, f"  wdt_enable({word});{note}"]
    bits = "(1 << WDIE)" if watchdog.mode == "interrupt" else "(1 << WDIE) | (1 << WDE)"
    return [*lines, MODE.format(bits=bits, step=word) + note]


def feed_lines(bench: Bench) -> str:
    """Feeding it; one that calls first and resets then is armed again."""
    armed = "  WDTCSR |= 1 << WDIE;  // it calls again before it resets\n"
    return "  wdt_reset();\n" + (armed if bench.firmware.watchdog.mode == "interrupt-reset" else "")
