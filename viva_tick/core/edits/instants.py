"""Two presses of one contact on one instant: a document may have them, an edit may not make them."""

from __future__ import annotations

from collections import Counter

from ..document import Bench, DocumentError, Press, Problem, pointer
from ..units import ms


def _pressed(bench: Bench) -> Counter[tuple[str, str, int]]:
    rows = [(scenario.name, one) for scenario in bench.scenarios for one in scenario.stimuli]
    return Counter((name, one.input, one.at_us) for name, one in rows if isinstance(one, Press))


def refuse_twice(before: Bench, after: Bench) -> None:
    """Raises `DocumentError` where an edit makes two presses of one contact begin on one instant."""
    was = _pressed(before)
    for (name, ident, at_us), number in _pressed(after).items():
        if number > 1 and number > was[name, ident, at_us]:
            index = next(n for n, scenario in enumerate(after.scenarios) if scenario.name == name)
            sentence = (
                f"{after.contact(ident).name} is pressed at {ms(at_us)} already; a hand cannot press twice at once."
            )
            raise DocumentError([Problem(pointer("scenarios", index, "stimuli"), sentence)])
