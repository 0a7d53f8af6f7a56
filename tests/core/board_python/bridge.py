"""Modules `machine`, `time`, `select` of a small runtime, over the double: what a program does to its pins goes to it."""

from __future__ import annotations

import ctypes
import importlib
import sys
import types
from collections.abc import Callable
from pathlib import Path
from typing import Any

CALL = ctypes.CFUNCTYPE(None)
LOG: list[list[Any]] | None = None  # what was asked and answered, where that is wanted


def bridged(library: Path) -> Any:
    """The double."""
    found = ctypes.CDLL(str(library))
    for name in ("db_millis", "db_counter", "db_micros"):
        getattr(found, name).restype = ctypes.c_uint32
    found.db_hold.argtypes = [ctypes.c_int64]
    return found


def modules(double: Any, run: Callable[[str, Any, Callable[[], Any]], Any]) -> dict[str, types.ModuleType]:
    """The runtime's modules over the double; `run(name, arguments, ask)` does each call."""
    kept: list[Any] = []
    begun: list[int] = []  # empty while the layer is loaded, which is before a board's time begins

    class Pin:
        OUT, IN, PULL_UP, PULL_DOWN, IRQ_FALLING, IRQ_RISING = 1, 0, 2, 3, 4, 8

        def __init__(self, number: int) -> None:
            self.number = number

        def init(self, mode: int, pull: int | None = None, value: int | None = None) -> None:
            run("mode", [self.number, mode if pull is None else pull], lambda: double.db_mode(self.number, mode))
            if value is not None:
                self.value(value)

        def value(self, level: int | None = None) -> Any:
            if level is None:
                return run("read", [self.number], lambda: double.db_read(self.number))
            return run("write", [self.number, level], lambda: double.db_write(self.number, level))

        def irq(self, handler: Callable[[Any], None], way: int) -> None:
            called = CALL(lambda: handler(self))
            kept.append(called)
            ways = {4: 0, 8: 1, 12: 2}
            run("edge", [self.number, way], lambda: double.db_edge(self.number, called, ways[way]))

    class PWM:
        def __init__(self, pin: Pin) -> None:
            self.number, self.hz = pin.number, 0

        def freq(self, hz: int) -> None:
            self.hz = hz

        def duty_u16(self, duty: int) -> None:
            n, hz = self.number, self.hz
            if duty == 32768:
                run("tone", [n, hz], lambda: double.db_tone(n, hz))
            elif duty:
                run("dim", [n, duty // 257], lambda: double.db_dim(n, duty // 257))

        def duty_ns(self, ns: int) -> None:
            degrees = round((ns - 544000) * 180 / (2400000 - 544000))
            run("turn", [self.number, degrees], lambda: double.db_turn(self.number, degrees))

        def deinit(self) -> None:
            pass

    class ADC:
        def __init__(self, pin: Pin) -> None:
            self.number = pin.number

        def read_u16(self) -> int:
            bits = sys.modules["hardware"].CONVERTER_BITS
            return int(run("measure", [self.number], lambda: double.db_measure(self.number))) << 16 - bits

    class UART:
        def __init__(self, *_: Any, baudrate: int = 0) -> None:
            run("begin", [baudrate], double.db_serial_begin)

        def any(self) -> int:
            return int(run("available", [], double.db_serial_available))

        def read(self, _: int) -> bytes:
            return bytes([run("byte", [], double.db_serial_read)])

        def write(self, what: bytes) -> None:
            run("say", [what[0]], lambda: double.db_serial_write(what[0]))

    class I2C:
        def __init__(self, *_: Any, freq: int = 0, **__: Any) -> None:
            run("clock", [freq], lambda: double.db_bus_clock(freq))

        def writeto(self, address: int, what: bytes) -> None:
            given = [address, list(what)]
            run("bus", given, lambda: double.db_bus(address, len(what), bytes(what)))

    class Timer:
        PERIODIC = 1

        def __init__(self, *_: Any, callback: Callable[[Any], None], **__: Any) -> None:
            called = CALL(lambda: callback(self))
            kept.append(called)
            run("each", [], lambda: double.db_each(called))

    class WDT:
        def __init__(self, timeout: int) -> None:
            run("dog", [timeout], lambda: double.db_dog(timeout))

        def feed(self) -> None:
            run("feed", [], double.db_feed)

    class Poll:
        def register(self, *_: Any) -> None:
            run("begin", [], double.db_serial_begin)

        def poll(self, _: int) -> Any:
            return run("available", [], double.db_serial_available)

    machine = types.ModuleType("machine")
    causes = {"PWRON_RESET": 1, "HARD_RESET": 2, "WDT_RESET": 3}
    by_flag = {1: 1, 2: 2, 8: 3}

    def reset_cause() -> int:
        return by_flag.get(run("cause", [], double.db_cause), 0)

    machine.__dict__.update(causes, reset_cause=reset_cause, reset=lambda: run("reset", [], double.db_restart))
    machine.__dict__.update(Pin=Pin, PWM=PWM, ADC=ADC, UART=UART, I2C=I2C, WDT=WDT, Timer=Timer)
    time = types.ModuleType("time")
    time.__dict__.update(
        ticks_ms=lambda: (run("ms", [], double.db_millis) if begun else double.db_counter()) & 0x3FFFFFFF,
        ticks_us=lambda: run("us", [], double.db_micros) & 0x3FFFFFFF,
        ticks_diff=lambda one, other: ((one - other + 0x20000000) & 0x3FFFFFFF) - 0x20000000,
        sleep_ms=lambda ms: run("wait", [ms], lambda: double.db_delay(ms)),
        sleep_us=lambda us: run("wait_us", [us], lambda: double.db_hold(us)),
    )
    select = types.ModuleType("select")
    select.__dict__.update(POLLIN=1, poll=Poll)
    machine.__dict__["begun"] = begun
    return {"machine": machine, "time": time, "select": select}


def main(folder: Path, library: Path) -> None:
    """Run the program in a folder as the double's."""
    double = bridged(library)
    names = modules(double, lambda name, given, ask: ask())
    sys.modules |= names
    sys.path.insert(0, str(folder))
    hardware: dict[str, Any] = {}

    class Line:
        """Standard input and output, as the program reads and writes them."""

        @staticmethod
        def read(_: int) -> str:
            return chr(double.db_serial_read())

        @staticmethod
        def write(text: str) -> None:
            double.db_serial_write(ord(text))

    text = (folder / "program.py").read_text().removesuffix("\n\nsetup()\nwhile True:\n    loop()\n")

    def set_up() -> None:
        layer: Any = importlib.import_module("hardware")

        names["machine"].__dict__["begun"].append(1)
        layer.counted = double.db_counter()  # the double's counter may begin anywhere
        if hasattr(layer, "sys"):
            layer.sys = types.SimpleNamespace(stdin=Line, stdout=Line)
        layer.lock = lambda lock=layer.lock: (None if layer.locked else double.db_lock(), lock())
        layer.unlock = lambda unlock=layer.unlock: (unlock(), None if layer.locked else double.db_unlock())
        hardware["own"] = {"__name__": "program", "hold": double.db_hold}
        exec(compile(text, "program.py", "exec"), hardware["own"])
        hardware["own"]["setup"]()

    begins, passes = CALL(guarded(set_up)), CALL(guarded(lambda: hardware["own"]["loop"]()))
    arguments = [str(folder / "program").encode(), *(word.encode() for word in sys.argv[3:])]
    row = (ctypes.c_char_p * (len(arguments) + 1))(*arguments, None)
    double.run(len(arguments), row, begins, passes)


def guarded(does: Callable[[], None]) -> Callable[[], None]:
    """A mistake of the program ends the run; ctypes would only print it."""

    def done() -> None:
        try:
            does()
        except BaseException:
            import os
            import traceback

            traceback.print_exc()
            sys.stderr.flush()
            os._exit(5)

    return done


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
