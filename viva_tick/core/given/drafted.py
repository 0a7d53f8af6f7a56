"""A bench drafted from a program: parts, pins, cleaning, the machines that were recognised; and, line by line, what was
not."""

from __future__ import annotations

from typing import Any

from ..ids import free_id, id_from
from .facts import HIGH, PRINTS, Facts, given, watchdog
from .heard import Change, Hearing
from .nodes import Node
from .placed import Draft, Placing, title_of


class _Drafting(Placing):
    # Machines.

    def machines(self) -> None:
        """What was recognised of what it does."""
        changes = self.hearing.changes
        controls: dict[str, list[str]] = {}
        for change in changes:
            if not change.of.startswith("pin "):
                continue
            by = (
                change.to
                if change.to not in ("0", "1", "!")
                else next((name for name, _ in change.when.states if any(one.of == name for one in changes)), change.of)
            )
            controls.setdefault(change.of, []).append(by)
        done: set[str] = set()
        for pin, names in controls.items():
            # An output whose changes hang on a variable that itself changes follows that variable.
            by = next((name for name in names if name != pin), pin)
            if by not in done:
                done.add(by)
                self.machine(by, [one for one, rows in controls.items() if by in rows or one == by])

    def machine(self, by: str, pins: list[str]) -> None:
        """The machine of a variable (or of a pin that is its own), and the outputs that follow it."""
        mine = [one for one in self.hearing.changes if one.of == by]
        labels = [one.to for one in mine if one.to not in ("0", "1", "!")]
        first = self.first(by)
        states = list(dict.fromkeys([first, *labels])) if labels else ["0", "1"]
        outputs = [pin for pin in pins if self.parts.get(pin.removeprefix("pin "))]
        if not outputs or not mine:
            return
        rows = [row for one in mine for row in self.transitions(one, by, states)]
        found: dict[tuple[str, str], dict[str, Any]] = {}
        for row, change in rows:
            found.setdefault((row["source"], str(row["on"])), row)
            if row in found.values():
                self.said(change, f"{title_of(by.removeprefix('pin '))}: a change of state")
        if not found:
            return
        names = {state: ("Off", "On")[int(state)] if state in ("0", "1") else title_of(state) for state in states}
        made = {
            "id": free_id(
                id_from(title_of(by.removeprefix("pin ")), "machine"),
                {one["id"] for one in self.data["firmware"]["machines"]},
            ),
            "name": title_of(by.removeprefix("pin ") if not by.startswith("pin ") else self.name(by)),
            "initial": _slug(self.after_a_pass(first, mine, states), states),
            "states": [
                {"id": _slug(state, states), "name": names[state], "drives": self.drives(by, state, outputs)}
                for state in states
            ],
            "transitions": list(found.values()),
        }

        def added(data: dict[str, Any]) -> None:
            data["firmware"]["machines"] = [*data["firmware"]["machines"], made]

        if self.try_to([], added):
            for one in self.facts.everything:
                if one.kind == "switch" and one.kids[0].name == by:
                    self.became(one.line, f"the states of {made['name']}")
            for each in self.hearing.changes:
                if each.of in outputs:
                    self.said(each, f"what {self.name(each.of)} does in {made['name']}")

    def name(self, pin: str) -> str:
        ident = self.parts.get(pin.removeprefix("pin "), "")
        return next((one["name"] for one in self.data["outputs"] if one["id"] == ident), pin)

    def first(self, by: str) -> str:
        """The state that a variable begins in; of a pin, what set-up writes to it."""
        if by.startswith("pin "):
            written = [one for one in self.facts.uses_in(self.facts.source.setup) if one.what == "write"]
            last = next((one for one in reversed(written) if f"pin {one.pin}" == by), None)
            return str(int(last is not None and (last.word in ("on", "high") or _is_true(last.value))))
        made = self.facts.globals.get(by)
        value = made.kids[-1] if made is not None and made.kids else None
        labels = [one.to for one in self.hearing.changes if one.of == by and one.to not in ("0", "1", "!")]
        if labels and value is not None and value.kind == "name":
            return value.name
        return labels[0] if labels else str(int(value is not None and _is_true(value)))

    def after_a_pass(self, state: str, mine: list[Change], states: list[str]) -> str:
        """The state after passes of the loop in which nobody touches a contact: a program that asks for a level, not
        for a change of it, does so from the first pass on."""
        for _ in range(len(mine)):
            before = state
            for one in mine:
                asked = one.when.contacts and not one.when.timers and not one.when.more
                at_rest = all(level is not None and level != self.hearing.down(pin) for pin, level in one.when.contacts)
                in_it = all(name == one.of and value == state for name, value in one.when.states)
                if asked and at_rest and in_it and one.to in states:
                    state = one.to
            if state == before:
                break
        return state

    def transitions(self, change: Change, by: str, states: list[str]) -> list[tuple[dict[str, Any], Change]]:
        """The transitions that a change is."""
        event = self.event(change)
        if event is None:
            return []
        asked = [value for name, value in change.when.states if name == by and value in states]
        if change.to == "!":
            pairs = [("0", "1"), ("1", "0")]
        else:
            sources = asked or [state for state in states if state != change.to]
            if event["kind"] == "timeout" and not asked and len(states) == 2:
                sources = [state for state in states if state != change.to]
            pairs = [(source, change.to) for source in sources if source != change.to]
        return [
            ({"source": _slug(a, states), "on": event, "target": _slug(b, states)}, change)
            for a, b in pairs
            if a in states and b in states
        ]

    def event(self, change: Change) -> dict[str, Any] | None:
        """What a change answers to: a contact that is pressed or let go, or a time that has passed."""
        levels = [(pin, level) for pin, level in change.when.contacts if pin in self.parts]
        known = [(pin, level) for pin, level in levels if level is not None]
        if known:
            pin, level = known[0]
            kind = "press" if level == self.hearing.down(pin) else "release"
            return {"kind": kind, "input": self.parts[pin]}
        waits = [one for one in change.when.timers if one.wait_ms is not None and one.how in ("since", "until")]
        if waits:
            return {"kind": "timeout", "after_us": max(round(waits[0].wait_ms or 0), 1) * 1000}
        return None

    def drives(self, by: str, state: str, outputs: list[str]) -> dict[str, Any]:
        """What a state makes its outputs do."""
        found: dict[str, Any] = {}
        for pin in outputs:
            rows = [one for one in self.hearing.changes if one.of == pin]
            levels = [self.in_state(one.value, by, state) for one in rows]
            if pin == by:
                levels = [state == "1"]
            levels += [one.to == "1" for one in rows if self.with_(one, by, state)]
            known = [level for level in levels if level is not None]
            if known:
                found[self.parts[pin.removeprefix("pin ")]] = {"kind": "steady", "on": known[0]}
        return found

    def in_state(self, value: Node, by: str, state: str) -> bool | None:
        """What an expression that hangs on the machine's variable is in a state."""
        if value.kind in ("name", "field") and value.name == by:
            return state == "1"
        if value.kind == "prefix" and value.name in ("!", "not"):
            inner = self.in_state(value.kids[0], by, state)
            return None if inner is None else not inner
        if value.kind == "choice":
            inner = self.in_state(value.kids[0], by, state)
            return None if inner is None else HIGH.get(value.kids[1 if inner else 2].name) == 1
        if value.kind == "infix" and value.name in ("==", "!=") and by in (names := [kid.name for kid in value.kids]):
            other = value.kids[1 - names.index(by)]
            return (other.name == state) == (value.name == "==")
        return None

    def with_(self, change: Change, by: str, state: str) -> bool:
        """Whether an output changes just where the variable comes to that state."""
        same = [
            one
            for one in self.hearing.changes
            if one.of == by and one.to == state and one.when.nodes == change.when.nodes
        ]
        return bool(same) and change.to in ("0", "1") and change.value.kind in ("name", "number", "block")

    def said(self, change: Change, words: str) -> None:
        """The lines of a change and of its conditions."""
        for node in (change.node, *change.when.nodes):
            self.became(node.line, words)

    # Lines.

    def lines(self) -> None:
        """What is left: said to be left out, or not understood."""
        facts, draft = self.facts, self.draft
        for one in facts.everything:
            if one.kind == "call" and (one.of.startswith("Serial") or one.name == "print"):
                draft.left.setdefault(
                    one.line, "what it prints" if one.name in PRINTS or one.name == "print" else "the serial line"
                )
            if watchdog(one):
                draft.left.setdefault(one.line, "the watchdog: set it in Guard")
        remembers = {*self.hearing.levels, *self.hearing.pressed, *facts.nows}
        remembers |= {timer.last for timer in facts.timers}
        for body in facts.loop_bodies:
            for one in body.walk():
                inner = one.kids[0] if one.kind == "do" and one.kids else one
                name, _ = given(inner)
                target = inner.kids[0] if inner.kind == "assign" else inner
                if one.kind == "declare" and one.name in remembers:
                    self.became(one.line, "remembers a level, or when it changed")
                if name in remembers or (
                    target.kind in ("field", "name") and target.name in remembers | set(self.hearing.buttons)
                ):
                    self.became(one.line, "remembers a level, or when it changed")
                if one.kind == "if" and any(timer.node in one.kids[0].walk() for timer in facts.timers):
                    self.became(one.line, "looks at the time")
                if one.kind == "if" and (facts.tests_in(one.kids[0]) or _levels_only(one.kids[0], self.hearing)):
                    self.became(one.line, "looks at a contact")
        for one in self.statements():
            if one.line not in draft.became and one.line not in draft.left and one.line not in draft.unknown:
                draft.unknown.append(one.line)
        draft.unknown = sorted({*draft.unknown, *facts.source.broken})

    def statements(self) -> list[Node]:
        """What the loop and the handlers do, one by one."""
        bodies = [*self.facts.loop_bodies, *self.facts.handler_bodies]
        kinds = ("do", "declare", "if", "while", "do-while", "for", "switch", "unknown")
        calls = set(self.facts.source.functions)
        return [
            one
            for body in bodies
            for one in body.walk()
            if one.kind in kinds and not (one.kind == "do" and (not one.kids or one.kids[0].name in calls))
        ]


def _is_true(value: Node) -> bool:
    return HIGH.get(value.name) == 1 or (value.kind == "number" and value.value == 1.0)


def _levels_only(test: Node, hearing: Hearing) -> bool:
    names = [one.name for one in test.all("name", "field") if one.name not in ("HIGH", "LOW")]
    known = {*hearing.levels, *hearing.pressed, *hearing.buttons}
    return bool(names) and all(name in known or name in hearing.facts.source.constants for name in names)


def _slug(state: str, states: list[str]) -> str:
    if state in ("0", "1"):
        return ("off", "on")[int(state)]
    return id_from(title_of(state), f"state-{states.index(state)}")[:36]


def draft(facts: Facts, name: str) -> Draft:
    """A bench from a program."""
    made = _Drafting(facts, name)
    made.inputs()
    made.outputs()
    made.machines()
    made.lines()
    made.draft.bench = made.bench()
    return made.draft
