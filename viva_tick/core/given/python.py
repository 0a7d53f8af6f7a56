"""MicroPython into the tree."""

from __future__ import annotations

from functools import cache
from typing import Any

from .nodes import NOTHING, Function, Node, Source, finite
from .reading import Reading

SKIPPED = ("comment",)


@cache
def _parser() -> Any:
    import tree_sitter_python  # only this command needs it
    from tree_sitter import Language, Parser

    return Parser(Language(tree_sitter_python.language()))


class _Reading(Reading):
    """One text on its way into the tree."""

    language = "python"

    def expression(self, one: Any) -> Node:
        """Any expression."""
        kids = [kid for kid in one.named_children if kid.type != "comment"]
        field = one.child_by_field_name
        match one.type:
            case "integer" | "float":
                said = self.text(one)
                plain = said.replace("_", "")
                value = finite(lambda: float(plain) if one.type == "float" else float(int(plain, 0)))
                return self.node("number", one, name=said, value=value)
            case "true" | "false" | "none":
                return self.node("number", one, name=self.text(one), value=float(one.type == "true"))
            case "identifier":
                return self.node("name", one, name=self.text(one))
            case "string" | "concatenated_string":
                return self.node("text", one, name=self.text(one).strip("\"'"))
            case "attribute":
                return self.node("field", one, name=self.text(field("attribute")), of=self.text(field("object")))
            case "call":
                function = field("function")
                args = [self.expression(kid) for kid in field("arguments").named_children if kid.type != "comment"]
                of, _, name = self.text(function).rpartition(".")
                if function.type == "attribute":
                    name, of = (
                        self.text(function.child_by_field_name("attribute")),
                        self.text(function.child_by_field_name("object")),
                    )
                return self.node("call", one, args, name=name, of=of)
            case "keyword_argument":
                return self.node("keyword", one, [self.expression(field("value"))], name=self.text(field("name")))
            case "binary_operator" | "boolean_operator":
                sides = [self.expression(field("left")), self.expression(field("right"))]
                said = self.text(field("operator"))
                return self.node("infix", one, sides, name={"and": "&&", "or": "||"}.get(said, said))
            case "comparison_operator":
                said = next((self.text(kid) for kid in one.children if not kid.is_named or kid.type in ("is",)), "==")
                sides = [self.expression(kid) for kid in kids[:2]]
                return self.node("infix", one, sides, name={"is": "==", "is not": "!="}.get(said, said))
            case "not_operator":
                return self.node("prefix", one, [self.expression(field("argument"))], name="!")
            case "unary_operator":
                return self.node("prefix", one, [self.expression(field("argument"))], name=self.text(one)[0])
            case "parenthesized_expression":
                return self.expression(kids[0]) if kids else NOTHING
            case "conditional_expression":
                made = [self.expression(kid) for kid in kids]
                return self.node("choice", one, (made[1], made[0], made[2]) if len(made) == 3 else made)
            case "subscript":
                return self.node("index", one, [self.expression(kid) for kid in kids])
            case "lambda":
                return self.node("body", one, [self.node("block", one, [self.expression(field("body"))])])
            case "assignment" | "augmented_assignment":
                return self.assigned(one)
            case "ERROR":
                self.source.broken.append(one.start_point[0] + 1)
        return self.node("list", one, [self.expression(kid) for kid in kids], name=self.text(one)[:80])

    def assigned(self, one: Any) -> Node:
        """An assignment."""
        field = one.child_by_field_name
        right = field("right")
        value = self.expression(right) if right is not None else NOTHING
        operator = self.text(field("operator")) if one.type == "augmented_assignment" else "="
        return self.node("assign", one, (self.expression(field("left")), value), name=operator)

    def statement(self, one: Any) -> Node:
        """Any statement."""
        kids = [kid for kid in one.named_children if kid.type != "comment"]
        field = one.child_by_field_name
        match one.type:
            case "block" | "module":
                return self.node("block", one, self.block(kids))
            case "expression_statement":
                return self.node("do", one, [self.expression(kid) for kid in kids])
            case "if_statement":
                return self.branches(one, [kid for kid in kids if kid.type in ("elif_clause", "else_clause")])
            case "while_statement":
                return self.node("while", one, (self.expression(field("condition")), self.statement(field("body"))))
            case "for_statement":
                each = self.expression(field("right"))
                return self.node("for", one, (NOTHING, each, NOTHING, self.statement(field("body"))))
            case "return_statement" | "break_statement" | "continue_statement":
                return self.node(one.type.partition("_")[0], one, [self.expression(kid) for kid in kids])
            case "try_statement" | "with_statement":
                made = [self.statement(each) for each in self._blocks(one)]
                return self.node("block", one, [kid for each in made for kid in each.kids])
            case "function_definition" | "decorated_definition" | "class_definition":
                self.function(one)
                return NOTHING
            case "import_statement" | "import_from_statement":
                self.brings(one)
                return NOTHING
            case "global_statement" | "pass_statement" | "nonlocal_statement":
                return NOTHING
            case "ERROR":
                self.source.broken.append(one.start_point[0] + 1)
        return self.node("unknown", one, name=one.type)

    def _blocks(self, one: Any) -> list[Any]:
        return [one] if one.type == "block" else [each for kid in one.named_children for each in self._blocks(kid)]

    def branches(self, one: Any, others: list[Any]) -> Node:
        """if, elif, else as one in the other."""
        field = one.child_by_field_name
        if one.type == "else_clause":
            return self.statement(field("body"))
        after = self.branches(others[0], others[1:]) if others else NOTHING
        return self.node("if", one, (self.expression(field("condition")), self.statement(field("consequence")), after))

    def block(self, kids: list[Any]) -> list[Node]:
        """Statements in their order."""
        made = [self.statement(kid) for kid in kids if kid.type not in SKIPPED]
        return [one for one in made if one is not NOTHING]

    def brings(self, one: Any) -> None:
        module = one.child_by_field_name("module_name")
        names = [module] if module is not None else one.children_by_field_name("name")
        for each in names:
            said = self.text(each).split(" as ")[0].split(".")[0]
            self.source.brings.append((said, one.start_point[0] + 1))

    def function(self, one: Any) -> None:
        for each in self._inside(one):
            field = each.child_by_field_name
            names = [self.text(kid).split(":")[0].split("=")[0].strip() for kid in field("parameters").named_children]
            name = self.text(field("name"))
            # What stands in it is read after its name is known.
            body = self.statement(field("body"))
            self.source.functions[name] = Function(name, tuple(names), body, each.start_point[0] + 1)

    def _inside(self, one: Any) -> list[Any]:
        if one.type == "function_definition":
            return [one]
        return [each for kid in one.named_children for each in self._inside(kid)]


def read_python(text: str) -> Source:
    """A program in MicroPython; what cannot be parsed is said in `broken`."""
    reading = _Reading(text)
    tree = _parser().parse(reading.bytes)
    module = reading.statement(tree.root_node)
    source = reading.source
    if tree.root_node.has_error:
        source.broken += _errors(tree.root_node)
    source.broken = sorted(set(source.broken))
    source.outside = list(module.kids)
    _constants(source, module)
    body = module
    if "main" in source.functions and not _endless(module):
        body = source.functions["main"].body
    place = next((n for n, one in enumerate(body.kids) if _is_endless(one)), None)
    before = module.kids if body is not module else ()
    if place is None:
        source.setup = Node("block", 1, 0, len(text), kids=(*before, *body.kids))
        return source
    source.setup = Node("block", 1, 0, body.kids[place].start, kids=(*before, *body.kids[:place]))
    source.loop = body.kids[place].kids[-1]
    return source


def _is_endless(one: Node) -> bool:
    return one.kind == "while" and bool(one.kids[0].value)


def _endless(module: Node) -> bool:
    return any(_is_endless(one) for one in module.kids)


def _constants(source: Source, module: Node) -> None:
    """Names that are given a value once, outside of functions."""
    given: dict[str, list[Node]] = {}
    bodies = [module, *(one.body for one in source.functions.values())]
    for body in bodies:
        for one in body.all("assign"):
            if one.kids[0].kind == "name":
                given.setdefault(one.kids[0].name, []).append(one)
    for name, rows in given.items():
        if len(rows) == 1 and rows[0].name == "=" and any(rows[0] in one.kids for one in module.kids):
            source.constants[name] = rows[0].kids[1]


def _errors(one: Any) -> list[int]:
    if one.type == "ERROR" or one.is_missing:
        return [one.start_point[0] + 1]
    return [line for kid in one.children for line in _errors(kid)] if one.has_error else []
