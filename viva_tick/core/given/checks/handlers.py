"""Handlers of interrupts, and what they share with the loop."""

from __future__ import annotations

import re
from collections.abc import Iterator

from ..facts import PRINTS, Facts, watchdog
from ..nodes import Node
from .base import Check, Edit, Wrong, without

ATOMIC = ("noInterrupts", "cli", "disable_irq", "portENTER_CRITICAL", "taskENTER_CRITICAL")
LETS_IN = ("interrupts", "sei", "enable_irq", "portEXIT_CRITICAL", "taskEXIT_CRITICAL")
BYTES = re.compile(r"\b(bool|boolean|byte|char|uint8_t|int8_t)\b")
SAFE = "AVR Libc reference, util/atomic.h, from memory"


def handler_prints(facts: Facts) -> Iterator[Wrong]:
    """A handler that prints."""
    for body in facts.handler_bodies:
        for one in body.walk():
            by_serial = one.kind == "call" and one.of.startswith("Serial") and one.name in PRINTS
            if by_serial or (one.kind == "call" and one.name == "print" and not one.of):
                why = (
                    "A handler prints: when the buffer is full it waits for letters that only another handler can send."
                )
                yield Wrong("handler-prints", one.line, why, edits=without(facts, one))


def _set_in_handlers(facts: Facts) -> dict[str, Node]:
    found: dict[str, Node] = {}
    for body in facts.handler_bodies:
        for one in body.walk():
            if (
                one.kind in ("assign", "step")
                and one.kids
                and one.kids[0].kind == "name"
                and one.kids[0].name in facts.globals
            ):
                found.setdefault(one.kids[0].name, one)
    return found


def _used_outside(facts: Facts, name: str) -> list[Node]:
    handlers = {id(one) for body in facts.handler_bodies for one in body.walk()}
    return [one for one in facts.everything if one.kind == "name" and one.name == name and id(one) not in handlers]


def not_volatile(facts: Facts) -> Iterator[Wrong]:
    """What a handler changes and the loop reads, without `volatile`."""
    if facts.source.language != "cpp":
        return
    for name in _set_in_handlers(facts):
        made = facts.globals[name]
        if "volatile" in made.words or not _used_outside(facts, name):
            continue
        start = facts.source.text.rfind("\n", 0, made.start) + 1
        start += len(facts.source.text[start:]) - len(facts.source.text[start:].lstrip())
        why = (
            f"A handler changes “{name}”; the compiler does not know, may keep it in a register, and the "
            "loop never sees it change."
        )
        yield Wrong("not-volatile", made.line, why, edits=(Edit(start, start, "volatile "),))


def _lets_in(one: Node) -> bool:
    """Whether handlers may come again from here on."""
    if one.kind == "call":
        return one.name in LETS_IN
    return one.kind == "assign" and one.kids[0].name == "SREG"


def torn_read(facts: Facts) -> Iterator[Wrong]:
    """What a handler changes has several bytes, and is read without stopping it."""
    if facts.source.language != "cpp":
        return
    for name in _set_in_handlers(facts):
        made = facts.globals[name]
        if BYTES.search(made.words) or not re.search(
            r"\b(int|long|float|double|short|u?int(16|32|64)_t|word|size_t)\b", made.words
        ):
            continue
        for one in _used_outside(facts, name):
            line = one.line
            around = [body for body in facts.bodies if any(each is one for each in body.walk())]
            stops = [
                call.line for body in around for call in body.walk() if call.kind == "call" and call.name in ATOMIC
            ]
            goes = [call.line for body in around for call in body.walk() if _lets_in(call)]
            blocks = [each.line for each in facts.everything if each.name.startswith("ATOMIC_BLOCK")]
            if blocks or any(stop <= line and any(go >= line for go in goes) for stop in stops):
                continue
            kind = made.words.replace("volatile", "").replace("static", "").strip()
            why = (
                f"“{name}” has several bytes; on an 8-bit board the handler can come between them, and "
                "what is read is half of each."
            )
            rows = ("noInterrupts();", f"{kind} copy = {name};", "interrupts();")
            yield Wrong("torn-read", line, why, instead=rows)
            break


def fed_in_handler(facts: Facts) -> Iterator[Wrong]:
    """The watchdog fed where the loop may hang."""
    for body in facts.handler_bodies:
        for one in body.walk():
            if watchdog(one) == "fed":
                why = "A handler feeds the watchdog: it goes on while the loop hangs, and nothing resets the board."
                yield Wrong("fed-in-handler", one.line, why, edits=without(facts, one))


CHECKS = (
    Check("handler-prints", "Printing in a handler", "A handler notes what came, and returns.", handler_prints),
    Check(
        "not-volatile", "Shared without volatile", "What a handler changes is volatile.", not_volatile, "C11 §5.1.2.3"
    ),
    Check(
        "torn-read", "Read between its bytes", "What has several bytes is copied with handlers off.", torn_read, SAFE
    ),
    Check("fed-in-handler", "Fed in a handler", "Only a loop that goes round feeds the watchdog.", fed_in_handler),
)
