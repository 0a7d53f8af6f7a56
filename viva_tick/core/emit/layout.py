"""What a program is put together of, each kind in its order of arrival."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field


@dataclass
class Layout:
    """Texts in our notation. `early` are prototypes that types need; `helpers`
    are types that any bench's program may have, `helping` functions of that kind."""

    early: list[str] = field(default_factory=list)
    helpers: list[str] = field(default_factory=list)
    helping: list[str] = field(default_factory=list)
    types: list[str] = field(default_factory=list)
    values: list[str] = field(default_factory=list)
    functions: list[str] = field(default_factory=list)

    def add(
        self,
        *,
        helpers: Iterable[str] = (),
        helping: Iterable[str] = (),
        types: Iterable[str] = (),
        values: Iterable[str] = (),
        functions: Iterable[str] = (),
    ) -> None:
        """Put more into it; a type that is there already stays where it is."""
        self.helpers += [one for one in dict.fromkeys(helpers) if one.strip() and one not in self.helpers]
        self.helping += [one for one in helping if one.strip()]
        self.types += [one for one in dict.fromkeys(types) if one.strip() and one not in self.types]
        self.values += [one for one in values if one.strip()]
        self.functions += [one for one in functions if one.strip()]
