"""A module as C++ for the boards' builders: types with their methods, as our notation has them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace

from .braces import BEHIND, UNARY, BracesWriter
from .meaning import Known
from .nodes import (
    Call,
    Cast,
    Declare,
    Enum,
    Expression,
    Function,
    Maker,
    Member,
    Module,
    Name,
    Pointer,
    Raw,
    Remark,
    Row,
    Struct,
    Taken,
    Type,
    Within,
)


def head_of_macro(one: Function) -> str:
    """The first line of a function that a macro names, without its brace."""
    return f"{one.ident}({one.takes[0].type.name})"


def enum_line(one: Enum, value: Callable[[Expression], str]) -> str:
    """A type of names; `value` writes numbers."""
    names = [name if begins is None else f"{name} = {value(begins)}" for name, begins in one.values]
    return f"{'enum class' if one.own else 'enum'} {one.ident} : {one.base} {{ {', '.join(names)} }};"


def maker_line(ident: str, one: Maker, takes: str, value: Callable[[Expression], str]) -> str:
    """How something of a type is made."""
    fields = ", ".join(f"{name}({value(of)})" for name, of in one.fields)
    return f"{'explicit ' if len(one.takes) == 1 else ''}{ident}({takes}) : {fields} {{}}"


class CppDeclares(BracesWriter):
    """How types, variables, casts and prototypes are written."""

    defines = False

    def type_name(self, kind: Type) -> str:
        """A type's name, with what it is made with."""
        return f"{kind.name}<{', '.join(kind.made_with)}>" if kind.made_with else kind.name

    def type(self, kind: Type) -> str:
        """A type."""
        words = [
            word for word, said in (("static", kind.static), ("const", kind.fixed), ("volatile", kind.volatile)) if said
        ]
        stars = "*" * kind.pointers + "&" * kind.reference
        return " ".join([*words, self.type_name(kind), *([stars] if stars else [])])

    @staticmethod
    def _joined(kind: str, rest: str) -> str:
        return f"{kind}{rest}" if kind.endswith(("*", "&")) else f"{kind} {rest}"

    def declared(self, one: Declare) -> str:
        """See `BracesWriter.declared`."""
        said = []
        for name in one.names:
            text = name.ident + "".join("[]" if size == Name("") else f"[{self.value(size)}]" for size in name.sizes)
            text += f" {name.placed}" if name.placed else ""
            if name.given is not None:
                text += f"({', '.join(map(self.value, name.given))})"
            elif name.begins is not None:
                empty = isinstance(name.begins, Row) and not name.begins.values
                text += " = {}" if empty else f" = {self.value(name.begins)}"
            said.append(text)
        return self._joined(self.type(one.type), ", ".join(said))

    def member(self, one: Member) -> str:
        """See `BracesWriter.member`."""
        return f"{self.text(one.of, BEHIND)}{'->' if one.through else '.'}{one.ident}"

    def cast(self, one: Cast) -> tuple[str, int]:
        """See `BracesWriter.cast`."""
        kind = self.type(one.to)
        if one.how == "c":
            return f"({kind}){self.text(one.what, UNARY)}", UNARY
        if one.how:
            return f"{one.how}<{kind}>({self.value(one.what)})", BEHIND
        return f"{kind}({self.value(one.what)})", BEHIND

    def head(self, one: Function) -> str:
        """A function's first line, without its brace."""
        raise NotImplementedError

    def prototypes(self, parts: Iterable[object], but: Iterable[str]) -> list[str]:
        """What functions take and give, for those before them."""
        return [
            f"{self.head(one)};"
            for one in parts
            if isinstance(one, Function) and one.ident not in but and not one.macro and not one.plain_c
        ]

    def variables(self, part: Declare) -> None:
        """Variables of a file; with `defines` numbers that never change are macros."""
        if self.defines and part.type.fixed and all(not one.sizes and one.begins is not None for one in part.names):
            for one in part.names:
                assert one.begins is not None
                self.line(f"#define {one.ident} {self.text(one.begins, BEHIND)}", 0, part.note)
            return
        self.line(f"{self.declared(part)};", 0, part.note)


class CppWriter(CppDeclares):
    """Writes one module; with `defines` numbers that never change are macros."""

    def __init__(self, module: Module, defines: bool = False) -> None:
        super().__init__(Known(module, {}, {}))
        self.module, self.defines = module, defines

    # Values.

    def name(self, ident: str) -> str:
        """See `BracesWriter.name`."""
        return ident

    def call(self, one: Call) -> str:
        """See `BracesWriter.call`."""
        return f"{self.text(one.of, BEHIND)}({', '.join(map(self.value, one.given))})"

    def within(self, one: Within) -> str:
        """See `BracesWriter.within`."""
        return f"{one.of}::{one.ident}"

    # Declarations.

    def _takes(self, takes: tuple[Taken, ...]) -> str:
        rows = []
        for taken in takes:
            kind = self.type(taken.type)
            rows.append(self._joined(kind, taken.ident) if taken.ident else kind)
        return ", ".join(rows)

    def helpers(self, parts: Iterable[object]) -> str:
        """Parts as they stand."""
        self.lines = []
        for part in parts:
            self._part(part)
        return "\n".join([*self.lines, ""])

    def _space(self) -> None:
        while self.lines and not self.lines[-1]:
            self.lines.pop()
        self.lines += [""] if self.lines else []

    def _part(self, part: object) -> None:
        match part:
            case Raw():
                self.above(part)
                self.lines += part.text.splitlines()
            case Enum():
                self._space()
                self.above(replace(part, gap=False))
                self.line(enum_line(part, self.value), 0, part.note)
            case Struct():
                self._struct(part)
            case Function():
                self._space()
                self.above(replace(part, gap=False))
                self._function(part, 0)
            case Declare():
                self.above(part)
                self.variables(part)
            case Remark():
                self.above(part)

    def _struct(self, part: Struct) -> None:
        self._space()
        self.above(replace(part, gap=False))
        if part.made_with:
            self.line(f"template <{', '.join(f'uint8_t {name}' for name in part.made_with)}>")
        self.line(f"struct {part.ident} {{")
        for one in part.parts:
            match one:
                case Declare():
                    self.above(one, 1)
                    self.line(f"{self.declared(one)};", 1, one.note)
                case Pointer():
                    self.above(one, 1)
                    self.line(
                        f"{self.type(one.gives)} (*{one.ident})({self._takes(one.takes)}) = nullptr;", 1, one.note
                    )
                case Maker():
                    self._gap()
                    self.line(maker_line(part.ident, one, self._takes(one.takes), self.value), 1)
                case Function():
                    self._gap()
                    self.above(replace(one, gap=False), 1)
                    self._function(one, 1)
        self.line("};")
        self.lines.append("")

    def _gap(self) -> None:
        if self.lines and self.lines[-1] and not self.lines[-1].startswith("struct "):
            self.lines.append("")

    def head(self, one: Function) -> str:
        """See `CppDeclares.head`."""
        if one.macro:
            return head_of_macro(one)
        before = 'extern "C" ' if one.plain_c else ""
        takes = "void" if one.plain_c and not one.takes else self._takes(one.takes)
        return f"{before}{self._joined(self.type(one.gives), one.ident)}({takes}){' const' if one.keeps else ''}"

    def _function(self, one: Function, deep: int) -> None:
        head = self.head(one)
        if not one.body:
            self.line(f"{head} {{}}", deep, one.note)
            return
        if len(one.body) == 1 and one.one_line and self._is_short(one.body[0]):
            whole = f"{head} {{ {self._one_line(one.body[0])} }}"
            if len(whole) + 2 * deep <= 100:
                self.line(whole, deep, one.note or one.body[0].note)
                return
        self.line(f"{head} {{", deep, one.note)
        self.body(one.body, deep + 1)
        self.line("}", deep)
