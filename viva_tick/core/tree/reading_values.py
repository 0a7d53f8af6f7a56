"""Types and values of the notation in which programs are written down here, read into `nodes`.

It is a small part of C++: types of fields and methods, no inheritance; nothing that changes something stands within an
expression (`n++` is a statement of its own), so that every language can say it. What is not in it is refused with the
line that it stands in: a `NotationError` is a mistake of ours, never of a bench.
"""

from __future__ import annotations

from collections.abc import Collection

from .nodes import (
    Binary,
    Call,
    Cast,
    Choose,
    Expression,
    Index,
    Letter,
    Member,
    Name,
    Number,
    Row,
    Type,
    Unary,
    Within,
    Words,
)
from .tokens import NotationError, Token, tokens_of

NUMBERS = {"bool", "char", "int", "int8_t", "int16_t", "int32_t", "int64_t", "uint8_t", "uint16_t", "uint32_t"}
PLAIN = {*NUMBERS, "void", "uint64_t", "unsigned"}
SETS = {"=", "+=", "-=", "*=", "/=", "%=", "&=", "|=", "^=", "<<=", ">>="}
# From what binds least to what binds most.
BINDS = (
    ("||",),
    ("&&",),
    ("|",),
    ("^",),
    ("&",),
    ("==", "!="),
    ("<", ">", "<=", ">="),
    ("<<", ">>"),
    ("+", "-"),
    ("*", "/", "%"),
)
STRONG = {sign: level for level, signs in enumerate(BINDS) for sign in signs}


class ValueReader:
    """Reads one text. `types` are the types that are known beside the plain ones."""

    def __init__(self, text: str, types: Collection[str] = ()) -> None:
        self.tokens = tokens_of(text)
        self.at = 0
        self.types = {*PLAIN, *types}

    # Words.

    @property
    def now(self) -> Token:
        """The next word."""
        return self.tokens[self.at]

    def ahead(self, by: int = 1) -> Token:
        """The word so many after it."""
        return self.tokens[min(self.at + by, len(self.tokens) - 1)]

    def fail(self, wanted: str) -> NotationError:
        """What is said of the next word."""
        around = " ".join(token.text for token in self.tokens[max(self.at - 6, 0) : self.at + 6])
        return NotationError(f"line {self.now.line}: {wanted} in “{around}”, not {self.now.text!r}")

    def take(self, text: str = "") -> Token:
        """The next word, which must be that."""
        token = self.now
        if text and token.text != text:
            raise self.fail(text)
        self.at += 1
        return token

    def takes(self, *texts: str) -> str:
        """The next word if it is one of those; empty otherwise."""
        if self.now.text in texts and self.now.kind in ("sign", "name"):
            return self.take().text
        return ""

    def name(self) -> str:
        """A name."""
        if self.now.kind != "name":
            raise self.fail("a name")
        return self.take().text

    def _behind(self) -> str:
        return self.tokens[self.at - 1].note

    # Types.

    def _is_type(self, at: int = 0) -> bool:
        token = self.ahead(at)
        return token.kind == "name" and token.text in self.types

    def _declares(self) -> bool:
        """Whether a declaration begins here."""
        if self.now.text in ("const", "static", "volatile", "extern"):
            return True
        if self.now.kind != "name":
            return False
        after = self.ahead()
        if after.kind == "name":
            return True
        if self._is_type():
            if after.text == "<":
                return True
            return after.text in ("*", "&") and self.ahead(2).kind in ("name", "sign")
        return False

    def type(self) -> Type:
        """A type, with its stars."""
        fixed = static = volatile = False
        while self.now.text in ("const", "static", "volatile"):
            word = self.take().text
            fixed, static, volatile = (
                fixed or word == "const",
                static or word == "static",
                volatile or word == "volatile",
            )
        name = self.name()
        made: list[str] = []
        if self.takes("<"):
            while not self.takes(">"):
                made.append(self.take().text)
                self.takes(",")
        pointers = 0
        while self.takes("*"):
            pointers += 1
        reference = bool(self.takes("&"))
        return Type(name, tuple(made), pointers, reference, fixed, volatile, static)

    # Expressions.

    def expression(self) -> Expression:
        """A value."""
        asks = self._joined(0)
        if not self.takes("?"):
            return asks
        yes = self.expression()
        self.take(":")
        return Choose(asks, yes, self.expression())

    def _joined(self, level: int) -> Expression:
        if level == len(BINDS):
            return self._unary()
        left = self._joined(level + 1)
        while self.now.kind == "sign" and self.now.text in BINDS[level]:
            sign = self.take().text
            left = Binary(sign, left, self._joined(level + 1))
        return left

    def _unary(self) -> Expression:
        if sign := self.takes("!", "-", "~", "&", "*"):
            return Unary(sign, self._unary())
        if self.now.text == "sizeof":
            self.take()
            if self.now.text == "(":
                self.take()
                kind = Name(self.type().name)
                self.take(")")
                return Unary("sizeof", kind)
            return Unary("sizeof", self._unary())
        if self.now.text in ("++", "--"):
            raise self.fail("a value without a change in it")
        return self._behind_it(self._first())

    def _behind_it(self, one: Expression) -> Expression:
        while True:
            if self.takes("."):
                one = Member(one, self.name())
            elif self.takes("->"):
                one = Member(one, self.name(), through=True)
            elif self.takes("["):
                one = Index(one, self.expression())
                self.take("]")
            elif self.takes("("):
                one = Call(one, self._given(")"))
            else:
                return one

    def _given(self, end: str) -> tuple[Expression, ...]:
        found: list[Expression] = []
        while not self.takes(end):
            found.append(self._row() if self.now.text == "{" else self.expression())
            if not self.takes(","):
                self.take(end)
                break
        return tuple(found)

    def _row(self) -> Row:
        self.take("{")
        return Row(self._given("}"))

    def _first(self) -> Expression:
        token = self.now
        if self.takes("("):
            if token.note == "" and self._is_type() and self.ahead().text in (")", "*"):
                kind = self.type()
                self.take(")")
                return Cast(kind, self._unary(), "c")
            inner = self.expression()
            self.take(")")
            return inner
        if token.kind == "number":
            return Number(self.take().text)
        if token.kind == "letter":
            return Letter(self.take().text)
        if token.kind == "words":
            return Words(self.take().text)
        if token.text in ("static_cast", "reinterpret_cast"):
            self.take()
            self.take("<")
            kind = self.type()
            self.take(">")
            self.take("(")
            inner = self.expression()
            self.take(")")
            return Cast(kind, inner, token.text)
        name = self.name()
        if self.takes("::"):
            return Within(name, self.name())
        if name in self.types and self.now.text == "(" and name not in self.made:
            self.take("(")
            inner = self.expression()
            self.take(")")
            return Cast(Type(name), inner)
        return Name(name)

    made: frozenset[str] = frozenset()  # types that are made by a call, where there are any
