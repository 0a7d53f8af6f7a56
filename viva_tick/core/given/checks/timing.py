"""The time: how it is compared, and in what it is kept."""

from __future__ import annotations

import re
from collections.abc import Iterator

from ...switches import SWITCH_CLASSES
from ...units import ms
from ..facts import NOW, WAITS, Facts, Timer, given
from ..nodes import Node
from .base import Check, Edit, Wrong, instead_of

WRAPS = "C11 §6.2.5: unsigned arithmetic is modulo 2^N; a counter of 32 bits and milliseconds wraps after 49.7 days"
NARROW = re.compile(r"\b(int|short|byte|char|float|double|long|int8_t|uint8_t|int16_t|uint16_t|int32_t|word)\b")
WIDE = re.compile(r"\bunsigned\s+long\b|\buint32_t\b|\buint64_t\b|\bauto\b|\bconst\b")
LEAST_BOUNCE_US = min(max(one.press.settle_us[1], one.release.settle_us[1]) for one in SWITCH_CLASSES.values())
SHORT_US = max(LEAST_BOUNCE_US, 5_000)
INT_MOST = 32_767


def _now(facts: Facts, node: Node) -> Node | None:
    return next((one for one in node.walk() if facts.is_now(one)), None)


def sum_wraps(facts: Facts) -> Iterator[Wrong]:
    """now > last + wait."""
    for timer in facts.timers:
        if timer.how != "until":
            continue
        now = next((side for side in timer.node.kids if facts.is_now(side)), timer.node)
        total = next(side for side in timer.node.kids if side is not now)
        last = next(each for each in total.kids if each is not timer.wait)
        said, source = facts.source.said, facts.source
        turn = timer.node.name if timer.node.kids[0] is now else _turned(timer.node.name)
        if source.language == "cpp":
            text = f"{said(now)} - {said(last)} {turn} {said(timer.wait)}"
        else:
            text = f"ticks_diff({said(now)}, {said(last)}) {turn} {said(timer.wait)}"
        why = (
            "Near the counter's end last + wait wraps to a small number, and the wait is over at once; after 49.7 "
            "days, and each time again. Time since then, by subtraction, is right across the wrap."
        )
        yield Wrong("sum-wraps", timer.node.line, why, edits=(instead_of(timer.node, text),))


def _turned(name: str) -> str:
    return {"<": ">", ">": "<", "<=": ">=", ">=": "<="}.get(name, name)


def deadline_wraps(facts: Facts) -> Iterator[Wrong]:
    """now >= deadline, where the deadline was now + wait."""
    deadlines = set()
    for one in facts.everything:
        name, value = given(one)
        if name and value.kind == "infix" and value.name == "+" and any(facts.is_now(kid) for kid in value.kids):
            deadlines.add(name)
    for timer in facts.timers:
        if (
            timer.how != "deadline"
            or timer.last not in deadlines
            or (timer.node.kids[0].kind == "call" and timer.node.kids[0].name == "ticks_diff")
        ):
            continue
        now = next((side for side in timer.node.kids if facts.is_now(side)), timer.node)
        other = next(side for side in timer.node.kids if side is not now)
        said = facts.source.said
        turn = timer.node.name if timer.node.kids[0] is now else _turned(timer.node.name)
        text = f"(long)({said(now)} - {said(other)}) {turn} 0"
        if facts.source.language == "python":
            text = f"ticks_diff({said(now)}, {said(other)}) {turn} 0"
        why = (
            "The deadline wraps before the time does: then it is past at once, or 49 days away. Ask for "
            "the sign of the difference."
        )
        yield Wrong("deadline-wraps", timer.node.line, why, edits=(instead_of(timer.node, text),))


def reversed_wait(facts: Facts) -> Iterator[Wrong]:
    """last - now."""
    for timer in facts.timers:
        if timer.how == "reversed":
            side = next(one for one in timer.node.walk() if one.kind == "infix" and one.name == "-")
            said = facts.source.said
            text = f"{said(side.kids[1])} - {said(side.kids[0])}"
            why = "Last minus now is negative, and unsigned that is a huge number: the wait is over at once, always."
            yield Wrong("reversed-wait", timer.node.line, why, edits=(instead_of(side, text),))


def exact_time(facts: Facts) -> Iterator[Wrong]:
    """now == something."""
    for timer in facts.timers:
        if timer.how == "equal":
            why = (
                "A pass looks at the time now and then: the one millisecond that is asked for is passed "
                "over, or met in several passes."
            )
            yield Wrong(
                "exact-time", timer.node.line, why, instead=("if (millis() - last >= wait) { last += wait; … }",)
            )


def narrow_time(facts: Facts) -> Iterator[Wrong]:
    """The time in a type that is too small for it, or has a sign."""
    if facts.source.language != "cpp":
        return
    times = {timer.last for timer in facts.timers if timer.last} | facts.nows
    for one in facts.everything:
        name, value = given(one)
        if name and any(each.kind == "call" and each.name in NOW for each in value.walk()):
            times.add(name)
    for one in facts.everything:
        if one.kind != "declare" or one.name not in times:
            continue
        bare = re.sub(r"\b(static|volatile|unsigned long|extern)\b", "", one.words)
        if WIDE.search(one.words) or not (found := NARROW.search(bare)):
            continue
        start = facts.source.text.rfind(found[0], facts.source.text.rfind("\n", 0, one.start) + 1, one.start)
        words = re.compile(r"(unsigned\s+|signed\s+)?(long\s+)?\b" + re.escape(found[0]))
        line = facts.source.text.rfind("\n", 0, one.start) + 1
        match = words.search(facts.source.text, line, one.start)
        edits = (Edit(match.start(), match.end(), "unsigned long"),) if match else ()
        wraps = {"byte": "256 ms", "uint8_t": "256 ms", "char": "128 ms"}.get(found[0], "32.8 s on an 8-bit board")
        wraps = "65.5 s" if "unsigned" in one.words or found[0] in ("uint16_t", "word") else wraps
        if found[0] in ("long", "int32_t"):
            wraps = "24.9 days, when it turns negative"
        if found[0] in ("float", "double"):
            wraps = "4.7 hours, when it has no more digits for a millisecond"
        if start >= 0:
            yield Wrong(
                "narrow-time",
                one.line,
                f"“{one.name}” holds the time in {one.words.strip()}: that goes wrong after {wraps}.",
                edits=edits,
            )


def plain_difference(facts: Facts) -> Iterator[Wrong]:
    """In MicroPython: the difference of two ticks by minus."""
    if facts.source.language != "python":
        return
    for timer in facts.timers:
        side = next((one for one in timer.node.walk() if one.kind == "infix" and one.name == "-"), None)
        if (
            timer.how != "since"
            or side is None
            or any(one.name == "time" for one in timer.node.walk() if one.kind == "call")
        ):
            continue
        of = next((one.of for one in facts.everything if one.kind == "call" and one.name == "ticks_ms" and one.of), "")
        said = facts.source.said
        call = f"{of + '.' if of else ''}ticks_diff({said(side.kids[0])}, {said(side.kids[1])})"
        why = "The counter of ticks wraps at a number of the board's own: only ticks_diff is right across it."
        yield Wrong("plain-difference", timer.node.line, why, edits=(instead_of(side, call),))


def whole_seconds(facts: Facts) -> Iterator[Wrong]:
    """In MicroPython: time.time() for a wait."""
    if facts.source.language != "python":
        return
    for timer in facts.timers:
        calls = [one for one in timer.node.walk() if one.kind == "call" and one.name == "time"]
        if calls:
            why = (
                "time.time() counts whole seconds on such boards: a wait comes out wrong by up to one, "
                "a short one not at all."
            )
            yield Wrong("whole-seconds", timer.node.line, why, instead=("ticks_diff(ticks_ms(), last) >= 1000 * wait",))


def product_overflows(facts: Facts) -> Iterator[Wrong]:
    """A product of whole numbers that does not fit in 16 bits."""
    if facts.source.language != "cpp":
        return
    inside: set[int] = set()
    # What a macro stands for is looked at where it is defined.
    defined = list(facts.source.constants.values())
    for one in [*facts.everything, *(each for kid in defined for each in kid.walk())]:
        if one.kind != "infix" or one.name != "*" or id(one) in inside:
            continue
        inside |= {id(each) for each in one.walk()}
        said = facts.source.said(one)
        number = facts.source.number(one)
        leaves = [each for each in one.walk() if each.kind in ("number", "name")]
        wide = any(re.search(r"[uUlL]$|\.", each.name) for each in leaves if each.kind == "number")
        wide = wide or any(_is_wide(facts, each.name) for each in leaves if each.kind == "name")
        if number is None or abs(number) <= INT_MOST or wide or "*" not in said:
            continue
        first = next(each for each in leaves)
        digits = re.search(r"\d+", facts.source.said(first))
        at = first.start + digits.end() if digits and first.kind == "number" else 0
        edits = (Edit(at, at, "UL"),) if at else ()
        why = (
            f"{said} is worked out in an int, 16 bits on an 8-bit board, before it goes where it fits: "
            f"{number:,.0f} does not fit."
        )
        yield Wrong("product-overflows", one.line, why, edits=edits)


def _is_wide(facts: Facts, name: str) -> bool:
    made = facts.globals.get(name)
    return made is not None and bool(re.search(r"long|32|64|float|double", made.words))


def forgets(facts: Facts) -> Iterator[Wrong]:
    """A local variable of the loop that should remember, and is made anew each pass."""
    if facts.source.language != "cpp":
        return
    lasts = {timer.last for timer in facts.timers if timer.how in ("since", "until")}
    toggled = {
        one.kids[0].name
        for one in facts.loop_nodes
        if one.kind == "assign"
        and one.kids[0].kind == "name"
        and one.kids[1].kind == "prefix"
        and one.kids[1].speaks_of(one.kids[0].name)
    }
    for body in facts.loop_bodies:
        for one in body.kids:
            if one.kind != "declare" or "static" in one.words or one.name not in lasts | toggled:
                continue
            if one.kids and any(facts.is_now(each) for each in one.kids[0].walk()) and one.name not in lasts:
                continue
            if one.name in facts.nows or (one.kids and facts.source.number(one.kids[0]) is None):
                continue
            start = facts.source.text.rfind("\n", 0, one.start) + 1
            start += len(facts.source.text[start:]) - len(facts.source.text[start:].lstrip())
            why = f"“{one.name}” is made anew each pass: it remembers nothing."
            yield Wrong("forgets", one.line, why, edits=(Edit(start, start, "static "),))


def conditions(facts: Facts) -> Iterator[tuple[set[str], list[Timer], Node]]:
    """(pins whose level is asked for, timers, the condition) of each condition in the loop, with those around it."""
    timers = {id(one.node): one for one in facts.timers}

    def under(body: Node, pins: set[str], clocks: list[Timer]) -> Iterator[tuple[set[str], list[Timer], Node]]:
        for one in body.kids:
            if one.kind != "if":
                yield from under(one, pins, clocks)
                continue
            test = one.kids[0]
            mine = (
                pins
                | {each.pin for each in facts.tests_in(test)}
                | {
                    facts.aliases[each.name]
                    for each in test.walk()
                    if each.kind == "name" and each.name in facts.aliases
                }
            )
            mine_too = clocks + [timers[id(each)] for each in test.walk() if id(each) in timers]
            yield mine, mine_too, one
            yield from under(one.kids[1], mine, mine_too)
            yield from under(one.kids[2], pins, clocks)

    for body in facts.loop_bodies:
        yield from under(body, set(), [])


def shared_last(facts: Facts) -> Iterator[Wrong]:
    """One time of the last press for several buttons."""
    by_last: dict[str, dict[str, int]] = {}
    for pins, clocks, node in conditions(facts):
        if len(pins) == 1:
            for timer in clocks:
                if timer.last:
                    by_last.setdefault(timer.last, {}).setdefault(next(iter(pins)), node.line)
    for last, found in by_last.items():
        if len(found) > 1:
            names = " and ".join(facts.name_of(pin) or f"pin {pin}" for pin in found)
            why = f"{names} share “{last}”: a press of one makes the other deaf for the wait. Each needs its own."
            yield Wrong("shared-last", max(found.values()), why)


def debounce_short(facts: Facts) -> Iterator[Wrong]:
    """A debounce interval that is shorter than any contact bounces."""
    seen: set[int] = set()
    for pins, clocks, _ in conditions(facts):
        for timer in clocks:
            if (
                not pins
                or timer.wait_ms is None
                or timer.wait_ms * 1000 >= SHORT_US
                or timer.wait_ms <= 0
                or id(timer.node) in seen
            ):
                continue
            seen.add(id(timer.node))
            yield _short(facts, timer.wait, timer.wait_ms * 1000)
    for one in facts.loop_nodes:
        if one.kind != "if" or not facts.tests_in(one.kids[0]) or not one.kids[1].kids:
            continue
        first = one.kids[1].kids[0]
        call = first.kids[0] if first.kind == "do" and first.kids else first
        again = [each for each in one.kids[1].all("if") if facts.tests_in(each.kids[0])]
        if call.kind == "call" and call.name in WAITS and again:
            number = facts.source.number(call.kids[0]) if call.kids else None
            if number is not None and number * WAITS[call.name] < SHORT_US:
                yield _short(facts, call.kids[0], number * WAITS[call.name])


def _short(facts: Facts, wait: Node, us: float) -> Wrong:
    where = wait
    while where.kind == "name" and where.name in facts.source.constants:
        where = facts.source.constants[where.name]
    text = facts.source.text[where.start : where.stop]
    edits = (instead_of(where, re.sub(r"[0-9.]+", "20", text, count=1)),) if where.kind == "number" else ()
    why = (
        f"Contacts bounce for up to {ms(LEAST_BOUNCE_US)} at the best, most for longer; {ms(round(us))} "
        "lets a press count twice. 20 ms is usual; measure yours."
    )
    return Wrong("debounce-short", wait.line, why, edits=edits)


CHECKS = (
    Check("sum-wraps", "A wait that wraps", "Time is compared by subtraction.", sum_wraps, WRAPS),
    Check("deadline-wraps", "A deadline that wraps", "Time is compared by subtraction.", deadline_wraps, WRAPS),
    Check("reversed-wait", "A subtraction the wrong way round", "Now minus then.", reversed_wait, WRAPS),
    Check("exact-time", "One exact millisecond", "A time is met or passed, never hit.", exact_time),
    Check(
        "narrow-time",
        "The time in a type too small",
        "The counter is an unsigned number of 32 bits.",
        narrow_time,
        WRAPS,
    ),
    Check(
        "plain-difference",
        "Ticks subtracted by minus",
        "Ticks are compared by ticks_diff.",
        plain_difference,
        "MicroPython's documentation of ticks_diff, from memory",
    ),
    Check("whole-seconds", "Whole seconds for a wait", "Short times are counted in ticks.", whole_seconds),
    Check(
        "product-overflows",
        "A product of 16 bits",
        "Constants are int where nothing says otherwise.",
        product_overflows,
        "C11 §6.4.4.1, §6.3.1.8",
    ),
    Check("forgets", "A variable that forgets", "What is to remember is static, or outside.", forgets, "C11 §6.2.4"),
    Check("shared-last", "One “last” for several buttons", "Each contact has its own time.", shared_last),
    Check(
        "debounce-short",
        "Shorter than any contact bounces",
        "The interval is longer than the contact's bounce.",
        debounce_short,
    ),
)
