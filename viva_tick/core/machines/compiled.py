"""A machine as tables of numbers, so that a step of it is a few look-ups.

Order of evaluation, here and in the emitted code (`running.py`): transitions that wait for nothing; the pass's events
in the order of the inputs, each against the state that the one before it left; what machines, variables and the board
have raised; then, once, the timeouts of the state reached, in list order, those of the state around it last. After each
transition taken, transitions that wait for nothing are looked at again, eight in a row at most."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from ..document import Action, AlwaysEvent, Bench, EventName, Guard, Machine, StartDrive, State, TimeoutEvent

NONE: Final = -1


@dataclass(frozen=True, slots=True)
class TransitionRow:
    """A transition out of a state. It leaves the leaf that the machine stands in, and with `leaves` (a state's place,
    or NONE) the state around it; it does its actions; it enters `enters`, the state around the target, if that is not
    stood in, and then `target`, a leaf; one that `remembers` is where the state around it was left."""

    place: int
    guards: tuple[Guard, ...]
    actions: tuple[Action, ...]
    leaves: int
    enters: int
    target: int
    remembers: bool


@dataclass(frozen=True, slots=True)
class Wait:
    """A timeout in whole ms: fixed, or drawn from `wait_ms` to `until_ms`, or `unit_ms` times a variable. `around`: the
    time is counted from the entry of the state around, not of the leaf. `draw` is where its drawn time is kept."""

    wait_ms: int
    until_ms: int
    variable: str | None
    unit_ms: int
    around: bool
    draw: int
    transition: TransitionRow


@dataclass(frozen=True)
class CompiledMachine:
    """States are numbers. `on[leaf]` maps the number of an event (see `event_keys`) to its transitions; `waits[leaf]`
    and `always[leaf]` are the transitions that no event leads; `entry[state]`, `exit[state]` the actions (drives
    first); `drawn[state]` the waits whose time is drawn as the state is entered; `around[leaf]` the state around it."""

    id: str
    names: tuple[str, ...]
    initial: TransitionRow
    on: tuple[dict[int, tuple[TransitionRow, ...]], ...]
    waits: tuple[tuple[Wait, ...], ...]
    always: tuple[tuple[TransitionRow, ...], ...]
    entry: tuple[tuple[Action, ...], ...]
    exit: tuple[tuple[Action, ...], ...]
    drawn: tuple[tuple[Wait, ...], ...]
    around: tuple[int, ...]


def entry_actions(state: State) -> tuple[Action, ...]:
    """What entering a state does: its drives, then the rest."""
    return (*(StartDrive(output=output, drive=drive) for output, drive in state.drives.items()), *state.entry)


def single_actions(actions: tuple[Action, ...], bench: Bench | None) -> tuple[Action, ...]:
    """The actions, those on a group of outputs as one for each output of it."""
    if bench is None or not bench.groups:
        return actions
    found: list[Action] = []
    for action in actions:
        if isinstance(action, StartDrive) and action.output in bench.groups:
            pairs = bench.reached_by(action.output, action.drive)
            found += [StartDrive.model_construct(output=output, drive=drive) for output, drive in pairs]
        else:
            found.append(action)
    return tuple(found)


def stays_inside(machine: Machine, source_id: str, target_id: str) -> bool:
    """Whether a transition begins and ends in the same state around others without leaving that. As in SCXML: from
    inside to what is remembered there it is not left; to the state itself it is."""
    around = machine.state(source_id).parent
    if around is None or around != machine.state(machine.opening(target_id)).parent:
        return False
    return target_id != around or machine.state(around).remembers


def compile_machine(machine: Machine, events: dict[EventName, int], bench: Bench | None = None) -> CompiledMachine:
    """The machine over the numbers of `events`, on a `bench` whose groups of outputs are single ones in it. A
    transition whose event nothing gives any more is left out."""
    place = {state.id: number for number, state in enumerate(machine.states)}
    around = [NONE if state.parent is None else place[state.parent] for state in machine.states]
    count = len(machine.states)
    has_insides = [number in around for number in range(count)]

    def transition(
        number: int, source: int, target_id: str, guards: tuple[Guard, ...], actions: tuple[Action, ...]
    ) -> TransitionRow:
        to = place[target_id]
        leaf = place[machine.opening(target_id)]
        group = around[leaf]  # the state around where it ends, NONE at the top
        # The state around where it begins, or the source itself.
        mine = source if has_insides[source] else around[source]
        remembers = to == group and machine.states[to].remembers
        stays = stays_inside(machine, machine.states[source].id, target_id)
        return TransitionRow(
            number,
            guards,
            actions,
            NONE if stays else mine,
            NONE if stays else group,
            leaf,
            remembers,
        )

    on: list[dict[int, list[TransitionRow]]] = [{} for _ in range(count)]
    waits: list[list[Wait]] = [[] for _ in range(count)]
    always: list[list[TransitionRow]] = [[] for _ in range(count)]
    drawn: list[list[Wait]] = [[] for _ in range(count)]
    own_first = sorted(machine.transitions, key=lambda one: has_insides[place[one.source]])
    numbers = {id(one): number for number, one in enumerate(machine.transitions)}
    for one in own_first:
        source = place[one.source]
        made = transition(numbers[id(one)], source, one.target, one.guards, single_actions(one.actions, bench))
        sources = [n for n in range(count) if around[n] == source] if has_insides[source] else [source]
        event = one.on
        if isinstance(event, TimeoutEvent):
            until_ms = (event.until_us or 0) // 1000
            draw = sum(map(len, drawn)) if until_ms else NONE
            wait = Wait(
                event.after_us // 1000, until_ms, event.variable, event.unit_us // 1000, has_insides[source], draw, made
            )
            for leaf in sources:
                waits[leaf].append(wait)
            if until_ms:
                drawn[source].append(wait)
        elif isinstance(event, AlwaysEvent):
            for leaf in sources:
                always[leaf].append(made)
        elif (key := events.get(event.name)) is not None:
            for leaf in sources:
                on[leaf].setdefault(key, []).append(made)
    opening = place[machine.opening(machine.initial)]
    return CompiledMachine(
        machine.id,
        tuple(state.id for state in machine.states),
        TransitionRow(NONE, (), (), NONE, around[opening], opening, False),
        tuple({key: tuple(transitions) for key, transitions in row.items()} for row in on),
        tuple(map(tuple, waits)),
        tuple(map(tuple, always)),
        tuple(single_actions(entry_actions(state), bench) for state in machine.states),
        tuple(single_actions(state.exit, bench) for state in machine.states),
        tuple(map(tuple, drawn)),
        tuple(around),
    )
