"""A module as C++ for the boards' builders with plain functions: types hold fields and how they begin, and what is done
with one is a function that is given it. For those who would rather read no methods."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from .c import CWriter
from .cpp import CppDeclares, enum_line, head_of_macro, maker_line
from .meaning import Scope
from .nodes import (
    Call,
    Declare,
    Enum,
    Expression,
    Function,
    Maker,
    Module,
    Name,
    Pointer,
    Raw,
    Struct,
    Taken,
    Type,
    Within,
)


class PlainWriter(CppDeclares, CWriter):
    """Writes one module; with `defines` numbers that never change are macros. `given` and `classes` as `Known` has
    them."""

    def __init__(
        self, module: Module, given: dict[str, str], classes: dict[str, dict[str, str]], defines: bool = False
    ) -> None:
        CWriter.__init__(self, module, {}, {}, {}, given, classes)
        self.defines = defines

    def type_name(self, kind: Type) -> str:
        """See `CppDeclares.type_name`."""
        return self.made_name(kind.name, kind.made_with) if kind.made_with else kind.name

    def name(self, ident: str) -> str:
        """See `BracesWriter.name`."""
        return ident if ident == "nullptr" else super().name(ident)

    def within(self, one: Within) -> str:
        """See `BracesWriter.within`."""
        return f"{one.of}::{one.ident}" if one.of in self.known.enums else super().within(one)

    def call(self, one: Call) -> str:
        """See `BracesWriter.call`."""
        if one.of == Name("digitalPinToInterrupt"):
            return f"digitalPinToInterrupt({self.value(one.given[0])})"
        return super().call(one)

    def _points(self, one: Expression) -> bool:
        return False

    def helpers(self, parts: Iterable[object]) -> str:
        """Parts as they stand."""
        self.lines = []
        for part in parts:
            self._part(part, "")
        return "\n".join([*self.lines, ""])

    def _part(self, part: object, kept: str) -> None:
        match part:
            case Raw():
                self.above(part)
                self.lines += part.text.splitlines()
            case Enum():
                self._space()
                self.above(replace(part, gap=False))
                self.line(enum_line(part, self.value), 0, part.note)
            case _:
                super()._part(part, kept)

    def _global(self, part: Declare, kept: str) -> None:
        self.variables(part)

    def fields(self, part: Struct, name: str) -> None:
        """A type with its fields, and how it begins."""
        self.line(f"struct {name} {{")
        for one in part.parts:
            match one:
                case Declare():
                    self.above(replace(one, gap=False), 1)
                    self.line(f"{self.declared(one)};", 1, one.note)
                case Pointer():
                    self.above(replace(one, gap=False), 1)
                    said = f"{self.type(one.gives)} (*{one.ident})({self._takes(one.takes)}) = nullptr"
                    self.line(f"{said};", 1, one.note)
                case Maker():
                    self.lines.append("")
                    self.line(maker_line(name, one, self._takes(one.takes), self.value), 1)
        self.line("};")

    def _takes(self, takes: tuple[Taken, ...], own: str = "") -> str:
        rows = [own] if own else []
        rows += [self._joined(self.type(one.type), one.ident) if one.ident else self.type(one.type) for one in takes]
        return ", ".join(rows)

    def head(self, one: Function, kept: str = "", own: str = "") -> str:
        """A function's first line, without its brace."""
        if one.macro:
            return head_of_macro(one)
        head = CWriter.head(self, one, kept, own)
        return f'extern "C" {head.replace("()", "(void)")}' if one.plain_c else head

    def function(self, one: Function, kept: str, struct: Struct | None = None, own: str = "") -> None:
        """A function."""
        self.scope = Scope(self.known, one, struct)
        head = self.head(one, kept, own)
        unused = bool(own) and not one.gives.static and not self._uses_own(one)
        if not one.body:
            self.line(f"{head} {{}}" if not unused else f"{head} {{ (void)self; }}", 0, one.note)
        else:
            self.line(f"{head} {{", 0, one.note)
            if unused:
                self.line("(void)self;", 1)
            self.body(one.body, 1)
            self.line("}")
        self.scope = Scope(self.known, None, struct)
