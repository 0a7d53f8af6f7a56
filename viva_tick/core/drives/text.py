"""Text: what a line of a display shows, or what goes out over the serial line, with variables in it."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import StringConstraints

from ..texts import pieces
from .base import DriveModel, NoneOrMs
from .described import Drawn, Offer, Setting


class Text(DriveModel):
    """The text (see `core.texts`), written when it changes, or every `every_us`."""

    kind: Literal["text"] = "text"
    text: Annotated[str, StringConstraints(max_length=120, pattern=r"^[^\x00-\x1f]*$(?!\n)")] = ""
    every_us: NoneOrMs = 0
    writes: ClassVar[bool] = True

    offered_for_lines: ClassVar[tuple[Offer, ...]] = (
        Offer("text", "text", {"kind": "text", "text": "Hello"}),
        Offer("clear", "nothing", {"kind": "text", "text": ""}),
    )

    def drawn(self) -> Drawn:
        """See `DriveModel.drawn`."""
        return Drawn(words=self.text or "nothing")

    def settings(self) -> tuple[Setting, ...]:
        """See `DriveModel.settings`."""
        return (
            Setting("text", self.text, "text", "shows"),
            Setting("every_us", self.every_us, "time", "again every (0: when it changes)"),
        )

    @property
    def word(self) -> str:
        """See `DriveModel.word`."""
        return "text" if self.text else "clear"

    @property
    def ever_on(self) -> bool:
        """See `DriveModel.ever_on`."""
        return bool(self.text)

    @property
    def fault(self) -> str:
        """See `DriveModel.fault`."""
        try:
            pieces(self.text)
        except ValueError as error:
            return str(error)
        return ""
