"""What was found in a program, in words: pins, cleaning, waits, timers, states, handlers, libraries."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path

from ..units import counted, ms
from .checks.waits import encoders
from .facts import PRINTS, Facts, files_of, watchdog
from .placed import Draft

KNOWN = {
    "cpp": {"stdint.h", "stdbool.h", "stdio.h", "stdlib.h", "string.h", "math.h", "stddef.h", "limits.h", "avr/io.h",
            "avr/wdt.h", "avr/interrupt.h", "avr/sleep.h", "avr/pgmspace.h", "util/atomic.h", "util/delay.h",
            "hardware.h", "inttypes.h", "ctype.h"},
    "python": {"machine", "time", "utime", "micropython", "sys", "os", "uos", "math", "random", "urandom", "gc", "rp2",
               "json", "ujson", "struct", "ustruct", "collections"},
}  # fmt: skip
MODES = {
    "INPUT": "input without a pull", "INPUT_PULLUP": "input with the pull-up",
    "INPUT_PULLDOWN": "input with the pull-down",
    "OUTPUT": "output",
}  # fmt: skip
USES = {
    "read": "read", "write": "written", "analogue": "measured", "dim": "dimmed", "tone": "sounded",
    "edge": "has a handler",
    "servo": "turns a servo", "pulse": "times a pulse",
}  # fmt: skip


HOW = {"since": "since", "until": "by a sum", "deadline": "a deadline", "reversed": "reversed", "equal": "one instant"}


@dataclass(frozen=True)
class Found:
    """One thing that was found: what it is, in words, and the lines where."""

    what: str
    words: str
    lines: tuple[int, ...]


@dataclass(frozen=True)
class Section:
    """Things of one sort."""

    title: str
    rows: tuple[Found, ...]


def sections(facts: Facts, draft: Draft) -> list[Section]:
    """All that was found; sections with nothing in them are left out."""
    found = (
        Section("Pins", tuple(_pins(facts))),
        Section("Cleaned", tuple(_cleaned(draft))),
        Section("Waits, along each path", tuple(_waits(facts))),
        Section("Timers", tuple(_timers(facts))),
        Section("States kept in flags", tuple(_states(facts))),
        Section("Watchdog, serial line, handlers", tuple(_others(facts))),
        Section("Not known", tuple(_strangers(facts))),
    )
    return [one for one in found if one.rows]


def _pins(facts: Facts) -> list[Found]:
    rows = []
    for pin in facts.pins:
        uses = facts.of_pin(pin)
        mode = MODES.get(facts.mode_of(pin), "")
        kinds = dict.fromkeys(USES[use.what] for use in uses if use.what in USES)
        name = facts.name_of(pin)
        lines = tuple(dict.fromkeys(use.node.line for use in uses))
        rows.append(Found(f"{pin} {name}".strip(), ", ".join([*([mode] if mode else []), *kinds]), lines))
    for a, b, line in encoders(facts):
        rows.append(Found(f"{a}, {b}", "an encoder", (line,)))
    return rows


def _cleaned(draft: Draft) -> list[Found]:
    return [Found(title, words, (line,) if line else ()) for title, words, line in draft.cleaned]


def _waits(facts: Facts) -> list[Found]:
    rows = []
    bodies = [("set-up", facts.source.setup), ("loop", facts.source.loop)]
    bodies += [
        (name, one.body) for name, one in facts.source.functions.items() if name not in ("setup", "loop", "main")
    ]
    for name, body in bodies:
        held = facts.held(body)
        if held.waits or held.unknown:
            long = f"up to {ms(round(held.us))}" if held.waits else ""
            more = f"{counted(len(held.unknown), 'wait')} of a length that is worked out" if held.unknown else ""
            lines = tuple(dict.fromkeys(one.line for one in (*held.waits, *held.unknown)))
            rows.append(Found(name, " and ".join(one for one in (long, more) if one), lines))
    return rows


def _timers(facts: Facts) -> list[Found]:
    rows = []
    for one in facts.timers:
        long = ms(round(one.wait_ms * 1000)) if one.wait_ms is not None else facts.source.said(one.wait) or "?"
        rows.append(Found(one.last or "the time", f"{long}, {HOW[one.how]}", (one.node.line,)))
    return rows


def _states(facts: Facts) -> list[Found]:
    found: dict[str, tuple[str, list[int]]] = {}
    for one in facts.everything:
        if one.kind == "switch" and one.kids[0].name:
            cases = [kid.kids[0].name for kid in one.kids[1:] if kid.kids[0].name]
            found.setdefault(one.kids[0].name, (f"told apart: {', '.join(cases)}", []))[1].append(one.line)
        turned = one.kind == "assign" and one.kids[1].kind == "prefix" and one.kids[1].name in ("!", "not")
        if turned and one.kids[0].name and one.kids[1].speaks_of(one.kids[0].name):
            found.setdefault(one.kids[0].name, ("turned over", []))[1].append(one.line)
    for name, made in facts.globals.items():
        if re.search(r"\bbool(ean)?\b", made.words) and name not in found:
            found[name] = ("yes or no", [made.line])
    return [Found(name, words, tuple(lines)) for name, (words, lines) in found.items()]


def _others(facts: Facts) -> list[Found]:
    rows: dict[str, list[int]] = {}
    for one in facts.everything:
        if one.kind != "call":
            continue
        if done := watchdog(one):
            rows.setdefault(f"watchdog {done}", []).append(one.line)
        elif one.of.startswith("Serial") or (one.name == "print" and not one.of):
            what = (
                "prints"
                if one.name in PRINTS
                else "serial line begun"
                if one.name == "begin"
                else "reads the serial line"
            )
            rows.setdefault(what, []).append(one.line)
    for name, body in facts.handlers.items():
        rows.setdefault(f"handler {name}", []).append(body.line)
    return [Found(what, "", tuple(dict.fromkeys(lines))) for what, lines in rows.items()]


def _strangers(facts: Facts) -> list[Found]:
    # Those that came along in a zip stand in the text, each under its name (`read_zip`).
    known = KNOWN[facts.source.language] | {Path(name).name for _, name in files_of(facts.source.text)}
    rows = [
        Found(name, "a library that is not known here: what it does was not followed", (line,))
        for name, line in facts.source.brings
        if name not in known and Path(name).name not in known
    ]
    if facts.source.broken:
        rows.append(Found("syntax", "cannot be parsed: what stands there was passed over", tuple(facts.source.broken)))
    return rows
