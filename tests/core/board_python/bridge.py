"""Modules `machine`, `time`, `select` of a small runtime, over the double: what a program does to its pins goes to it."""

from __future__ import annotations

import ctypes
import importlib
import json
import os
import re
import sys
import types
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any

import pins  # type: ignore[import-not-found,unused-ignore]  # beside this, where it runs

CALL = ctypes.CFUNCTYPE(None)


def bridged(library: Path) -> Any:
    """The double."""
    found = ctypes.CDLL(str(library))
    for name in ("db_millis", "db_counter", "db_micros"):
        getattr(found, name).restype = ctypes.c_uint32
    found.db_hold.argtypes = [ctypes.c_int64]
    return found


class Runs:
    """What the runtime's modules ask, asked of the double; written down in a file where that is wanted: a line for what
    is asked, for each handler that comes meanwhile, and for the answer."""

    def __init__(self, double: Any, log: Path | None) -> None:
        self.double = double
        self.loaded = False  # while the layer is loaded a board's time has not begun
        self.kept: list[Any] = []
        self.file = os.open(log, os.O_WRONLY | os.O_CREAT | os.O_APPEND) if log else -1

    def note(self, *said: Any) -> None:
        """A line of the file."""
        if self.file >= 0:
            os.write(self.file, (json.dumps(said) + "\n").encode())

    def handler(self, does: Callable[[], None]) -> tuple[int, Any]:
        """(its number, what the double calls) of a handler."""
        number = len(self.kept)

        def called() -> None:
            self.note("h", number)
            does()

        self.kept.append(CALL(called))
        return number, self.kept[-1]

    def __call__(self, name: str, *given: Any) -> Any:
        """The answer."""
        double, said, asked = self.double, list(given), list(given)
        for place, one in enumerate(given):
            if callable(one):
                said[place], asked[place] = self.handler(one)
        if name == "ms" and not self.loaded:
            return double.db_counter()
        self.note("?", name, *said)
        if name == "bus":
            asked = [given[0], len(given[1]), bytes(given[1])]
        answer = getattr(double, f"db_{NAMES.get(name, name)}")(*asked)
        self.note("!", answer)
        return answer


NAMES = {
    "ms": "millis", "us": "micros", "wait": "delay", "wait_us": "hold", "begin": "serial_begin", "clock": "bus_clock",
    "available": "serial_available", "byte": "serial_read", "say": "serial_write", "reset": "restart", "room": "serial_room",
}  # fmt: skip


class Over(Exception):
    """A thread that waits for edges has had the one that came."""


def as_a_computer(double: Any, layer: Any) -> None:
    """The computer's layer over the double: the library's own words, its lines the double's, its threads at once."""
    import gpiod
    from gpiod.line import Direction, Edge, Value

    kept: list[Any] = []
    waiting: list[Callable[[], None]] = []

    class Request:
        """What the library gives for a line."""

        def __init__(self, config: dict[int, Any]) -> None:
            self.events = 0
            self.reconfigure_lines(config)

        def reconfigure_lines(self, config: dict[int, Any]) -> None:
            for number, settings in config.items():
                if settings.direction == Direction.OUTPUT:
                    double.db_write(number, int(settings.output_value == Value.ACTIVE))
                double.db_mode(number, int(settings.direction == Direction.OUTPUT))
                if settings.edge_detection != Edge.NONE:
                    self.way = {Edge.FALLING: 0, Edge.RISING: 1, Edge.BOTH: 2}[settings.edge_detection]
                    self.number = number

        def get_value(self, number: int) -> Any:
            return Value.ACTIVE if double.db_read(number) else Value.INACTIVE

        def set_value(self, number: int, value: Any) -> None:
            double.db_write(number, int(value == Value.ACTIVE))

        def read_edge_events(self) -> list[int]:
            if not self.events:
                raise Over
            self.events = 0
            return [1]

    class Thread:
        def __init__(self, target: Callable[[], None], daemon: bool) -> None:
            waiting.append(target)

        def start(self) -> None:
            target = waiting[-1]
            request = next(one for one in reversed(requests) if hasattr(one, "way"))

            def come() -> None:
                request.events = 1
                with suppress(Over):
                    target()

            kept.append(CALL(come))
            double.db_edge(request.number, kept[-1], request.way)

    requests: list[Any] = []

    def request_lines(_: str, consumer: str, config: dict[int, Any]) -> Any:
        requests.append(Request(config))
        return requests[-1]

    def pulse(number: int, on_s: float, off_s: float) -> None:
        layer.pulses[number] = types.SimpleNamespace(stop=lambda: None)
        if abs(on_s + off_s - 0.01) < 1e-9 and on_s != off_s:
            double.db_dim(number, round(on_s * 25_500))
        elif abs(on_s + off_s - 0.02) < 1e-9 and on_s != off_s:
            double.db_turn(number, round((on_s * 1_000_000 - 544) * 180 / (2400 - 544)))
        else:
            double.db_tone(number, round(0.5 / on_s))

    def each_ms(handler: Callable[[], None]) -> None:
        kept.append(CALL(handler))
        double.db_each(kept[-1])

    # What the computer's own devices do is the double's: their calls are not looked at here.
    layer.watchdog_on, layer.watchdog_feed, layer.each_ms = double.db_dog, double.db_feed, each_ms
    layer.cause, layer.restart = double.db_cause, double.db_restart
    layer.gpiod = types.SimpleNamespace(request_lines=request_lines, LineSettings=gpiod.LineSettings)
    layer.pulse = pulse
    layer.threading = types.SimpleNamespace(Thread=Thread)
    layer.time = types.SimpleNamespace(
        monotonic_ns=lambda: double.db_millis() * 1_000_000,
        sleep=lambda s: double.db_delay(round(s * 1000)) if s >= 0.001 else double.db_hold(round(s * 1_000_000)),
    )


def main(folder: Path, library: Path) -> None:
    """Run the program in a folder as the double's."""
    double = bridged(library)
    text = (folder / "hardware.py").read_text()
    computer = "gpiod" in text
    bits = re.search(r"^CONVERTER_BITS = (\d+)", text, re.MULTILINE)
    log = folder / "log" if (folder / "wants-log").exists() else None
    runs = Runs(double, log)
    if not computer:
        for name, held in zip(
            ("machine", "time", "select"), pins.modules(runs, int(bits[1]) if bits else 10), strict=True
        ):
            sys.modules[name] = types.ModuleType(name)
            sys.modules[name].__dict__.update(held)
    sys.path.insert(0, str(folder))
    hardware: dict[str, Any] = {}

    class Line:
        """Standard input and output, as the program reads and writes them."""

        @staticmethod
        def read(_: int) -> str:
            return chr(runs("byte"))

        @staticmethod
        def write(text: str) -> None:
            runs("say", ord(text))

    text = (folder / "program.py").read_text().partition("\n\nsetup()\nwhile True:\n")[0]

    def set_up() -> None:
        runs.note("start", double.db_counter())
        layer: Any = importlib.import_module("hardware")

        if computer:
            as_a_computer(double, layer)
        runs.loaded = True
        layer.counted = double.db_counter()  # the double's counter may begin anywhere
        if hasattr(layer, "sys"):
            layer.sys = types.SimpleNamespace(stdin=Line, stdout=types.SimpleNamespace(write=Line.write, flush=int))
        if hasattr(layer, "serial"):  # a runtime does not say what room there is; the double's line does
            layer.serial.room = lambda: runs("room")
        lock, unlock = layer.lock, layer.unlock
        layer.lock = lambda: (None if getattr(layer, "locked", 0) else runs("lock"), lock())
        layer.unlock = lambda: (unlock(), None if getattr(layer, "locked", 0) else runs("unlock"))
        hardware["own"] = {"__name__": "program", "hold": lambda us: runs("wait_us", us)}
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
            import traceback

            traceback.print_exc()
            sys.stderr.flush()
            os._exit(5)

    return done


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
