"""A program's text as its bench wants it written."""

from __future__ import annotations

import re
from dataclasses import replace

from ..document import Style
from ..tree.wrapped import within
from .files import File

DEEP = {".py": 4}  # spaces a step; elsewhere two
STEPS = re.compile(r"^ +", re.MULTILINE)


def in_style(file: File, style: Style) -> File:
    """The file with no line too long, and with tabs for the spaces that lines begin with, where that is wanted."""
    file = narrow(file)
    if style.indent == "spaces":
        return file
    deep = DEEP.get(file.suffix, 4 if file.name.endswith(".py") else 2)
    return replace(
        file, text=STEPS.sub(lambda found: "\t" * (len(found[0]) // deep) + " " * (len(found[0]) % deep), file.text)
    )


def narrow(file: File) -> File:
    """The file with no line longer than a reader likes."""
    return replace(file, text=within(file.text, file.suffix == ".py" or file.name.endswith(".py")))
