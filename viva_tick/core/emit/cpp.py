"""The program in C++, for builders of `setup()` and `loop()`: as one loop, or as tasks of a kernel."""

from __future__ import annotations

from ..document import Bench
from ..program import in_its_school
from .assembled import Assembled, assembled, in_one_loop, under_a_kernel
from .files import Emitted, File
from .kernel import ASKED, KernelTexts, can_kernel, why_none
from .warnings import Warnings


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
    head = "\n".join(f"// {line}".rstrip() for line in made.head) + "\n"
    if made.headers:
        head += "\n" + "".join(f"#include <{header}>\n" for header in made.headers)
    made.layout.head = [head + asked]
    return Emitted((File(".ino", made.layout.text()),), made.notes)


def sketch(bench: Bench, said: Warnings = ()) -> str:
    """The sketch as text: see `sketch_files`."""
    return sketch_files(bench, said).text
