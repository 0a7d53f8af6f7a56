"""What the names of a module mean, and of what type a value is. An `int` of the notation has 16 bits at least."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, replace

from .nodes import (
    Binary,
    Call,
    Cast,
    Choose,
    Count,
    Declare,
    Enum,
    Expression,
    For,
    Function,
    Index,
    Letter,
    Member,
    Module,
    Name,
    Number,
    Pointer,
    Row,
    Set,
    Struct,
    Taken,
    Type,
    Unary,
    Within,
    Words,
    inside,
)

ASKS = {"||", "&&", "==", "!=", "<", ">", "<=", ">="}
UNSIGNED = {"uint8_t": 8, "uint16_t": 16, "uint32_t": 32, "uint64_t": 64}


@dataclass(frozen=True)
class Shape:
    """The type of a value: its name, how many rows deep."""

    name: str
    rows: int = 0
    made_with: tuple[str, ...] = ()


INT, BOOL, VOID = Shape("int"), Shape("bool"), Shape("void")


def shape(kind: Type, sizes: int = 0) -> Shape:
    """The shape of something declared so."""
    return Shape(kind.name, kind.pointers + sizes, kind.made_with)


def joined(one: Shape, other: Shape) -> Shape:
    """What two numbers make together."""
    for name in ("int64_t", "uint64_t", "uint32_t"):
        if name in (one.name, other.name):
            return Shape(name)
    return INT


# What headers and layers call so already.
MACROS = {"INPUT_PULLUP", "INPUT_PULLDOWN", "HW_KEPT", "HARDWARE_H", "HELPERS_H", "SIZE_MAX", "PTRDIFF_MAX"}
MACROS |= {f"{kind}{bits}_{end}" for kind in ("INT", "UINT") for bits in (8, 16, 32, 64) for end in ("MIN", "MAX")}


def snaked(ident: str) -> str:
    """WaitUntilStable → wait_until_stable."""
    return re.sub(r"(?<!^)(?<!_)([A-Z])", r"_\1", ident).lower().strip("_")


def screaming(ident: str) -> str:
    """WaitUntilStable → WAIT_UNTIL_STABLE."""
    return snaked(ident).upper()


class Known:
    """What a module declares. `given` are functions from outside, by name, with what they give; `classes` are
    types from outside with their methods'."""

    def __init__(self, module: Module, given: dict[str, str], classes: dict[str, dict[str, str]]) -> None:
        self.module = module
        self.structs = module.structs
        self.functions: dict[str, Shape] = {name: Shape(gives) for name, gives in given.items()}
        self.functions |= {name: shape(one.gives) for name, one in module.functions.items()}
        self.classes = classes
        self.enums = {part.ident: part for part in module.parts if isinstance(part, Enum)}
        self.values = {value: ident for ident, enum in self.enums.items() if not enum.own for value, _ in enum.values}
        self._states: dict[tuple[str, str], str] = {}
        self.globals: dict[str, Shape] = {}
        for part in module.parts:
            if isinstance(part, Declare):
                for one in part.names:
                    self.globals[one.ident] = shape(part.type, len(one.sizes))

    def state(self, enum: str, value: str) -> str:
        """The name of one of an enum's values, where it is not said with the enum's: nothing else has it."""
        if not self._states:
            taken = {*self.globals, *self.values, *self.functions, *self.structs, *MACROS}
            for ident, one in self.enums.items():
                for own, _ in one.values if one.own else ():
                    name = f"{screaming(ident)}_{screaming(own)}"
                    while name in taken:
                        name += "_"
                    taken.add(name)
                    self._states[ident, own] = name
        return self._states[enum, value]

    def fields(self, struct: Struct) -> dict[str, Shape]:
        """The fields of a type."""
        found: dict[str, Shape] = {}
        for part in struct.fields:
            if isinstance(part, Pointer):
                found[part.ident] = Shape("function", 0, (part.gives.name,))
            else:
                found |= {one.ident: shape(part.type, len(one.sizes)) for one in part.names}
        return found


def locals_of(takes: Iterable[Taken], body: Iterable[object]) -> dict[str, Shape]:
    """What a function declares itself, its parameters included."""
    found = {one.ident: shape(one.type) for one in takes if one.ident}
    for statement in body:
        for node in inside(statement):
            if isinstance(node, Declare):
                found |= {one.ident: shape(node.type, len(one.sizes)) for one in node.names}
            elif isinstance(node, For) and isinstance(node.first, Declare):
                found |= {one.ident: shape(node.first.type) for one in node.first.names}
    return found


class Scope:
    """What names mean within a function, or outside of all (`function` None)."""

    def __init__(self, known: Known, function: Function | None = None, struct: Struct | None = None) -> None:
        self.known, self.struct, self.function = known, struct, function
        self.locals = locals_of(function.takes, function.body) if function else {}
        self.is_static = bool(function and function.gives.static)
        self.fields = known.fields(struct) if struct else {}
        self.methods = {one.ident: one for one in struct.methods} if struct else {}

    def type_of(self, one: Expression) -> Shape:
        """The type of a value."""
        match one:
            case Number():
                return {"UL": Shape("uint32_t"), "LL": Shape("int64_t")}.get(one.bits, INT)
            case Letter():
                return Shape("char")
            case Words():
                return Shape("char", 1)
            case Name():
                return self.name(one.ident)
            case Within():
                return Shape(one.of)
            case Member():
                return self.member(one)
            case Index():
                of = self.type_of(one.of)
                return replace(of, rows=of.rows - 1)
            case Call():
                return self.call(one)
            case Cast():
                return shape(one.to)
            case Unary():
                return self._unary(one)
            case Binary():
                if one.sign in ASKS:
                    return BOOL
                left = self.type_of(one.left)
                return joined(left, INT) if one.sign in ("<<", ">>") else joined(left, self.type_of(one.right))
            case Choose():
                yes, no = self.type_of(one.yes), self.type_of(one.no)
                return yes if yes == no else joined(yes, no)
            case Set() | Count():
                return self.type_of(one.target)
            case Row():
                return Shape("row")

    def _unary(self, one: Unary) -> Shape:
        if one.sign == "!":
            return BOOL
        what = self.type_of(one.what)
        if one.sign == "&":
            return replace(what, rows=what.rows + 1)
        if one.sign == "*":
            return replace(what, rows=what.rows - 1)
        return Shape("uint32_t") if one.sign == "sizeof" else joined(what, INT)

    def name(self, ident: str) -> Shape:
        """The type of what a name stands for."""
        if ident in ("true", "false"):
            return BOOL
        for place in (self.locals, self.fields, self.known.globals):
            if ident in place:
                return place[ident]
        if ident in self.known.values:
            return Shape(self.known.values[ident])
        return INT

    def member(self, one: Member) -> Shape:
        """The type of a field."""
        struct = self.known.structs.get(self.type_of(one.of).name)
        return self.known.fields(struct)[one.ident] if struct else INT

    def call(self, one: Call) -> Shape:
        """The type of what a call gives."""
        match one.of:
            case Name(ident):
                if ident in self.methods:
                    return shape(self.methods[ident].gives)
                if ident in self.fields:
                    return Shape(self.fields[ident].made_with[0])
                return self.known.functions.get(ident, INT)
            case Member(of, ident):
                name = self.type_of(of).name
                if name in self.known.structs:
                    found = {method.ident: method for method in self.known.structs[name].methods}
                    if ident in found:
                        return shape(found[ident].gives)
                    return Shape(self.member(one.of).made_with[0])
                whose = of.ident if isinstance(of, Name) and of.ident in self.known.classes else name
                return Shape(self.known.classes.get(whose, {}).get(ident, "int"))
            case Within(of, ident):
                return next(shape(method.gives) for method in self.known.structs[of].methods if method.ident == ident)
        return INT
