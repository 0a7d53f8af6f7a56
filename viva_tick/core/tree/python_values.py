"""Values of our notation as Python has them."""

from __future__ import annotations

import keyword
from collections.abc import Mapping

from .meaning import ASKS, UNSIGNED, Known, Scope, Shape
from .nodes import (
    Binary,
    Call,
    Cast,
    Choose,
    Count,
    Expression,
    Function,
    Index,
    Letter,
    Member,
    Module,
    Name,
    Number,
    Row,
    Set,
    Type,
    Unary,
    Within,
    Words,
)
from .reading_values import STRONG
from .tokens import NotationError

SIGNS = {"&&": "and", "||": "or", "/": "//"}
# How strongly Python binds them: "not" stands between "and" and a comparison.
BINDS = {
    "||": 1,
    "&&": 2,
    "not": 3,
    "|": 5,
    "^": 6,
    "&": 7,
    "<<": 8,
    ">>": 8,
    "+": 9,
    "-": 9,
    "*": 10,
    "/": 10,
    "%": 10,
}
BINDS |= dict.fromkeys(("==", "!=", "<", ">", "<=", ">="), 4)
ONE, CHOOSE = 12, 0
MASKS = {8: "0xFF", 16: "0xFFFF", 32: "MASK", 64: "0xFFFFFFFFFFFFFFFF"}
TAB = "    "


def plain(ident: str) -> str:
    """A name that is no word of the language."""
    return f"{ident}_" if keyword.iskeyword(ident) or ident in ("self", "const") else ident


class PythonValues:
    """What a value is in Python. `calls` are what functions from outside are called there, by their names in the
    notation, `methods` the same by (thing or type, method); `given` what those give, `classes` what such methods
    give."""

    def __init__(
        self,
        module: Module,
        calls: Mapping[str, str],
        methods: Mapping[tuple[str, str], str],
        given: dict[str, str],
        classes: dict[str, dict[str, str]],
    ) -> None:
        self.module, self.calls, self.methods = module, calls, methods
        self.known = Known(module, given, classes)
        self.scope = Scope(self.known)
        self.lines: list[str] = []
        self.apart = False  # the last one was a function or a type

    def value(self, one: Expression) -> str:
        """A value as text."""
        return self._text(one, 0)

    def exact(self, one: Expression, strong: int = 0) -> str:
        """The same, cut to its bits where it could be longer."""
        kind = self.scope.type_of(one)
        if self._goes_round(one) and kind.name in UNSIGNED:
            masked = self._masked(one, UNSIGNED[kind.name])
            return f"({masked})" if strong > BINDS["&"] else masked
        return self._text(one, strong)

    def _masked(self, one: Expression, bits: int) -> str:
        if isinstance(one, Cast):
            return self._cast(one)[0]
        return f"{self._text(one, ONE)} & {MASKS[bits]}"

    def _cut(self, one: Expression, wanted: Shape) -> str:
        """A value as it is kept in something."""
        if wanted.rows or wanted.name not in UNSIGNED:
            return self._text(one, 0)
        bits = UNSIGNED[wanted.name]
        if self._goes_round(one):
            return self._masked(one, bits)
        return self._text(one, 0)

    def _goes_round(self, one: Expression) -> bool:
        """Whether the notation's value may differ from that of endless numbers."""
        match one:
            case Binary("+" | "-" | "*" | "<<", left, right):
                if self.scope.type_of(one).name not in UNSIGNED:
                    return False
                small = isinstance(right, Number) and right.value < 0x10000 and one.sign == "+"
                return not small or self._goes_round(left)
            case Unary("-" | "~", what):
                return self.scope.type_of(what).name in UNSIGNED
            case Cast(to, what):
                return self._narrows(to, what)
            case Choose(_, yes, no):
                return self._goes_round(yes) or self._goes_round(no)
            case Binary("&" | "|" | "^", left, right):
                return self._goes_round(left) or self._goes_round(right)
        return False

    def _narrows(self, to: Type, what: Expression) -> bool:
        """Whether a cast cuts something off; elsewhere in our notation one only says what is known to fit."""
        shifts = isinstance(what, Binary) and what.sign == "<<"
        return to.name in UNSIGNED and (shifts or self._goes_round(what))

    def _text(self, one: Expression, strong: int) -> str:
        """A value among others that bind so strongly."""
        text, own = self._said(one)
        return f"({text})" if own < strong else text

    def _said(self, one: Expression) -> tuple[str, int]:
        match one:
            case Number():
                value = one.value
                return (hex(value) if one.text.lower().startswith("0x") else str(value)), ONE
            case Letter():
                return f"ord({one.text})", ONE
            case Words():
                return f"b{one.text}".replace("\\?", "?"), ONE
            case Name():
                return self._name(one.ident), ONE
            case Within():
                return self._within(one), ONE
            case Member():
                return f"{self._text(one.of, ONE)}.{self._member(one.of, one.ident)}", ONE
            case Index():
                return f"{self._text(one.of, ONE)}[{self.exact(one.at)}]", ONE
            case Call():
                return self._call(one), ONE
            case Cast():
                return self._cast(one)
            case Unary():
                return self._unary(one)
            case Binary():
                return self._binary(one)
            case Choose():
                parts = (self._text(one.yes, 1), self._text(one.asks, 1), self._text(one.no, 0))
                return f"{parts[0]} if {parts[1]} else {parts[2]}", CHOOSE
            case Row():
                return f"[{', '.join(map(self.value, one.values))}]", ONE
            case Set() | Count():
                raise NotationError("a change within a value")

    def _name(self, ident: str) -> str:
        words = {"true": "True", "false": "False", "nullptr": "None"}
        if ident in words:
            return words[ident]
        scope = self.scope
        if ident in scope.locals:
            return plain(ident)
        if scope.struct and ident in scope.struct.made_with:
            return f"self.{ident.lower()}"
        if ident in scope.fields or ident in scope.methods:
            if ident in scope.methods and scope.methods[ident].gives.static and scope.struct:
                return f"{scope.struct.ident}.{ident}"
            return f"self.{plain(ident)}"
        if ident in self.known.globals or ident in self.known.module.functions:
            return plain(ident)
        return self.calls.get(ident, plain(ident))

    def _within(self, one: Within) -> str:
        if one.of in self.known.enums:
            return self.known.state(one.of, one.ident)
        return f"{one.of}.{plain(one.ident)}"

    def _member(self, of: Expression, ident: str) -> str:
        kind = self.scope.type_of(of).name
        whose = of.ident if isinstance(of, Name) and of.ident in self.known.classes else kind
        return self.methods.get((whose, ident), plain(ident))

    def _call(self, one: Call) -> str:
        if one.of == Name("digitalPinToInterrupt"):
            return self.value(one.given[0])
        takes = self._takes(one)
        given = [
            self._cut(value, takes[n]) if n < len(takes) else self.exact(value) for n, value in enumerate(one.given)
        ]
        return f"{self._text(one.of, ONE)}({', '.join(given)})"

    def _takes(self, one: Call) -> list[Shape]:
        function: Function | None = None
        match one.of:
            case Name(ident):
                function = self.scope.methods.get(ident) or self.known.module.functions.get(ident)
            case Member(of, ident):
                struct = self.known.structs.get(self.scope.type_of(of).name)
                function = next((m for m in struct.methods if m.ident == ident), None) if struct else None
        return [Shape(taken.type.name, taken.type.pointers) for taken in function.takes] if function else []

    def _cast(self, one: Cast) -> tuple[str, int]:
        if self._narrows(one.to, one.what):
            return f"{self._text(one.what, ONE)} & {MASKS[UNSIGNED[one.to.name]]}", BINDS["&"]
        if one.to.name == "bool":
            return f"bool({self.value(one.what)})", ONE
        of = self.scope.type_of(one.what)
        if one.to.name in UNSIGNED and of.name == "bool":
            return f"int({self.value(one.what)})", ONE
        return self._said(one.what)

    def _unary(self, one: Unary) -> tuple[str, int]:
        if one.sign == "!":
            return f"not {self._text(one.what, BINDS['not'])}", BINDS["not"]
        if one.sign == "sizeof":
            return f"len({self.value(one.what)})", ONE
        if one.sign in ("&", "*"):
            return self._said(one.what)
        return f"{one.sign}{self._text(one.what, ONE - 1)}", ONE - 1

    def _binary(self, one: Binary) -> tuple[str, int]:
        own = BINDS[one.sign]
        cuts = one.sign in ASKS - {"||", "&&"} or one.sign in ("/", "%", ">>")
        left = self.exact(one.left, own) if cuts else self._text(one.left, own)
        right = self.exact(one.right, own + 1) if cuts else self._text(one.right, own + 1)
        if one.sign == "||":  # said, though it need not be
            left, right = (
                f"({text})" if isinstance(side, Binary) and side.sign == "&&" else text
                for side, text in ((one.left, left), (one.right, right))
            )
        sign = SIGNS.get(one.sign, one.sign)
        if one.sign in ASKS - {"||", "&&"} and isinstance(one.left, Binary) and one.left.sign in STRONG:
            left = f"({left})" if one.left.sign in ASKS and not left.startswith("(") else left
        return f"{left} {sign} {right}", own
