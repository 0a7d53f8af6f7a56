"""What a target makes of a bench: files, and notes on what they do not do."""

from __future__ import annotations

import io
import zipfile
from dataclasses import dataclass


def slug(name: str) -> str:
    """A bench's name as that of a file."""
    kept = "".join(letter if letter.isascii() and letter.isalnum() else "-" for letter in name.lower())
    return "-".join(word for word in kept.split("-") if word) or "bench"


@dataclass(frozen=True)
class File:
    """A file: its name behind the bench's, its text; or a `name` of its own."""

    suffix: str
    text: str
    name: str = ""


@dataclass(frozen=True)
class Emitted:
    """The files, the one to be read first first; `notes` are sentences on what the bench does and the files do not, or
    do wrong on purpose."""

    files: tuple[File, ...]
    notes: tuple[str, ...] = ()

    @property
    def text(self) -> str:
        """The first file's text."""
        return self.files[0].text

    def zipped(self, name: str) -> bytes:
        """All of them, in a folder of that name, in a zip file that is the same for the same files."""
        made = io.BytesIO()
        with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as whole:
            for file in self.files:
                whole.writestr(
                    zipfile.ZipInfo(f"{name}/{file.name or name + file.suffix}", (1980, 1, 1, 0, 0, 0)), file.text
                )
        return made.getvalue()
