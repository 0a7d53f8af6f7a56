"""Why an output is as it is at an instant of a run: drive ← transition ← event ← belief ← contact."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass

from ..debounce import METHODS
from ..document import (
    AlwaysEvent,
    Bench,
    BoardEvent,
    ContactEvent,
    DriveEvent,
    InputEvent,
    Machine,
    MachineEvent,
    TimeoutEvent,
    VariableEvent,
)
from ..drives import Drive
from ..engine import Kind, Run, Signal
from ..machines import stays_inside
from ..units import ms

FURTHEST = 6  # machines that moved each other
BOARD = {
    "boot": "the board had started",
    "power-on": "the board had been switched on",
    "pin-reset": "the board's reset pin had been pulled",
    "dip-reset": "the board's supply had dipped",
    "software-reset": "the board had restarted itself",
    "watchdog-reset": "the watchdog had reset the board",
    "watchdog-bark": "the watchdog's interrupt had called",
}


@dataclass(frozen=True)
class Link:
    """One link of the chain: what, when, on which lane of the strip; `machine` and `transition` where it is a
    transition (−1 as the machine begins)."""

    words: str
    at_us: int
    lane: str
    machine: str = ""
    state: str = ""
    transition: int | None = None


def _last(signal: Signal, at_us: int) -> int:
    """The place of the last change at or before an instant; −1 for none."""
    return bisect_right(signal.times_us, at_us) - 1


def _find(run: Run, kind: Kind, of: str) -> Signal | None:
    return next((one for one in run.trace.signals if (one.kind, one.of) == (kind, of)), None)


@dataclass(frozen=True)
class Entry:
    """A machine entered a state: when, by which transition, as which entry of its signal."""

    machine: Machine
    number: int
    at_us: int
    state: str
    transition: int


def entry_at(run: Run, machine: Machine, at_us: int, before: int | None = None) -> Entry | None:
    """The state that a machine is in at an instant, and how it came there; None before set-up."""
    states, transitions = run.trace.signal(Kind.STATE, machine.id), run.trace.signal(Kind.TRANSITION, machine.id)
    number = _last(states, at_us)
    if before is not None:
        number = min(number, before - 1)
    if number < 0 or states.values[number] is None:
        return None
    # A state's signal has a None at each power-on that the transitions' has not.
    skipped = sum(value is None for value in states.values[:number])
    return Entry(machine, number, states.times_us[number], states.values[number], transitions.values[number - skipped])


def _starts(bench: Bench, entry: Entry, output: str) -> Drive | None:
    """The drive that an entry starts on an output; None where it leaves it alone."""
    machine = entry.machine
    state = machine.state(entry.state)
    around = [machine.state(state.parent)] if state.parent else []
    if drive := bench.drive_in(state, output):
        return drive
    rows = [*state.entry]
    if entry.transition >= 0:
        rows += machine.transitions[entry.transition].actions
    asked = (pair for one in rows if one.do == "drive" for pair in bench.reached_by(one.output, one.drive))
    found = next((drive for member, drive in asked if member == output), None)
    return found or next((drive for one in around if (drive := bench.drive_in(one, output))), None)


def _drove(bench: Bench, run: Run, machine: Machine, output: str, at_us: int) -> tuple[Entry, Drive] | None:
    entry = entry_at(run, machine, at_us)
    while entry is not None:
        drive = _starts(bench, entry, output)
        if drive is not None:
            return entry, drive
        entry = entry_at(run, machine, at_us, entry.number)
    return None


def why(bench: Bench, run: Run, output: str, at_us: int) -> list[Link]:
    """The chain behind what an output does at an instant, the latest link first."""
    channel = bench.channel(output)
    values = run.trace.signal(Kind.OUTPUT, output)
    place = _last(values, at_us)
    value = values.values[place] if place >= 0 else -1
    since_us = values.times_us[place] if place >= 0 else 0
    lane = f"output {output}"
    if value < 0:
        return [Link(f"{channel.name} floats: its pin is not set up yet", since_us, lane)]
    links = [Link(f"{channel.name} {'on' if value else 'off'} since {since_us / 1e6:.3f} s", since_us, lane)]
    cuts = _find(run, Kind.CUT, output)
    if not value and cuts and (number := _last(cuts, at_us)) >= 0 and cuts.values[number]:
        held = {"limit": "its longest time on is used up", "interlock": "the other side of its interlock comes first"}
        links.append(Link(f"held off: {held[cuts.values[number]]}", cuts.times_us[number], lane))
    found = [one for machine in bench.firmware.machines if (one := _drove(bench, run, machine, output, at_us))]
    if not found:
        links.append(Link("no machine has asked anything of it", since_us, lane))
        return links
    entry, drive = max(found, key=lambda one: one[0].at_us)
    links.append(Link(f"drive: {drive_words(drive)}", entry.at_us, lane))
    return links + chain(bench, run, entry)


def _stood_since_us(run: Run, entry: Entry, source: str) -> int:
    """Since when what an entry came out of had stood: a state, or one with others in it that moved meanwhile."""
    machine = entry.machine
    first = entry_at(run, machine, entry.at_us, entry.number)
    while first is not None and first.state != source and first.transition >= 0:
        came = machine.transitions[first.transition]
        if not stays_inside(machine, came.source, came.target):
            break
        first = entry_at(run, machine, first.at_us, first.number)
    return first.at_us if first else 0


def drive_words(drive: Drive) -> str:
    """What an output is made to do, in a word or two."""
    if drive.kind == "steady":
        return "on" if drive.on else "off"
    return drive.kind.replace("-", " ") + (", the loop waits" if drive.blocks_us else "")


def chain(bench: Bench, run: Run, entry: Entry, depth: int = 0) -> list[Link]:
    """How a machine came into a state: the transition, its event, and what gave that."""
    machine = entry.machine
    lane = f"state {machine.id}"
    name = machine.state(entry.state).name
    if entry.transition < 0:
        said = f"{machine.name} begins in {name}: the board has started"
        return [Link(said, entry.at_us, lane, machine.id, entry.state, entry.transition)]
    transition = machine.transitions[entry.transition]
    source = machine.state(transition.source).name
    link = Link(f"{machine.name}: {source} → {name}", entry.at_us, lane, machine.id, entry.state, entry.transition)
    on = transition.on
    if isinstance(on, TimeoutEvent):
        since_us = _stood_since_us(run, entry, transition.source)
        return [link, Link(f"{source} had stood for {ms(entry.at_us - since_us)}", since_us, lane)]
    if isinstance(on, AlwaysEvent):
        return [link, Link("it waited for nothing but its guards", entry.at_us, lane)]
    if isinstance(on, ContactEvent) or (isinstance(on, InputEvent) and on.kind == "chord"):
        return [link, *_contact(bench, run, on.input, " ".join(filter(None, (on.kind, on.of))), entry.at_us)]
    if isinstance(on, InputEvent):
        return [link, *_sensed(bench, run, on, entry.at_us)]
    if isinstance(on, MachineEvent) and depth < FURTHEST:
        other = next(one for one in bench.firmware.machines if one.id == on.machine)
        cause = entry_at(run, other, entry.at_us)
        return [link, *(chain(bench, run, cause, depth + 1) if cause else [])]
    if isinstance(on, DriveEvent):
        return [link, _finished(bench, run, on.output, entry.at_us)]
    if isinstance(on, VariableEvent):
        variable = next(one for one in bench.firmware.variables if one.id == on.variable)
        return [link, Link(f"{variable.name} had reached {on.value}", entry.at_us, f"value {on.variable}")]
    return [
        link,
        Link(BOARD[on.kind] if isinstance(on, BoardEvent) else "the kernel had it for the loop", entry.at_us, lane),
    ]


def _finished(bench: Bench, run: Run, output: str, at_us: int) -> Link:
    """What an output was made to do had come to its end: since when it did it."""
    name = next(one.name for one in bench.drivable if one.id == output)
    machines = bench.firmware.machines
    begun = [one for machine in machines if (one := _drove(bench, run, machine, output, at_us - 1))]
    lane = f"{'angle' if output in {one.id for one in bench.servos} else 'output'} {output}"
    if not begun:
        return Link(f"{name} had finished", at_us, lane)
    entry, drive = max(begun, key=lambda one: one[0].at_us)
    return Link(f"{name} had finished: {drive_words(drive)} for {ms(at_us - entry.at_us)}", entry.at_us, lane)


def _event_us(run: Run, ident: str, what: str, at_us: int) -> int | None:
    events = run.trace.signal(Kind.EVENT, ident)
    place = _last(events, at_us)
    while place >= 0 and events.values[place] != what:
        place -= 1
    return events.times_us[place] if place >= 0 else None


def _contact(bench: Bench, run: Run, ident: str, what: str, at_us: int) -> list[Link]:
    line = bench.contact(ident)
    event_us = _event_us(run, ident, what, at_us)
    if event_us is None:
        return []
    links = [Link(f"event: {what} of {line.name}", event_us, f"cleaned {ident}")]
    cleaned = run.trace.signal(Kind.CLEANED, ident)
    place = _last(cleaned, event_us)
    if place < 0:
        return links
    pressed, believed_us = bool(cleaned.values[place]), cleaned.times_us[place]
    moves = [move for move in run.moves[ident] if move.pressed == pressed and move.at_us <= believed_us]
    debounce = bench.debounce(ident)
    method = METHODS[debounce.method]
    how = method.title.lower() + (f", {ms(debounce.interval_us)}" if method.has_interval else "")
    state = "pressed" if pressed else "released"
    late = f", {ms(believed_us - moves[-1].at_us)} after the contact" if moves else ""
    links.append(Link(f"accepted as {state}{late} ({how})", believed_us, f"cleaned {ident}"))
    if moves:
        word = "touched" if pressed else "was released"
        links.append(Link(f"{line.name} {word} at {moves[-1].at_us / 1e6:.3f} s", moves[-1].at_us, f"contact {ident}"))
    return links


def _sensed(bench: Bench, run: Run, on: InputEvent, at_us: int) -> list[Link]:
    name = bench.part(on.input).name
    what = f"{on.kind} {on.of}".rstrip()
    event_us = _event_us(run, on.input, what, at_us)
    if event_us is None:
        return []
    lane = {"step": "count", "back": "count", "fast": "count", "fast-back": "count", "above": "crossing",
            "below": "crossing", "stays": "crossing", "command": "heard"}.get(on.kind, "keyed")  # fmt: skip
    at = f"{lane} {on.input}.{on.of}" if lane == "crossing" and on.of else f"{lane} {on.input}"
    links = [Link(f"event: {what} of {name}", event_us, at)]
    made = _find(run, Kind.MADE, on.input)
    if made and (place := _last(made, event_us)) >= 0:
        seen = {"crossing": "measure", "keyed": "held", "heard": "sent"}.get(lane, lane)
        links.append(Link(f"{name}: what was done to it", made.times_us[place], f"{seen} {on.input}"))
    return links
