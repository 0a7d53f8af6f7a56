"""What a broken wire does: a sensor that reads as if it were cold, a stop that cannot stop; what nobody asks again."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache

from ..cautions import hurts, is_hard, load_words
from ..document import Bench, IfLevel, InputEvent, Machine, Measure, TimeoutEvent, Transition, pointer
from ..document.parts import Analogue, LimitSwitch
from ..electrics import broken_mv, counts_of, threshold_counts
from .finding import Evidence, Finding, Severity
from .mends import replaced

STAYS = ("switch", "slide-switch", "float", "limit-switch", "magnet")  # contacts that stay where they are put


def _on_in(bench: Bench, machine: Machine, state_id: str) -> list[str]:
    """The hazardous outputs that are on in a state."""
    state = machine.state(machine.opening(state_id))
    drives = ((channel.id, bench.drive_in(state, channel.id)) for channel in bench.channels)
    on = [ident for ident, drive in drives if drive and drive.ever_on]
    return [ident for ident in on if hurts(bench.channel(ident))]


def _heard_as(machine: Machine, part: str, of: str, above: bool) -> list[Transition]:
    """Ways that a machine goes while that input is above one of its thresholds, or below."""
    kind = "above" if above else "below"
    return [
        transition
        for transition in machine.transitions
        if (
            isinstance(transition.on, InputEvent)
            and (transition.on.kind, transition.on.input, transition.on.of) == (kind, part, of)
        )
        or any(
            isinstance(guard, IfLevel) and (guard.input, guard.of, guard.above) == (part, of, above)
            for guard in transition.guards
        )
    ]


def sensor_wire(evidence: Evidence) -> Iterator[Finding]:
    """A sensor whose wire breaks or shorts reads as a value that switches something hazardous on."""
    bench = evidence.bench
    board = bench.the_board
    for _, part in bench.sensed:
        reading = bench.firmware.readings.get(part.id)
        if not isinstance(part, Analogue) or not isinstance(reading, Measure) or board.analogue is None:
            continue
        lines = {of: threshold_counts(part, pair, board) for of, pair in reading.pairs.items()}
        for shorted in (False, True):
            count = counts_of(broken_mv(part, board, shorted), board) or 0
            is_above = {of: count <= upper if falling else count >= upper for of, (upper, _, falling) in lines.items()}
            found = [
                (machine, bench.channel(on[0]).name, above)
                for machine in bench.firmware.machines
                for of, above in is_above.items()
                for transition in _heard_as(machine, part.id, of, above)
                if (on := _on_in(bench, machine, transition.target))
            ]
            if not found:
                continue
            machine, output, above = found[0]
            what = "shorted" if shorted else "broken off"
            side = "above" if above else "below"
            yield Finding(
                code="behave.sensor-wire",
                severity=Severity.MUST,
                station="behave",
                part=machine.id,
                title=f"{part.name}, {what}, switches {output} on",
                sentence=f"With its wire {what} it reads {count}, which is {side}: {machine.name} switches {output} on "
                "and nothing ever says enough. Take readings near the ends of the scale for a fault, and switch off.",
                numbers=(("reads", str(count)), ("firmware reads", side)),
                pointer=pointer("firmware", "readings", part.id),
            )
            break


def open_stop(evidence: Evidence) -> Iterator[Finding]:
    """What stops something hazardous is normally open: a broken wire cannot stop it."""
    bench = evidence.bench
    on_in = cache(lambda number, state: _on_in(bench, bench.firmware.machines[number], state))
    goes: dict[str, list[tuple[int, Transition]]] = {}
    for number, machine in enumerate(bench.firmware.machines):
        for transition in machine.transitions:
            if transition.on.kind == "press":
                goes.setdefault(getattr(transition.on, "input", ""), []).append((number, transition))
    for line in bench.contacts:
        if line.wiring.normally == "closed" or line.kind == "signal":
            continue
        stopped: list[str] = []
        starts = False
        for number, transition in goes.get(line.id, ()):
            was, becomes = on_in(number, transition.source), on_in(number, transition.target)
            starts = starts or bool(set(becomes) - set(was))
            stopped += [ident for ident in was if ident not in becomes]
        if starts or not stopped:
            continue
        channel = bench.channel(stopped[0])
        where = f"{line.at}/wiring/normally"
        yield Finding(
            code="wire.open-stop",
            severity=Severity.MUST if isinstance(line.part, LimitSwitch) or is_hard(channel) else Severity.LOOK,
            station="wire",
            part=line.part.id,
            title=f"{line.name} cannot stop {channel.name} if its wire breaks",
            sentence=f"It is open until it stops {channel.name} ({load_words(channel.loads)}); a wire that has come "
            "off is open, too. A stop is closed at rest, so that a broken wire stops.",
            numbers=(("at rest", "open"), ("stops", channel.name)),
            pointer=where,
            patch=(
                *replaced(where, "closed"),
                *replaced(f"{line.at}/active_level", "high" if line.active_level == "low" else "low"),
            ),
            mend="Closed at rest",
        )


def _listens(machine: Machine, state: str, transition: Transition) -> bool:
    around = {state, machine.state(state).parent}
    return any(one.source in around and one.on == transition.on for one in machine.transitions)


def deaf(evidence: Evidence) -> Iterator[Finding]:
    """A crossing, or a contact that stays where it is put, changes in a state that does not listen."""
    bench = evidence.bench
    kept = {line.id for line in bench.contacts if line.kind in STAYS}
    names = {one.id: one.name for one in (*bench.inputs, *bench.contacts)}
    for number, machine in enumerate(bench.firmware.machines):
        transitions = machine.transitions
        for place, transition in enumerate(transitions):
            ident = str(getattr(transition.on, "input", ""))
            level = transition.on.kind in ("above", "below")
            stays = transition.on.kind in ("press", "release") and ident in kept
            asks = any(one.on.kind == "always" and one.source == transition.source for one in transitions)
            if asks or not (level or stays):
                continue
            back = [
                one
                for one in transitions
                if isinstance(one.on, TimeoutEvent) and one.target == transition.source != one.source
            ]
            lost = next((one.source for one in back if not _listens(machine, one.source, transition)), None)
            if lost is None:
                continue
            word = "above" if transition.on.kind == "above" else "pressed"
            asked = {
                "kind": "level" if level else "contact",
                "input": ident,
                word: transition.on.kind in ("above", "press"),
            }
            if level:
                asked = {"kind": "level", "input": ident, "above": transition.on.kind == "above"}
                asked |= {"of": transition.on.of} if isinstance(transition.on, InputEvent) else {}
            again = transition.model_dump(mode="json") | {"on": {"kind": "always"}}
            again["guards"] = [asked, *again["guards"]]
            source, deaf_in = machine.state(transition.source).name, machine.state(lost).name
            path = pointer("firmware", "machines", number, "transitions", "-")
            yield Finding(
                code="behave.deaf",
                severity=Severity.LOOK,
                station="behave",
                part=machine.id,
                title=f"{machine.name}: {names.get(ident, ident)} can change unheard",
                sentence=f"While it is in {deaf_in}, nobody listens to {names.get(ident, ident)}; back in {source} "
                "nobody asks how things are, and it waits for the next change. Ask as the state is entered.",
                numbers=(("not heard in", deaf_in), ("waits in", source)),
                pointer=pointer("firmware", "machines", number, "transitions", place, "on"),
                patch=({"op": "add", "path": path, "value": again},),
                mend="Ask again without an event",
            )
            break


def limit_stays(evidence: Evidence) -> Iterator[Finding]:
    """A longest time on is reached: the output is off, and its machine still takes it for on."""
    bench = evidence.bench
    for number, machine in enumerate(bench.firmware.machines):
        for output, limit in bench.firmware.limits.items():
            first = machine.state(machine.opening(machine.initial))
            off = next(
                (s for s in (first, *machine.states) if (d := bench.drive_in(s, output)) and not d.ever_on), None
            )
            for state in machine.states:
                drive = bench.drive_in(state, output)
                ends = any(
                    isinstance(transition.on, TimeoutEvent)
                    and transition.on.variable is None
                    and transition.on.after_us <= limit.longest_us
                    for transition in machine.transitions
                    if transition.source in (state.id, state.parent)
                )
                if drive is None or not drive.lasting or ends or off is None:
                    continue
                name = bench.channel(output).name
                transition = {
                    "source": state.id,
                    "on": {"kind": "timeout", "after_us": limit.longest_us},
                    "target": off.id,
                }
                path = pointer("firmware", "machines", number, "transitions", "-")
                yield Finding(
                    code="behave.limit-stays",
                    severity=Severity.LOOK,
                    station="behave",
                    part=machine.id,
                    title=f"{machine.name} stays in {state.name} when {name} is cut off",
                    sentence=f"After its longest time {name} is off, and {machine.name} is still in {state.name}: the "
                    "next press leads away from there and shows nothing. Let it follow the limit.",
                    numbers=(("longest on", f"{limit.longest_us / 1e6:g} s"), ("stays in", state.name)),
                    pointer=pointer("firmware", "limits", output),
                    patch=({"op": "add", "path": path, "value": transition},),
                    mend=f"Then {off.name}",
                )
                break
