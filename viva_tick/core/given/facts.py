"""What a program does, found in its tree: pins and what each is used as, waits, timers, handlers."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path

from .nodes import NOTHING, Function, Node, Source

NOW_MS = ("millis", "ticks_ms", "xTaskGetTickCount")
NOW_US = ("micros", "ticks_us")
NOW = (*NOW_MS, *NOW_US)
HIGH = {"HIGH": 1, "LOW": 0, "true": 1, "false": 0, "True": 1, "False": 0}
LONGEST = 1e9  # of a wait, of whatever unit, and of the rounds of a loop
WAITS = {"delay": 1e3, "delayMicroseconds": 1.0, "sleep_ms": 1e3, "sleep_us": 1.0, "sleep": 1e6, "_delay_ms": 1e3}
WAITS |= {"_delay_us": 1.0, "vTaskDelay": 1e3}
ANALOGUE = ("analogRead", "read_u16", "read_uv")
DIMS = ("analogWrite", "ledcWrite", "duty_u16", "duty")
TURNS = ("<", ">", "<=", ">=")
PRINTS = ("print", "println", "printf", "write")
FILE_MARK = re.compile(r"(?://|#) (\S+\.(?:c|cpp|cc|h|hpp|ino|py))")
CALLS = json.loads((Path(__file__).parent / "calls.json").read_text())
WATCHDOG: dict[str, dict[str, str]] = CALLS["watchdog"]
RESET_REGISTERS: list[str] = CALLS["causes_of_reset"]


def files_of(text: str) -> list[tuple[int, str]]:
    """(line at which it begins, name) of each file, where several were put together (`read_zip`)."""
    marks = (FILE_MARK.fullmatch(line) for line in text.split("\n"))
    return [(number, mark[1]) for number, mark in enumerate(marks, 1) if mark]


def watchdog(node: Node) -> str:
    """What a call does to the watchdog: on, fed, off; empty where it is no such call."""
    if node.kind != "call" or not node.name:
        return ""
    for language, names in WATCHDOG.items():
        for what in ("on", "fed", "off"):
            # A method that feeds has the watchdog before it.
            if names[what] == node.name and (language == "cpp" or what != "fed" or node.of):
                return what
    return ""


@dataclass(frozen=True)
class Use:
    """A pin used: as what (mode, read, write, analogue, dim, tone, edge, servo, pulse), by which node, in which word: a
    mode, what is written, an edge."""

    pin: str
    what: str
    node: Node
    word: str = ""
    value: Node = NOTHING


@dataclass(frozen=True)
class Test:
    """A level that is asked for: of which pin, which level (1 high), where."""

    pin: str
    level: int
    node: Node


@dataclass(frozen=True)
class Timer:
    """A comparison of the time: with which variable, for how long (ms, where it is known), where; `how`: since (now −
    last), until (last + wait), deadline (now past a variable), reversed (last − now), equal."""

    last: str
    wait_ms: float | None
    node: Node
    how: str
    wait: Node = NOTHING


@dataclass(frozen=True)
class Held:
    """How long a path holds the loop at most, µs; the waits on it; those whose length is not known."""

    us: float = 0.0
    waits: tuple[Node, ...] = ()
    unknown: tuple[Node, ...] = ()

    def after(self, other: Held, times: float = 1) -> Held:
        """The one after the other, so many times."""
        return Held(self.us + other.us * times, self.waits + other.waits, self.unknown + other.unknown)


@dataclass
class Facts:
    """What was found in a source."""

    source: Source
    aliases: dict[str, str] = field(default_factory=dict)  # a variable that holds what was read of a pin
    nows: set[str] = field(default_factory=set)  # variables that hold the time

    def __post_init__(self) -> None:
        for body in self.bodies:
            for one in body.walk():
                target, value = given(one)
                if not target or value is NOTHING:
                    continue
                read = [use for use in self.uses_in(value) if use.what == "read"]
                if len(read) == 1 and value is read[0].node:
                    self.aliases[target] = read[0].pin
                if self._bare_now(value):
                    self.nows.add(target)
        # A variable that is given the time only under a condition remembers it; one that is given it always is now.
        self.nows = {name for name in self.nows if self._always_now(name)}

    # The parts of the program.

    @cached_property
    def bodies(self) -> list[Node]:
        """Everything that can run."""
        outside = Node("block", 1, 0, 0, kids=tuple(self.source.outside)) if self.source.language == "cpp" else NOTHING
        functions = [one.body for one in self.source.functions.values()]
        loose = [self.source.setup, self.source.loop] if self.source.language == "python" else []
        return [outside, *functions, *loose]

    @cached_property
    def everything(self) -> list[Node]:
        """All its nodes, each once."""
        seen: dict[int, Node] = {}
        for body in self.bodies:
            for one in body.walk():
                seen.setdefault(id(one), one)
        return list(seen.values())

    def reached(self, body: Node) -> list[Function]:
        """The functions of the program that a body leads to."""
        found: dict[str, Function] = {}
        left = [body]
        while left:
            for call in left.pop().all("call"):
                function = self.source.function_of(call)
                if function and function.name not in found:
                    found[function.name] = function
                    left.append(function.body)
        return list(found.values())

    @cached_property
    def loop_bodies(self) -> list[Node]:
        """The loop and the functions that it leads to."""
        return [self.source.loop, *(one.body for one in self.reached(self.source.loop))]

    @cached_property
    def loop_nodes(self) -> list[Node]:
        """All that the loop runs."""
        return [one for body in self.loop_bodies for one in body.walk()]

    @cached_property
    def handlers(self) -> dict[str, Node]:
        """Bodies that interrupts run, by name."""
        found: dict[str, Node] = {
            name: one.body for name, one in self.source.functions.items() if name.startswith("ISR ")
        }
        for call in (one for one in self.everything if one.kind == "call"):
            named: list[Node] = []
            if call.name in ("attachInterrupt", "attachInterruptArg"):
                named = list(call.kids[1:2])
            elif call.name in ("irq", "init", "Timer"):
                named = [
                    one.kids[0] for one in call.kids if one.kind == "keyword" and one.name in ("handler", "callback")
                ]
                named += [one for one in call.kids[:1] if call.name == "irq" and one.kind == "name"]
            for one in named:
                if one.kind == "body":
                    found[f"line {one.line}"] = one.kids[0]
                elif one.name in self.source.functions:
                    found[one.name] = self.source.functions[one.name].body
        return found

    @cached_property
    def handler_bodies(self) -> list[Node]:
        """The handlers and what they lead to."""
        found = list(self.handlers.values())
        return found + [one.body for body in found for one in self.reached(body) if one.body not in found]

    @cached_property
    def globals(self) -> dict[str, Node]:
        """Variables outside functions, by name, where they are declared."""
        if self.source.language == "cpp":
            return {one.name: one for one in self.source.outside if one.kind == "declare"}
        found: dict[str, Node] = {}
        for one in self.source.outside:
            for each in one.all("assign"):
                if each.kids[0].kind == "name":
                    found.setdefault(each.kids[0].name, each)
        return found

    # Pins.

    @cached_property
    def pin_objects(self) -> dict[str, tuple[str, Node]]:
        """In Python: names that stand for a pin, a converter or a dimmed pin: (the pin, where it is made)."""
        found: dict[str, tuple[str, Node]] = {}
        for one in self.everything:
            target, value = given(one)
            if target and value.kind == "call" and value.name in ("Pin", "ADC", "PWM", "Signal", "TouchPad"):
                inner = value.kids[0] if value.kids else NOTHING
                inner = inner.kids[0] if inner.kind == "call" and inner.kids else inner
                if inner.kind == "name" and inner.name in found:
                    found[target] = (found[inner.name][0], value)
                elif pins := self.numbers(inner):
                    found[target] = (pins[0], value)
        return found

    def numbers(self, node: Node) -> list[str]:
        """The pins that an expression names."""
        if node.kind == "index" and node.kids and (node.kids[0].name in self.lists):
            return self.lists[node.kids[0].name]
        if node.kind == "text":
            return [node.name]
        number = self.source.number(node)
        if number is not None:
            return [str(int(number))]
        if node.kind == "name" and node.name in self.source.constants:
            return self.numbers(self.source.constants[node.name])
        if node.kind == "name" and ((node.name[:1] == "A" and node.name[1:].isdigit()) or node.name == "LED_BUILTIN"):
            return [node.name]
        if node.kind == "name" and len(found := self._only_once(node.name)) == 1:
            return found
        if node.kind == "call" and node.name in ("digitalPinToInterrupt", "Pin") and node.kids:
            return self.numbers(node.kids[0])
        return []

    def _only_once(self, name: str) -> list[str]:
        one = self.globals.get(name)
        if one is None or one.kind != "declare" or not one.kids or "[" in one.words:
            return []
        if any(given(each)[0] == name and each is not one for each in self.everything):
            return []
        number = self.source.number(one.kids[0])
        if number is not None:
            return [str(int(number))]
        return [one.kids[0].name] if one.kids[0].kind == "name" and one.kids[0].name[:1] == "A" else []

    @cached_property
    def lists(self) -> dict[str, list[str]]:
        """Lists of pins, by name."""
        found = {}
        for one in self.everything:
            target, value = given(one)
            if target and value.kind == "list" and value.kids:
                numbers = [self.source.number(kid) for kid in value.kids]
                names = [
                    str(int(number)) if number is not None else kid.name
                    for number, kid in zip(numbers, value.kids, strict=True)
                ]
                if all(names):
                    found[target] = names
        return found

    def uses_in(self, body: Node) -> Iterator[Use]:
        """Every use of a pin in a body."""
        for one in body.walk():
            if one.kind != "call":
                continue
            yield from self._cpp_use(one) if self.source.language == "cpp" else self._python_use(one)

    def _cpp_use(self, call: Node) -> Iterator[Use]:
        args = call.kids
        kinds = {
            "pinMode": "mode", "digitalRead": "read", "digitalWrite": "write", "analogRead": "analogue",
            "analogWrite": "dim", "tone": "tone", "noTone": "tone", "attachInterrupt": "edge", "pulseIn": "pulse",
        }  # fmt: skip
        what = "servo" if call.name == "attach" and call.of else kinds.get(call.name)
        if what is None or not args:
            return
        word = args[-1].name if what in ("mode", "edge") else ""
        for pin in self.numbers(args[0]) or self._loose(args[0]):
            yield Use(pin, what, call, word, args[1] if len(args) > 1 else NOTHING)

    def _loose(self, node: Node) -> list[str]:
        """A pin that is known by a name only."""
        return [node.name] if node.kind == "name" and node.name in self.globals else []

    def _python_use(self, call: Node) -> Iterator[Use]:
        if call.name in ("Pin", "ADC", "PWM") and call.kids:
            for pin in self.numbers(call.kids[0]):
                words = [one.name for one in call.kids[1:] if one.kind == "field"]
                words += [
                    one.kids[0].name for one in call.kids if one.kind == "keyword" and one.kids[0].kind == "field"
                ]
                mode = _python_mode(words)
                if call.name == "Pin":
                    yield Use(pin, "mode", call, mode)
                else:
                    yield Use(pin, "analogue" if call.name == "ADC" else "dim", call, "made")
            return
        if call.of not in self.pin_objects:
            return
        pin, made = self.pin_objects[call.of]
        if call.name in ("value", "__call__") or (call.name == "read" and made.name != "ADC"):
            yield Use(pin, "write" if call.kids else "read", call, "", call.kids[0] if call.kids else NOTHING)
        elif call.name in ("on", "off", "high", "low", "toggle"):
            yield Use(pin, "write", call, call.name)
        elif call.name in ANALOGUE or (call.name == "read" and made.name == "ADC"):
            yield Use(pin, "analogue", call)
        elif call.name in DIMS:
            yield Use(pin, "dim", call, "", call.kids[0] if call.kids else NOTHING)
        elif call.name == "irq":
            yield Use(pin, "edge", call)

    @cached_property
    def uses(self) -> list[Use]:
        """Every use of every pin."""
        seen: dict[tuple[str, str, int], Use] = {}
        for body in self.bodies:
            for use in self.uses_in(body):
                seen.setdefault((use.pin, use.what, id(use.node)), use)
        return list(seen.values())

    def of_pin(self, pin: str, *whats: str) -> list[Use]:
        """The uses of a pin, of some kinds or all."""
        return [one for one in self.uses if one.pin == pin and (not whats or one.what in whats)]

    @cached_property
    def pins(self) -> list[str]:
        """The pins that are used, in their order."""
        found = dict.fromkeys(one.pin for one in self.uses)
        return sorted(found, key=lambda pin: (not pin.isdigit(), int(pin) if pin.isdigit() else 0, pin))

    def name_of(self, pin: str) -> str:
        """What the program calls a pin."""
        for use in self.of_pin(pin):
            first = use.node.kids[0] if use.node.kids else NOTHING
            if self.source.language == "cpp" and first.kind == "name" and not first.name[1:].isdigit():
                return first.name
        names = [name for name, (number, _) in self.pin_objects.items() if number == pin]
        return names[0] if names else ""

    def mode_of(self, pin: str) -> str:
        """The last mode that it is given: INPUT, INPUT_PULLUP, INPUT_PULLDOWN, OUTPUT; "" where none."""
        modes = self.of_pin(pin, "mode")
        return modes[-1].word if modes else ""

    @cached_property
    def reads_others(self) -> bool:
        """Whether levels are read of pins that are only known as it runs."""
        mine = ("digitalRead",) if self.source.language == "cpp" else ()
        known = {id(one.node) for one in self.uses}
        return any(one.kind == "call" and one.name in mine and id(one) not in known for one in self.everything)

    # Levels that are asked for.

    def level_of(self, node: Node) -> tuple[str, int] | None:
        """(pin, the level for which it is true) of an expression that reads one pin."""
        if node.kind == "prefix" and node.name in ("!", "not"):
            inner = self.level_of(node.kids[0])
            return (inner[0], 1 - inner[1]) if inner else None
        if node.kind == "infix" and node.name in ("==", "!="):
            for one, other in (node.kids, node.kids[::-1]):
                pin = self._read_pin(one)
                level = HIGH.get(other.name) if other.kind in ("name", "number") else None
                if level is None and other.kind == "number" and other.value in (0.0, 1.0):
                    level = int(other.value)
                if pin and level is not None:
                    return pin, level if node.name == "==" else 1 - level
            return None
        pin = self._read_pin(node)
        return (pin, 1) if pin else None

    def _read_pin(self, node: Node) -> str | None:
        if node.kind == "call":
            read = [use for use in self.uses_in(node) if use.what == "read" and use.node is node]
            return read[0].pin if read else None
        return self.aliases.get(node.name) if node.kind == "name" else None

    def tests_in(self, node: Node) -> list[Test]:
        """The levels that a condition asks for; what stands below an “or” too."""
        found = self.level_of(node)
        if found:
            return [Test(*found, node)]
        if node.kind == "infix" and node.name in ("&&", "||", "and", "or"):
            return [test for kid in node.kids for test in self.tests_in(kid)]
        if node.kind == "prefix" and node.name == "!":
            return [Test(one.pin, 1 - one.level, one.node) for one in self.tests_in(node.kids[0])]
        return []

    @cached_property
    def tests(self) -> list[Test]:
        """Every level that a condition of the program asks for."""
        found = []
        for one in self.everything:
            if one.kind in ("if", "while", "do-while", "choice"):
                found += self.tests_in(one.kids[0])
            value = given(one)[1] if one.kind != "return" else next(iter(one.kids), NOTHING)
            if value.kind in ("infix", "prefix"):  # kept as “pressed”, not as a level
                found += self.tests_in(value)
        return found

    # Time.

    def _bare_now(self, node: Node) -> bool:
        return node.kind == "call" and (node.name in NOW or (node.name == "time" and node.of in ("time", "utime")))

    def is_now(self, node: Node) -> bool:
        """Whether an expression is the time of now."""
        return self._bare_now(node) or (node.kind == "name" and node.name in self.nows)

    def _always_now(self, name: str) -> bool:
        """Whether it is given the time at the top of a body, not in a branch of it, and is not outside."""
        for body in (*self.bodies, self.source.loop):
            for one in body.kids:
                inner = one.kids[0] if one.kind == "do" and one.kids else one
                target, value = given(inner)
                if target == name and self._bare_now(value) and name not in self.globals:
                    return True
                if target == name and self._bare_now(value) and body in (self.source.loop, *self.loop_bodies):
                    return True
        return False

    @cached_property
    def timers(self) -> list[Timer]:
        """Every comparison of the time."""
        found = []
        for one in self.everything:
            if one.kind == "infix" and one.name in (*TURNS, "==", "!=") and len(one.kids) == 2:
                timer = self._timer(one)
                if timer:
                    found.append(timer)
        return found

    def _timer(self, one: Node) -> Timer | None:
        left, right = map(bare, one.kids)
        unit = 1e-3 if any(each.name in NOW_US for each in one.walk() if each.kind == "call") else 1.0
        for side, other in ((left, right), (right, left)):
            number = self.source.number(other)
            wait = number * unit if number is not None else None
            if side.kind == "call" and side.name == "ticks_diff" and len(side.kids) == 2:
                first, second = side.kids
                if self.is_now(first):
                    return Timer(variable(second), wait, one, "since", other)
                return Timer(variable(first), wait, one, "deadline" if number == 0 else "since", other)
            if side.kind == "infix" and side.name == "-":
                if self.is_now(side.kids[0]) and not self.is_now(side.kids[1]):
                    return Timer(variable(side.kids[1]), wait, one, "since", other)
                if self.is_now(side.kids[1]) and variable(side.kids[0]):
                    return Timer(variable(side.kids[0]), wait, one, "reversed", other)
            if side.kind == "infix" and side.name == "%" and self.is_now(side.kids[0]):
                return Timer("", None, one, "equal", side.kids[1]) if one.name == "==" else None
            if not self.is_now(side):
                continue
            if one.name in ("==", "!="):
                return Timer(variable(other), None, one, "equal", other)
            if other.kind == "infix" and other.name == "+":
                parts = [(each, rest) for each, rest in (other.kids, other.kids[::-1]) if variable(each)]
                parts = [row for row in parts if row[0].name not in self.source.constants] or parts
                if parts:
                    number = self.source.number(parts[0][1])
                    return Timer(variable(parts[0][0]), number, one, "until", parts[0][1])
            if variable(other) and other.name not in self.source.constants:
                return Timer(variable(other), None, one, "deadline", other)
        return None

    # How long a pass is held.

    def held(self, body: Node, seen: frozenset[str] = frozenset()) -> Held:
        """The longest that a path through a body waits on purpose."""
        if body.kind == "if":
            before = self.held(body.kids[0], seen)
            return before.after(
                max((self.held(one, seen) for one in body.kids[1:]), key=lambda one: one.us, default=Held())
            )
        if body.kind == "switch":
            cases = [self.held(one, seen) for one in body.kids[1:]]
            return max(cases, key=lambda one: one.us, default=Held())
        if body.kind in ("for", "while", "do-while"):
            inner = Held()
            for one in body.kids:
                inner = inner.after(self.held(one, seen))
            return Held().after(inner, self.times(body))
        if body.kind == "body":
            return Held()
        found = Held()
        for one in body.kids:
            found = found.after(self.held(one, seen))
        if body.kind == "call":
            found = found.after(self._call_held(body, seen))
        return found

    def _call_held(self, call: Node, seen: frozenset[str]) -> Held:
        if call.name in WAITS and call.of in ("", "time", "utime"):
            number = self.source.number(call.kids[0]) if call.kids else None
            if number is None:
                return Held(0.0, (), (call,))
            return Held(min(number, LONGEST) * WAITS[call.name], (call,))
        function = self.source.function_of(call)
        if function and function.name not in seen:
            return self.held(function.body, seen | {function.name})
        return Held()

    def times(self, loop: Node) -> float:
        """How often a counted loop goes round; once where that is not known, and never more often than `LONGEST`."""
        return min(self._times(loop), LONGEST)

    def _times(self, loop: Node) -> float:
        if loop.kind != "for" or len(loop.kids) != 4:
            return 1
        first, test = loop.kids[0], loop.kids[1]
        if self.source.language == "python":
            numbers = [self.source.number(kid) for kid in test.kids] if test.name == "range" else []
            if numbers and None not in numbers:
                known = [number or 0.0 for number in numbers]
                return max(known[0] if len(known) == 1 else known[1] - known[0], 1)
            return max(len(test.kids), 1) if test.kind == "list" else 1
        begin = self.source.number(given(first)[1])
        end = self.source.number(test.kids[1]) if test.kind == "infix" and len(test.kids) == 2 else None
        if begin is None or end is None:
            return 1
        step = loop.kids[2]
        by = (self.source.number(step.kids[1]) or 1) if step.kind == "assign" and len(step.kids) == 2 else 1
        return max(abs(end - begin) / abs(by) + (test.name in ("<=", ">=")), 1)


def given(one: Node) -> tuple[str, Node]:
    """(the variable, its value) of a declaration or a plain assignment; ("", nothing) of all else."""
    if one.kind == "declare" and one.kids:
        return one.name, one.kids[0]
    if one.kind == "assign" and one.name == "=" and one.kids[0].kind == "name":
        return one.kids[0].name, one.kids[1]
    return "", NOTHING


def bare(node: Node) -> Node:
    """What a cast is of."""
    while node.kind == "call" and node.name == "cast" and node.kids:
        node = node.kids[0]
    return node


def variable(node: Node) -> str:
    if node.kind == "index" and node.kids:
        return node.kids[0].name
    return node.name if node.kind in ("name", "field") else ""


def _python_mode(words: list[str]) -> str:
    if "PULL_UP" in words:
        return "INPUT_PULLUP"
    if "PULL_DOWN" in words:
        return "INPUT_PULLDOWN"
    return "OUTPUT" if {"OUT", "OPEN_DRAIN"} & set(words) else "INPUT"
