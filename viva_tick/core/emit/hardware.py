"""What a program asks of its board, in the words of our notation, and what each language calls that.

A layer of functions stands behind these names: the builder's own for `setup()` and `loop()`, a header's in C, a
module's in Python. `tests/core/test_targets.py` holds each layer against this table.
"""

from __future__ import annotations

from dataclasses import dataclass


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
