"""The watchdog."""

from __future__ import annotations

import re
from collections.abc import Iterator

from ...units import ms
from ..facts import RESET_REGISTERS, WATCHDOG, Facts, watchdog
from ..nodes import Node
from .base import Check, Wrong, first_in_setup
from .waits import held_in_loop

STEPS_MS = {"15MS": 15, "30MS": 30, "60MS": 60, "120MS": 120, "250MS": 250, "500MS": 500}
STEPS_MS |= {"1S": 1000, "2S": 2000, "4S": 4000, "8S": 8000}
LEFT_ON = "data sheet of the 8-bit processor: after a reset by the watchdog it stays on, not checked against its source"


def _watchdog(facts: Facts) -> tuple[Node, float | None] | None:
    """(where it is put on, its time in ms)."""
    for one in facts.everything:
        if watchdog(one) != "on":
            continue
        if facts.source.language == "cpp" and one.kids:
            word = re.sub(r"^WDTO_", "", one.kids[0].name)
            return one, STEPS_MS.get(word)
        if facts.source.language == "python":
            given = [kid for kid in one.kids if kid.kind == "keyword" and kid.name == "timeout"]
            return one, facts.source.number(given[0].kids[0]) if given else 5000.0
    return None


def outlasts_watchdog(facts: Facts) -> Iterator[Wrong]:
    """A wait that is longer than the watchdog's."""
    found, held = _watchdog(facts), held_in_loop(facts)
    if found and found[1] is not None and held.waits and held.us >= found[1] * 1000:
        node = max(held.waits, key=lambda one: facts.held(one).us)
        why = (
            f"A pass can be held for {ms(round(held.us))}; the watchdog resets the board after "
            f"{ms(round(found[1] * 1000))}."
        )
        yield Wrong("outlasts-watchdog", node.line, why)


def never_fed(facts: Facts) -> Iterator[Wrong]:
    """A watchdog that nothing in the loop feeds."""
    found = _watchdog(facts)
    # Some function that nothing here calls may be called from another file.
    setup = {id(one) for one in facts.source.setup.walk()}
    fed = any(watchdog(one) == "fed" and id(one) not in setup for one in facts.everything)
    off = any(watchdog(one) == "off" for one in facts.loop_nodes)
    if found and facts.source.loop.kids and not fed and not off:
        feed = WATCHDOG[facts.source.language]["feed_line"]
        yield Wrong(
            "never-fed",
            found[0].line,
            "The watchdog is on and the loop does not feed it: the board resets over and over.",
            instead=(feed,),
        )


def never_off_at_start(facts: Facts) -> Iterator[Wrong]:
    """A watchdog that is not put off first thing."""
    found = _watchdog(facts)
    if facts.source.language != "cpp" or not found:
        return
    cleared = any(watchdog(one) == "off" and one.start < found[0].start for one in facts.everything)
    cleared = cleared or any(one.kind == "assign" and one.kids[0].name in RESET_REGISTERS for one in facts.everything)
    if not cleared:
        why = (
            "After it has reset the board the watchdog stays on, at its shortest: the board starts over "
            "and over. Put it off first thing."
        )
        yield Wrong("never-off-at-start", found[0].line, why, edits=first_in_setup(facts, WATCHDOG["cpp"]["off_line"]))


CHECKS = (
    Check(
        "outlasts-watchdog",
        "Longer than the watchdog waits",
        "The longest pass is shorter than the watchdog's time.",
        outlasts_watchdog,
    ),
    Check("never-fed", "A watchdog that is never fed", "The loop feeds it, once a pass.", never_fed),
    Check(
        "never-off-at-start",
        "Not put off at the start",
        "Set-up begins with the watchdog off.",
        never_off_at_start,
        LEFT_ON,
    ),
)
