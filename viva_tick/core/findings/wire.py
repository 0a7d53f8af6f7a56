"""What the wiring alone gives away."""

from __future__ import annotations

from collections.abc import Iterator

from ..cautions import CAUTIONS, HAZARD_NAMES, hazards
from ..document.parts import (
    ButtonModule,
    Channel,
    Encoder,
    Heater,
    KeyMatrix,
    Motor,
    OpenWire,
    Relay,
    RelayBoard,
    SignalIn,
    SignalOut,
    as_fed,
)
from ..electrics import circuit_of, floats, pin_state
from ..engine import Kind
from ..exploring.analysis import wanted_together
from ..units import amps
from .finding import Evidence, Finding, Numbers, Patch, Severity
from .mends import replaced


def floating(evidence: Evidence) -> Iterator[Finding]:
    """Nothing holds the pin of a contact while it is open."""
    board = evidence.bench.the_board
    for line in evidence.bench.contacts:
        # A pull that the pin or the board does not have, and a module's resistor, are for other rules to name.
        if line.wiring.pull.startswith("internal") or isinstance(line.part, ButtonModule) or not floats(line, board):
            continue
        numbers = [("pull", "none")]
        show: tuple[int, ...] = ()
        if evidence.run:
            noise = evidence.run.trace.signal(Kind.READING, line.id).times_us
            numbers.append(("readings turned over", str(len(noise))))
            show = tuple(noise[1:4])
        to_ground = line.wiring.contact_to == "ground"
        bare = isinstance(line.part, OpenWire)
        on_it = f"Nothing is on {line.pin} but {line.wiring.wire_cm} cm of wire: it"
        said = on_it if bare else f"With the contact open nothing holds {line.pin}, so it"
        yield Finding(
            code="wire.floating",
            severity=Severity.MUST,
            station="wire",
            part=line.part.id,
            title=f"{line.name}: the pin floats",
            sentence=f"{said} reads whatever the wire picks up"
            + (", more the longer it is, and most with a hand near." if bare else "."),
            numbers=tuple(numbers),
            pointer=f"{line.at}/wiring/pull",
            patch=_hold(f"{line.at}/wiring/pull", to_ground),
            mend="Use the board's pull-up" if to_ground else "Add 10 kΩ to ground",
            show_us=show,
        )
    for at, part in evidence.bench.placed:
        if isinstance(part, Encoder | KeyMatrix) and part.pull == "none":
            what = "A and B" if isinstance(part, Encoder) else "the columns"
            yield Finding(
                code="wire.floating",
                severity=Severity.MUST,
                station="wire",
                part=part.id,
                title=f"{part.name}: its pins float",
                sentence=f"Nothing holds {what} while their contacts are open, so they read what the wire picks up.",
                numbers=(("pull", "none"),),
                pointer=f"{at}/pull",
                patch=_hold(f"{at}/pull", to_ground=True),
                mend="Use the board's pull-ups",
            )


def _hold(where: str, to_ground: bool) -> Patch:
    return replaced(where, "internal-up" if to_ground else "down")


def hazard(evidence: Evidence) -> Iterator[Finding]:
    """An output switches something that can hurt."""
    places = {part.id: at for at, part in evidence.bench.placed}
    for output, load in hazards(evidence.bench):
        part = output.part if isinstance(output, Channel) else output
        yield Finding(
            code="wire.hazard",
            severity=Severity.NOTE,
            station="wire",
            part=part.id,
            title=f"{output.name} switches {HAZARD_NAMES[load]}",
            sentence=CAUTIONS[load],
            numbers=(),
            pointer=places[part.id],
        )


def cut_out(evidence: Evidence) -> Iterator[Finding]:
    """A heater with nothing but the firmware to stop it."""
    for at, part in evidence.bench.placed:
        if isinstance(part, Heater) and not part.cut_out:
            yield Finding(
                code="wire.no-cut-out",
                severity=Severity.MUST,
                station="wire",
                part=part.id,
                title=f"{part.name} has no thermal cut-out",
                sentence="If the firmware hangs, or its switch fails closed, nothing stops the heat. Fit a cut-out "
                "that opens by itself, and say so here.",
                numbers=(("load", amps(part.load_ua)),),
                pointer=f"{at}/cut_out",
            )


def grounds(evidence: Evidence) -> Iterator[Finding]:
    """A part with a supply of its own, or another board, whose ground is not joined to the board's."""
    for at, part in evidence.bench.placed:
        isolated = isinstance(part, Relay | RelayBoard) and part.isolated
        fed = as_fed(part)
        own = isinstance(part, SignalIn | SignalOut) or (fed is not None and fed.own_supply and not isolated)
        if not own or getattr(part, "grounds_joined", True):
            continue
        yield Finding(
            code="wire.grounds",
            severity=Severity.MUST,
            station="wire",
            part=part.id,
            title=f"{part.name}: the grounds are not joined",
            sentence="Two supplies without a common ground have no level in common: what the pin says is not heard.",
            numbers=(("grounds", "apart"),),
            pointer=f"{at}/grounds_joined",
            patch=replaced(f"{at}/grounds_joined", True),
            mend="Join the grounds",
        )


def module_legs(evidence: Evidence) -> Iterator[Finding]:
    """A module's contact or resistor lies between other pins than it is wired for."""
    board = evidence.bench.the_board
    for line in evidence.bench.contacts:
        part = line.part
        if not isinstance(part, ButtonModule):
            continue
        circuit = circuit_of(line, board)
        rails = {branch.rail for branch in circuit.held}
        if circuit.contact and rails and circuit.contact not in rails and not circuit.wasted_ohm:
            continue
        pressed = pin_state(circuit, board, touching=True)
        where = " and ".join(part.ends(part.resistor_pins))
        if circuit.shorts:
            said = (
                f"Pressed, it joins supply and ground: {amps(pressed.shorted_ua)}, and {line.pin} sees nothing of it."
            )
        elif circuit.wasted_ohm:
            said = f"Its resistor lies between {where}: it wastes {amps(pressed.shorted_ua)} and holds nothing."
        elif not rails:
            said = f"Its resistor lies between {where}: nothing holds {line.pin}."
        else:
            said = f"Its resistor, between {where}, pulls to the rail that the contact goes to."
        patch, mend = _turned(line.at, part, line.active_level)
        numbers: Numbers = (
            ("resistor between", where),
            ("contact between", " and ".join(part.ends(part.contact_pins))),
        )
        yield Finding(
            code="wire.module-legs",
            severity=Severity.MUST,
            station="wire",
            part=part.id,
            title=f"{line.name}: the module is wired for other pins",
            sentence=said,
            numbers=numbers,
            pointer=f"{line.at}/wired",
            patch=patch,
            mend=mend,
        )


def _turned(at: str, part: ButtonModule, active_level: str) -> tuple[Patch, str]:
    """The wiring of the module's pins that makes its contact and its resistor work, the declared level kept if it
    can be; nothing where none does, as with the resistor across the contact."""
    shared = set(part.contact_pins.split("-")) & set(part.resistor_pins.split("-"))
    if len(shared) != 1:
        return (), ""
    pin = shared.pop()
    contact_end = next(one for one in part.contact_pins.split("-") if one != pin)
    resistor_end = next(one for one in part.resistor_pins.split("-") if one != pin)
    rail, other = ("ground", "supply") if active_level == "low" else ("supply", "ground")
    names = {pin: "pin", contact_end: rail, resistor_end: other}
    wired = "-".join(names[number] for number in ("1", "2", "3"))
    return replaced(f"{at}/wired", wired), f"Wire 1, 2, 3 to {wired.replace('-', ', ')}"


def both_directions(evidence: Evidence) -> Iterator[Finding]:
    """The machines can switch on both directions of a motor whose driver forbids it."""
    for at, part in evidence.bench.placed:
        if not isinstance(part, Motor) or part.both_on == "brakes":
            continue
        forward, backward = f"{part.id}.forward", f"{part.id}.backward"
        pair = (forward, backward)
        if any({lock.one, lock.other} == set(pair) for lock in evidence.bench.firmware.interlocks):
            continue
        both = wanted_together(evidence.bench, pair)
        if both is None:
            continue
        path, found = both
        show: tuple[int, ...] = ()
        if evidence.run:
            spans = [evidence.run.trace.signal(Kind.OUTPUT, channel) for channel in (forward, backward)]
            show = _both_on_us(spans[0].times_us, spans[0].values, spans[1].times_us, spans[1].values)
        yield Finding(
            code="wire.both-directions",
            severity=Severity.MUST,
            station="wire",
            part=part.id,
            title=f"{part.name} can be driven both ways at once",
            sentence=f"{found} leaves forward and backward on together, which shorts the supply through the driver.",
            numbers=(("both on", found),),
            pointer=f"{at}/both_on",
            patch=(
                {
                    "op": "add",
                    "path": "/firmware/interlocks/-",
                    "value": {"one": forward, "other": backward, "dead_us": 500_000},
                },
            ),
            mend="Interlock them, half a second between",
            show_us=show,
            play=path,
        )


def _both_on_us(times_a: list[int], a: list[int], times_b: list[int], b: list[int]) -> tuple[int, ...]:
    changes = sorted([(at, 0, value) for at, value in zip(times_a, a, strict=True)]
                     + [(at, 1, value) for at, value in zip(times_b, b, strict=True)])  # fmt: skip
    now = [0, 0]
    found = []
    for at, which, value in changes:
        now[which] = value
        if now == [1, 1]:
            found.append(at)
    return tuple(found[:50])
