"""C and C++ into the tree."""

from __future__ import annotations

import re
from functools import cache
from typing import Any

from .nodes import NOTHING, Function, Node, Source, finite
from .reading import Reading

NUMBER = re.compile(r"(0[xX][0-9a-fA-F']+|0[bB][01']+|[0-9']*\.?[0-9']*(?:[eE][+-]?\d+)?)([uUlLfF]*)$")
SIMPLE = {
    "if_statement": "if", "while_statement": "while", "for_statement": "for", "return_statement": "return",
    "break_statement": "break", "continue_statement": "continue", "switch_statement": "switch",
    "do_statement": "do-while",
}  # fmt: skip
SKIPPED = (
    "comment",
    "preproc_call",
    "preproc_directive",
    ";",
    "using_declaration",
    "access_specifier",
    "type_definition",
)


@cache
def _parser() -> Any:
    import tree_sitter_cpp  # only this command needs it
    from tree_sitter import Language, Parser

    return Parser(Language(tree_sitter_cpp.language()))


class _Reading(Reading):
    """One text on its way into the tree."""

    language = "cpp"

    # Expressions.

    def expression(self, one: Any) -> Node:
        """Any expression."""
        kids = [kid for kid in one.named_children if kid.type != "comment"]
        field = one.child_by_field_name
        match one.type:
            case "number_literal":
                return self.node("number", one, name=self.text(one), value=_number(self.text(one)))
            case "true" | "false":
                return self.node("number", one, name=self.text(one), value=float(one.type == "true"))
            case "char_literal":
                body = self.text(one)[1:-1]
                return self.node("number", one, name=self.text(one), value=float(ord(body)) if len(body) == 1 else 10.0)
            case "identifier" | "field_identifier" | "qualified_identifier" | "type_identifier" | "this" | "null":
                return self.node("name", one, name=self.text(one).rpartition("::")[2])
            case "string_literal" | "concatenated_string" | "raw_string_literal":
                return self.node("text", one, name=self.text(one).strip('"'))
            case "call_expression":
                function, arguments = field("function"), field("arguments")
                args = [self.expression(kid) for kid in arguments.named_children if kid.type != "comment"]
                name, of = self._called(function)
                return self.node("call", one, args, name=name, of=of)
            case "field_expression":
                return self.node("field", one, name=self.text(field("field")), of=self.text(field("argument")))
            case "binary_expression":
                sides = (self.expression(field("left")), self.expression(field("right")))
                return self.node("infix", one, sides, name=self.text(field("operator")))
            case "assignment_expression":
                sides = (self.expression(field("left")), self.expression(field("right")))
                return self.node("assign", one, sides, name=self.text(field("operator")))
            case "unary_expression" | "pointer_expression":
                return self.node("prefix", one, [self.expression(field("argument"))], name=self.text(field("operator")))
            case "update_expression":
                return self.node("step", one, [self.expression(field("argument"))], name=self.text(field("operator")))
            case "parenthesized_expression" | "condition_clause":
                return self.expression(kids[-1]) if kids else NOTHING
            case "conditional_expression":
                return self.node("choice", one, [self.expression(kid) for kid in kids])
            case "subscript_expression":
                return self.node("index", one, [self.expression(kid) for kid in kids])
            case "subscript_argument_list" if kids:
                return self.expression(kids[0])
            case "cast_expression":
                return self.node(
                    "call", one, [self.expression(field("value"))], name="cast", words=self.text(field("type"))
                )
            case "lambda_expression":
                return self.node("body", one, [self.statement(field("body"))])
            case "initializer_list" | "argument_list":
                return self.node("list", one, [self.expression(kid) for kid in kids])
            case "declaration":
                return self.statement(one)
            case "ERROR":
                self.source.broken.append(one.start_point[0] + 1)
        return self.node("list", one, [self.expression(kid) for kid in kids], name=self.text(one)[:80])

    def _called(self, function: Any) -> tuple[str, str]:
        if function.type == "field_expression":
            return self.text(function.child_by_field_name("field")), self.text(function.child_by_field_name("argument"))
        of, _, name = self.text(function).rpartition("::")
        return name, of

    # Statements.

    def statement(self, one: Any) -> Node:
        """Any statement; a declaration of several names is a block of them."""
        kids = [kid for kid in one.named_children if kid.type != "comment"]
        field = one.child_by_field_name
        kind = SIMPLE.get(one.type, "")
        match one.type:
            case "compound_statement":
                return self.node("block", one, self.block(kids))
            case "expression_statement":
                return self.node("do", one, [self.expression(kid) for kid in kids])
            case "declaration":
                made = self.declared(one)
                return made[0] if len(made) == 1 else self.node("block", one, made, name="declared")
            case "if_statement":
                other = field("alternative")
                after = self.statement(other.named_children[-1]) if other is not None else NOTHING
                return self.node(
                    kind, one, (self.expression(field("condition")), self.inner(field("consequence")), after)
                )
            case "while_statement" | "do_statement":
                return self.node(kind, one, (self.expression(field("condition")), self.inner(field("body"))))
            case "for_statement":
                parts = [field(name) for name in ("initializer", "condition", "update")]
                return self.node(
                    kind,
                    one,
                    (*(self.expression(p) if p is not None else NOTHING for p in parts), self.inner(field("body"))),
                )
            case "for_range_loop":
                return self.node("for", one, (NOTHING, NOTHING, NOTHING, self.inner(field("body"))))
            case "switch_statement":
                cases = [kid for kid in field("body").named_children if kid.type == "case_statement"]
                return self.node(kind, one, (self.expression(field("condition")), *map(self.case, cases)))
            case "return_statement" | "break_statement" | "continue_statement":
                return self.node(kind, one, [self.expression(kid) for kid in kids])
            case "labeled_statement" | "else_clause":
                return self.statement(kids[-1]) if kids else NOTHING
            case "ERROR":
                self.source.broken.append(one.start_point[0] + 1)
        if one.type.endswith("expression"):
            return self.expression(one)
        return self.node("unknown", one, name=one.type)

    def inner(self, one: Any) -> Node:
        """A body: a block also where it is one statement."""
        made = self.statement(one)
        return made if made.kind == "block" and made.name != "declared" else self.node("block", one, (made,))

    def block(self, kids: list[Any]) -> list[Node]:
        """Statements in their order."""
        made = [self.statement(kid) for kid in kids if kid.type not in SKIPPED]
        return [one for each in made for one in (each.kids if each.name == "declared" else (each,))]

    def case(self, one: Any) -> Node:
        """A case of a switch."""
        value = one.child_by_field_name("value")
        rest = [kid for kid in one.named_children if kid.type != "comment" and kid != value]
        first = self.expression(value) if value is not None else NOTHING
        return self.node("case", one, (first, *self.block(rest)))

    def declared(self, one: Any) -> list[Node]:
        """The names that a declaration makes."""
        words = " ".join(
            self.text(kid)
            for kid in one.named_children
            if kid.type in ("type_qualifier", "storage_class_specifier") or kid == one.child_by_field_name("type")
        )
        made = []
        for kid in one.children_by_field_name("declarator"):
            value = kid.child_by_field_name("value") if kid.type == "init_declarator" else None
            target = kid.child_by_field_name("declarator") if kid.type == "init_declarator" else kid
            if target is None or target.type == "function_declarator":
                continue
            array = ""
            while target.type in ("array_declarator", "pointer_declarator", "reference_declarator"):
                array = self.text(target) if target.type == "array_declarator" else array
                inner = target.child_by_field_name("declarator")
                if inner is None:
                    break
                target = inner
            name = self.text(target)
            size = array[array.find("[") :] if array else ""
            kids = [self.expression(value)] if value is not None else []
            made.append(self.node("declare", kid, kids, name=name, words=f"{words}{size}"))
        return made

    # The whole.

    def top(self, one: Any) -> None:
        """What stands outside functions."""
        source = self.source
        for kid in one.named_children:
            match kid.type:
                case "preproc_include":
                    path = self.text(kid.child_by_field_name("path"))
                    source.brings.append((path.strip('<>"'), kid.start_point[0] + 1))
                case "preproc_def":
                    self.define(kid)
                case "preproc_function_def":
                    source.more[self.text(kid.child_by_field_name("name"))] = self.text(kid)
                case "function_definition":
                    self.function(kid)
                case "declaration":
                    self.outside(kid)
                case "enum_specifier":
                    self.enum(kid)
                case "type_definition" | "class_specifier" | "struct_specifier":
                    for each in self._inside(kid, "enum_specifier"):
                        self.enum(each)
                case "ERROR":
                    source.broken.append(kid.start_point[0] + 1)
                    self.top(kid)
                case _ if kid.type.startswith("preproc_") or kid.type in (
                    "linkage_specification",
                    "namespace_definition",
                ):
                    self.top(kid)
                case "declaration_list":
                    self.top(kid)

    def _inside(self, one: Any, kind: str) -> list[Any]:
        return [one] if one.type == kind else [each for kid in one.named_children for each in self._inside(kid, kind)]

    def define(self, one: Any) -> None:
        value = one.child_by_field_name("value")
        if value is None:
            return
        name, said = self.text(one.child_by_field_name("name")), self.text(value).split("//")[0].strip()
        inner = _Reading(f"auto x = {said};")
        found = inner.source_of()
        if found and found[0].kids:
            kept = found[0].kids[0]
            at = self.node("name", value)
            self.source.constants[name] = _moved(kept, at)

    def source_of(self) -> list[Node]:
        """What a text of declarations makes."""
        tree = _parser().parse(self.bytes)
        return [
            made for kid in tree.root_node.named_children if kid.type == "declaration" for made in self.declared(kid)
        ]

    def enum(self, one: Any) -> None:
        body = one.child_by_field_name("body")
        number = 0.0
        for each in body.named_children if body is not None else ():
            if each.type != "enumerator":
                continue
            value = each.child_by_field_name("value")
            said = self.source.number(self.expression(value)) if value is not None else None
            number = number if said is None else said
            name = self.text(each.child_by_field_name("name"))
            self.source.constants[name] = self.node("number", each, name=name, value=number, words="enum")
            number += 1

    def outside(self, one: Any) -> None:
        for each in self._inside(one, "enum_specifier"):
            self.enum(each)
        for made in self.declared(one):
            self.source.outside.append(made)
            if made.kids and re.search(r"\bconst(expr)?\b", made.words) and "[" not in made.words:
                self.source.constants[made.name] = made.kids[0]

    def function(self, one: Any) -> None:
        head = one.child_by_field_name("declarator")
        body = one.child_by_field_name("body")
        while head is not None and head.type != "function_declarator":
            head = head.child_by_field_name("declarator")
        if head is None or body is None or body.type != "compound_statement":
            return
        name = self.text(head.child_by_field_name("declarator"))
        params = head.child_by_field_name("parameters")
        names = [self.text(each).split()[-1].strip("*&") for each in params.named_children if self.text(each)]
        if name in ("ISR", "SIGNAL"):
            name = f"ISR {names[0] if names else one.start_point[0]}"
        self.source.functions[name] = Function(name, tuple(names), self.statement(body), one.start_point[0] + 1)


def _moved(node: Node, at: Node) -> Node:
    """A node as if it stood elsewhere."""
    kids = tuple(_moved(kid, at) for kid in node.kids)
    return Node(node.kind, at.line, at.start, at.stop, node.name, kids, node.value, node.of, node.words)


def _number(said: str) -> float | None:
    if said.startswith("-"):
        value = _number(said[1:].lstrip())
        return None if value is None else -value
    found = NUMBER.match(said)
    if not found or not found[1]:
        return None
    plain = found[1].replace("'", "")
    if plain[:2] in ("0x", "0X", "0b", "0B"):
        return finite(lambda: float(int(plain, 0)))
    if plain.isdigit() and plain.startswith("0") and len(plain) > 1:
        return finite(lambda: float(int(plain, 8)))
    return finite(lambda: float(plain))


def read_cpp(text: str) -> Source:
    """A program in C or C++; what cannot be parsed is said in `broken`."""
    reading = _Reading(text)
    tree = _parser().parse(reading.bytes)
    reading.top(tree.root_node)
    source = reading.source
    if tree.root_node.has_error and not source.broken:
        source.broken = _errors(tree.root_node)
    source.broken = sorted(set(source.broken))
    source.setup = source.functions["setup"].body if "setup" in source.functions else NOTHING
    source.loop = source.functions["loop"].body if "loop" in source.functions else NOTHING
    if "main" in source.functions and not source.loop.line:
        _split_main(source)
    return source


def _errors(one: Any) -> list[int]:
    if one.type == "ERROR" or one.is_missing:
        return [one.start_point[0] + 1]
    return [line for kid in one.children for line in _errors(kid)] if one.has_error else []


def _split_main(source: Source) -> None:
    """A `main` with a loop that never ends: what comes before is its set-up."""
    body = source.functions["main"].body
    for place, one in enumerate(body.kids):
        if never_ends(source, one):
            before = body.kids[:place]
            source.setup = Node("block", body.line, body.start, one.start, kids=before)
            source.loop = one.kids[-1]
            return
    source.setup = body


def never_ends(source: Source, one: Node) -> bool:
    """Whether a loop has no end of its own: `for (;;)`, `while (1)`."""
    if one.kind == "for":
        return one.kids[1] is NOTHING and len(one.kids) == 4 and one.kids[0] is NOTHING and one.kids[2] is NOTHING
    return one.kind in ("while", "do-while") and bool(source.number(one.kids[0]))
