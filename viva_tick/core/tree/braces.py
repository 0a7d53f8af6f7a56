"""Statements and values as languages with braces write them; what differs between those is left to their writers."""

from __future__ import annotations

from collections.abc import Iterable

from .meaning import Known, Scope
from .nodes import (
    Binary,
    Block,
    Call,
    Cast,
    Choose,
    Count,
    Declare,
    Do,
    Expression,
    For,
    If,
    Index,
    Leave,
    Letter,
    Member,
    Name,
    Number,
    Pointer,
    Remark,
    Return,
    Row,
    Said,
    Set,
    Statement,
    Switch,
    Unary,
    While,
    Within,
    Words,
)
from .reading_values import STRONG
from .wrapped import noted

TAB = "  "
UNARY, BEHIND, CHOOSE, GIVE = 20, 21, -1, -2
# Signs that a reader takes for equals, though the language does not: brackets are put round one within another.
COMPARES = {"==", "!=", "<", ">", "<=", ">="}
DOUBTFUL = {"&", "|", "^", "<<", ">>", "&&"}


class BracesWriter:
    """What a module's functions are made of."""

    def __init__(self, known: Known) -> None:
        self.known = known
        self.scope = Scope(known)
        self.lines: list[str] = []

    # What differs.

    def name(self, ident: str) -> str:
        """A name among values."""
        raise NotImplementedError

    def member(self, one: Member) -> str:
        """A field."""
        raise NotImplementedError

    def call(self, one: Call) -> str:
        """A call."""
        raise NotImplementedError

    def within(self, one: Within) -> str:
        """A state, a function of a type."""
        raise NotImplementedError

    def cast(self, one: Cast) -> tuple[str, int]:
        """A value as another type's, and how strongly that binds."""
        raise NotImplementedError

    def declared(self, one: Declare) -> str:
        """A declaration, without its end."""
        raise NotImplementedError

    # Lines.

    def line(self, text: str, deep: int = 0, note: str = "") -> None:
        """A line with the comment behind it."""
        self.lines += noted(TAB * deep + text, note, "//", TAB * deep)

    def above(self, one: Said, deep: int = 0) -> None:
        """The empty line and the comments before something."""
        if one.gap and self.lines and self.lines[-1] and not self.lines[-1].endswith("{"):
            self.lines.append("")
        self.lines += [f"{TAB * deep}// {line}".rstrip() for line in one.above]

    # Statements.

    def body(self, body: Iterable[Statement], deep: int) -> None:
        """Statements in their order."""
        for one in body:
            self.statement(one, deep)

    def statement(self, one: Statement, deep: int) -> None:
        """One statement."""
        self.above(one, deep)
        match one:
            case Declare():
                self.line(f"{self.declared(one)};", deep, one.note)
            case Do():
                self.line(f"{self.value(one.what)};", deep, one.note)
            case If():
                self._if(one, deep, "")
            case Switch():
                self._switch(one, deep)
            case For():
                head = one.first and (
                    self.declared(one.first) if isinstance(one.first, Declare) else self.value(one.first.what)
                )
                parts = [head or "", "" if one.asks is None else f" {self.value(one.asks)}"]
                parts.append("" if one.step is None else f" {self.value(one.step)}")
                self._loop(f"for ({';'.join(parts)})", one.body, deep, one.note)
            case While(after=True):
                self.line("do {", deep, one.note)
                self.body(one.body, deep + 1)
                self.line(f"}} while ({self.value(one.asks)});", deep)
            case While():
                self._loop(f"while ({self.value(one.asks)})", one.body, deep, one.note)
            case Return():
                self.line("return;" if one.value is None else f"return {self.value(one.value)};", deep, one.note)
            case Leave():
                self.line(f"{one.word};", deep, one.note)
            case Block():
                self.line("{", deep, one.note)
                self.body(one.body, deep + 1)
                self.line("}", deep)
            case Remark() | Pointer():
                pass

    def _loop(self, head: str, body: tuple[Statement, ...], deep: int, note: str) -> None:
        if not body:
            self.line(f"{head} {{}}", deep, note)
            return
        self.line(f"{head} {{", deep, note)
        self.body(body, deep + 1)
        self.line("}", deep)

    def _if(self, one: If, deep: int, before: str) -> None:
        head = f"{before}if ({self.value(one.asks)})"
        if one.no is None and not before and len(one.yes) == 1 and self._is_short(one.yes[0]):
            own = one.yes[0]
            said = self._one_line(own)
            whole = f"{head} {said}"
            if len(whole) + len(TAB) * deep <= 100:
                self.line(whole, deep, one.note or own.note)
                return
        self.line(f"{head} {{", deep, one.note)
        self.body(one.yes, deep + 1)
        if one.no is None:
            self.line("}", deep)
        elif len(one.no) == 1 and isinstance(one.no[0], If) and not one.no[0].above:
            self._if(one.no[0], deep, "} else ")
        else:
            self.line("} else {", deep, one.no_note)
            self.body(one.no, deep + 1)
            self.line("}", deep)

    @staticmethod
    def _is_short(one: Statement) -> bool:
        return isinstance(one, Do | Return | Leave) and not one.above

    def _one_line(self, one: Statement) -> str:
        kept, self.lines = self.lines, []
        match one:
            case Do():
                said = f"{self.value(one.what)};"
            case Return(value=None):
                said = "return;"
            case Return(value=value) if value is not None:
                said = f"return {self.value(value)};"
            case Leave():
                said = f"{one.word};"
            case _:
                raise AssertionError(one)
        self.lines = kept
        return said

    def _switch(self, one: Switch, deep: int) -> None:
        self.line(f"switch ({self.value(one.value)}) {{", deep, one.note)
        for case in one.cases:
            labels = [f"case {self.value(value)}:" for value in case.values] or ["default:"]
            holds = any(isinstance(n, Declare) for n in case.body)
            for label in labels[:-1]:
                self.line(label, deep + 1)
            if len(case.body) == 1 and self._is_short(case.body[0]):
                own = case.body[0]
                self.line(f"{labels[-1]} {self._one_line(own)}", deep + 1, case.note or own.note)
                continue
            if len(case.body) == 2 and all(map(self._is_short, case.body)) and not case.note:
                first, last = case.body
                whole = f"{labels[-1]} {self._one_line(first)} {self._one_line(last)}"
                if isinstance(last, Leave) and len(whole) <= 90 and not last.note:
                    self.line(whole, deep + 1, first.note)
                    continue
            self.line(labels[-1] + (" {" if holds else ""), deep + 1, case.note)
            self.body(case.body, deep + 2)
            if holds:
                self.line("}", deep + 1)
        self.line("}", deep)

    # Values.

    def value(self, one: Expression) -> str:
        """A value as text."""
        return self.text(one, GIVE)

    def text(self, one: Expression, strong: int) -> str:
        """A value among others that bind so strongly."""
        said, own = self.said(one)
        return f"({said})" if own < strong else said

    def said(self, one: Expression) -> tuple[str, int]:
        """A value, and how strongly it binds."""
        match one:
            case Number() | Letter() | Words():
                return one.text, BEHIND
            case Name():
                return self.name(one.ident), BEHIND
            case Within():
                return self.within(one), BEHIND
            case Member():
                return self.member(one), BEHIND
            case Index():
                return f"{self.text(one.of, BEHIND)}[{self.value(one.at)}]", BEHIND
            case Call():
                return self.call(one), BEHIND
            case Cast():
                return self.cast(one)
            case Unary("sizeof", what):
                return f"sizeof({self.value(what)})", BEHIND
            case Unary(sign, what):
                return f"{sign}{self.text(what, UNARY)}", UNARY
            case Binary():
                return self._binary(one)
            case Choose():
                asks, yes, no = self.text(one.asks, 0), self.text(one.yes, CHOOSE), self.text(one.no, CHOOSE)
                return f"{asks} ? {yes} : {no}", CHOOSE
            case Set():
                return f"{self.text(one.target, UNARY)} {one.sign} {self.text(one.value, GIVE)}", GIVE
            case Count():
                return f"{one.sign}{self.text(one.target, UNARY)}", UNARY
            case Row():
                return f"{{{', '.join(map(self.value, one.values))}}}", BEHIND

    def _binary(self, one: Binary) -> tuple[str, int]:
        own = STRONG[one.sign]
        return f"{self._side(one, one.left, own)} {one.sign} {self._side(one, one.right, own + 1)}", own

    def _side(self, one: Binary, side: Expression, strong: int) -> str:
        if not isinstance(side, Binary):
            return self.text(side, strong)
        joins = side.sign in DOUBTFUL or (one.sign in DOUBTFUL and one.sign != "&&")
        doubtful = (side.sign != one.sign and joins) or {side.sign, one.sign} <= COMPARES
        return f"({self.value(side)})" if doubtful else self.text(side, strong)
