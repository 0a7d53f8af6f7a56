"""What every part of a bench document is built from."""

from __future__ import annotations

from typing import Annotated

from pydantic import ConfigDict, Field, StringConstraints

from ..data import Data


class Doc(Data):
    """Immutable, strict (no "5" for 5), and nothing beyond the named fields."""

    model_config = ConfigDict(
        frozen=True,
        extra="forbid",
        strict=True,
        allow_inf_nan=False,
        defer_build=True,
        regex_engine="python-re",  # patterns are many, and those of the other engine take a tenth of a megabyte each
    )


Id = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]*$(?!\n)", max_length=40)]
# A part, or a dot and one of its contacts or channels behind it.
Ref = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]*(\.[a-z0-9-]+)?$(?!\n)", max_length=80)]
Name = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60, pattern=r"^[^\x00-\x1f]*$(?!\n)")
]
Note = Annotated[str, StringConstraints(max_length=2000)]
LONGEST_US = 7 * 86_400_000_000
Micros = Annotated[int, Field(ge=0, le=LONGEST_US)]
MillisUs = Annotated[int, Field(ge=0, le=LONGEST_US, multiple_of=1000)]
