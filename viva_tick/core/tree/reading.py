"""The notation in which programs are written down here, read into `nodes`.

It is a small part of C++: types of fields and methods, no inheritance; nothing that changes something stands within an
expression (`n++` is a statement of its own), so that every language can say it. What is not in it is refused with the
line that it stands in: a `NotationError` is a mistake of ours, never of a bench.
"""

from __future__ import annotations

import re
from collections.abc import Collection
from dataclasses import dataclass, field, replace
from typing import Any

from .nodes import (
    Binary,
    Block,
    Call,
    Case,
    Cast,
    Choose,
    Count,
    Declare,
    Do,
    Enum,
    Expression,
    For,
    Function,
    If,
    Index,
    Leave,
    Letter,
    Maker,
    Member,
    Module,
    Name,
    Number,
    Part,
    Pointer,
    Raw,
    Remark,
    Return,
    Row,
    Set,
    Statement,
    Struct,
    Switch,
    Taken,
    Type,
    Unary,
    Variable,
    While,
    Within,
    Words,
)

TOKEN = re.compile(
    r"(?P<note>//[^\n]*)|(?P<raw>^[ \t]*#(?:\\\n|[^\n])*)|(?P<words>\"(?:\\.|[^\"\\])*\")|(?P<letter>'(?:\\.|[^'\\])')"
    r"|(?P<number>0[xX][0-9A-Fa-f]+[uUlL]*|\d+[uUlL]*)|(?P<name>[A-Za-z_]\w*)"
    r"|(?P<sign><<=|>>=|\+\+|--|->|::|<<|>>|<=|>=|==|!=|&&|\|\||[-+*/%&|^]=|[-+*/%&|^~!<>=?:;,.(){}\[\]])"
    r"|(?P<line>\n)|(?P<blank>[ \t\r]+)",
    re.MULTILINE,
)
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


class NotationError(ValueError):
    """Something that is not in the notation."""


@dataclass
class Token:
    """A word of the notation: its kind and text, where it stands, what comments stand above and behind it."""

    kind: str
    text: str
    line: int
    above: list[str] = field(default_factory=list)
    gap: bool = False
    note: str = ""


def _tokens(text: str) -> list[Token]:
    found: list[Token] = []
    above: list[str] = []
    line, lines_since, gap, place = 1, 0, False, 0
    while place < len(text):
        match = TOKEN.match(text, place)
        if match is None:
            raise NotationError(f"line {line}: {text[place : place + 40]!r}")
        place, kind, said = match.end(), str(match.lastgroup), match[0]
        if kind == "line":
            line += 1
            lines_since += 1
            gap = gap or (lines_since > 1 and not above)
        elif kind == "note":
            if found and found[-1].line == line:
                found[-1].note = said[2:].strip()
            else:
                above.append(said[2:].strip())
                lines_since = 0
        elif kind != "blank":
            token = Token(kind, said, line, above, gap)
            found.append(token)
            line += said.count("\n")
            token.line = line
            above, gap, lines_since = [], False, 0
    found.append(Token("end", "", line, above, gap))
    return found


class Reader:
    """Reads one text. `types` are the types that are known beside the plain ones."""

    def __init__(self, text: str, types: Collection[str] = ()) -> None:
        self.tokens = _tokens(text)
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

    # Statements.

    def statements(self) -> tuple[Statement, ...]:
        """What stands up to a closing brace, which is taken."""
        found: list[Statement] = []
        while self.now.text != "}":
            if self.now.kind == "end":
                raise self.fail("a closing brace")
            one = self.statement()
            if one is not None:
                found.append(one)
        end = self.take("}")
        if end.above:
            found.append(Remark(above=tuple(end.above)))
        return tuple(found)

    def _body(self) -> tuple[tuple[Statement, ...], bool, str]:
        """(the statements, whether without braces, the note behind the opening brace)."""
        if self.now.text != "{":
            one = self.statement()
            return ((one,) if one is not None else ()), True, ""
        note = self.take("{").note
        self.tokens[self.at - 1].note = ""
        return self.statements(), False, note

    def statement(self) -> Statement | None:
        """One statement; None for one that does nothing."""
        start = self.now
        said: dict[str, Any] = {"above": tuple(start.above), "gap": start.gap}
        made = {
            "if": self._if, "switch": self._switch, "for": self._for, "while": self._while, "do": self._do,
        }.get(start.text)  # fmt: skip
        if made is not None:
            found: Statement = self._with(made(), said)
            return found
        if start.text == "{":
            note = self.take("{").note
            body = self.statements()
            if not body and not start.above and not note and not self._behind():
                return None
            return (
                Block(body=body, **{**said, "note": note or self._behind()})
                if body
                else Remark(**{**said, "above": (*said["above"], *filter(None, (note, self._behind())))})
            )
        if self.takes(";"):
            return None
        one = self._simple()
        return replace(one, **said, note=self._behind())

    @staticmethod
    def _with(one: Any, said: dict[str, Any]) -> Any:
        return replace(one, **said)

    def _simple(self) -> Statement:
        if self.now.text in ("break", "continue"):
            word = self.take().text
            self.take(";")
            return Leave(word=word)
        if self.now.text == "return":
            self.take()
            value = None if self.now.text == ";" else self.expression()
            self.take(";")
            return Return(value=value)
        if self._declares():
            made = self._declaration()
            self.take(";")
            return made
        what = self._doing()
        self.take(";")
        return Do(what=what)

    def _doing(self) -> Expression:
        """An assignment, a count or a call."""
        if sign := self.takes("++", "--"):
            return Count(self._behind_it(self._first()), sign)
        target = self.expression()
        if self.now.text in ("++", "--"):
            return Count(target, self.take().text)
        if self.now.text in SETS:
            sign = self.take().text
            value = self._row() if self.now.text == "{" else self._doing()
            return Set(target, sign, value)
        return target

    def _declaration(self) -> Declare | Pointer:
        kind = self.type()
        if self.now.text == "(":  # a function as a value
            self.take("(")
            self.take("*")
            ident = self.name()
            self.take(")")
            takes = self._parameters()
            if self.takes("="):
                self.take("nullptr")
            return Pointer(gives=kind, ident=ident, takes=takes)
        names = [self._variable()]
        while self.takes(","):
            names.append(self._variable())
        return Declare(type=kind, names=tuple(names))

    def _variable(self) -> Variable:
        ident = self.name()
        placed = self.name() if self.now.kind == "name" else ""
        sizes: list[Expression] = []
        while self.takes("["):
            sizes.append(Name("") if self.now.text == "]" else self.expression())
            self.take("]")
        begins = given = None
        if self.takes("="):
            begins = self._row() if self.now.text == "{" else self.expression()
        elif self.takes("("):
            given = self._given(")")
        return Variable(ident, tuple(sizes), begins, given, placed)

    def _if(self) -> If:
        self.take("if")
        self.take("(")
        asks = self.expression()
        self.take(")")
        yes, short, note = self._body()
        if short and yes:
            note = ""
        no: tuple[Statement, ...] | None = None
        no_note = ""
        if self.now.text == "else" and self.now.kind == "name":
            self.take("else")
            no, _, no_note = self._body()
        return If(asks=asks, yes=yes, no=no, short=short, note=note, no_note=no_note)

    def _switch(self) -> Switch:
        self.take("switch")
        self.take("(")
        value = self.expression()
        self.take(")")
        note = self.take("{").note
        cases: list[Case] = []
        while not self.takes("}"):
            values: list[Expression] = []
            others = False
            while self.now.text in ("case", "default"):
                if self.take().text == "default":
                    others = True
                else:
                    values.append(self.expression())
                self.take(":")
            behind = self._behind()
            body: list[Statement] = []
            while self.now.text not in ("case", "default", "}"):
                one = self.statement()
                if one is not None:
                    body.append(one)
            if len(body) == 1 and isinstance(body[0], Block):
                body = list(body[0].body)
            cases.append(Case(() if others else tuple(values), tuple(body), behind))
        return Switch(value=value, cases=tuple(cases), note=note)

    def _for(self) -> For:
        self.take("for")
        self.take("(")
        first: Declare | Do | None = None
        if self.now.text != ";":
            one = self._declaration() if self._declares() else Do(what=self._doing())
            if isinstance(one, Pointer):
                raise self.fail("a number")
            first = one
        self.take(";")
        asks = None if self.now.text == ";" else self.expression()
        self.take(";")
        step = None if self.now.text == ")" else self._doing()
        self.take(")")
        body, short, note = self._body()
        return For(first=first, asks=asks, step=step, body=body, short=short, note=note)

    def _while(self) -> While:
        self.take("while")
        self.take("(")
        asks = self.expression()
        self.take(")")
        body, short, note = self._body()
        return While(asks=asks, body=body, short=short, note=note)

    def _do(self) -> While:
        self.take("do")
        body, _, note = self._body()
        self.take("while")
        self.take("(")
        asks = self.expression()
        self.take(")")
        self.take(";")
        return While(asks=asks, body=body, after=True, note=note)

    # Declarations.

    def _parameters(self) -> tuple[Taken, ...]:
        self.take("(")
        found: list[Taken] = []
        while not self.takes(")"):
            kind = self.type()
            if self.now.text == "(":
                raise self.fail("a plain parameter")
            found.append(Taken(kind, self.name() if self.now.kind == "name" else ""))
            if not self.takes(","):
                self.take(")")
                break
        return tuple(found)

    def module(self) -> Module:
        """A whole text."""
        parts: list[Part] = []
        while self.now.kind != "end":
            parts.append(self._part())
        if self.now.above:
            parts.append(Remark(above=tuple(self.now.above)))
        return Module(tuple(parts))

    def _part(self) -> Part:
        start = self.now
        said: dict[str, Any] = {"above": tuple(start.above), "gap": start.gap}
        if start.kind == "raw":
            return Raw(text=self.take().text, **said)
        if start.text == "enum":
            return replace(self._enum(), **said)
        if start.text == "template":
            self.take()
            self.take("<")
            made: list[str] = []
            while not self.takes(">"):
                self.type()
                made.append(self.name())
                self.takes(",")
            return replace(self._struct(tuple(made)), **said)
        if start.text == "struct":
            return replace(self._struct(()), **said)
        return replace(self._global(), **said)

    def _enum(self) -> Enum:
        self.take("enum")
        own = bool(self.takes("class"))
        ident = self.name()
        self.take(":")
        base = self.name()
        self.types.add(ident)
        self.take("{")
        values: list[tuple[str, Expression | None]] = []
        while not self.takes("}"):
            name = self.name()
            values.append((name, self.expression() if self.takes("=") else None))
            self.takes(",")
        self.take(";")
        return Enum(ident=ident, own=own, base=base, values=tuple(values), note=self._behind())

    def _struct(self, made_with: tuple[str, ...]) -> Struct:
        self.take("struct")
        ident = self.name()
        self.types.add(ident)
        self.take("{")
        parts: list[Declare | Pointer | Maker | Function] = []
        while self.now.text != "}":
            start = self.now
            said: dict[str, Any] = {"above": tuple(start.above), "gap": start.gap}
            one = self.takes("explicit")
            if self.now.text == ident and self.ahead().text == "(":
                parts.append(replace(self._maker(bool(one)), **said))
                continue
            method = self._method()
            if method is not None:
                parts.append(replace(method, **said))
                continue
            declared = self._declaration()
            self.take(";")
            parts.append(replace(declared, **said, note=self._behind()))
        self.take("}")
        self.take(";")
        return Struct(ident=ident, made_with=made_with, parts=tuple(parts))

    def _maker(self, one: bool) -> Maker:
        self.name()
        takes = self._parameters()
        fields: list[tuple[str, Expression]] = []
        if self.takes(":"):
            while True:
                name = self.name()
                self.take("(")
                fields.append((name, self.expression()))
                self.take(")")
                if not self.takes(","):
                    break
        self.take("{")
        self.take("}")
        return Maker(takes=takes, fields=tuple(fields), one=one)

    def _method(self) -> Function | None:
        """A function, or None where something else is declared: nothing is taken then."""
        began = self.at
        try:
            plain_c = self.now.text == "extern"
            if plain_c:
                self.take()
                self.take('"C"')
            macro = self.ahead().text == "(" and self.now.text.isupper()
            gives = Type("void") if macro else self.type()
            ident = self.name()
            if macro:
                self.take("(")
                takes: tuple[Taken, ...] = (Taken(Type(self.name())),)
                self.take(")")
            else:
                takes = self._parameters()
            keeps = bool(self.takes("const"))
            if self.now.text != "{":
                raise self.fail("{")
        except NotationError:
            self.at = began
            return None
        opening = self.take("{")
        body = self.statements()
        one_line = self.tokens[self.at - 1].line == opening.line and len(body) == 1
        note = opening.note if not one_line else self._behind()
        return Function(
            gives=gives, ident=ident, takes=takes, body=body, keeps=keeps, macro=macro, plain_c=plain_c,
            one_line=one_line, note=note,
        )  # fmt: skip

    def _global(self) -> Part:
        function = self._method()
        if function is not None:
            return function
        if (placed := self._placed_function()) is not None:
            return placed
        declared = self._declaration()
        self.take(";")
        return replace(declared, note=self._behind())

    def _placed_function(self) -> Raw | None:
        """What is said to one compiler alone on where a function stands."""
        words = [self.ahead(n).text for n in range(6)]
        if words[2:4] != ["(", ")"] or words[5] != ";":
            return None
        self.at += 6
        return Raw(text=f"{words[0]} {words[1]}() {words[4]};")


def read(text: str, types: Collection[str] = ()) -> Module:
    """The text as a module; `NotationError` where it is not in the notation. `types` are known besides."""
    return Reader(text, types).module()
