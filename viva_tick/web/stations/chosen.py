"""What is open on the grid or the map: a transition, an empty cell, a drive, a state or a column, where it stands."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.document import Bench, Machine, State, TimeoutEvent
from ...core.document.parts import Analogue
from ...core.drives import COLOUR_OFFERS, OFFERED, Angle, Drive, Text
from ..drawings.drives import Figure, drive_figure
from ..patches import Patch, put
from . import machine_rows as rows
from .cells import column_name, event_words
from .columns import TIMEOUT, Column
from .controls import Control
from .grid_patches import GridPatches
from .removals import removals_of

Section = tuple[str, str, tuple[rows.Row, ...], list[tuple[str, rows.Patch]]]  # title, “add a …”, its rows, what can be


@dataclass(frozen=True)
class Choice:
    """One of several: what it is called, the edit, whether it holds; the tint of a state, the drawing of a drive; what
    is open after it."""

    words: str
    patch: Patch
    holds: bool = False
    tint: int | None = None
    figure: Figure | None = None
    then: str | None = None


@dataclass(frozen=True)
class Act:
    """Something else that can be done; `closes` where what is open is gone after it, `then` what is open instead."""

    words: str
    patch: Patch
    closes: bool = False
    then: str | None = None


@dataclass(frozen=True)
class Chosen:
    """What is open: its kind and place, what it is about, what can be chosen and set, and what else can be done."""

    kind: str
    place: int
    title: str
    label: str = ""
    choices: tuple[Choice, ...] = ()
    controls: tuple[Control, ...] = ()
    parts: tuple[Section, ...] = ()
    acts: tuple[Act, ...] = ()
    note: str = ""


class Opening:
    """What can be opened of one machine, which stands at `at`."""

    def __init__(self, bench: Bench, machine: Machine, at: str, columns: list[Column]) -> None:
        self.bench, self.machine, self.at, self.columns = bench, machine, at, columns
        self.grid = GridPatches(bench, machine, at)
        self.names = rows.Names.of(bench)

    def of(self, wanted: str | None) -> Chosen | None:
        """“transition 3”, “cell off press button”, “drive off lamp”, “state off”, “column press button”, “output lamp”.
        None for what is not there."""
        kind, _, which = (wanted or "").partition(" ")
        if kind == "transition":
            known = which.isdecimal() and len(which) < 5 and int(which) < len(self.machine.transitions)
            return self._transition(int(which)) if known else None
        if kind == "column":
            return next((self._column(one) for one in self.columns if one.name == which), None)
        if kind == "output":
            return next((self._output(one.id, one.name) for one in self.bench.drivable if one.id == which), None)
        ident, _, more = which.partition(" ")
        state = next((one for one in self.machine.states if one.id == ident), None)
        if state is None:
            return None
        if kind == "cell":
            return next((self._cell(state, one) for one in self.columns if one.name == more), None)
        if kind == "drive":
            return next((self._drive(state, one.id, one.name) for one in self.bench.drivable if one.id == more), None)
        return self._state(state) if kind == "state" else None

    def _place(self, state: State) -> int:
        return self.machine.states.index(state)

    def _transition(self, place: int) -> Chosen:
        transition = self.machine.transitions[place]
        here = f"{self.at}/transitions/{place}"
        state = self.machine.state(transition.source)
        choices = tuple(
            Choice(to.name, self.grid.leads_to(place, to.id), to.id == transition.target, n)
            for n, to in enumerate(self.machine.states)
        )
        acts = []
        if isinstance(transition.on, TimeoutEvent) and transition.on.variable is None:
            until = None if transition.on.until_us else 2 * transition.on.after_us
            words = "Use a fixed time" if transition.on.until_us else "Use a random time"
            acts.append(Act(words, put(f"{here}/on/until_us", until)))
        same = {"source": state.id, "on": transition.on.model_dump(mode="json"), "target": state.id}
        another = Patch([{"op": "add", "path": f"{self.at}/transitions/{place + 1}", "value": same}])
        acts.append(Act("Add another transition", another, then=f"transition {place + 1}"))
        acts.append(Act("Remove", self.grid.no_transition(place), closes=True))
        parts: tuple[Section, ...] = (
            (
                "condition",
                "add a condition",
                tuple(rows.guard_row(one, f"{here}/guards/{n}", self.names) for n, one in enumerate(transition.guards)),
                rows.new_guards(f"{here}/guards", self.names, self.machine.id),
            ),
            (
                "actions",
                "add an action",
                tuple(
                    rows.action_row(one, f"{here}/actions/{n}", self.names) for n, one in enumerate(transition.actions)
                ),
                rows.new_actions(f"{here}/actions", self.names),
            ),
        )
        controls = rows.event_controls(self.machine, place, here, self.names)
        title = f"{state.name}, {event_words(self.bench, self.machine, place)}"
        return Chosen("transition", place, title, "go to", choices, controls, parts, tuple(acts))

    def _cell(self, state: State, column: Column) -> Chosen:
        new = f"transition {len(self.machine.transitions)}"
        choices = tuple(
            Choice(to.name, self.grid.transition(state, column, to.id), False, n, then=new)
            for n, to in enumerate(self.machine.states)
        )
        ignored = column.name in state.ignores
        acts: tuple[Act, ...] = ()
        if column.kind not in ("timeout", "always"):
            change = self.grid.unignore if ignored else self.grid.ignore
            acts = (Act("Not decided" if ignored else "Ignore it on purpose", change(state, column.name), True),)
        above = [
            (one, self.machine.state(one.target).name)
            for one in self.machine.transitions
            if state.parent and one.source == state.parent and column_name(one.on) == column.name
        ]
        note = "It is ignored here on purpose." if ignored else ""
        if above and state.parent:
            note = f"{self.machine.state(state.parent).name} leads to {above[0][1]}; choose here to do otherwise."
        return Chosen(
            "cell", self._place(state), f"{state.name}, {column.title}", "go to", choices, acts=acts, note=note
        )

    def _drive(self, state: State, output: str, name: str) -> Chosen:
        drive = state.drives.get(output)
        here = f"{self.at}/states/{self._place(state)}/drives/{output}"
        choices = [Choice("unchanged", self.grid.undrive(state, output), drive is None)]
        choices += [
            Choice(
                words, self.grid.drive(state, output, value), drive is not None and drive.word == word, figure=figure
            )
            for word, words, value, figure in drive_options(self.bench, drive, output)
        ]
        controls = rows.drive_controls(drive, here, self.names) if drive else ()
        note = ""
        if drive is not None and drive.writes:
            firmware = self.bench.firmware
            ids = [*(one.id for one in firmware.variables), *(one.id for one in firmware.machines)]
            known = [f"{{{ident}}}" for ident in ids]
            note = "In braces stands a number, or a machine's state: " + ", ".join(known) if known else ""
            note += "; {…:4} takes four places, {…:bar 8} is a bar." if known else ""
        title = f"{name} in {state.name}"
        return Chosen("drive", self._place(state), title, "", tuple(choices), controls, note=note)

    def _state(self, state: State) -> Chosen:
        place = self._place(state)
        here = f"{self.at}/states/{place}"
        parts: tuple[Section, ...] = tuple(
            (
                title,
                "add an action",
                tuple(
                    rows.action_row(one, f"{here}/{side}/{n}", self.names) for n, one in enumerate(getattr(state, side))
                ),
                rows.new_actions(f"{here}/{side}", self.names),
            )
            for title, side in (("on entry", "entry"), ("on exit", "exit"))
        )
        acts = []
        if self.machine.opening(self.machine.initial) != state.id and not self.machine.insides(state.id):
            acts.append(Act("Begin here", put(f"{self.at}/initial", state.id)))
        removal = removals_of(self.bench, self.at, self.machine).get(state.id)
        if removal:
            acts.append(Act("Remove the state", removal, closes=True))
        controls = rows.state_controls(self.machine, place, here)
        return Chosen("state", place, state.name, "", (), controls, parts, tuple(acts))

    def _column(self, column: Column) -> Chosen:
        number = sum(column_name(one.on) == column.name for one in self.machine.transitions)
        where = f"{number} {'transition' if number == 1 else 'transitions'}" if number else "no transition"
        acts = () if column is TIMEOUT and not number else (self._column_out(column, number),)
        return Chosen("column", 0, column.title, acts=acts, note=f"Here it has {where}.")

    def _column_out(self, column: Column, number: int) -> Act:
        words = "Remove its transitions" if column is TIMEOUT else "Remove the column"
        return Act(words, self.grid.column_out(column), closes=True)

    def _output(self, output: str, name: str) -> Chosen:
        driven = [state.name for state in self.machine.states if output in state.drives]
        used = f"Driven in {', '.join(driven)}." if driven else "No state drives it yet."
        act = Act("Remove the column", self.grid.output_out(output), closes=True)
        return Chosen("output", 0, name, acts=(act,), note=used)


Option = tuple[str, str, dict[str, object], Figure | None]


def drive_options(bench: Bench, drive: Drive | None, output: str) -> list[Option]:
    """(word, what it is called, its value, its drawing) of every drive that an output, a group of outputs or a line of
    text can be given; times are kept where they mean the same."""
    group = bench.groups.get(output)
    if output in {part.id for part in bench.servos}:
        turned: list[Option] = [(o.word, o.words, dict(o.value), None) for o in Angle.offered_for_servos]
        if isinstance(drive, Angle) and drive.time_us:
            turned[-1][2].update(degrees=drive.degrees, time_us=drive.time_us)
        for v in bench.firmware.variables:
            turned.append((f"angle {v.id}", f"as {v.name}", {"kind": "angle", "variable": v.id}, None))
        return turned
    if output in {line.id for line in bench.text_lines}:
        offers = Text.offered_for_lines
    else:
        offers = (*(COLOUR_OFFERS if group and group.kind == "rgb" else ()), *OFFERED)
    options = [(offer.word, offer.words, dict(offer.value)) for offer in offers]
    if offers is Text.offered_for_lines:
        return [(word, words, value, None) for word, words, value in options]
    if drive is not None:
        for _, _, value in options:
            if value["kind"] == drive.kind:
                value |= {name: getattr(drive, name) for name in value if name.endswith("_us")}
    followed = [(line.id, line.name) for line in bench.contacts]
    followed += [(part.id, part.name) for _, part in bench.sensed if isinstance(part, Analogue)]
    options += [(f"follow {ident}", f"follow {name}", {"kind": "follow", "input": ident}) for ident, name in followed]
    for one in bench.firmware.variables:
        options += [
            (f"follow-variable {one.id}", f"as {one.name}", {"kind": "follow-variable", "variable": one.id}),
            (f"blink-rate {one.id}", f"blink, {one.name} gives the rate", {"kind": "blink-rate", "variable": one.id}),
        ]
        if group and group.kind == "row":
            options.insert(0, (f"picked {one.id}", f"picked by {one.name}", {"kind": "picked", "variable": one.id}))
    seen = set()
    once = [one for one in options if not (one[0] in seen or seen.add(one[0]))]  # type: ignore[func-returns-value]
    return [(word, words, value, FIGURES.get(word)) for word, words, value in once]


def _offered_figures() -> dict[str, Figure]:
    from pydantic import TypeAdapter

    read = TypeAdapter[Drive](Drive)
    return {offer.word: drive_figure(read.validate_python(offer.value)) for offer in OFFERED}


FIGURES = _offered_figures()
