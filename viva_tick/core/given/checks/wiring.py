"""Pins: how they are wired, what they can do, who else has them."""

from __future__ import annotations

import re
from collections.abc import Iterator

from ..facts import Facts
from ..nodes import NOTHING
from .base import Check, Edit, Wrong, first_in_setup, instead_of

DIMMABLE = {"3", "5", "6", "9", "10", "11"}  # of the 8-bit board with 20 pins
INTERRUPTS = {"2", "3"}
SERIAL, BUS, FAST_BUS = {"0", "1"}, {"A4", "A5", "18", "19"}, {"11", "12", "13"}
BOARD = "data sheet of the 8-bit processor, not checked against its source"


def _called(facts: Facts, pin: str) -> str:
    name = facts.name_of(pin)
    return f"{name} (pin {pin})" if name and name != pin else f"Pin {pin}"


def _is_small(facts: Facts) -> bool:
    """Whether nothing says that it is for another board than the 8-bit ones."""
    radio = any(re.search(r"wifi|bluetooth|ledc", one, re.IGNORECASE) for one, _ in facts.source.brings)
    return (
        facts.source.language == "cpp"
        and not radio
        and not any(one.name.startswith("ledc") for one in facts.everything)
    )


def no_pull(facts: Facts) -> Iterator[Wrong]:
    """An input that is read with nothing that holds it when its contact is open."""
    for pin in facts.pins:
        modes = facts.of_pin(pin, "mode")
        read = facts.of_pin(pin, "read", "edge") or (facts.reads_others and not facts.of_pin(pin, "write", "pulse"))
        if facts.mode_of(pin) != "INPUT" or not read or facts.of_pin(pin, "analogue"):
            continue
        node = modes[-1].node
        said = facts.source.lines[node.line - 1]
        held = any(one.value.name == "HIGH" for one in facts.of_pin(pin, "write"))
        if held or re.search(r"(//|#).*(pull|extern|resistor)", said, re.IGNORECASE):
            continue
        if facts.source.language == "cpp":
            edit = instead_of(node.kids[1], "INPUT_PULLUP")
        else:
            edit = Edit(node.stop - 1, node.stop - 1, f", {node.of + '.' if node.of else ''}Pin.PULL_UP")
        why = (
            f"{_called(facts, pin)} is read and nothing holds it while its contact is open: it floats, and reads as it "
            "likes. With the pull-up it rests high, and a press to ground reads low. (A resistor of your own does it, "
            "too: say so in a comment on that line.)"
        )
        yield Wrong("no-pull", node.line, why, pin, (edit,))


def _wrong_level(facts: Facts, mode: str, level: int, code: str, rests: str) -> Iterator[Wrong]:
    loops = [kid for one in facts.everything if one.kind in ("while", "do-while") for kid in one.kids[0].walk()]
    for pin in facts.pins:
        tests = [one for one in facts.tests if one.pin == pin and one.node not in loops]
        if facts.mode_of(pin) != mode or not tests or any(one.level != level for one in tests):
            continue
        edits = []
        for one in tests:
            said = facts.source.said(one.node)
            swap = re.sub(r"\bHIGH\b|\bLOW\b", lambda found: "LOW" if found[0] == "HIGH" else "HIGH", said)
            if swap == said:
                swap = re.sub(r"== *([01])$", lambda found: f"== {1 - int(found[1])}", said)
            if swap == said:
                cpp = facts.source.language == "cpp"
                bare = said.lstrip("!").removeprefix("not ").strip()
                swap = bare if bare != said else f"!{said}" if cpp else f"not {said}"
            edits.append(instead_of(one.node, swap))
        why = (
            f"{_called(facts, pin)} rests {rests} by its pull, and all that is asked is whether it is: "
            "open counts as pressed."
        )
        yield Wrong(code, tests[0].node.line, why, pin, tuple(edits))


def pull_up_high(facts: Facts) -> Iterator[Wrong]:
    """A pull-up is declared, and high is taken for pressed."""
    yield from _wrong_level(facts, "INPUT_PULLUP", 1, "pull-up-high", "high")


def pull_down_low(facts: Facts) -> Iterator[Wrong]:
    """A pull-down is declared, and low is taken for pressed."""
    yield from _wrong_level(facts, "INPUT_PULLDOWN", 0, "pull-down-low", "low")


def pin_twice(facts: Facts) -> Iterator[Wrong]:
    """One pin under two names, or driven and read."""
    names: dict[str, dict[str, int]] = {}
    for use in facts.uses:
        first = use.node.kids[0] if use.node.kids else NOTHING
        name = first.name if first.kind == "name" and facts.source.language == "cpp" else ""
        if name and name != use.pin:
            names.setdefault(use.pin, {}).setdefault(name, use.node.line)
    for name, (pin, made) in facts.pin_objects.items():
        if made.name == "Pin" and "digital" not in name:
            names.setdefault(pin, {}).setdefault(name, made.line)
    for pin, found in names.items():
        if len(found) > 1:
            said = " and ".join(found)
            yield Wrong("pin-twice", max(found.values()), f"Pin {pin} is {said}: each does what the other undoes.", pin)
    for pin in facts.pins:
        modes = {use.word.replace("_PULLUP", "").replace("_PULLDOWN", "") for use in facts.of_pin(pin, "mode")}
        if {"INPUT", "OUTPUT"} <= modes and len(names.get(pin, {})) < 2:
            line = facts.of_pin(pin, "mode")[-1].node.line
            yield Wrong("pin-twice", line, f"Pin {pin} is made an input in one place and an output in another.", pin)


def pin_taken(facts: Facts) -> Iterator[Wrong]:
    """A pin that the serial line or a bus has."""
    if facts.source.language != "cpp":
        return
    for of, pins, what in (("Serial", SERIAL, "serial line"), ("Wire", BUS, "bus"), ("SPI", FAST_BUS, "fast bus")):
        if not any(one.kind == "call" and one.of == of and one.name == "begin" for one in facts.everything):
            continue
        for pin in (one for one in facts.pins if one in pins):
            line = facts.of_pin(pin)[0].node.line
            why = (
                f"{_called(facts, pin)} belongs to the {what}, which this program uses, on the 8-bit "
                "boards: take another."
            )
            yield Wrong("pin-taken", line, why, pin)


def no_mode(facts: Facts) -> Iterator[Wrong]:
    """An output that is never made one."""
    if facts.source.language != "cpp":
        return
    for pin in facts.pins:
        written = facts.of_pin(pin, "write")
        if not written or facts.of_pin(pin, "mode"):
            continue
        named = facts.source.said(written[0].node.kids[0])
        edits = first_in_setup(facts, f"pinMode({named}, OUTPUT);")
        why = (
            f"{_called(facts, pin)} is written and never made an output: it only switches its pull-up, "
            "and a lamp glows faintly."
        )
        yield Wrong("no-mode", written[0].node.line, why, pin, edits)


def late_mode(facts: Facts) -> Iterator[Wrong]:
    """An output that is written before its mode; high just before it is a choice."""
    if facts.source.language != "cpp":
        return
    order = [one for one in facts.source.setup.walk() if one.kind == "call"]
    for pin in facts.pins:
        mine = [use for use in facts.of_pin(pin, "write", "mode") if use.node in order]
        mine.sort(key=lambda use: order.index(use.node))
        if len(mine) < 2 or mine[0].what != "write" or mine[1].word != "OUTPUT":
            continue
        between = order.index(mine[1].node) - order.index(mine[0].node)
        if mine[0].value.name == "HIGH" and between == 1:
            continue
        first, mode = mine[0].node, mine[1].node
        edits = (instead_of(first, facts.source.said(mode)), instead_of(mode, facts.source.said(first)))
        why = f"{_called(facts, pin)} is written before it is an output: until then that only switches its pull-up."
        yield Wrong("late-mode", first.line, why, pin, edits)


def cannot_dim(facts: Facts) -> Iterator[Wrong]:
    """Dimming on a pin that has no timer behind it."""
    if not _is_small(facts):
        return
    for pin in facts.pins:
        dims = facts.of_pin(pin, "dim")
        if dims and pin.isdigit() and int(pin) < 20 and pin not in DIMMABLE:
            why = (
                f"{_called(facts, pin)} cannot be dimmed on the 8-bit board with 20 pins: it is on from "
                "half, off below. 3, 5, 6, 9, 10 and 11 can."
            )
            yield Wrong("cannot-dim", dims[0].node.line, why, pin)


def cannot_interrupt(facts: Facts) -> Iterator[Wrong]:
    """A handler on a pin that has no interrupt of its own."""
    if not _is_small(facts):
        return
    for pin in facts.pins:
        edges = facts.of_pin(pin, "edge")
        if edges and pin.isdigit() and pin not in INTERRUPTS:
            why = (
                f"{_called(facts, pin)} has no interrupt of its own on the 8-bit board with 20 pins: the "
                "handler never runs. 2 and 3 have."
            )
            yield Wrong("cannot-interrupt", edges[0].node.line, why, pin)


CHECKS = (
    Check(
        "no-pull",
        "An input without a pull",
        "An open contact leaves a pin that nothing holds: it reads noise.",
        no_pull,
    ),
    Check(
        "pull-up-high",
        "Pull-up, and read as active high",
        "With a pull-up a contact to ground reads low when it is pressed.",
        pull_up_high,
    ),
    Check(
        "pull-down-low",
        "Pull-down, and read as active low",
        "With a pull-down a contact to the supply reads high when it is pressed.",
        pull_down_low,
    ),
    Check("pin-twice", "A pin used twice", "A pin has one use.", pin_twice),
    Check(
        "pin-taken",
        "A pin of the serial line or a bus",
        "What the program prints goes out over pins 0 and 1; buses have theirs.",
        pin_taken,
    ),
    Check("no-mode", "An output that was never made one", "A pin is an input until it is made an output.", no_mode),
    Check("late-mode", "Written before its mode", "An output's level counts from when it is an output.", late_mode),
    Check(
        "cannot-dim",
        "Dimmed on a pin that cannot",
        "Only pins with a timer behind them can be dimmed.",
        cannot_dim,
        BOARD,
    ),
    Check(
        "cannot-interrupt",
        "A handler on a pin without an interrupt",
        "Two pins of this board have an interrupt of their own.",
        cannot_interrupt,
        BOARD,
    ),
)
