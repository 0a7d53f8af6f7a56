"""Slips of logic that compile."""

from __future__ import annotations

import re
from collections.abc import Iterator

from ..facts import TURNS, Facts, given
from ..nodes import NOTHING, Node
from .base import Check, Edit, Wrong, instead_of, swapped
from .waits import encoders


def _toggles(body: Node) -> Node | None:
    """Something that is turned over or counted on in a body."""
    for one in body.walk():
        own = one.kids[0].name if one.kind == "assign" else ""
        again = bool(own) and one.kids[1].speaks_of(own)
        if again and one.kids[1].kind == "prefix" and one.kids[1].name in ("!", "not", "~"):
            return one
        if one.kind == "step" and one.kids[0].kind in ("name", "field"):
            return one
        if one.kind == "assign" and one.name in ("+=", "-=", "^="):
            return one
        if again and one.kids[0].kind == "name" and one.kids[1].kind == "infix" and one.kids[1].name in ("%", "+", "-"):
            return one
        if one.kind == "call" and one.name == "toggle" and one.of:
            return one
        if one.kind == "call" and one.name in ("digitalWrite", "value") and one.kids and one.kids[-1].kind == "prefix":
            return one
    return None


def toggles_on_level(facts: Facts) -> Iterator[Wrong]:
    """Something is turned over while a contact is held, in every pass."""
    loop_ids = {id(one) for one in facts.loop_nodes}
    for body in facts.loop_bodies:
        yield from _under(facts, body, False, loop_ids)


def _under(facts: Facts, body: Node, edged: bool, loop: set[int]) -> Iterator[Wrong]:
    for one in body.kids:
        if one.kind != "if":
            yield from _under(facts, one, edged, loop)
            continue
        mine = edged or _is_edge(facts, one.kids[0])
        tests = facts.tests_in(one.kids[0])
        turned = _toggles(one.kids[1])
        waits = [each for each in one.kids[1].all("while", "do-while") if facts.tests_in(each.kids[0])]
        inner_edge = any(_is_edge(facts, each.kids[0]) for each in one.kids[1].all("if"))
        if tests and turned and not mine and not waits and not inner_edge:
            name = facts.name_of(tests[0].pin) or f"pin {tests[0].pin}"
            rows: tuple[str, ...] = (
                f"bool down = {facts.source.said(tests[0].node)};",
                "if (down && !wasDown) { … }",
                "wasDown = down;",
            )
            if facts.source.language == "python":
                rows = (
                    f"down = {facts.source.said(tests[0].node)}",
                    "if down and not was_down:",
                    "    …",
                    "was_down = down",
                )
            why = (
                f"While {name} is held, each pass turns it over again: whether it ends on or off is "
                "luck. Act on the change."
            )
            yield Wrong("toggles-on-level", turned.line, why, tests[0].pin, instead=rows)
            continue
        yield from _under(facts, one.kids[1], mine, loop)
        yield from _under(facts, one.kids[2], edged, loop)


def counts_bounces(facts: Facts) -> Iterator[Wrong]:
    """A change of a raw contact that is counted with nothing that waits for it to come to rest."""
    timed = [one for one in facts.timers if one.how != "equal"]
    raw = dict(facts.aliases)
    for one in facts.everything:
        name, value = given(one)
        read = {use.pin for use in facts.uses_in(value) if use.what == "read"}
        if name and len(read) == 1 and value.kind in ("infix", "prefix"):
            raw[name] = next(iter(read))
    for body in facts.loop_bodies:
        for one in body.walk():
            if one.kind != "if" or not _is_edge(facts, one.kids[0]):
                continue
            pins = {raw[each.name] for each in one.kids[0].all("name") if each.name in raw}
            pins |= {use.pin for use in facts.uses_in(one.kids[0]) if use.what == "read"}
            turned = _toggles(one.kids[1])
            if len(pins) != 1 or turned is None or facts.held(one).us or any(a in pins for a, _, _ in encoders(facts)):
                continue
            around = [each for each in body.walk() if each.kind == "if" and any(kid is one for kid in each.walk())]
            clocks = [clock for clock in timed if any(clock.node in each.kids[0].walk() for each in around)]
            inside = [clock for clock in timed if clock.node in one.walk()]
            if clocks or inside:
                continue
            pin = next(iter(pins))
            name = facts.name_of(pin) or f"pin {pin}"
            why = (
                f"Each bounce of {name} is a change, and is counted: a press counts several times. Wait until "
                "the level has stood for 20 ms."
            )
            rows: tuple[str, ...] = ("if (level != seen) { seen = level; changed = millis(); }",)
            rows += ("if (millis() - changed >= 20 && level != stable) { stable = level; … }",)
            if facts.source.language == "python":
                rows = ("if level != seen:", "    seen = level; changed = ticks_ms()")
                rows += ("if ticks_diff(ticks_ms(), changed) >= 20 and level != stable:", "    stable = level; …")
            yield Wrong("counts-bounces", turned.line, why, pin, instead=rows)


def _is_edge(facts: Facts, test: Node) -> bool:
    """Whether a condition remembers: it asks for a variable that is no pin's level and no time."""
    timers = {id(each) for timer in facts.timers for each in timer.node.walk()}
    for one in test.walk():
        if one.kind not in ("name", "field", "index") or id(one) in timers:
            continue
        name = one.kids[0].name if one.kind == "index" and one.kids else one.name
        if name in facts.source.constants or name in ("HIGH", "LOW") or name in facts.aliases or name in facts.nows:
            continue
        if name in facts.pin_objects or any(name == facts.name_of(pin) for pin in facts.pins) or name in facts.lists:
            continue
        if any(one in call.kids for call in test.all("call")):
            continue
        return True
    # Two readings held against one another: one of them is of the pass before.
    return any(
        one.kind == "infix"
        and one.name in ("!=", "==", "&&")
        and all(kid.name in facts.aliases for kid in one.kids)
        and one.kids[0].name != one.kids[1].name
        for one in test.walk()
        if one.kind == "infix" and len(one.kids) == 2 and all(kid.kind == "name" for kid in one.kids)
    ) or any(one.kind == "call" and one.name in facts.source.functions for one in test.walk())


def assigns_in_test(facts: Facts) -> Iterator[Wrong]:
    """= where == was meant."""
    for one in facts.everything:
        if one.kind not in ("if", "while", "do-while"):
            continue
        for each in one.kids[0].walk():
            if each.kind == "assign" and each.name == "=" and not (each.kids[1].kind == "call" and one.kind == "while"):
                at = facts.source.text.index("=", each.kids[0].stop)
                why = (
                    "One = gives a value: it is true whatever was there (unless it is 0), and what was "
                    "there is gone. Two ask."
                )
                yield Wrong("assigns-in-test", each.line, why, edits=(Edit(at, at + 1, "=="),))


def empty_if(facts: Facts) -> Iterator[Wrong]:
    """A semicolon that ends the if."""
    if facts.source.language != "cpp":
        return
    for one in facts.everything:
        if (
            one.kind == "if"
            and len(one.kids[1].kids) == 1
            and one.kids[1].kids[0].kind == "do"
            and not one.kids[1].kids[0].kids
        ):
            empty = one.kids[1].kids[0]
            why = "The semicolon is all that the if does; what stands below it happens always."
            yield Wrong("empty-if", one.line, why, edits=(Edit(empty.start, empty.stop, ""),))


def falls_through(facts: Facts) -> Iterator[Wrong]:
    """A case without its end."""
    for one in facts.everything:
        if one.kind != "switch":
            continue
        cases = one.kids[1:]
        for case in cases[:-1]:
            rows = [kid for kid in case.kids[1:] if kid is not NOTHING]
            if not rows:
                continue
            said = facts.source.text[case.start : case.stop + 120]
            following = facts.source.text[case.start : cases[cases.index(case) + 1].start]
            if re.search(r"//.*fall|\[\[fallthrough\]\]", following, re.IGNORECASE) or not said:
                continue
            last = rows[-1]
            ends = [
                kid
                for kid in (last, *(last.kids[-1:] if last.kind == "block" else ()))
                if kid.kind in ("break", "return", "continue")
            ]
            if ends or _always_leaves(last):
                continue
            why = "Without break this case goes on into the next one."
            yield Wrong("falls-through", last.line, why, edits=(Edit(last.stop, last.stop, " break;"),))


def _always_leaves(one: Node) -> bool:
    if one.kind in ("break", "return", "continue"):
        return True
    if one.kind == "block":
        return bool(one.kids) and _always_leaves(one.kids[-1])
    return one.kind == "if" and one.kids[2] is not NOTHING and all(_always_leaves(kid) for kid in one.kids[1:])


def float_equal(facts: Facts) -> Iterator[Wrong]:
    """== between numbers with a point."""
    floats = {
        one.name for one in facts.everything if one.kind == "declare" and re.search(r"\b(float|double)\b", one.words)
    }
    for one in facts.everything:
        if one.kind != "infix" or one.name not in ("==", "!="):
            continue
        points = [each for each in one.walk() if each.kind == "number" and "." in each.name]
        named = [each for each in one.kids if each.kind == "name" and each.name in floats]
        if (points or named) and not any(each.kind == "infix" and each.name in TURNS for each in one.walk()):
            said = facts.source.said
            if facts.source.language == "cpp":
                text = f"fabs({said(one.kids[0])} - ({said(one.kids[1])})) {'<' if one.name == '==' else '>='} 0.01"
            else:
                text = f"abs({said(one.kids[0])} - ({said(one.kids[1])})) {'<' if one.name == '==' else '>='} 0.01"
            why = "Numbers with a point are seldom just equal: 0.1 + 0.2 is not 0.3. Ask whether they are near."
            yield Wrong("float-equal", one.line, why, edits=(instead_of(one, text),))


def calls_itself(facts: Facts) -> Iterator[Wrong]:
    """Recursion."""
    for function in facts.source.functions.values():
        inner = facts.reached(function.body)
        if any(one.name == function.name for one in inner):
            call = next((one for one in function.body.all("call") if facts.source.function_of(one)), function.body)
            why = f"“{function.name}” calls itself: each call takes of the stack, and a small board has little of that."
            yield Wrong("calls-itself", call.line, why)


def bit_for_both(facts: Facts) -> Iterator[Wrong]:
    """& where && was meant."""
    for one in facts.everything:
        if (
            one.kind == "infix"
            and one.name in ("&", "|")
            and any(kid.kind == "infix" and kid.name in (*TURNS, "==", "!=") for kid in one.kids)
        ):
            at = facts.source.text.find(one.name, one.kids[0].stop)
            why = (
                f"{one.name} works on bits, and after the comparison beside it: {one.name}{one.name} "
                f"means “{'and' if one.name == '&' else 'or'}”."
            )
            word = f" {'and' if one.name == '&' else 'or'} " if facts.source.language == "python" else one.name * 2
            yield Wrong("bit-for-both", one.line, why, edits=(Edit(at, at + 1, word.strip()),))


def index_beyond(facts: Facts) -> Iterator[Wrong]:
    """A place of a list that it does not have."""
    sizes: dict[str, float] = {}
    for one in facts.everything:
        if one.kind == "declare" and "[" in one.words:
            said = re.search(r"\[\s*(\w+)\s*\]", one.words)
            number = None
            if said:
                known = facts.source.constants.get(said[1])
                number = float(said[1]) if said[1].isdigit() else facts.source.number(known)
            number = number if number is not None else float(len(one.kids[0].kids)) if one.kids else None
            if number:
                sizes[one.name] = number
        name, value = given(one)
        if name and value.kind == "list" and value.kids and facts.source.language == "python":
            sizes[name] = len(value.kids)
    for one in facts.everything:
        if one.kind == "index" and one.kids[0].name in sizes and len(one.kids) > 1:
            place = facts.source.number(one.kids[1])
            if place is not None and place >= sizes[one.kids[0].name]:
                why = (
                    f"“{one.kids[0].name}” has places 0 to {sizes[one.kids[0].name] - 1:.0f}; "
                    f"{place:.0f} is somebody else's memory."
                )
                yield Wrong("index-beyond", one.line, why)
        if one.kind == "for" and len(one.kids) == 4 and one.kids[1].kind == "infix" and one.kids[1].name == "<=":
            counter = one.kids[1].kids[0].name
            last = facts.source.number(one.kids[1].kids[1])
            for each in one.kids[3].all("index"):
                size = sizes.get(each.kids[0].name)
                if size and len(each.kids) > 1 and each.kids[1].name == counter and last is not None and last >= size:
                    why = f"The loop goes on to {last:.0f}; “{each.kids[0].name}” ends at {size - 1:.0f}."
                    yield Wrong("index-beyond", one.line, why, edits=swapped(facts, one.kids[1], "<=", "<"))
                    break


CHECKS = (
    Check("toggles-on-level", "Turned over while it is held", "A press is an edge.", toggles_on_level),
    Check("counts-bounces", "Bounces counted", "A level counts when it has come to rest.", counts_bounces),
    Check("assigns-in-test", "= for ==", "One gives, two ask.", assigns_in_test, "C11 §6.5.16"),
    Check("empty-if", "A semicolon after the if", "An empty statement is a statement.", empty_if, "C11 §6.8.3"),
    Check("falls-through", "A case without break", "A case goes on into the next.", falls_through, "C11 §6.8.4.2"),
    Check("float-equal", "Points compared by ==", "Numbers with a point are near, or not.", float_equal, "IEEE 754"),
    Check("calls-itself", "A function that calls itself", "The stack of a small board is small.", calls_itself),
    Check("bit-for-both", "& for &&", "Comparisons come before bits.", bit_for_both, "C11 §6.5.10"),
    Check("index-beyond", "Beyond the end of a list", "Places are counted from 0.", index_beyond, "C11 §6.5.6"),
)
