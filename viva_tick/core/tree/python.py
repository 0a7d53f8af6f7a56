"""A module as Python, for a runtime that is as small as a board's: no annotations, no imports but the board's own.

Numbers have no end there: where the notation's would go round, what is worked out is cut to its bits as it is compared,
divided, kept or given on. What is divided is never below nothing in our notation (each program is held against it).
"""

from __future__ import annotations

from collections.abc import Iterable

from .meaning import UNSIGNED, Scope, Shape
from .nodes import (
    Binary,
    Block,
    Cast,
    Count,
    Declare,
    Do,
    Enum,
    Expression,
    For,
    Function,
    If,
    Leave,
    Name,
    Number,
    Pointer,
    Raw,
    Remark,
    Return,
    Row,
    Set,
    Statement,
    Struct,
    Switch,
    Type,
    Unary,
    Variable,
    While,
    inside,
)
from .python_values import PythonValues, plain
from .tokens import NotationError
from .wrapped import noted

TAB = "    "


class PythonWriter(PythonValues):
    """Writes one module: see `PythonValues`."""

    def text(self, only: Iterable[object] | None = None) -> str:
        """The module, or some parts of it."""
        self.lines, self.apart = [], False
        for part in self.module.parts if only is None else only:
            self._part(part)
        while self.lines and not self.lines[0]:
            self.lines.pop(0)
        return "\n".join([*self.lines, ""])

    # Lines.

    def _line(self, text: str, deep: int = 0, note: str = "") -> None:
        self.lines += noted(TAB * deep + text, note, "#", TAB * deep)

    def _above(self, one: Statement | Struct | Enum | Function | Raw, deep: int = 0) -> None:
        if one.gap and self.lines and self.lines[-1] and not self.lines[-1].endswith(":"):
            self.lines.append("")
        for line in one.above:
            self.lines.append(f"{TAB * deep}# {line}".rstrip())

    # Declarations.

    def _part(self, part: object) -> None:
        self.scope = Scope(self.known)
        if self.apart and not isinstance(part, Struct | Function):
            self._space(2)
        self.apart = isinstance(part, Struct | Function)
        if isinstance(part, Raw):
            raise NotationError(f"for one compiler alone: {part.text}")
        if isinstance(part, Struct):
            self._class(part)
        elif isinstance(part, Enum):
            self._space(1)
            self._above(part)
            number = 0
            for value, begins in part.values:
                number = self._number(begins) if begins is not None else number
                name = self.known.state(part.ident, value) if part.own else value
                self._line(f"{name} = {number}")
                number += 1
            if part.note:
                self.lines[-1] = noted(self.lines[-1], part.note, "#", "")[-1]
        elif isinstance(part, Function):
            self._space(2)
            self._above(part)
            self._function(part, 0)
        elif isinstance(part, Declare):
            self._above(part)
            for one in part.names:
                self._line(f"{plain(one.ident)} = {self._begin(part.type, one)}", 0, part.note)
        elif isinstance(part, Remark):
            self._above(part)

    def _space(self, lines: int) -> None:
        while self.lines and not self.lines[-1]:
            self.lines.pop()
        self.lines += [""] * lines

    def _number(self, one: Expression) -> int:
        if isinstance(one, Unary) and one.sign == "-":
            return -self._number(one.what)
        assert isinstance(one, Number)
        return one.value

    def _begin(self, kind: Type, one: Variable) -> str:
        """What a variable begins with."""
        if one.sizes:
            if isinstance(one.begins, Row) and one.begins.values:
                return f"[{', '.join(self._item(kind, value) for value in one.begins.values)}]"
            size = self.value(one.sizes[0])
            return f"[{self._nothing(kind)}] * ({size})" if " " in size else f"[{self._nothing(kind)}] * {size}"
        if one.given is not None or (one.begins is None and kind.name in {**self.known.structs, **self.known.classes}):
            given = [*kind.made_with, *map(self.value, one.given or ())]
            return f"{kind.name}({', '.join(given)})"
        if one.begins is None or (isinstance(one.begins, Row) and not one.begins.values):
            return self._nothing(kind)
        return self._cut(one.begins, Shape(kind.name, kind.pointers))

    def _item(self, kind: Type, value: Expression) -> str:
        if isinstance(value, Row):
            return f"{kind.name}({', '.join(map(self.value, value.values))})"
        return self.value(value)

    def _nothing(self, kind: Type) -> str:
        if kind.pointers:
            return "None"
        return "False" if kind.name == "bool" else "0"

    def _class(self, struct: Struct) -> None:
        self._space(2)
        self._above(struct)
        self._line(f"class {struct.ident}:")
        self.scope = Scope(self.known, None, struct)
        maker = struct.maker
        takes = [plain(one.lower()) for one in struct.made_with]
        if maker is not None:
            takes += [plain(one.ident) for one in maker.takes]
        elif not struct.methods:
            takes += [plain(one.ident) for part in struct.fields if isinstance(part, Declare) for one in part.names]
        if takes or struct.fields:
            self._line(f"def __init__({', '.join(['self', *takes])}):", 1)
        for name in struct.made_with:
            self._line(f"self.{name.lower()} = {name.lower()}", 2)
        for part in struct.fields:
            self._fields(part, maker.fields if maker else (), aggregate=maker is None and not struct.methods)
        for method in struct.methods:
            self._space(int(not self.lines[-1].startswith("class ")))
            self._above(method, 1)
            if method.gives.static:
                self._line("@staticmethod", 1)
            self._function(method, 1, struct)

    def _fields(self, part: Declare | Pointer, made: tuple[tuple[str, Expression], ...], aggregate: bool) -> None:
        taken = dict(made)
        if isinstance(part, Pointer):
            self._line(f"self.{plain(part.ident)} = None", 2, part.note)
            return
        for line in part.above:
            self._line(f"# {line}", 2)
        for one in part.names:
            if aggregate:
                value = plain(one.ident)
            elif one.ident in taken:
                found = taken[one.ident]
                value = plain(found.ident) if isinstance(found, Name) else self.value(found)
            else:
                value = self._begin(part.type, one)
            self._line(f"self.{plain(one.ident)} = {value}", 2, part.note if one is part.names[-1] else "")

    def _function(self, one: Function, deep: int, struct: Struct | None = None) -> None:
        self.scope = Scope(self.known, one, struct)
        takes = [plain(taken.ident) if taken.ident else f"_{n}" for n, taken in enumerate(one.takes)]
        own = ["self"] if struct and not one.gives.static else []
        self._line(f"def {plain(one.ident)}({', '.join([*own, *takes])}):", deep, one.note)
        if changed := self._changed(one):
            self._line(f"global {', '.join(changed)}", deep + 1)
        self._body(one.body, deep + 1)

    def _changed(self, one: Function) -> list[str]:
        """The module's own variables to which it gives a value."""
        found: dict[str, None] = {}
        for statement in one.body:
            for node in inside(statement):
                if isinstance(node, Set | Count) and isinstance(node.target, Name):
                    ident = node.target.ident
                    own = ident in self.scope.locals or ident in self.scope.fields
                    if ident in self.known.globals and not own:
                        found[plain(ident)] = None
        return list(found)

    # Statements.

    def _body(self, body: Iterable[Statement], deep: int) -> None:
        before = len(self.lines)
        for one in body:
            self._statement(one, deep)
        if all(not line.strip() or line.strip().startswith(("#", "global ")) for line in self.lines[before:]):
            self._line("pass", deep)

    def _statement(self, one: Statement, deep: int) -> None:
        self._above(one, deep)
        if isinstance(one, Do) and isinstance(one.what, Cast) and one.what.to.name == "void":
            return
        match one:
            case Declare():
                for name in one.names:
                    self._line(f"{plain(name.ident)} = {self._begin(one.type, name)}", deep, one.note)
            case Do():
                self._do(one.what, deep, one.note)
            case If():
                self._if(one, deep, "if")
            case Switch():
                self._switch(one, deep)
            case For():
                self._for(one, deep)
            case While():
                self._while(one, deep)
            case Return():
                value = "" if one.value is None else f" {self._given_back(one.value)}"
                self._line(f"return{value}", deep, one.note)
            case Leave():
                self._line(one.word, deep, one.note)
            case Block():
                self._body(one.body, deep)
            case Remark() | Pointer():
                pass

    def _given_back(self, value: Expression) -> str:
        function = self.scope.function
        wanted = Shape(function.gives.name, function.gives.pointers) if function else self.scope.type_of(value)
        return self._cut(value, wanted)

    def _do(self, what: Expression, deep: int, note: str) -> None:
        match what:
            case Count(target, sign):
                self._line(f"{self.value(target)} {sign[0]}= 1", deep, note)
            case Set(target, "=", Set() as further):
                self._do(further, deep, "")
                self._line(f"{self.value(target)} = {self.value(further.target)}", deep, note)
            case Set(target, "=", value):
                self._line(f"{self.value(target)} = {self._cut(value, self.scope.type_of(target))}", deep, note)
            case Set(target, sign, value):
                wanted = self.scope.type_of(target)
                if sign in ("+=", "-=", "*=", "<<=") and wanted.name in UNSIGNED:
                    whole = Binary(sign[:-1], target, value)
                    self._line(f"{self.value(target)} = {self._masked(whole, UNSIGNED[wanted.name])}", deep, note)
                else:
                    said = f"{'//' if sign == '/=' else sign[:-1]}="
                    self._line(f"{self.value(target)} {said} {self.exact(value)}", deep, note)
            case _:
                self._line(self.value(what), deep, note)

    def _if(self, one: If, deep: int, word: str) -> None:
        self._line(f"{word} {self.value(one.asks)}:", deep, one.note)
        self._body(one.yes, deep + 1)
        if one.no is None:
            return
        if len(one.no) == 1 and isinstance(one.no[0], If) and not one.no[0].above:
            self._if(one.no[0], deep, "elif")
            return
        self._line("else:", deep, one.no_note)
        self._body(one.no, deep + 1)

    def _switch(self, one: Switch, deep: int) -> None:
        value, word = self.value(one.value), "if"
        for case in one.cases:
            body = case.body[:-1] if case.body and self._breaks(case.body[-1]) else case.body
            for statement in body:
                self._no_break(statement)
            if not case.values:
                if body:
                    self._line("else:" if word == "elif" else "if True:", deep, case.note)
                    self._body(body, deep + 1)
                continue
            asked = f"{value} == {self.value(case.values[0])}"
            if len(case.values) > 1:
                asked = f"{value} in ({', '.join(map(self.value, case.values))})"
            self._line(f"{word} {asked}:", deep, case.note)
            self._body(body, deep + 1)
            word = "elif"

    @staticmethod
    def _breaks(one: Statement) -> bool:
        return isinstance(one, Leave) and one.word == "break"

    def _no_break(self, one: Statement) -> None:
        """A switch is left at a case's end alone: another way out has no word here."""
        if isinstance(one, For | While):
            return
        if self._breaks(one):
            raise NotationError("a break amid a case")
        if isinstance(one, If):
            for inner in (*one.yes, *(one.no or ())):
                self._no_break(inner)

    def _for(self, one: For, deep: int) -> None:
        if (counted := self._counted(one)) is not None:
            self._line(counted, deep, one.note)
            self._body(one.body, deep + 1)
            return
        if one.first is not None:
            self._statement(one.first, deep)
        self._line(f"while {self.value(one.asks) if one.asks is not None else 'True'}:", deep, one.note)
        if one.step is not None and any(
            isinstance(n, Leave) and n.word == "continue" for s in one.body for n in inside(s)
        ):
            raise NotationError("a step that “continue” would leave out")
        if one.body or one.step is None:
            self._body(one.body, deep + 1)
        if one.step is not None:
            self._do(one.step, deep + 1, "")

    def _counted(self, one: For) -> str | None:
        """`for … in range(…)`, where a loop counts by one to a bound."""
        first, asks, step = one.first, one.asks, one.step
        if not (isinstance(first, Declare) and isinstance(asks, Binary) and isinstance(step, Count)):
            return None
        name = first.names[0]
        way = {("<", "++"): 1, (">", "--"): -1}.get((asks.sign, step.sign))
        if way is None or len(first.names) > 1 or name.begins is None or asks.left != Name(name.ident):
            return None
        changed = [n.target for s in one.body for n in inside(s) if isinstance(n, Set | Count)]
        if Name(name.ident) in changed or any(n in changed for n in inside(asks.right)):
            return None
        begins, ends = self.value(name.begins), self.exact(asks.right)
        bounds = ends if way == 1 and begins == "0" else f"{begins}, {ends}" if way == 1 else f"{begins}, {ends}, -1"
        return f"for {plain(name.ident)} in range({bounds}):"

    def _while(self, one: While, deep: int) -> None:
        if not one.after:
            self._line(f"while {self.value(one.asks)}:", deep, one.note)
            self._body(one.body, deep + 1)
            return
        self._line("while True:", deep, one.note)
        self._body(one.body, deep + 1)
        self._line(f"if {self._text(Unary('!', one.asks), 0)}:", deep + 1)
        self._line("break", deep + 2)
