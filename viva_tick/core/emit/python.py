"""The program in Python for a board that runs a small runtime of that language: the program, its helper types, and the
layer between it and the board, each a module of its own."""

from __future__ import annotations

import re
import textwrap
from collections.abc import Iterable
from pathlib import Path

from ..document import Bench
from ..document.parts import Commands, Display
from ..program import in_its_school
from ..tree.nodes import Enum, Function, Member, Module, Name, Part, Struct, Within, inside
from ..tree.python import PythonWriter
from ..tree.reading import read
from ..tree.wrapped import WIDTH
from .assembled import Assembled, assembled, in_one_loop
from .files import Emitted, File
from .hardware import CLASSES, CONSTANTS, GIVEN, PYTHON_CALLS, PYTHON_METHODS, THINGS, python_words
from .warnings import Warnings

LAYERS = Path(__file__).parent / "layers"
SMALL = {"radio-32bit-3v3", "two-core-32bit-3v3"}  # boards that such a runtime is made for
GUARDS = ("watchdog_on", "watchdog_feed", "cause", "restart", "each_ms")


def can_small(bench: Bench) -> bool:
    """Whether the board runs a small runtime of Python."""
    return bench.board in SMALL


def small_files(bench: Bench, said: Warnings = ()) -> Emitted:
    """The program, its helpers, its layer; ValueError for a board that runs no such runtime: see `can_small`."""
    if not can_small(bench):
        raise ValueError(f"No small runtime of Python is made for this board: {bench.the_board.name}.")
    whole = in_its_school(bench)
    found = assembled(whole, in_one_loop(whole), python_words(whole.the_board), said)
    files = _modules(found)
    return Emitted((*files, File("", _layer(bench, files), "hardware.py")), found.notes)


def _modules(found: Assembled) -> tuple[File, ...]:
    """The program and its helpers."""
    layout = found.layout
    helpers = read("\n".join([*layout.helpers, *layout.helping]), THINGS)
    types = {part.ident for part in helpers.parts if isinstance(part, Struct | Enum)}
    own = read("\n".join([*layout.types, "".join(layout.values), *layout.functions]), {*THINGS, *types})
    whole = Module((*helpers.parts, *own.parts))
    writer = PythonWriter(whole, PYTHON_CALLS, PYTHON_METHODS, GIVEN, CLASSES)
    head = "\n".join(f"# {line}".rstrip() for line in found.head)
    given = declared(helpers.parts)
    texts = []
    for parts, note in (
        (own.parts, head),
        (helpers.parts, "# What the program is made of: the same in every bench's."),
    ):
        rows = [
            _taken(
                "hardware",
                [PYTHON_CALLS.get(name, name) for name in used(parts) if _of_layer(name)],
                writer.text(parts),
            )
        ]
        if parts is own.parts:
            rows.append(_taken("helpers", [name for name in used(parts) if name in given]))
        texts.append("\n".join([note, *filter(None, rows), "", writer.text(parts).rstrip(), ""]))
    run = "\n\nsetup()\nwhile True:\n    loop()\n"
    files = [File(".py", texts[0] + run)]
    if helpers.parts:
        files.append(File("", texts[1], "helpers.py"))
    return tuple(files)


def _of_layer(name: str) -> bool:
    return (name in PYTHON_CALLS and name != "strlen") or name in CONSTANTS or name in GUARDS


def _taken(module: str, names: Iterable[str], text: str = "") -> str:
    """The line that takes names from a module; MASK where the text uses it."""
    wanted = sorted({*names, *(["MASK"] if " MASK" in text else [])})
    line = f"from {module} import {', '.join(wanted)}"
    if len(line) <= WIDTH:
        return line if wanted else ""
    rows = textwrap.wrap(", ".join(wanted), WIDTH - 4, initial_indent="    ", subsequent_indent="    ")
    return "\n".join([f"from {module} import (", *rows, ")"])


def declared(parts: Iterable[Part]) -> set[str]:
    """The names that some parts of a module declare."""
    found: set[str] = set()
    for part in parts:
        if isinstance(part, Struct | Function):
            found.add(part.ident)
        elif isinstance(part, Enum):
            found |= {value for value, _ in part.values}
        elif hasattr(part, "names"):
            found |= {one.ident for one in part.names}
    return found


def used(parts: Iterable[Part]) -> dict[str, None]:
    """The names that they use, types included, in order."""
    found: dict[str, None] = {}
    for part in parts:
        for node in inside(part):
            match node:
                case Name(ident):
                    found[ident] = None
                case Within(of, _):
                    found[of] = None
                case Member(Name(ident), _):
                    found[ident] = None
                case _ if hasattr(node, "type"):
                    found[node.type.name] = None
    return found


def _layer(bench: Bench, files: Iterable[File]) -> str:
    """The layer as far as the program uses it."""
    text = (LAYERS / "micropython.py").read_text()
    said = "\n".join(file.text for file in files)
    board = bench.the_board
    found = []
    if board.analogue:
        text = text.replace("locked = 0\n", f"CONVERTER_BITS = {board.analogue.bits}\nlocked = 0\n", 1)
    heads = []
    if "serial" in _asked(said):
        wires = any(isinstance(part, Commands) and part.source != "typed" for part in bench.inputs)
        found.append(f"micropython_serial_{'wires' if wires else 'console'}.py")
        heads = [] if wires else ["import select", "import sys"]
    if "bus" in _asked(said):
        found.append("micropython_bus.py")
        display = next(part for part in bench.outputs if isinstance(part, Display))
        pins = [board.pin(end) for end in (display.clock, display.data)]
        numbers = [pin.code if pin else "0" for pin in pins]
        text = text.replace("locked = 0\n", f"BUS_CLOCK_PIN, BUS_DATA_PIN = {', '.join(numbers)}\nlocked = 0\n", 1)
    if "Servo" in _asked(said):
        found.append("micropython_servo.py")
    if _asked(said) & set(GUARDS):
        found.append("micropython_watchdog.py")
    if heads:
        text = text.replace("import time\n", "\n".join([*heads, "import time"]) + "\n", 1)
    return text.rstrip() + "\n" + "".join((LAYERS / name).read_text().rstrip() + "\n" for name in found)


def _asked(said: str) -> set[str]:
    """What is taken from the layer."""
    found: set[str] = set()
    for names in re.findall(r"^from hardware import (\w[^\n]*|\([^)]*\))", said, re.MULTILINE):
        found |= set(re.findall(r"\w+", names))
    return found
