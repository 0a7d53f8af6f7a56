"""What readings of every language share: the text, and nodes of the tree at their places in it."""

from __future__ import annotations

from typing import Any

from .nodes import Node, Source


class Reading:
    """One text on its way into the tree. The parser counts bytes, nodes count characters."""

    language = ""

    def __init__(self, text: str) -> None:
        self.source = Source(text, self.language)
        self.bytes = text.encode()
        self.plain = len(self.bytes) == len(text)

    def text(self, one: Any) -> str:
        """What stands there."""
        return self.bytes[one.start_byte : one.end_byte].decode()

    def node(self, kind: str, one: Any, kids: Any = (), **more: Any) -> Node:
        """A node where the parser's is."""
        start, stop = one.start_byte, one.end_byte
        if not self.plain:
            start, stop = (len(self.bytes[:at].decode()) for at in (start, stop))
        return Node(kind, one.start_point[0] + 1, start, stop, kids=tuple(kids), **more)
