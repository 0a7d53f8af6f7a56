"""Edits as a control in the page carries them: JSON Patch (RFC 6902) rows, and the text of one."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from flask import Flask
from markupsafe import escape
from pydantic_core import to_json

Operation = dict[str, Any]


class Patch(list[Operation]):
    """Operations, one after another; `+` joins two. In a template it stands as the text of an attribute."""

    def __html__(self) -> str:
        return escape(to_json(self).decode())  # a page has hundreds of them

    def __add__(self, more: Iterable[Operation]) -> Patch:  # type: ignore[override]
        return Patch([*self, *more])

    def __iadd__(self, more: Iterable[Operation]) -> Patch:  # type: ignore[override]
        return self + more

    def __radd__(self, before: Iterable[Operation]) -> Patch:
        return Patch([*before, *self])


def _at(path: str) -> str:
    if not path.startswith("/") or path.endswith("/"):
        raise ValueError(f"“{path}” is no place in a document: it must begin with / and end in a name.")
    return path


def put(path: str, value: Any) -> Patch:
    """Another value where one is."""
    return Patch([{"op": "replace", "path": _at(path), "value": value}])


def add(path: str, value: Any) -> Patch:
    """A value where none is; in a list, before what is there (`-`: at its end)."""
    return Patch([{"op": "add", "path": _at(path), "value": value}])


def take_out(path: str) -> Patch:
    """What is there goes."""
    return Patch([{"op": "remove", "path": _at(path)}])


def patched(operations: Iterable[Operation]) -> Patch:
    """Operations from elsewhere."""
    return Patch(operations)


def init(app: Flask) -> None:
    """The templates' words for edits."""
    app.jinja_env.globals.update(put=put, add=add, take_out=take_out)
    app.jinja_env.filters["patched"] = patched
