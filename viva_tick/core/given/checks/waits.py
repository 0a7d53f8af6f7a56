"""What holds the loop, and what it is deaf to meanwhile."""

from __future__ import annotations

from collections.abc import Iterator

from ...units import ms
from ..cpp import never_ends
from ..facts import WAITS, Facts, Held
from ..nodes import Node
from .base import Check, Edit, Wrong, swapped, without

HARMLESS_US = 10_000  # of a pass: less than a tap, or a bounce (common practice)
DETENT_US = 2_000  # an encoder turned fast has an edge so often (common practice)
ONE_TIMER = (
    "static unsigned long since = 0;",
    "if (millis() - since >= {wait}) {{",
    "  since = millis();",
    "  // what comes after the wait",
    "}}",
)
ONE_TIMER_PY = (
    "if ticks_diff(ticks_ms(), since) >= {wait}:",
    "    since = ticks_ms()",
    "    # what comes after the wait",
)


def _timer_lines(facts: Facts, node: Node) -> tuple[str, ...]:
    wait = facts.source.said(node.kids[0]) if node.kids else "500"
    unit_us = WAITS.get(node.name, 1e3)
    if unit_us != 1e3:  # the counter counts ms
        number = facts.source.number(node.kids[0]) if node.kids else None
        known = f"{number * unit_us / 1e3:g}" if number is not None else ""
        wait = known or f"({wait}) {'* 1000' if unit_us > 1e3 else '/ 1000'}"
    rows = ONE_TIMER if facts.source.language == "cpp" else ONE_TIMER_PY
    return tuple(row.format(wait=wait) for row in rows)


def _listens(facts: Facts) -> list[str]:
    """The names of what the loop listens to."""
    found = dict.fromkeys(
        facts.name_of(use.pin) or f"pin {use.pin}"
        for use in facts.uses
        if use.what == "read" and use.node in facts.loop_nodes
    )
    if any(one.kind == "call" and one.of == "Serial" and one.name in ("available", "read") for one in facts.loop_nodes):
        found["the serial line"] = None
    if facts.reads_others and not found:
        found["its inputs"] = None
    return list(found)


def held_in_loop(facts: Facts) -> Held:
    """The longest that a pass is held on purpose."""
    return facts.held(facts.source.loop)


def loop_waits(facts: Facts) -> Iterator[Wrong]:
    """Waits in the loop, summed along its longest path."""
    held, listens = held_in_loop(facts), _listens(facts)
    if not listens or not (held.waits or held.unknown) or (held.us < HARMLESS_US and not held.unknown):
        return
    node = max(held.waits, key=lambda one: facts.held(one).us) if held.waits else held.unknown[0]
    more = f", on lines {', '.join(str(one.line) for one in held.waits)}" if len(held.waits) > 1 else ""
    how_long = f"for {ms(round(held.us))}{more}" if held.waits else "for a time that is worked out"
    why = f"A pass can be held {how_long}: meanwhile it hears nothing of {_and(listens)}, and a short press is missed."
    yield Wrong("loop-waits", node.line, why, instead=_timer_lines(facts, node))


def _and(words: list[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def handler_waits(facts: Facts) -> Iterator[Wrong]:
    """A handler that waits: nothing else goes on meanwhile, the counter of milliseconds neither."""
    for body in facts.handler_bodies:
        for one in body.walk():
            if one.kind == "call" and one.name in WAITS and (one.of in ("", "time", "utime")):
                why = "A handler waits: everything else stands still, and where the counter does not count, for ever."
                yield Wrong("handler-waits", one.line, why, edits=without(facts, one))


def waits_for_release(facts: Facts) -> Iterator[Wrong]:
    """A loop that does nothing until a contact is let go."""
    for one in facts.loop_nodes:
        if one.kind not in ("while", "do-while"):
            continue
        tests = facts.tests_in(one.kids[0])
        if not tests or any(timer.node in one.kids[0].walk() for timer in facts.timers):
            continue
        name = facts.name_of(tests[0].pin) or f"pin {tests[0].pin}"
        why = (
            f"Until {name} changes the loop does nothing else: who leans on it stops the machine, the "
            "watchdog resets it."
        )
        rows: tuple[str, ...] = (
            "bool down = …;  // the cleaned level, as above",
            "if (down && !wasDown) { /* once a press */ }",
            "wasDown = down;",
        )
        if facts.source.language == "python":
            rows = (
                "down = …  # the cleaned level, as above",
                "if down and not was_down:",
                "    pass  # once a press",
                "was_down = down",
            )
        yield Wrong("waits-for-release", one.line, why, tests[0].pin, instead=rows)


def never_comes_back(facts: Facts) -> Iterator[Wrong]:
    """A loop without an end inside the loop."""
    for one in facts.loop_nodes:
        if not (
            never_ends(facts.source, one)
            if facts.source.language == "cpp"
            else one.kind == "while" and one.kids[0].value
        ):
            continue
        if any(kid.kind in ("break", "return") for kid in one.walk()):
            continue
        yield Wrong(
            "never-comes-back", one.line, "Inside the loop is another that never ends: nothing after it runs again."
        )


def _counts(one: Node) -> bool:
    """Whether it counts up or down."""
    if one.kind == "step" or (one.kind == "assign" and one.name in ("+=", "-=")):
        return True
    if one.kind != "assign" or one.kids[0].kind != "name":
        return False
    sums = [each for each in one.kids[1].all("infix") if each.name in ("+", "-")]
    return any(each.speaks_of(one.kids[0].name) for each in sums)


def encoders(facts: Facts) -> list[tuple[str, str, int]]:
    """(pin A, pin B, line) of each encoder that the loop counts: a change of one pin, and a count that the other one
    decides."""
    found: dict[tuple[str, str], int] = {}
    for one in facts.loop_nodes:
        if one.kind != "if":
            continue
        outer = _pins_in(facts, one.kids[0])
        inner = {pin for each in one.kids[1].all("if", "choice") for pin in _pins_in(facts, each.kids[0])}
        counts = [each for each in one.kids[1].walk() if _counts(each)]
        if len(outer) == 1 and len(outer | inner) == 2 and len(counts) >= 2:
            found.setdefault((next(iter(outer)), next(iter(inner - outer))), one.line)
    return [(a, b, line) for (a, b), line in found.items()]


def _pins_in(facts: Facts, test: Node) -> set[str]:
    named = {facts.aliases[one.name] for one in test.walk() if one.kind == "name" and one.name in facts.aliases}
    return named | {use.pin for use in facts.uses_in(test) if use.what == "read"}


def encoder_deaf(facts: Facts) -> Iterator[Wrong]:
    """An encoder counted in a loop that is held."""
    held = held_in_loop(facts)
    for _, _, line in encoders(facts) if held.us >= DETENT_US else ():
        why = (
            f"The encoder is counted in a pass that can be held for {ms(round(held.us))}: turned fast it gives an edge "
            "every 2 ms, and steps are lost."
        )
        yield Wrong("encoder-deaf", line, why)


def pulse_waits(facts: Facts) -> Iterator[Wrong]:
    """A pulse that is waited for, up to a second."""
    for one in facts.loop_nodes:
        if one.kind == "call" and one.name == "pulseIn" and len(one.kids) == 2:
            edit = Edit(one.stop - 1, one.stop - 1, ", 30000UL")
            why = "Where no pulse comes, this waits for a whole second; say how long it may wait, in µs."
            yield Wrong("pulse-waits", one.line, why, edits=(edit,))


def read_waits(facts: Facts) -> Iterator[Wrong]:
    """A text or a number that is read from the serial line until it has been silent for a second."""
    for one in facts.loop_nodes:
        if one.kind == "call" and one.of.startswith("Serial") and one.name == "readString" and not one.kids:
            why = (
                "This reads until the line has been silent for a second, and holds the loop so long; "
                "read up to the line's end."
            )
            edits = swapped(facts, one, "readString()", "readStringUntil('\\n')")
            yield Wrong("read-waits", one.line, why, edits=edits)
        elif one.kind == "call" and one.of == "sys.stdin" and one.name == "readline":
            yield Wrong(
                "read-waits",
                one.line,
                "This waits until somebody has typed a whole line; look first whether one is there.",
            )


CHECKS = (
    Check("loop-waits", "Waiting in the loop", "While the program waits it reads nothing.", loop_waits),
    Check("handler-waits", "Waiting in a handler", "A handler notes what came, and returns.", handler_waits),
    Check(
        "waits-for-release",
        "Waiting for the release",
        "A press is an edge: remember the last level, and go on.",
        waits_for_release,
    ),
    Check(
        "never-comes-back",
        "A loop that never ends, in the loop",
        "One loop goes on for ever; what is in it ends.",
        never_comes_back,
    ),
    Check(
        "encoder-deaf", "An encoder behind a wait", "Its edges come faster than a loop with waits looks.", encoder_deaf
    ),
    Check("pulse-waits", "Waiting for a pulse", "A wait for something outside needs an end.", pulse_waits),
    Check("read-waits", "Waiting for text", "A wait for something outside needs an end.", read_waits),
)
