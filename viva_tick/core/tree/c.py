"""A module as C11: types without methods, functions that are given what they work on, nothing made while it runs."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace

from .braces import BEHIND, UNARY, BracesWriter
from .meaning import Known, Scope, snaked
from .nodes import (
    Call,
    Cast,
    Declare,
    Enum,
    Expression,
    Function,
    Member,
    Module,
    Name,
    Number,
    Pointer,
    Raw,
    Remark,
    Row,
    Struct,
    Taken,
    Type,
    Variable,
    Within,
    inside,
)
from .tokens import NotationError


class CWriter(BracesWriter):
    """Writes one module. `calls` are what functions from outside are called, `methods` the same by (thing or type,
    method), `types` what types from outside are; `given` and `classes` as `Known` has them."""

    def __init__(
        self,
        module: Module,
        calls: Mapping[str, str],
        methods: Mapping[tuple[str, str], str],
        types: Mapping[str, str],
        given: dict[str, str],
        classes: dict[str, dict[str, str]],
    ) -> None:
        super().__init__(Known(module, given, classes))
        self.module, self.calls, self.methods, self.types = module, calls, methods, types
        self.made: dict[str, list[tuple[str, ...]]] = {}
        for part in module.parts:
            for node in inside(part):
                if isinstance(node, Declare) and node.type.made_with:
                    ways = self.made.setdefault(node.type.name, [])
                    if node.type.made_with not in ways:
                        ways.append(node.type.made_with)
        self.numbers: dict[str, str] = {}  # what the type at hand is made with

    # Types.

    def type(self, kind: Type) -> str:
        """A type as C has it."""
        name = self.types.get(kind.name, kind.name)
        if kind.made_with:
            name = self.made_name(kind.name, kind.made_with)
        stars = "*" * (kind.pointers + kind.reference)
        words = ["const"] if kind.fixed else []
        words += ["volatile"] if kind.volatile else []
        return " ".join([*words, name, *([stars] if stars else [])])

    def made_name(self, name: str, made_with: tuple[str, ...]) -> str:
        """Median<5> → Median_5."""
        return "_".join([name, *made_with])

    def _joined(self, kind: str, rest: str) -> str:
        return f"{kind}{rest}" if kind.endswith("*") else f"{kind} {rest}"

    def declared(self, one: Declare) -> str:
        """See `BracesWriter.declared`."""
        said = []
        for name in one.names:
            sizes = "".join("[]" if size == Name("") else f"[{self.value(size)}]" for size in name.sizes)
            begins = f" = {self._row(name.begins)}" if name.begins is not None else ""
            said.append(f"{name.ident}{sizes}{begins}")
        return self._joined(self.type(one.type), ", ".join(said))

    def _row(self, one: Expression) -> str:
        return "{0}" if isinstance(one, Row) and not one.values else self.value(one)

    # Values.

    def name(self, ident: str) -> str:
        """See `BracesWriter.name`."""
        scope = self.scope
        if ident == "nullptr":
            return "NULL"
        if ident in scope.locals:
            return ident
        if ident in self.numbers:
            return self.numbers[ident]
        if ident in scope.methods and scope.struct:
            return f"{self.prefix()}_{ident}"
        if ident in scope.fields:
            return f"self->{ident}"
        if ident in self.known.globals or ident in self.module.functions:
            return ident
        return self.calls.get(ident, ident)

    def prefix(self) -> str:
        """What the names of the functions of the type at hand begin with."""
        struct = self.scope.struct
        assert struct is not None
        return snaked(self.made_name(struct.ident, tuple(self.numbers.values())))

    def within(self, one: Within) -> str:
        """See `BracesWriter.within`."""
        if one.of in self.known.enums:
            return self.known.state(one.of, one.ident)
        return f"{snaked(one.of)}_{one.ident}"

    def _points(self, one: Expression) -> bool:
        """Whether a value is an address here: another type's by reference."""
        if isinstance(one, Name) and self.scope.struct and one.ident not in self.scope.locals:
            for part in self.scope.struct.fields:
                if isinstance(part, Declare) and any(name.ident == one.ident for name in part.names):
                    return part.type.reference
        return False

    def member(self, one: Member) -> str:
        """See `BracesWriter.member`."""
        return f"{self.text(one.of, BEHIND)}{'->' if self._points(one.of) else '.'}{one.ident}"

    def call(self, one: Call) -> str:
        """See `BracesWriter.call`."""
        given = [self.value(value) for value in one.given]
        match one.of:
            case Name("digitalPinToInterrupt"):
                return given[0]
            case Name(ident) if ident in self.scope.methods:
                static = self.scope.methods[ident].gives.static
                return f"{self.name(ident)}({', '.join([*([] if static else ['self']), *given])})"
            case Member(Name(thing), method) if (thing, method) in self.methods:
                return f"{self.methods[thing, method]}({', '.join(given)})"
            case Member(of, method):
                kind = self.scope.type_of(of)
                if (kind.name, method) in self.methods:
                    return f"{self.methods[kind.name, method]}({', '.join([self._address(of), *given])})"
                struct = self.known.structs.get(kind.name)
                if struct and any(own.ident == method for own in struct.methods):
                    prefix = snaked(self.made_name(kind.name, kind.made_with))
                    return f"{prefix}_{method}({', '.join([self._address(of), *given])})"
        return f"{self.text(one.of, BEHIND)}({', '.join(given)})"

    def _address(self, one: Expression) -> str:
        return self.text(one, BEHIND) if self._points(one) else f"&{self.text(one, UNARY)}"

    def cast(self, one: Cast) -> tuple[str, int]:
        """See `BracesWriter.cast`."""
        return f"({self.type(one.to)}){self.text(one.what, UNARY)}", UNARY

    # Declarations.

    def helpers(self, parts: Iterable[object]) -> str:
        """Parts as a header has them: types and functions that are there for who includes it."""
        self.lines = []
        for part in parts:
            self._part(part, "static inline ")
        return "\n".join([*self.lines, ""])

    def program(self, parts: Iterable[object], first: tuple[str, ...]) -> str:
        """Parts as a program's file has them: names, variables, then functions, `first` those that a reader looks for,
        which others call from outside."""
        parts = list(parts)
        functions = [part for part in parts if isinstance(part, Function)]
        rest = [part for part in parts if not isinstance(part, Function)]
        self.lines = []
        fixed = [part for part in rest if not isinstance(part, Declare) or part.type.fixed]
        for part in fixed:
            self._part(part, "static ")
        self._space()
        for one in functions:
            self.line(f"{self.head(one, '' if one.ident in first else 'static ')};")
        self._space()
        for part in rest:
            if part not in fixed:
                self._part(part, "static ")
        for one in sorted(functions, key=lambda one: first.index(one.ident) if one.ident in first else len(first)):
            self._part(one, "" if one.ident in first else "static ")
        return "\n".join([*self.lines, ""])

    def _space(self) -> None:
        while self.lines and not self.lines[-1]:
            self.lines.pop()
        self.lines += [""] if self.lines else []

    def _part(self, part: object, kept: str) -> None:
        self.scope = Scope(self.known)
        match part:
            case Raw():
                raise NotationError(f"for one compiler alone: {part.text}")
            case Struct():
                for made_with in self.made.get(part.ident, [()] if not part.made_with else []):
                    self._struct(part, made_with, kept)
            case Enum():
                self._space()
                self.above(replace(part, gap=False))
                names = []
                for value, begins in part.values:
                    name = self.known.state(part.ident, value) if part.own else value
                    names.append(name if begins is None else f"{name} = {self.value(begins)}")
                self.line(f"typedef enum {{ {', '.join(names)} }} {part.ident};", 0, part.note)
            case Function():
                self._space()
                self.above(replace(part, gap=False))
                self.function(part, kept)
            case Declare():
                self.above(part)
                self._global(part, kept)
            case Remark():
                self.above(part)

    def _global(self, part: Declare, kept: str) -> None:
        for one in part.names:
            if part.type.fixed and not one.sizes and one.begins is not None:
                self.line(f"#define {one.ident} {self.text(one.begins, BEHIND)}", 0, part.note)
                continue
            sizes = "".join("[]" if size == Name("") else f"[{self.value(size)}]" for size in one.sizes)
            begins = self._begins(part.type, one)
            placed = " HW_KEPT" if one.placed else ""
            said = self._joined(self.type(part.type), f"{one.ident}{sizes}{placed}{f' = {begins}' if begins else ''};")
            self.line(f"{kept.replace('inline ', '')}{said}", 0, part.note)

    def _begins(self, kind: Type, one: Variable) -> str:
        struct = self.known.structs.get(kind.name)
        if struct is None or kind.pointers or one.sizes:
            return self._row(one.begins) if one.begins is not None else ""
        maker = struct.maker
        given = dict(zip((taken.ident for taken in maker.takes), one.given or (), strict=False)) if maker else {}
        by_address = {taken.ident for taken in maker.takes if taken.type.reference} if maker else set()
        fields: list[str] = []
        made = dict(maker.fields) if maker else {}
        for part in struct.fields:
            if isinstance(part, Pointer):
                continue
            for field in part.names:
                if field.ident in made:
                    source = made[field.ident]
                    taken = source.ident if isinstance(source, Name) else ""
                    value = given.get(taken, source)
                    fields.append(f".{field.ident} = {'&' if taken in by_address else ''}{self.value(value)}")
                elif field.begins is not None and not self._is_nothing(field.begins):
                    fields.append(f".{field.ident} = {self._row(field.begins)}")
        return f"{{{', '.join(fields)}}}" if fields else ""

    def _is_nothing(self, one: Expression) -> bool:
        """What a variable begins with by itself."""
        match one:
            case Number():
                return one.value == 0
            case Name(ident):
                first = {enum.values[0][0] for enum in self.known.enums.values() if enum.values[0][1] is None}
                return ident in {"false", "nullptr", *first}
            case Row():
                return not one.values
        return False

    def _struct(self, part: Struct, made_with: tuple[str, ...], kept: str) -> None:
        self.numbers = dict(zip(part.made_with, made_with, strict=True))
        name = self.made_name(part.ident, made_with)
        self.scope = Scope(self.known, None, part)
        self._space()
        self.above(replace(part, gap=False))
        self.fields(part, name)
        self.lines.append("")
        own = f"{name} *self"
        heads = [self.head(method, kept, own) for method in part.methods]
        if len(heads) > 1:
            for head in heads:
                self.line(f"{head};")
        for method in part.methods:
            self._space()
            self.above(replace(method, gap=False))
            self.function(method, kept, part, own)
        self.numbers = {}

    def fields(self, part: Struct, name: str) -> None:
        """A type with what it is made of."""
        if not part.fields:
            self.line(f"typedef struct {{ char nothing; }} {name};")
        else:
            self.line("typedef struct {")
            for field in part.fields:
                self.above(replace(field, gap=False), 1)
                if isinstance(field, Pointer):
                    takes = self._takes(field.takes)
                    self.line(f"{self.type(field.gives)} (*{field.ident})({takes});", 1, field.note)
                    continue
                bare = Declare(type=replace(field.type, fixed=field.type.fixed and field.type.pointers > 0),
                               names=tuple(Variable(one.ident, one.sizes) for one in field.names))  # fmt: skip
                self.line(f"{self.declared(bare)};", 1, field.note)
            self.line(f"}} {name};")

    def _takes(self, takes: tuple[Taken, ...], own: str = "") -> str:
        rows = [own] if own else []
        for place, taken in enumerate(takes):
            rows.append(self._joined(self.type(taken.type), taken.ident or f"unused_{place}"))
        return ", ".join(rows) or "void"

    def head(self, one: Function, kept: str, own: str = "") -> str:
        """A function's first line, without its brace."""
        static = one.gives.static
        name = one.ident
        if own:
            kind = own.removesuffix(" *self")
            name = f"{snaked(kind)}_{one.ident}"
        takes = self._takes(one.takes, "" if static else own)
        return f"{kept}{self._joined(self.type(replace(one.gives, static=False)), name)}({takes})"

    def function(self, one: Function, kept: str, struct: Struct | None = None, own: str = "") -> None:
        """A function."""
        self.scope = Scope(self.known, one, struct)
        self.line(f"{self.head(one, kept, own)} {{", 0, one.note)
        if own and not one.gives.static and not self._uses_own(one):
            self.line("(void)self;", 1)
        for place, taken in enumerate(one.takes):
            if not taken.ident:
                self.line(f"(void)unused_{place};", 1)
        self.body(one.body, 1)
        self.line("}")
        self.scope = Scope(self.known, None, struct)

    def _uses_own(self, one: Function) -> bool:
        known = {*self.scope.fields, *self.scope.methods} - {*self.scope.locals}
        return any(isinstance(node, Name) and node.ident in known for part in one.body for node in inside(part))
