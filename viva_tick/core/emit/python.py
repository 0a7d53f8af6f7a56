"""The program in Python for a board that runs a small runtime of that language: the program, its helper types, and the
layer between it and the board, each a module of its own."""

from __future__ import annotations

import re
import textwrap
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from ..document import CAUSE_EVENTS, Bench
from ..document.parts import Commands, Display
from ..program import in_its_school
from ..tree.nodes import Enum, Function, Member, Module, Name, Part, Struct, Within, inside
from ..tree.python import PythonWriter
from ..tree.wrapped import WIDTH
from .assembled import Assembled, assembled, in_one_loop
from .files import Emitted, File
from .hardware import CLASSES, CONSTANTS, GIVEN, PYTHON_CALLS, PYTHON_METHODS, python_words
from .parted import parted
from .style import in_style, narrow
from .warnings import Warnings
from .yours import TOP, place

LAYERS = Path(__file__).parent / "layers"
GUARDS = ("watchdog_on", "watchdog_feed", "cause", "restart", "each_ms")


def can_small(bench: Bench) -> bool:
    """Whether the board runs a small runtime of Python."""
    board = bench.the_board
    return board.int_bits == 32 and board.program is not None


def can_computer(bench: Bench) -> bool:
    """Whether the board is a computer with pins."""
    return bench.the_board.int_bits == 64


def small_files(bench: Bench, said: Warnings = ()) -> Emitted:
    """The program, its helpers, its layer; ValueError for a board that runs no such runtime: see `can_small`."""
    if not can_small(bench):
        raise ValueError(f"No small runtime of Python is made for this board: {bench.the_board.name}.")
    return python_files(bench, said, SMALL)


def computer_files(bench: Bench, said: Warnings = ()) -> Emitted:
    """The same for a computer; ValueError for another board: see `can_computer`."""
    if not can_computer(bench):
        raise ValueError(f"This board is no computer: {bench.the_board.name}.")
    return python_files(bench, said, COMPUTER)


@dataclass(frozen=True)
class Layer:
    """What stands between the program and its board: the files' names begin with `files`; what each piece takes from
    the language; `program` is its first file's name. `rest`: what the loop does after a pass."""

    files: str
    takes: dict[str, tuple[str, ...]]
    program: str
    rest: str = ""


SMALL = Layer("micropython", {"serial_console": ("select", "sys")}, "main.py")
COMPUTER = Layer(
    "computer",
    {
        "serial_console": ("select", "sys"),
        "serial_wires": ("os", "select", "termios", "tty"),
        "bus": ("fcntl", "os"),
        "watchdog": ("fcntl", "os", "struct", "sys"),
    },
    "program.py",
    "    wait_us(900)  # the processor is others' meanwhile\n",
)


def python_files(bench: Bench, said: Warnings, layer: Layer) -> Emitted:
    """The program over a layer, whatever the board."""
    whole = in_its_school(bench)
    found = assembled(whole, in_one_loop(whole), python_words(whole.the_board), said)
    more = _left_out(whole)
    found.head += [line for note in more for line in ("", note)]
    files = _modules(found, layer)
    notes = [*found.notes, *more]
    return Emitted((*files, narrow(File("", _layer(bench, files, layer), "hardware.py"))), tuple(notes))


def _left_out(bench: Bench) -> list[str]:
    """What a runtime of Python has not, in sentences."""
    found = []
    if any(task.talks and not task.blocking for task in bench.firmware.tasks):
        found.append("Whether the line has room the runtime does not say: what is printed may hold the pass.")
    if bench.firmware.sleep is not None:
        found.append("The bench sleeps; this program waits instead.")
    if bench.firmware.guards and bench.firmware.watchdog.mode != "reset":
        found.append("The runtime's watchdog only resets: for one that calls the program first, take the program in C.")
    listened = {one.on.kind for machine in bench.firmware.machines for one in machine.transitions}
    if listened & {CAUSE_EVENTS["dip"], CAUSE_EVENTS["software"]}:
        found.append("A dip of the supply, and a restart by the program, are not told here from other causes.")
    return found


def _modules(found: Assembled, layer: Layer) -> tuple[File, ...]:
    """The program and its helpers."""
    helpers, own = parted(found.layout)
    writer = PythonWriter(Module((*helpers.parts, *own.parts)), PYTHON_CALLS, PYTHON_METHODS, GIVEN, CLASSES)

    def module(note: str, parts: tuple[Part, ...], more: Iterable[str], given: Iterable[str]) -> str:
        names, text = used(parts), writer.text(parts).rstrip()
        calls = [*more, *(PYTHON_CALLS.get(name, name) for name in names if _of_layer(name))]
        rows = [_taken("hardware", calls, text), _taken("helpers", [name for name in names if name in given])]
        own = [line.replace("//", "#", 1) for line in place(TOP)] if given else []
        return "\n".join([note, *filter(None, rows), *own, "", text, ""])

    head = "\n".join(f"# {line}".rstrip() for line in found.head)
    text = module(head, own.parts, ["wait_us"] if layer.rest else [], declared(helpers.parts))
    files = [File(".py", f"{text}\n\nsetup()\nwhile True:\n    loop()\n{layer.rest}", layer.program)]
    if helpers.parts:
        note = "# What the program is made of: the same in every bench's."
        files.append(File("", module(note, helpers.parts, [], []), "helpers.py"))
    return tuple(in_style(file, found.style) for file in files)


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


def _layer(bench: Bench, files: Iterable[File], layer: Layer) -> str:
    """The layer as far as the program uses it."""
    text = (LAYERS / f"{layer.files}.py").read_text()
    asked = _asked("\n".join(file.text for file in files))
    board = bench.the_board
    wires = any(isinstance(part, Commands) and part.source != "typed" for part in bench.inputs)
    pieces = {
        f"serial_{'wires' if wires else 'console'}": "serial" in asked,
        "bus": "bus" in asked,
        "servo": "Servo" in asked,
        "watchdog": bool(asked & set(GUARDS)),
    }
    found = [name for name, wanted in pieces.items() if wanted]
    constants = [f"CONVERTER_BITS = {board.analogue.bits}\n"] if board.analogue and "measure" in asked else []
    if "bus" in found:
        display = next(part for part in bench.outputs if isinstance(part, Display))
        pins = [board.pin(end) for end in (display.clock, display.data)]
        numbers = [pin.code if pin else "0" for pin in pins]
        constants.append(f"BUS_CLOCK_PIN, BUS_DATA_PIN = {', '.join(numbers)}\n")
    first, rest = text.split("LOW, HIGH = 0, 1\n", 1)
    taken = {name for piece in found for name in layer.takes.get(piece, ())}
    taken |= set(re.findall(r"^import (\w+)$", first, re.MULTILINE)) - {"machine", "gpiod"}
    heads = "".join(f"import {name}\n" for name in sorted(taken))
    first = re.sub(r"(?:^import (?!machine|gpiod)\w+\n)+", heads, first, count=1, flags=re.MULTILINE)
    text = f"{first}LOW, HIGH = 0, 1\n{''.join(constants)}{rest}"
    more = ((LAYERS / f"{layer.files}_{name}.py").read_text().rstrip() + "\n" for name in found)
    return text.rstrip() + "\n" + "".join(more)


def _asked(said: str) -> set[str]:
    """What is taken from the layer."""
    found: set[str] = set()
    for names in re.findall(r"^from hardware import (\w[^\n]*|\([^)]*\))", said, re.MULTILINE):
        found |= set(re.findall(r"\w+", names))
    return found
