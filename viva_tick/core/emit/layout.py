"""The order of a C++ file that every builder takes: what a signature may name comes before the first function.

Builders of `setup()` / `loop()` boards put prototypes of all functions before the first of them. A type that stands
after that is unknown in its own function's signature; so all types and constants come first, then our own prototypes,
then variables, then functions.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, field

# A function at the margin: its type, its name, what it takes. Handlers of interrupts are macros and need none.
FUNCTION = re.compile(
    r"^(?!static|template|struct|enum|const|ISR\b)([\w:<>]+(?: [\w:<>]+)*[ &*]+)(\w+)\(([^;{}]*)\) \{", re.MULTILINE
)
OWN = ("setup", "loop")


@dataclass
class Layout:
    """What goes into a program, each kind in its order of arrival. `early` are prototypes that types need; `helpers`
    are types that any bench's program may have, `helping` functions of that kind."""

    head: list[str] = field(default_factory=list)
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

    def prototypes(self) -> str:
        """One for each function at the margin."""
        every = (*self.helping, *self.functions)
        found = [match for one in every for match in FUNCTION.finditer(one) if match[2] not in OWN]
        return "".join(f"{match[1]}{match[2]}({match[3]});\n" for match in found)

    def text(self) -> str:
        """The whole file."""
        early = "".join(self.early)
        types = [*self.types[:1], *self.helpers, *self.types[1:]]  # first what is where
        sections = [*self.head, early, *types, self.prototypes(), "".join(self.values), *self.helping, *self.functions]
        return "\n".join(section for section in sections if section.strip())
