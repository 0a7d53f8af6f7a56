"""The program in C++, for builders of `setup()` and `loop()`: as one loop, or as tasks of a kernel.

Such builders put prototypes of all functions before the first of them. A type that stands after that is unknown in its
own function's signature; so all types and constants come first, then our own prototypes, variables, functions.
"""

from __future__ import annotations

from ..document import Bench, Style
from ..program import in_its_school
from ..tree.cpp import CppWriter
from ..tree.nodes import Declare, Function, Module, Part
from ..tree.plain import PlainWriter
from .assembled import Assembled, assembled, in_one_loop, under_a_kernel
from .files import Emitted, File
from .hardware import CLASSES, GIVEN
from .kernel import ASKED, KernelTexts, can_kernel, why_none
from .parted import FIRST, parted
from .style import in_style
from .warnings import Warnings
from .yours import TOP, place

HELPERS = "helpers.h"
SAME = "// What the program is made of: the same in every bench's."


def can_sketch(bench: Bench) -> bool:
    """Whether the bench's board is programmed with `setup()` and `loop()`."""
    return bench.the_board.program is not None


def sketch_files(bench: Bench, said: Warnings = ()) -> Emitted:
    """The whole sketch; `said` are the findings that must be fixed, for its head. ValueError for a board without such a
    compiler: see `can_sketch`."""
    whole = in_its_school(bench)
    words = whole.the_board.program
    if words is None:
        raise ValueError(f"There is no program for this board: {whole.the_board.name}.")
    return _written(assembled(whole, in_one_loop(whole), words, said))


def kernel_files(bench: Bench, said: Warnings = ()) -> Emitted:
    """The same as tasks of a kernel; ValueError for a bench or a board without one: see `can_kernel`."""
    whole = in_its_school(bench)
    words = whole.the_board.program
    if words is None or words.kernel is None or not can_kernel(whole):
        raise ValueError(f"There is no program of tasks: {why_none(whole) or 'the bench runs without a kernel.'}")
    made = assembled(whole, under_a_kernel(whole), words, said, KernelTexts(whole, words.kernel))
    return _written(made, ASKED)


def _written(made: Assembled, asked: str = "") -> Emitted:
    """Two files: what is this bench's own, and what it is made of."""
    includes = "".join(f"#include <{header}>\n" for header in made.headers)
    own, helpers = _texts(made)
    top = "\n".join([*place(TOP), ""])
    head = "\n".join(f"// {line}".rstrip() for line in made.head)
    files = [File(".ino", "\n".join(filter(None, (f"{head}\n", includes, asked, f'#include "{HELPERS}"\n{top}', own))))]
    guard = "HELPERS_H"
    opened = f"{SAME}\n#ifndef {guard}\n#define {guard}\n"
    files.append(File("", "\n".join(filter(None, (opened, includes, helpers, "#endif\n"))), HELPERS))
    return Emitted(tuple(in_style(file, made.style) for file in files), made.notes)


def _texts(made: Assembled) -> tuple[str, str]:
    """(own, helpers) as text."""
    helpers, own = parted(made.layout)
    writer = _writer(Module((*helpers.parts, *own.parts)), made.style)
    fixed = [part for part in own.parts if not isinstance(part, Function) and not _varies(part)]
    values = [part for part in own.parts if _varies(part)]
    functions = [part for part in own.parts if isinstance(part, Function)]
    prototypes = "\n".join(writer.prototypes(functions, FIRST))
    rows = [writer.helpers(fixed), f"{prototypes}\n" if prototypes else "", writer.helpers(values)]
    text = "\n".join(row.strip("\n") + "\n" for row in [*rows, writer.helpers(functions)] if row.strip())
    early = "".join(made.layout.early)
    before = "\n".join([early, *writer.prototypes(helpers.parts, ["stand_still"] if early else [])])
    body = [part for part in helpers.parts if not isinstance(part, Function)]
    said = [part for part in helpers.parts if isinstance(part, Function)]
    helping = [f"{before.strip()}\n" if before.strip() else "", writer.helpers(body), writer.helpers(said)]
    return text, "\n".join(row.strip("\n") + "\n" for row in helping if row.strip())


def _writer(module: Module, style: Style) -> CppWriter | PlainWriter:
    defines = style.constants == "define"
    if style.helpers == "functions":
        return PlainWriter(module, GIVEN, CLASSES, defines)
    return CppWriter(module, defines)


def _varies(part: Part) -> bool:
    """Whether it is a variable, which comes after what says how functions are called."""
    return isinstance(part, Declare) and not part.type.fixed


def sketch(bench: Bench, said: Warnings = ()) -> str:
    """The sketch as one text: see `sketch_files`."""
    return in_one(sketch_files(bench, said))


def in_one(made: Emitted) -> str:
    """Both files as one."""
    own, helpers = (file.text for file in made.files)
    return own.replace(f'#include "{HELPERS}"\n', helpers, 1)
