"""A machine in C++: its states, what entering and leaving one does, and one step of it. The tables are those that the
engine runs (`machines.compiled`), so that both go the same ways."""

from __future__ import annotations

from collections.abc import Iterable
from typing import assert_never

from ..document import (
    Action,
    AddTo,
    ContactLine,
    CopyTo,
    EventName,
    Feed,
    Guard,
    IfContact,
    IfIn,
    IfLevel,
    IfRange,
    IfVariable,
    Machine,
    Measure,
    RandomFor,
    Restart,
    SendBytes,
    SetVariable,
    Signal,
    StartDrive,
    TakeLevel,
    Variable,
)
from ..drives import Angle, Text
from ..findings.machine_words import in_words
from ..gestures import GESTURES
from ..machines import RAISED, CompiledMachine, event_names
from ..machines.compiled import NONE, TransitionRow, Wait
from ..program import Program
from ..units import ms
from .drives import OutputTexts, repeats
from .machine_names import chord_name, machine_names, variable_name
from .names import comment, fresh, snake, upper
from .readers import place_of, reader_texts
from .showing import ShowTexts
from .tasks import is_due, why_wrong
from .tasks import span as waited
from .turning import TurnTexts

SIGNS = {"=": "=="}


class MachineTexts:
    """All machines of a bench in C++."""

    def __init__(self, program: Program) -> None:
        bench = self.bench = program.bench
        self.program = program
        self.names = machine_names(bench)
        self.keys, self.compiled, self.heard = program.keys, program.machines, program.heard
        ends = {ident: self.raises(("ended", ident, "")) for ident in sorted(program.ends_heard)}
        servos = {one.id for one in bench.servos}
        self.outputs = OutputTexts(bench, {ident: told for ident, told in ends.items() if ident not in servos})
        self.shows = ShowTexts(program)
        self.turns = TurnTexts(program, ends)
        self.feeds = False  # whether actions feed the watchdog
        self.signals: dict[str, str] = {}  # by what is signalled under a kernel, the statement
        self.variables = {one.id: one for one in bench.firmware.variables}
        self._spent: set[str] = set()
        self.spans: dict[tuple[str, int], str] = {}  # by (machine, transition), the name of its time
        self.times = self.constants()

    def flag(self, machine: str, name: EventName) -> str:
        """The variable that says that something was raised and not taken yet."""
        return f"{self.names[machine].base}_heard_{self.heard[machine].index(name)}"

    def raises(self, name: EventName) -> list[str]:
        """The statements that tell every machine that listens."""
        return [f"{self.flag(machine, name)} = true;" for machine, heard in self.heard.items() if name in heard]

    def type_of(self, machine: Machine) -> str:
        """The enum of its states."""
        names = self.names[machine.id]
        states = ", ".join(name.split("::")[1] for name in names.states.values())
        return f"// {comment(machine.name)}\nenum class {names.enum} : uint8_t {{ {states} }};\n"

    def declarations(self, machine: Machine) -> str:
        """The variables."""
        names, compiled = self.names[machine.id], self.compiled[machine.id]
        first = names.states[machine.states[compiled.initial.target].id]
        text = f"{names.enum} {names.var} = {first};\nuint32_t {names.since} = 0;\n"
        for place, state in enumerate(machine.states):
            if place in compiled.around:
                text += f"uint32_t {names.since_in[state.id]} = 0;\n"
            if state.remembers and place in compiled.around:
                kept = names.states[machine.opening(state.id)]
                text += f"{names.enum} {names.kept_in[state.id]} = {kept};\n"
        for wait in self._drawn(compiled):
            text += f"uint32_t {names.base}_wait_{wait.draw} = 0;\n"
        for name in self.heard[machine.id]:
            begins = "true" if name[0] == "boot" else "false"
            text += f"bool {self.flag(machine.id, name)} = {begins};  // {comment(' '.join(filter(None, name)))}\n"
        return text

    def _drawn(self, compiled: CompiledMachine) -> list[Wait]:
        return [wait for row in compiled.drawn for wait in row]

    def variable(self, one: Variable) -> str:
        """A variable."""
        return f"int32_t {variable_name(one.id)} = {one.begins};  // {comment(one.name)}\n"

    def setter(self, one: Variable) -> str:
        """The function that gives it a value within its bounds."""
        name, span = variable_name(one.id), one.most - one.least + 1
        lines = [f"void set_{name}(int32_t value) {{"]
        if one.ends == "wrap":
            lines += [
                f"  if (value < {one.least} || value > {one.most}) {{",
                f"    int64_t over = (int64_t(value) - {one.least}) % {span}LL;",
                f"    if (over < 0) over += {span}LL;",
                f"    value = int32_t({one.least} + over);",
                "  }",
            ]
        else:
            lines += [
                f"  if (value < {one.least}) value = {one.least};",
                f"  if (value > {one.most}) value = {one.most};",
            ]
        lines += [f"  if (value == {name}) return;", f"  {name} = value;"]
        for heard in dict.fromkeys(heard for row in self.heard.values() for heard in row):
            if heard[:2] == ("reached", one.id):
                lines += [f"  if (value == {heard[2]}) {said}" for said in self.raises(heard)]
        return "\n".join([*lines, "}", ""])

    def action(self, action: Action) -> str:
        """One action as a statement."""
        match action:
            case StartDrive(drive=Angle() as angle):
                return self.turns.call(action.output, angle)
            case StartDrive(drive=Text() as text):
                return self.shows.call(action.output, text)
            case Feed():
                return "feed_watchdog();" if self.feeds else "{}  // no watchdog that actions feed"
            case Restart():
                return "restart_wanted = true;"
            case Signal():
                return self.signals.get(action.of, "{}  // a signal to the kernel: not in this program")
            case SendBytes():
                return " ".join(f"Serial.write(char({code}));" for code in action.bytes)
            case StartDrive():
                return self.outputs.call(action.output, action.drive)
            case SetVariable():
                value = str(action.number)
            case AddTo():
                value = f"{variable_name(action.variable)} {'-' if action.number < 0 else '+'} {abs(action.number)}"
            case CopyTo():
                value = variable_name(action.other)
            case RandomFor():
                value = f"{action.least} + int32_t(roll({action.most - action.least + 1}UL))"
            case TakeLevel():
                one = self.variables[action.variable]
                if action.input in self.bench.firmware.readings:
                    span = one.most - one.least
                    value = f"int32_t({one.least} + int64_t({snake(action.input)}_count) * {span}LL / {self.full})"
                else:
                    value = str(one.least)
            case _:
                assert_never(action)
        return f"set_{variable_name(action.variable)}({value});"

    @property
    def full(self) -> int:
        """The end of the converter's scale."""
        analogue = self.bench.the_board.analogue
        return (1 << analogue.bits) - 1 if analogue else 1

    def guard(self, guard: Guard) -> str:
        """One guard as an expression."""
        match guard:
            case IfContact():
                return f"{'' if guard.pressed else '!'}{snake(guard.input)}_down"
            case IfLevel():
                reading = self.bench.firmware.readings.get(guard.input)
                said = "false"
                if isinstance(reading, Measure):
                    said = f"{snake(guard.input)}_level{place_of(reading, guard.of)}.accepted"
                return said if guard.above else f"!{said}"
            case IfIn():
                names = self.names[guard.machine]
                machine = next(one for one in self.bench.firmware.machines if one.id == guard.machine)
                insides = [state.id for state in machine.insides(guard.state)] or [guard.state]
                sign, joint = ("==", " || ") if guard.there else ("!=", " && ")
                rows = joint.join(f"{names.var} {sign} {names.states[ident]}" for ident in insides)
                return f"({rows})"
            case IfVariable():
                other = str(guard.number) if guard.other is None else variable_name(guard.other)
                return f"{variable_name(guard.variable)} {SIGNS.get(guard.sign, guard.sign)} {other}"
            case IfRange():
                name = variable_name(guard.variable)
                if guard.inside:
                    return f"({name} >= {guard.least} && {name} <= {guard.most})"
                return f"({name} < {guard.least} || {name} > {guard.most})"

    def guards(self, transition: TransitionRow) -> str:
        """All guards of a transition; empty where there are none."""
        return " && ".join(map(self.guard, transition.guards))

    def take(self, machine: Machine, transition: TransitionRow, settles: bool = True) -> list[str]:
        """The statements that go a transition."""
        names, compiled = self.names[machine.id], self.compiled[machine.id]
        lines = [f"{names.leave}();"] if self._leaving(machine) and transition.place != NONE else []
        if transition.leaves != NONE:
            lines.append(f"{names.leave_around[machine.states[transition.leaves].id]}();")
        lines += [self.action(action) for action in transition.actions]
        if transition.enters != NONE:
            lines.append(f"{names.enter_around[machine.states[transition.enters].id]}(now);")
        target = names.states[machine.states[transition.target].id]
        if transition.remembers:
            target = names.kept_in[machine.states[compiled.around[transition.target]].id]
        lines.append(f"{names.enter}({target}, now);")
        if settles and any(compiled.always[leaf] for leaf in self._landing(compiled, transition)):
            lines.append(f"{names.settle}(now);")
        return lines

    @staticmethod
    def _landing(compiled: CompiledMachine, transition: TransitionRow) -> list[int]:
        """The leaves that a transition may end in."""
        if not transition.remembers:
            return [transition.target]
        around = compiled.around[transition.target]
        return [leaf for leaf, outer in enumerate(compiled.around) if outer == around]

    def chains(self, machine: Machine) -> bool:
        """Whether what waits for nothing may lead to more of that."""
        compiled = self.compiled[machine.id]
        rows = [transition for row in compiled.always for transition in row]
        return any(compiled.always[leaf] for one in rows for leaf in self._landing(compiled, one))

    def _leaving(self, machine: Machine) -> dict[int, list[str]]:
        """By leaf, what leaving it does."""
        compiled = self.compiled[machine.id]
        rows = {}
        for place, state in enumerate(machine.states):
            if place not in compiled.around:
                lines = [self.action(action) for action in compiled.exit[place]]
                lines += self.raises(("left", machine.id, state.id))
                if lines:
                    rows[place] = lines
        return rows

    def _entering(self, machine: Machine, place: int) -> list[str]:
        names, state = self.names[machine.id], machine.states[place]
        lines = [
            f"{names.base}_wait_{wait.draw} = {wait.wait_ms}UL + roll({wait.until_ms - wait.wait_ms + 1}UL);"
            for wait in self.compiled[machine.id].drawn[place]
        ]
        lines += [self.action(action) for action in self.compiled[machine.id].entry[place]]
        return lines + self.raises(("entered", machine.id, state.id))

    def _switch(self, machine: Machine, rows: dict[int, list[str]], value: str, indent: str = "  ") -> list[str]:
        """A switch over leaves; those with the same statements together."""
        names = self.names[machine.id]
        same: dict[tuple[str, ...], list[int]] = {}
        for place, lines in rows.items():
            same.setdefault(tuple(lines), []).append(place)
        found = [f"{indent}switch ({value}) {{"]
        for group, places in same.items():
            found += [f"{indent}  case {names.states[machine.states[place].id]}:" for place in places]
            found += [f"{indent}    {line}" for line in group]
            found.append(f"{indent}    break;")
        if len(rows) < len(machine.states):
            found.append(f"{indent}  default: break;")
        return [*found, f"{indent}}}"]

    def _movers(self, machine: Machine) -> str:
        """Leaving and entering."""
        names, compiled = self.names[machine.id], self.compiled[machine.id]
        text = ""
        if leaving := self._leaving(machine):
            text += "\n".join([f"void {names.leave}() {{", *self._switch(machine, leaving, names.var), "}", "", ""])
        for place, state in enumerate(machine.states):
            if place not in compiled.around:
                continue
            lines = [f"{names.kept_in[state.id]} = {names.var};"] if state.remembers else []
            lines += [self.action(action) for action in compiled.exit[place]]
            lines += self.raises(("left", machine.id, state.id))
            text += "\n".join(
                [f"void {names.leave_around[state.id]}() {{", *(f"  {line}" for line in lines), "}", "", ""]
            )
            lines = [f"{names.since_in[state.id]} = now;", *self._entering(machine, place)]
            text += "\n".join(
                [
                    f"void {names.enter_around[state.id]}(uint32_t now) {{",
                    *(f"  {line}" for line in lines),
                    "}",
                    "",
                    "",
                ]
            )
        lines = [
            f"void {names.enter}({names.enum} state, uint32_t now) {{",
            f"  {names.var} = state;",
            f"  {names.since} = now;",
        ]
        entering = {
            place: found
            for place in range(len(machine.states))
            if place not in compiled.around and (found := self._entering(machine, place))
        }
        if entering:
            lines += self._switch(machine, entering, "state")
        return text + "\n".join([*lines, "}", ""])

    def _rows(
        self, machine: Machine, transitions: Iterable[TransitionRow], after: str = "", settles: bool = True
    ) -> list[str]:
        """The first of the transitions that is open, in statements."""
        lines: list[str] = []
        for transition in transitions:
            taken = [self.said(machine, transition), *self.take(machine, transition, settles)]
            taken += [after] if after else []
            asks = self.guards(transition)
            if lines:
                lines[-1] += f" else if ({asks}) {{" if asks else " else {"
            elif asks:
                lines.append(f"if ({asks}) {{")
            else:
                return taken
            lines += [*(f"  {line}" for line in taken), "}"]
            if not asks:
                break
        return lines

    def _on_event(self, machine: Machine, event: EventName, when: str) -> list[str]:
        compiled, names = self.compiled[machine.id], self.names[machine.id]
        key = self.keys[event]
        rows = {
            place: self._rows(machine, transitions[key])
            for place, transitions in enumerate(compiled.on)
            if key in transitions
        }
        if not rows:
            return []
        return [f"  {when} {{", *self._switch(machine, rows, names.var, "    "), "  }"]

    def _since(self, machine: Machine, wait: Wait) -> str:
        """Since when a wait is counted."""
        names = self.names[machine.id]
        return names.since_in[machine.states[machine_source(machine, wait)].id] if wait.around else names.since

    def _span(self, machine: Machine, wait: Wait) -> str:
        """How long it is."""
        if wait.draw != NONE:
            return f"{self.names[machine.id].base}_wait_{wait.draw}"
        if wait.variable is not None:
            name = variable_name(wait.variable)
            return f"uint32_t({name} > 0 ? {name} : 0) * {wait.unit_ms}UL"
        return self.spans[machine.id, wait.transition.place]

    def constants(self) -> str:
        """The times that machines wait, by their names."""
        lines = []
        for machine in self.bench.firmware.machines:
            for row in self.compiled[machine.id].waits:
                for wait in row:
                    at = (machine.id, wait.transition.place)
                    if wait.draw != NONE or wait.variable is not None or at in self.spans:
                        continue
                    one = machine.transitions[wait.transition.place]
                    self.spans[at] = fresh(f"{upper(machine.id)}_{upper(one.source)}_AFTER_MS", self._spent)
                    ways = f"{machine.name}: {machine.state(one.source).name} → {machine.state(one.target).name}"
                    span = waited(self.bench, wait.wait_ms)
                    note = f"{comment(ways)} after {ms(wait.wait_ms * 1000)}"
                    lines.append(f"const uint32_t {self.spans[at]} = {span};  // {note}\n")
        return "".join(lines)

    def _wait_rows(self, machine: Machine, waits: Iterable[Wait]) -> list[str]:
        lines: list[str] = []
        for wait in waits:
            since, span = self._since(machine, wait), self._span(machine, wait)
            asks = self.guards(wait.transition)
            head = f"if ({is_due(self.bench, since, span)}{' && ' + asks if asks else ''}) {{"
            head += why_wrong(self.bench, wait.draw == NONE and wait.variable is None)
            if lines:
                lines[-1] += f" else {head}"
            else:
                lines.append(head)
            taken = [self.said(machine, wait.transition), *self.take(machine, wait.transition)]
            lines += [*(f"  {line}" for line in taken), "}"]
        return lines

    def said(self, machine: Machine, transition: TransitionRow) -> str:
        """A transition in the user's words."""
        one = machine.transitions[transition.place]
        ways = f"{machine.state(one.source).name} → {machine.state(one.target).name}"
        return f"// {comment(ways)}: {comment(in_words(self.bench, one))}"

    def stands(self, machine: Machine) -> bool:
        """Whether, kept with delays, it has a state whose time is stood out."""
        waits = self.compiled[machine.id].waits
        return self.bench.firmware.school == "delays" and any(
            not wait.transition.guards for row in waits for wait in row
        )

    def stands_out(self) -> str:
        """Where a pass, kept with delays, stands the times of states out."""
        mine = [one for one in self.bench.firmware.machines if self.stands(one)]
        rows = [f"stand_in_{self.names[one.id].base}();" for one in mine]
        again = dict.fromkeys(f"{snake(output)}_out" for output, drive in self.outputs.drives if repeats(drive))
        if not rows:
            return ""
        asked = " && ".join(f"!{out}.again" for out in again)
        head = f"  if ({asked}) {{  // a blink that goes on holds the loop\n" if asked else ""
        deep = "    " if asked else "  "
        return "\n" + head + "".join(f"{deep}{row}\n" for row in rows) + ("  }\n" if asked else "")

    def stand_out(self, machine: Machine) -> str:
        """The function that stands the time of its state out, where that ends by itself."""
        names = self.names[machine.id]
        rows = {}
        for place, waits in enumerate(self.compiled[machine.id].waits):
            free = [wait for wait in waits if not wait.transition.guards]
            if free:
                rows[place] = [
                    f"left = shorter(left, now - {self._since(machine, wait)}, {self._span(machine, wait)});"
                    for wait in free
                ]
        body = ["const uint32_t now = millis();", "uint32_t left = 0xFFFFFFFFUL;"]
        body += self._switch(machine, rows, names.var, "")
        body += ["if (left != 0xFFFFFFFFUL) delay(left);  // everything stops"]
        return "\n".join([f"void stand_in_{names.base}() {{", *(f"  {row}" for row in body), "}", ""])

    def functions(self, machine: Machine) -> str:
        """Leaving and entering states, what waits for nothing, and one step."""
        names, compiled = self.names[machine.id], self.compiled[machine.id]
        text = self._movers(machine)
        if any(compiled.always):
            chains = self.chains(machine)
            rows = {
                place: self._rows(machine, transitions, "return true;" if chains else "", settles=False)
                for place, transitions in enumerate(compiled.always)
                if transitions
            }
            if not chains:
                once = [f"void {names.settle}(uint32_t now) {{", *self._switch(machine, rows, names.var)]
                return text + "\n" + "\n".join([*once, "}", ""]) + self._stepping(machine)
            always = [f"bool {names.base}_always(uint32_t now) {{", *self._switch(machine, rows, names.var)]
            text += "\n" + "\n".join([*always, "  return false;", "}", ""])
            text += (
                f"\nvoid {names.settle}(uint32_t now) {{  // eight in a row at most\n"
                f"  for (uint8_t n = 0; n < 8 && {names.base}_always(now); ++n) {{\n  }}\n}}\n"
            )
        return text + self._stepping(machine)

    def _stepping(self, machine: Machine) -> str:
        """The function of a step; empty for a machine that nothing moves."""
        names, text = self.names[machine.id], ""
        body = self._step(machine)
        if not body:
            return text
        edges = [part.id for part in self.bench.contacts if part.id in names.inputs]
        takes = "".join(f", Edge {snake(ident)}_edge" for ident in edges)
        return text + "\n" + "\n".join([f"void {names.step}(uint32_t now{takes}) {{", *body, "}", ""])

    def _step(self, machine: Machine) -> list[str]:
        bench, names, compiled = self.bench, self.names[machine.id], self.compiled[machine.id]
        if not machine.transitions:
            return []
        body = [f"  {names.settle}(now);"] if any(compiled.always) else []
        readers = reader_texts(bench)
        wanted = self.program.gestures
        for part in bench.readers:
            for event in event_names(bench):
                if event[1] != part.id or event[0] == "chord" or event[0] in RAISED:
                    continue
                if not isinstance(part, ContactLine):
                    body += self._on_event(machine, event, readers[part.id].when(event))
                elif event[0] not in GESTURES:
                    body += self._on_event(machine, event, f"if ({snake(part.id)}_edge == {event[0].upper()})")
                elif part.id in wanted:
                    gesture = event[0].upper().replace("-", "_")
                    body += self._on_event(machine, event, f"if ({snake(part.id)}_gestures.said({gesture}))")
        for one, other in self.program.chords:
            body += self._on_event(machine, ("chord", one, other), f"if ({chord_name(one, other)}_now)")
        for name in self.heard[machine.id]:
            flag = self.flag(machine.id, name)
            if lines := self._on_event(machine, name, f"if ({flag})"):
                body += [lines[0], f"    {flag} = false;", *lines[1:]]
        if any(compiled.waits):
            rows = {place: self._wait_rows(machine, waits) for place, waits in enumerate(compiled.waits) if waits}
            body += self._switch(machine, rows, names.var)
        return body or ["  (void)now;"]

    def setup(self, machine: Machine, kept: tuple[str, str] | None = None) -> list[str]:
        """The lines of `setup` that enter its first state; or, `kept` saying whether there is one and where, the one
        that outlived a reset."""
        names, compiled = self.names[machine.id], self.compiled[machine.id]
        first = [f"  {line}" for line in self.take(machine, compiled.initial)]
        if kept is None:
            return first
        known, where = kept
        rows = {
            place: self.take(machine, TransitionRow(NONE, (), (), NONE, compiled.around[place], place, False))
            for place in range(len(machine.states))
            if place not in compiled.around
        }
        going_on = self._switch(machine, rows, f"{names.enum}({where})", "    ")
        return [f"  if ({known}) {{", *going_on, "  } else {", *(f"  {line}" for line in first), "  }"]

    def call(self, machine: Machine) -> str:
        """The call of its step, or nothing for a machine that nothing moves."""
        if not machine.transitions:
            return ""
        names = self.names[machine.id]
        gives = "".join(f", {snake(part.id)}_edge" for part in self.bench.contacts if part.id in names.inputs)
        return f"  {names.step}(now{gives});\n"


def machine_source(machine: Machine, wait: Wait) -> int:
    """The place of the state that a timeout's transition begins in."""
    source = machine.transitions[wait.transition.place].source
    return next(place for place, state in enumerate(machine.states) if state.id == source)
