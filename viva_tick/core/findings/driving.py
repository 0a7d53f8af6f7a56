"""What drives ask of outputs that these cannot do, and what machines look at that nobody reads."""

from __future__ import annotations

from collections.abc import Iterator

from ..document import Bench, Channel, IfLevel, TakeLevel, pointer
from ..document.parts import Analogue, Relay, RelayBoard, Sounder
from ..drives import Drive, Follow, Sequence, Tone
from .finding import Evidence, Finding, Patch, Severity
from .mends import replaced


def _dims(bench: Bench, drive: Drive) -> bool:
    """Whether a drive puts a level between off and full on the pin."""
    if isinstance(drive, Sequence):
        return drive.dims
    if isinstance(drive, Follow):
        return drive.input in {part.id for _, part in bench.sensed if isinstance(part, Analogue)}
    return drive.needs_level and getattr(drive, "percent", 50) not in (0, 100)


def _fault(bench: Bench, channel: Channel, drive: Drive) -> tuple[str, Severity, str, str] | None:
    """(code, severity, end of the title, sentence) of what an output cannot do; None where it can."""
    if isinstance(drive, Tone) and not isinstance(channel.part, Sounder):
        sentence = "Only a sounder makes a note of it; anything else is switched on and off so many times a second."
        return "behave.tone", Severity.LOOK, "is no sounder", sentence
    if not _dims(bench, drive):
        return None
    if isinstance(channel.part, Relay | RelayBoard):
        sentence = "A dimmed pin is switched hundreds of times a second: a relay chatters, and wears out in minutes."
        return "behave.undimmable", Severity.MUST, "is a relay, and is dimmed", sentence
    pin = bench.the_board.pin(channel.pin)
    if pin is not None and "dimmable" not in pin.can:
        sentence = f"{channel.pin} has no PWM: it is off below half and on above it. Give it a pin that dims, in Wire."
        return "behave.undimmable", Severity.MUST, f"is dimmed on {channel.pin}", sentence
    return None


def cannot(evidence: Evidence) -> Iterator[Finding]:
    """A level on a pin that cannot dim, or on a relay; a note for what is no sounder."""
    bench = evidence.bench
    seen: set[tuple[str, str]] = set()
    for number, machine in enumerate(bench.firmware.machines):
        for steps, output, drive in bench.drives_of(machine):
            channel = bench.channel(output)
            fault = _fault(bench, channel, drive)
            if fault is None or (fault[0], output) in seen:
                continue
            code, severity, title, sentence = fault
            seen.add((code, output))
            where = pointer("firmware", "machines", number, *steps)
            on: Patch = replaced(where, {"kind": "steady", "on": True})
            yield Finding(
                code=code,
                severity=severity,
                station="behave",
                part=machine.id,
                title=f"{channel.name} {title}",
                sentence=sentence,
                numbers=(("pin", channel.pin), ("drive", drive.kind)),
                pointer=where,
                patch=on if len(steps) == 4 and steps[2] == "drives" else (),
                mend="On instead" if len(steps) == 4 and steps[2] == "drives" else "",
            )


def unread(evidence: Evidence) -> Iterator[Finding]:
    """A guard, an action or an output looks at an analogue part that the firmware does not read."""
    bench = evidence.bench
    names = {part.id: part.name for _, part in bench.sensed if isinstance(part, Analogue)}
    for number, machine in enumerate(bench.firmware.machines):
        looks: list[tuple[tuple[str | int, ...], str, str]] = []
        for place, transition in enumerate(machine.transitions):
            looks += [
                (("transitions", place, "guards", n), guard.input, "is never above")
                for n, guard in enumerate(transition.guards)
                if isinstance(guard, IfLevel)
            ]
        looks += [(steps, a.input, "is taken as 0") for steps, a in machine.actions if isinstance(a, TakeLevel)]
        looks += [(steps, d.input, "is followed as 0") for steps, _, d in machine.drives if isinstance(d, Follow)]
        for steps, ident, said in looks:
            if ident in names and ident not in bench.firmware.readings:
                yield Finding(
                    code="behave.unread",
                    severity=Severity.MUST,
                    station="behave",
                    part=machine.id,
                    title=f"{machine.name} looks at what is not read",
                    sentence=f"The firmware does not read {names[ident]}, so it {said}. Have it read in Clean.",
                    numbers=((names[ident], "not read"),),
                    pointer=pointer("firmware", "machines", number, *steps),
                )
