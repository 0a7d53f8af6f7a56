"""What the loop of a program does when: every change that it makes, with the conditions under which it makes it."""

from __future__ import annotations

from dataclasses import dataclass, field

from .facts import HIGH, Facts, Timer, given, variable
from .nodes import NOTHING, Node

DEEP = 6  # functions that are followed into one another


@dataclass(frozen=True)
class When:
    """Conditions that hold together: contacts (pin, level that is asked for; None: that it changed), times that have
    passed, what else is asked for (the variable, the value or None), and nodes of all of them. `more`: something is
    asked besides that is not known."""

    contacts: tuple[tuple[str, int | None], ...] = ()
    timers: tuple[Timer, ...] = ()
    states: tuple[tuple[str, str], ...] = ()
    nodes: tuple[Node, ...] = ()
    more: bool = False

    def and_(self, other: When) -> When:
        """Both."""
        return When(
            self.contacts + other.contacts,
            self.timers + other.timers,
            self.states + other.states,
            self.nodes + other.nodes,
            self.more or other.more,
        )


@dataclass(frozen=True)
class Change:
    """Something that changes: a variable, or a pin as “pin 4”; to what ("1", "0", a name, "!" turned over); when; by
    which node, and the expression that it is given."""

    of: str
    to: str
    when: When
    node: Node
    value: Node = NOTHING


@dataclass
class Hearing:
    """What is known of the levels that variables stand for, and what changes."""

    facts: Facts
    levels: dict[str, str] = field(default_factory=dict)  # variables that hold a level, or came of one: the pin
    pressed: dict[str, tuple[str, bool]] = field(default_factory=dict)  # variables that are true while pressed
    changes: list[Change] = field(default_factory=list)
    buttons: dict[str, str] = field(default_factory=dict)  # things that are handed to a function that reads: the pin

    def __post_init__(self) -> None:
        self._levels()
        for body in (self.facts.source.loop,):
            self._under(body, When(), {}, 0)

    # Which variable is which contact.

    def _levels(self) -> None:
        facts = self.facts
        self.levels = dict(facts.aliases)
        for name, one in facts.globals.items():
            if one.kids and one.kids[0].kind == "list" and one.kids[0].kids:
                pins = facts.numbers(one.kids[0].kids[0])
                if pins and any(use.what == "mode" for use in facts.of_pin(pins[0])):
                    self.buttons[name] = pins[0]
        for _ in range(4):
            for one in facts.everything:
                name, value = given(one)
                if not name or name in facts.nows:
                    continue
                if value.kind == "name" and value.name in self.levels and name not in self.pressed:
                    self.levels.setdefault(name, self.levels[value.name])
                elif value.kind == "name" and value.name in self.pressed:
                    self.pressed.setdefault(name, self.pressed[value.name])
                elif value.kind == "call" and (pin := self._answers(value)):
                    self.pressed.setdefault(name, (pin, True))
                elif (found := facts.level_of(value)) and value.kind in ("infix", "prefix"):
                    self.pressed.setdefault(name, (found[0], found[1] == self.down(found[0])))

    def down(self, pin: str) -> int:
        """The level of a contact that is pressed: by its pull."""
        return 1 if self.facts.mode_of(pin) in ("INPUT_PULLDOWN", "INPUT") and not self._asked_low(pin) else 0

    def _asked_low(self, pin: str) -> bool:
        mine = [one.level for one in self.facts.tests if one.pin == pin]
        for one in self.facts.everything:
            if one.kind == "infix" and one.name in ("==", "!=") and len(one.kids) == 2:
                for side, other in (one.kids, one.kids[::-1]):
                    if self.levels.get(side.name) == pin and side.kind == "name" and other.name in ("HIGH", "LOW"):
                        mine.append(int((other.name == "HIGH") == (one.name == "==")))
        return bool(mine) and sum(mine) * 2 < len(mine)

    def _answers(self, call: Node) -> str | None:
        """The contact that a function of the program answers for."""
        facts = self.facts
        function = facts.source.function_of(call)
        if function is None:
            return None
        named = [self.buttons[arg.name] for arg in call.kids if arg.name in self.buttons]
        reads = {use.pin for use in facts.uses_in(function.body) if use.what == "read"}
        writes = [use for use in facts.uses_in(function.body) if use.what in ("write", "dim")]
        returns = function.body.all("return")
        if writes or not returns:
            return None
        if len(reads) == 1:
            return next(iter(reads))
        opened = any(one.kind == "call" and one.name == "digitalRead" for one in function.body.walk())
        return named[0] if opened and len(named) == 1 else None

    # Conditions.

    def when(self, test: Node, yes: bool = True) -> list[When]:
        """The ways in which a condition can be met (or not)."""
        if test.kind == "infix" and test.name in ("&&", "||", "and", "or"):
            both = (test.name in ("&&", "and")) == yes
            left, right = (self.when(kid, yes) for kid in test.kids)
            return [one.and_(other) for one in left for other in right] if both else left + right
        if test.kind == "prefix" and test.name in ("!", "not"):
            return self.when(test.kids[0], not yes)
        return [self._one(test, yes)]

    def _one(self, test: Node, yes: bool) -> When:
        nodes = (test,)
        timer = next((one for one in self.facts.timers if one.node is test), None)
        if timer:
            return When(timers=(timer,) if yes else (), nodes=nodes, more=not yes)
        if found := self.facts.level_of(test):
            return When(contacts=((found[0], found[1] if yes else 1 - found[1]),), nodes=nodes)
        if test.kind == "call" and (pin := self._answers(test)):
            down = self.down(pin)
            return When(contacts=((pin, down if yes else 1 - down),), nodes=nodes)
        if test.kind == "name" and test.name in self.pressed:
            pin, so = self.pressed[test.name]
            down = self.down(pin)
            return When(contacts=((pin, down if so == yes else 1 - down),), nodes=nodes)
        if test.kind == "infix" and len(test.kids) == 2:
            return self._compared(test, yes)
        if test.kind in ("name", "field"):
            return When(states=((test.name, "1" if yes else "0"),), nodes=nodes)
        return When(more=True)

    def _compared(self, test: Node, yes: bool) -> When:
        names = [variable(kid) for kid in test.kids]
        for name, other in ((names[0], test.kids[1]), (names[1], test.kids[0])):
            level = HIGH.get(other.name)
            level = (
                level
                if level is not None
                else int(other.value)
                if other.kind == "number" and other.value in (0.0, 1.0)
                else None
            )
            if name in self.levels and level is not None:
                asked = level if (test.name == "==") == yes else 1 - level
                return When(contacts=((self.levels[name], asked),), nodes=(test,))
        if all(name in self.levels or name in self.pressed for name in names):
            pin = self.levels.get(names[0]) or self.pressed[names[0]][0]
            return When(contacts=((pin, None),), nodes=(test,))
        if names[0] and test.name == "==" and yes and (names[1] or test.kids[1].kind == "number"):
            return When(states=((names[0], test.kids[1].name),), nodes=(test,))
        return When(more=True)

    # Changes.

    def _under(self, body: Node, when: When, bound: dict[str, Node], deep: int) -> None:
        before = When()
        for one in body.kids:
            if one.kind == "if":
                for each in self.when(one.kids[0]):
                    self._under(one.kids[1], when.and_(before).and_(each), bound, deep)
                others = self.when(one.kids[0], yes=False)
                if one.kids[2] is not NOTHING:
                    for each in others:
                        inner = (
                            one.kids[2]
                            if one.kids[2].kind == "block"
                            else Node("block", one.line, one.start, one.stop, kids=(one.kids[2],))
                        )
                        self._under(inner, when.and_(before).and_(each), bound, deep)
                elif any(kid.kind in ("return", "continue") for kid in one.kids[1].kids):
                    before = before.and_(others[0] if len(others) == 1 else When(more=True))
            elif one.kind == "switch":
                name = variable(one.kids[0])
                for case in one.kids[1:]:
                    label = case.kids[0].name if case.kids[0] is not NOTHING else ""
                    state = When(states=((name, label),), nodes=(case.kids[0],)) if name and label else When(more=True)
                    inner = Node("block", case.line, case.start, case.stop, kids=case.kids[1:])
                    self._under(inner, when.and_(state), bound, deep)
            elif one.kind in ("block", "do", "declare") and one.kids:
                if one.kind == "block":
                    self._under(one, when.and_(before), bound, deep)
                else:
                    self._done(one.kids[0], when.and_(before), bound, deep)

    def _done(self, one: Node, when: When, bound: dict[str, Node], deep: int) -> None:
        """One expression that is carried out."""
        facts = self.facts
        if one.kind == "assign":
            value = bound.get(one.kids[1].name, one.kids[1]) if one.kids[1].kind == "name" else one.kids[1]
            name = variable(one.kids[0])
            if one.name == "=" and name:
                self._changed(name, value, when, one)
            return
        if one.kind != "call":
            return
        uses = [use for use in facts.uses_in(one) if use.node is one and use.what == "write"]
        for use in uses:
            if use.word in ("on", "high", "off", "low", "toggle"):
                to = {"on": "1", "high": "1", "toggle": "!"}.get(use.word, "0")
                self.changes.append(Change(f"pin {use.pin}", to, when, one))
            else:
                value = bound.get(use.value.name, use.value) if use.value.kind == "name" else use.value
                self._changed(f"pin {use.pin}", value, when, one)
        function = facts.source.function_of(one)
        if function and not uses and deep < DEEP:
            inner = {name: bound.get(arg.name, arg) for name, arg in zip(function.params, one.kids, strict=False)}
            self._under(function.body, when.and_(When(nodes=(one,))), inner, deep + 1)

    def _changed(self, of: str, value: Node, when: When, node: Node) -> None:
        """A variable or a pin is given a value."""
        level = HIGH.get(value.name) if value.kind in ("name", "number") else None
        if level is None and value.kind == "number" and value.value in (0.0, 1.0) and value.words != "enum":
            level = int(value.value)
        if level is not None:
            self.changes.append(Change(of, str(level), when, node, value))
        elif (
            value.kind == "prefix"
            and value.name in ("!", "not")
            and (value.kids[0].name == of or self._reads_itself(value.kids[0], of))
        ):
            self.changes.append(Change(of, "!", when, node, value))
        elif value.kind == "choice" and all(kid.name in HIGH for kid in value.kids[1:3]):
            for yes in (True, False):
                for each in self.when(value.kids[0], yes):
                    to = str(HIGH[value.kids[1 if yes else 2].name])
                    self.changes.append(Change(of, to, when.and_(each), node, value))
        elif value.kind in ("name", "field") and (of.startswith("pin ") or value.name in self.facts.source.constants):
            self.changes.append(Change(of, value.name, when, node, value))
        elif (
            of.startswith("pin ")
            and value.kind in ("infix", "prefix", "call")
            and (ways := self.when(value))
            and ways[0].nodes
        ):
            for yes in (True, False):
                for each in self.when(value, yes):
                    self.changes.append(Change(of, str(int(yes)), when.and_(each), node, value))

    def _reads_itself(self, node: Node, of: str) -> bool:
        return any(f"pin {use.pin}" == of for use in self.facts.uses_in(node))
