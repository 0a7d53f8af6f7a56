"""What a template puts on a page, made safe as the engine of templates does it, without an object for every piece."""

from __future__ import annotations

import re
from typing import Any

from flask import Flask
from jinja2 import nodes
from jinja2.compiler import CodeGenerator
from markupsafe import Markup, escape

_special = re.compile("[&<>'\"]").search


def safe(value: Any) -> str:
    """The text of a value with nothing in it that a browser takes for its own: `markupsafe.escape`, but plain where
    there is nothing to escape."""
    kind = type(value)
    if kind is str:
        return value if _special(value) is None else escape(value)
    if kind is Markup:
        return value  # type: ignore[no-any-return]
    return str(value) if kind is int else escape(value)


class Generator(CodeGenerator):
    """Templates that ask `safe` for what they put out; pieces are joined, and what they come to is marked as safe."""

    def _output_child_pre(self, node: nodes.Expr, frame: Any, finalize: Any) -> None:
        if frame.eval_ctx.autoescape and not frame.eval_ctx.volatile and finalize.src is None:
            self.write("environment.safe(")
        else:
            super()._output_child_pre(node, frame, finalize)


def init(app: Flask) -> None:
    """Have the application's templates made so."""
    app.jinja_env.code_generator_class = Generator
    app.jinja_env.safe = safe  # type: ignore[attr-defined]
