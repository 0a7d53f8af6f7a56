"""What a program asks of its board, in the words of our notation, and what each language calls that.

A layer of functions stands behind these names: the builder's own for `setup()` and `loop()`, a header's in C, a
module's in Python. `tests/core/test_targets.py` holds each layer against this table.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..boards import Board, LayerWords, SleepCalls, SmallWords, StoreCalls, TimerCalls, WatchdogCalls


@dataclass(frozen=True)
class Ask:
    """A function: its name in the notation, what it gives, its names in C and in Python."""

    name: str
    gives: str
    in_c: str
    in_python: str


FUNCTIONS = (
    Ask("millis", "uint32_t", "hw_millis", "millis"),
    Ask("micros", "uint32_t", "hw_micros", "micros"),
    Ask("delay", "void", "hw_wait_ms", "wait_ms"),
    Ask("delayMicroseconds", "void", "hw_wait_us", "wait_us"),
    Ask("pinMode", "void", "hw_pin_mode", "pin_mode"),
    Ask("digitalRead", "int", "hw_read", "read_pin"),
    Ask("digitalWrite", "void", "hw_write", "write_pin"),
    Ask("analogRead", "uint16_t", "hw_measure", "measure"),
    Ask("analogWrite", "void", "hw_dim", "dim"),
    Ask("tone", "void", "hw_tone", "tone"),
    Ask("noTone", "void", "hw_no_tone", "no_tone"),
    Ask("noInterrupts", "void", "hw_lock", "lock"),
    Ask("interrupts", "void", "hw_unlock", "unlock"),
    Ask("attachInterrupt", "void", "hw_on_edge", "on_edge"),
    Ask("strlen", "uint8_t", "strlen", "len"),
)
# The methods of things that are the board's: (what of, method) with what it gives and its names.
METHODS = {
    "Serial": (
        Ask("begin", "void", "hw_serial_begin", "begin"),
        Ask("available", "int", "hw_serial_available", "available"),
        Ask("read", "int", "hw_serial_read", "read"),
        Ask("availableForWrite", "int", "hw_serial_room", "room"),
        Ask("write", "void", "hw_serial_write", "write"),
    ),
    "Wire": (
        Ask("begin", "void", "hw_bus_begin", "begin"),
        Ask("setClock", "void", "hw_bus_clock", "clock"),
        Ask("beginTransmission", "void", "hw_bus_open", "open"),
        Ask("write", "void", "hw_bus_write", "write"),
        Ask("endTransmission", "void", "hw_bus_close", "close"),
    ),
    "Servo": (
        Ask("attach", "void", "hw_servo_attach", "attach"),
        Ask("write", "void", "hw_servo_turn", "turn"),
    ),
}
THINGS = {"Serial": "serial", "Wire": "bus", "Servo": "Servo"}  # in Python
CONSTANTS = ("LOW", "HIGH", "INPUT", "OUTPUT", "INPUT_PULLUP", "INPUT_PULLDOWN", "FALLING", "RISING", "CHANGE")

GIVEN = {one.name: one.gives for one in FUNCTIONS}
CLASSES = {of: {one.name: one.gives for one in rows} for of, rows in METHODS.items()}
PYTHON_CALLS = {one.name: one.in_python for one in FUNCTIONS} | THINGS
PYTHON_METHODS = {(of, one.name): one.in_python for of, rows in METHODS.items() for one in rows}
C_CALLS = {one.name: one.in_c for one in FUNCTIONS}
C_METHODS = {(of, one.name): one.in_c for of, rows in METHODS.items() for one in rows}

CAUSES = {"power": "1", "pin": "2", "dip": "4", "watchdog": "8"}  # bits of what a layer says of the reset


def c_words(board: Board) -> LayerWords:
    """What the calls of a layer in C are."""
    watchdog = WatchdogCalls(
        feed="hw_watchdog_feed();",
        off="hw_watchdog_off();",
        on="hw_watchdog_on({step});",
        calls=("hw_watchdog_calls({step}, watchdog_barks);",),
        calls_first=("hw_watchdog_calls_first({step}, watchdog_barks);",),
        arm="hw_watchdog_arm();",
        handler="void watchdog_barks()",
        **_cause("hw_cause()"),
    )
    sleep = SleepCalls(
        header="hardware.h",
        down=("hw_sleep_deep();",),
        idle=("hw_sleep_a_while();",),
        pin_on=("hw_wake_at({pin}, pin_wakes);",),
        pin_handlers=("void pin_wakes()",),
    )
    return LayerWords(
        watchdog_header="hardware.h",
        watchdog_steps=_steps(board),
        store_header="hardware.h",
        kept_section=".kept",
        pull_up_mode="INPUT_PULLUP",
        pull_down_mode="INPUT_PULLDOWN" if board.pull_down_ohm else None,
        watchdog=watchdog,
        timer=TimerCalls(handler="void each_millisecond()", on=("hw_each_ms(each_millisecond);",)),
        sleep=sleep,
        store=StoreCalls(
            put="hw_store_put((uint16_t)({at}), {value});", get="hw_store_get({at}, &{field}, sizeof {field});"
        ),
        restart="hw_restart();",
    )


def python_words(board: Board) -> SmallWords:
    """What the calls of a layer in Python are: nothing outlives a reset there."""
    watchdog = WatchdogCalls(
        feed="watchdog_feed();", off="{}", on="watchdog_on({step});", calls=(), calls_first=(), arm="{}", handler="{}",
        **_cause("cause()"),
    )  # fmt: skip
    return SmallWords(
        watchdog_header="hardware",
        watchdog_steps=_steps(board),
        pull_up_mode="INPUT_PULLUP",
        pull_down_mode="INPUT_PULLDOWN",
        watchdog=watchdog,
        timer=TimerCalls(handler="void each_millisecond()", on=("each_ms(each_millisecond);",)),
        restart="restart();",
    )


def _steps(board: Board) -> tuple[str, ...]:
    return tuple(str(us // 1000) for us in board.watchdog_steps_us)


def _cause(call: str) -> dict[str, str]:
    bits = {f"{cause}_bit": bit for cause, bit in CAUSES.items() if cause != "watchdog"}
    return {"cause": call, "cause_bit": CAUSES["watchdog"], "early_section": ".none", **bits}
