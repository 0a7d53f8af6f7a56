"""What is measured, and what is said and heard on the serial line."""

from __future__ import annotations

import re
from collections.abc import Iterator

from ..facts import ANALOGUE, PRINTS, TURNS, Facts, given
from ..nodes import NOTHING, Node
from .base import Check, Wrong, first_in_setup, instead_of

COUNTS = {"cpp": 1023.0, "python": 65_535.0}
MOST_VOLTS = 5.5


def _measured(facts: Facts) -> set[str]:
    """Variables that hold what a converter said, as it said it."""
    found = set()
    answering = {
        one.name
        for one in facts.source.functions.values()
        if any(
            kid.kids and kid.kids[0].kind == "call" and kid.kids[0].name in ANALOGUE for kid in one.body.all("return")
        )
    }
    for one in facts.everything:
        name, value = given(one)
        if name and value.kind == "call" and value.name in (*ANALOGUE, *answering):
            found.add(name)
    return found


def _comparisons(facts: Facts) -> Iterator[tuple[Node, Node]]:
    """(the comparison, the number) of each measured value with a constant."""
    names = _measured(facts)
    for one in facts.everything:
        if one.kind != "infix" or one.name not in (*TURNS, "==", "!="):
            continue
        for side, other in (one.kids, one.kids[::-1]):
            raw = (side.kind == "call" and side.name in ANALOGUE) or (side.kind == "name" and side.name in names)
            if raw and facts.source.number(other) is not None:
                yield one, other


def past_the_top(facts: Facts) -> Iterator[Wrong]:
    """A converter held against a count that it never gives."""
    if any(one.kind == "call" and one.name == "analogReadResolution" for one in facts.everything):
        return
    top = COUNTS[facts.source.language]
    for one, other in _comparisons(facts):
        number = facts.source.number(other) or 0.0
        never = number > top or (number == top and one.name == (">" if one.kids[0] is not other else "<"))
        if never and number < 5_000_000:
            why = (
                f"The converter's highest count is {top:.0f}, of {top + 1:.0f} from 0 on: {number:.0f} "
                "is never reached."
            )
            edits = (
                (instead_of(other, f"{top:.0f}"),)
                if other.kind == "number" and one.name in (">=", "==", "<=") and number == top + 1
                else ()
            )
            yield Wrong("past-the-top", one.line, why, edits=edits)


def volts_for_counts(facts: Facts) -> Iterator[Wrong]:
    """A converter's count held against volts."""
    for one, other in _comparisons(facts):
        number = facts.source.number(other) or 0.0
        if 0 < number <= MOST_VOLTS and number != int(number):
            why = (
                f"What was read are counts, and {number:g} are volts: on a 5 V board with 10 bits that "
                f"would be {number / 5 * 1024:.0f}."
            )
            text = f"{number / 5 * 1024:.0f}" if facts.source.language == "cpp" else f"{number / 3.3 * 65_536:.0f}"
            yield Wrong(
                "volts-for-counts", one.line, why, edits=(instead_of(other, text),) if other.kind == "number" else ()
            )


def no_hysteresis(facts: Facts) -> Iterator[Wrong]:
    """One threshold for on and for off."""
    compared = {id(one) for one, _ in _comparisons(facts)}
    for one in facts.loop_nodes:
        if one.kind != "if" or id(one.kids[0]) not in compared or one.kids[2] is NOTHING:
            continue
        on, off = ({use.pin for use in facts.uses_in(kid) if use.what == "write"} for kid in one.kids[1:3])
        inner = one.kids[2].kids if one.kids[2].kind == "block" else (one.kids[2],)
        if on & off and not any(kid.kind == "if" for kid in inner):
            pin = next(iter(on & off))
            name = facts.name_of(pin) or f"pin {pin}"
            why = (
                f"At the threshold noise switches {name} on and off many times a second: on above one, "
                "off below another."
            )
            yield Wrong(
                "no-hysteresis",
                one.line,
                why,
                pin,
                instead=("if (value > high) on = true;", "else if (value < low) on = false;"),
            )


def number_without_end(facts: Facts) -> Iterator[Wrong]:
    """Numbers that are read without the end of their line."""
    for one in facts.loop_nodes:
        if one.kind != "call" or not one.of.startswith("Serial") or one.name not in ("parseInt", "parseFloat"):
            continue
        ends = [
            each
            for each in facts.loop_nodes
            if each.kind == "call"
            and each.name in ("readStringUntil", "readBytesUntil", "find", "read")
            and each.line >= one.line
        ]
        if ends:
            continue
        why = (
            "After the number stands the end of the line: left there it is read next as a 0, and without one this "
            "waits a second to be sure that no digit follows. Read up to the line's end."
        )
        short = "toFloat" if one.name == "parseFloat" else "toInt"
        edit = instead_of(one, f"{one.of}.readStringUntil('\\n').{short}()")
        yield Wrong("number-without-end", one.line, why, edits=(edit,))


def string_grows(facts: Facts) -> Iterator[Wrong]:
    """A text that is put together anew again and again."""
    if facts.source.language != "cpp":
        return
    texts = {one.name for one in facts.everything if one.kind == "declare" and re.search(r"\bString\b", one.words)}
    said: set[str] = set()
    for one in facts.loop_nodes:
        if one.kind != "assign" or one.kids[0].name not in texts or one.kids[0].name in said:
            continue
        name = one.kids[0].name
        longer = one.name == "+=" or (
            one.kids[1].kind == "infix" and one.kids[1].name == "+" and one.kids[1].speaks_of(name)
        )
        bounded = any(
            each.kind == "call" and each.name in ("reserve",) and each.of == name for each in facts.everything
        )
        if longer and not bounded:
            said.add(name)
            why = (
                f"“{name}” takes new memory with each letter: after hours the little that there is lies "
                "in pieces. Keep letters in an array of fixed size."
            )
            yield Wrong(
                "string-grows",
                one.line,
                why,
                instead=(
                    "static char line[32];",
                    "static byte many = 0;",
                    "if (many < sizeof line - 1) line[many++] = letter;",
                ),
            )


def never_begun(facts: Facts) -> Iterator[Wrong]:
    """The serial line used and never begun."""
    if facts.source.language != "cpp":
        return
    for of in ("Serial", "Serial1"):
        calls = [one for one in facts.everything if one.kind == "call" and one.of == of]
        if calls and not any(one.name == "begin" for one in calls):
            why = "Nothing is sent before the line is begun."
            yield Wrong("never-begun", calls[0].line, why, edits=first_in_setup(facts, f"{of}.begin(9600);"))


def prints_each_pass(facts: Facts) -> Iterator[Wrong]:
    """A line in every pass."""
    if any(one.us for one in [facts.held(facts.source.loop)]):
        return
    for one in facts.source.loop.kids:
        call = one.kids[0] if one.kind == "do" and one.kids else one
        by_serial = call.kind == "call" and call.of.startswith("Serial") and call.name in PRINTS
        if by_serial or (call.kind == "call" and call.name == "print" and not call.of):
            why = (
                "Each pass prints: the buffer is full at once, and from then on the loop waits for the "
                "line, a millisecond a letter at 9,600 baud."
            )
            yield Wrong(
                "prints-each-pass",
                call.line,
                why,
                instead=("if (value != told) { Serial.println(value); told = value; }",),
            )
            return


CHECKS = (
    Check("past-the-top", "A count that never comes", "Ten bits count from 0 to 1023.", past_the_top),
    Check("volts-for-counts", "Volts for counts", "A converter gives counts.", volts_for_counts),
    Check("no-hysteresis", "One threshold for on and off", "Between two thresholds nothing changes.", no_hysteresis),
    Check("number-without-end", "Numbers without an ending", "A line is read up to its end.", number_without_end),
    Check("string-grows", "A text that grows", "Memory of a small board is laid out once.", string_grows),
    Check("never-begun", "A line that was never begun", "A line has a speed.", never_begun),
    Check("prints-each-pass", "A line in every pass", "Say what has changed.", prints_each_pass),
)
