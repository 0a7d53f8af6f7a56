"""What relays, solid-state relays and transistors give away of what they switch."""

from __future__ import annotations

from collections.abc import Iterator

from ..cautions import dangers, hurts
from ..document import Channel, pointer
from ..document.parts import Motor, Relay, RelayBoard, Servo, SolidStateRelay, Spinning, Switched
from ..drives import Blink, Burst, Ramp
from ..units import amps, ms, volts
from .finding import Evidence, Finding, Numbers, Patch, Severity
from .mends import replaced

# A contact made for so much alternating current carries it on direct current up to here; above, an arc does not go out
# (data sheets of small relays, common practice).
DC_MV = 30_000
# Times the current as it is switched on (common practice).
INRUSH = {"resistive": 1, "inductive": 1, "lamp": 10, "motor": 6}
HALF_WAVE_US = 10_000  # 50 Hz
LIFE = 100_000  # switchings under load that a small relay's contact lasts (data sheets, common practice)
FAST_US = 500_000
# What a flexible cord of so many mm² carries (IEC 60335-1, table 11, from memory).
CARRIES_UA = ((0.5, 3_000_000), (0.75, 6_000_000), (1.0, 10_000_000), (1.5, 16_000_000), (2.5, 25_000_000))


def unsaid(evidence: Evidence) -> Iterator[Finding]:
    """Nobody has said what a relay, a solid-state relay or a transistor switches."""
    seen: set[str] = set()
    for channel in evidence.bench.channels:
        part = channel.part
        switches = isinstance(part, Relay | RelayBoard | SolidStateRelay)
        switches = switches or (isinstance(part, Switched) and part.fed == "transistor")
        if not switches or channel.loads or part.id in seen:
            continue
        seen.add(part.id)
        yield Finding(
            code="wire.unsaid",
            severity=Severity.LOOK,
            station="wire",
            part=part.id,
            title=f"Say what {channel.name} switches",
            sentence="Until somebody has, nothing here can tell whether it is a hazard. “Nothing dangerous” is one.",
            numbers=(("switches", "not said"),),
            pointer=f"{channel.at}/loads",
        )


def no_stop(evidence: Evidence) -> Iterator[Finding]:
    """Something moves, and nothing but the firmware stops it."""
    for at, part in evidence.bench.placed:
        loads = {load for channel in part.channels(at) for load in channel.loads} | set(getattr(part, "loads", ()))
        stops, where = getattr(part, "hard_stop", None), f"{at}/hard_stop"
        if isinstance(part, RelayBoard):
            bare = [n for n, one in enumerate(part.relays) if "motion" in one.loads and not one.hard_stop]
            stops, where = not bare, f"{at}/relays/{bare[0] if bare else 0}/hard_stop"
        if "motion" not in loads or stops is not False:
            continue
        mighty = "mains" in loads or isinstance(part, Relay | RelayBoard | SolidStateRelay)
        yield Finding(
            code="wire.no-stop",
            severity=Severity.MUST if mighty else Severity.LOOK,
            station="wire",
            part=part.id,
            title=f"{part.name} has no hard-wired stop",
            sentence="If the firmware hangs, or its switch fails closed, nothing stops what moves. Fit a stop that "
            "cuts its supply without the board, and say so here.",
            numbers=(("hard-wired stop", "none"),),
            pointer=where,
        )


def _of(
    channel: Channel,
    code: str,
    severity: Severity,
    title: str,
    sentence: str,
    numbers: Numbers,
    field: str,
    patch: Patch = (),
    mend: str = "",
) -> Finding:
    where = f"{channel.at}/burden/{field}"
    name = f"{channel.name} {title}"
    return Finding(code, severity, "wire", channel.part.id, name, sentence, numbers, where, patch, mend)


def contact_rating(evidence: Evidence) -> Iterator[Finding]:
    """A relay's contact switches more than it is made for: in all, as it closes, on direct current."""
    for channel in evidence.bench.channels:
        part, burden = channel.part, channel.burden
        if burden is None or not isinstance(part, Relay | RelayBoard):
            continue
        rush_ua, contact = burden.ua * INRUSH[burden.sort], amps(part.contact_ua)
        if burden.ua > part.contact_ua:
            sentence = f"Its load takes {amps(burden.ua)}; its contact is made for {contact}, and welds."
            numbers: Numbers = (("load", amps(burden.ua)), ("contact", contact))
            yield _of(channel, "wire.contact-over", Severity.MUST, "switches too much", sentence, numbers, "ua")
        elif burden.supply == "dc" and burden.mv > DC_MV:
            sentence = (
                f"On {volts(burden.mv)} of direct current an arc does not go out: small relays are made for "
                f"{volts(DC_MV)}. Take a relay for that voltage, or a transistor."
            )
            numbers = (("direct current", volts(burden.mv)), ("made for", volts(DC_MV)))
            title = "switches too many volts of direct current"
            yield _of(channel, "wire.contact-dc", Severity.MUST, title, sentence, numbers, "mv")
        elif rush_ua > part.contact_ua:
            what = "lamps take" if burden.sort == "lamp" else "a motor takes"
            sentence = (
                f"As it closes {what} about {INRUSH[burden.sort]} times {amps(burden.ua)}; its contact is made for "
                f"{contact}, and may weld. A larger relay, or one for inrush, stands that."
            )
            numbers = (("inrush", amps(rush_ua)), ("contact", contact))
            yield _of(channel, "wire.inrush", Severity.LOOK, "takes a rush as it closes", sentence, numbers, "sort")


def snubber(evidence: Evidence) -> Iterator[Finding]:
    """A contact opens a coil's current, and nothing takes it."""
    for channel in evidence.bench.channels:
        burden = channel.burden
        coil = burden is not None and burden.sort in ("inductive", "motor")
        if burden is None or not coil or burden.snubber or not isinstance(channel.part, Relay | RelayBoard):
            continue
        across = "a diode across it" if burden.supply == "dc" else "a resistor and a capacitor across the contact"
        sentence = (
            f"A coil keeps its current going as the contact opens: it arcs, and disturbs the board. Put {across}."
        )
        yield _of(
            channel,
            "wire.no-snubber",
            Severity.LOOK,
            "switches a coil without a snubber",
            sentence,
            (("load", burden.sort), ("snubber", "none")),
            "snubber",
            replaced(f"{channel.at}/burden/snubber", True),
            "Add a snubber there",
        )


def fuse(evidence: Evidence) -> Iterator[Finding]:
    """No fuse, one too small for the load, or one that the wire does not stand."""
    for channel in evidence.bench.channels:
        burden = channel.burden
        if burden is None or not {"mains", "heat", "current", "battery"} & set(channel.loads):
            continue
        carries = next((ua for mm2, ua in reversed(CARRIES_UA) if burden.wire_mm2 >= mm2), 0)
        numbers: Numbers = (
            ("load", amps(burden.ua)),
            ("fuse", amps(burden.fuse_ua) if burden.fuse_ua else "none"),
            ("wire", f"{burden.wire_mm2:g} mm²" if burden.wire_mm2 else "not said"),
        )
        if not burden.fuse_ua:
            sentence = "A short behind it burns the wire: put a fuse near the source, no larger than the wire carries."
            yield _of(channel, "wire.no-fuse", Severity.MUST, "has no fuse", sentence, numbers, "fuse_ua")
        elif burden.wire_mm2 and burden.fuse_ua > carries:
            sentence = f"{burden.wire_mm2:g} mm² carries {amps(carries)}: before {amps(burden.fuse_ua)} blow, it burns."
            title = "has a wire too thin for its fuse"
            yield _of(channel, "wire.thin-wire", Severity.MUST, title, sentence, numbers, "wire_mm2")
        elif burden.fuse_ua < burden.ua:
            sentence = f"Its load takes {amps(burden.ua)}; a fuse of {amps(burden.fuse_ua)} blows in use."
            yield _of(channel, "wire.small-fuse", Severity.LOOK, "has a fuse too small", sentence, numbers, "fuse_ua")


def solid_state(evidence: Evidence) -> Iterator[Finding]:
    """A solid-state relay leaks into a small load, and fails closed."""
    for at, part in evidence.bench.placed:
        if not isinstance(part, SolidStateRelay):
            continue
        channel, burden = part.channels(at)[0], part.burden
        if burden and burden.ua < 20 * part.leak_ua:
            sentence = (
                f"Off, it lets {amps(part.leak_ua)} through, and its load takes but {amps(burden.ua)}: a small lamp "
                "glows, a coil may hold. A resistor beside the load takes the leak, or a relay has none."
            )
            numbers: Numbers = (("leaks", amps(part.leak_ua)), ("load", amps(burden.ua)))
            yield _of(channel, "wire.leaks", Severity.LOOK, "leaks into a small load", sentence, numbers, "ua")
        if hurts(channel):
            yield Finding(
                code="wire.fails-closed",
                severity=Severity.NOTE,
                station="wire",
                part=part.id,
                title=f"{part.name} fails closed",
                sentence="A solid-state relay that breaks is most often left on: its firmware cannot switch it off any "
                "more. Have something else before it that can, as a contactor or a thermal cut-out.",
                numbers=(("switches", ", ".join(dangers(channel))),),
                pointer=f"{at}/loads",
            )


def fast_switching(evidence: Evidence) -> Iterator[Finding]:
    """A relay or a solid-state relay is dimmed or blinks faster than its contact or its half waves allow."""
    bench = evidence.bench
    seen: set[str] = set()
    for number, machine in enumerate(bench.firmware.machines):
        for steps, output, drive in bench.drives_of(machine):
            part = bench.channel(output).part
            if output in seen or not isinstance(part, Relay | RelayBoard | SolidStateRelay):
                continue
            times = [us for name in ("on_us", "off_us") if (us := getattr(drive, name, 0))]
            shortest_us = min(times, default=0)
            if isinstance(part, SolidStateRelay):
                zero = part.turns_on == "zero-crossing" and isinstance(drive, Ramp)
                brief = part.turns_on == "zero-crossing" and 0 < shortest_us < 2 * HALF_WAVE_US
                if not zero and not brief:
                    continue
                said = "A ramp dims it" if zero else f"It is on for {ms(shortest_us)}"
                sentence = (
                    f"{said}, and it turns on only where the mains crosses zero, every {ms(HALF_WAVE_US)}: it shows "
                    "whole half waves, or none. Take one that turns on at once, with a dimmer's timing."
                )
                numbers: Numbers = (("half wave", ms(HALF_WAVE_US)), ("drive", drive.kind))
            elif isinstance(drive, Blink | Burst) and 0 < shortest_us < FAST_US and drive.lasting:
                hours = LIFE * sum(times) / 3_600_000_000
                sentence = (
                    f"Every {ms(sum(times))} its contact closes: what lasts {LIFE:,} times under load is worn out "
                    f"after {hours:.0f} hours. Blink slower, or switch it with a transistor."
                )
                numbers = (("closes every", ms(sum(times))), ("worn after", f"{hours:.0f} hours"))
            else:
                continue
            seen.add(output)
            yield Finding(
                code="behave.fast-relay",
                severity=Severity.LOOK,
                station="behave",
                part=machine.id,
                title=f"{bench.channel(output).name} is switched too fast",
                sentence=sentence,
                numbers=numbers,
                pointer=pointer("firmware", "machines", number, *steps),
            )


def gate(evidence: Evidence) -> Iterator[Finding]:
    """A field-effect transistor whose gate nothing holds, or that the board's high does not open."""
    board = evidence.bench.the_board
    for at, part in evidence.bench.placed:
        if not isinstance(part, Switched) or not part.by_field:
            continue
        if not part.gate_ohm and part.hold == "none":
            where = f"{at}/gate_ohm"
            yield Finding(
                code="wire.gate-floats",
                severity=Severity.MUST if hurts(part.channels(at)[0]) else Severity.LOOK,
                station="wire",
                part=part.id,
                title=f"{part.name}: nothing holds its gate",
                sentence=f"A gate takes no current: before set-up it keeps whatever charge it has, and {part.name} may "
                "be on, or half on and hot. 10 kΩ to ground keep it off.",
                numbers=(("gate to ground", "nothing"),),
                pointer=where,
                patch=replaced(where, 10_000),
                mend="Add 10 kΩ to ground",
            )
        if part.gate_mv > board.logic_mv:
            yield Finding(
                code="wire.gate-low",
                severity=Severity.MUST,
                station="wire",
                part=part.id,
                title=f"{part.name}: {volts(board.logic_mv)} does not open its transistor",
                sentence=f"It is fully on from {volts(part.gate_mv)} at its gate; below that it is a resistor, and "
                "burns. Take one for logic levels, or a driver before it.",
                numbers=(("the board's high", volts(board.logic_mv)), ("fully on from", volts(part.gate_mv))),
                pointer=f"{at}/gate_mv",
            )


def starting_current(part: object) -> tuple[int, bool]:
    """(µA, whether it was said) that a part takes as it starts or stalls; a guess by its kind (common practice)."""
    load_ua = int(getattr(part, "load_ua", 0))
    if said := int(getattr(part, "peak_ua", 0)):
        return said, True
    times = 5 if isinstance(part, Motor | Spinning) else 3 if isinstance(part, Servo) else 1
    return load_ua * times, False


def undriven_speed(evidence: Evidence) -> Iterator[Finding]:
    """A motor's speed pin that nothing drives: it never turns."""
    bench = evidence.bench
    driven = {output for machine in bench.firmware.machines for output in bench.driven_by(machine)}
    for at, part in bench.placed:
        speed = f"{part.id}.speed"
        ways = {f"{part.id}.{way}" for way in ("forward", "backward")}
        if not isinstance(part, Motor) or not part.speed or speed in driven or not ways & driven:
            continue
        patch = []
        for number, machine in enumerate(bench.firmware.machines):
            for place, state in enumerate(machine.states):
                if mine := [drive for way in ways if (drive := bench.drive_in(state, way))]:
                    turns = any(drive.ever_on for drive in mine)
                    where = pointer("firmware", "machines", number, "states", place, "drives", speed)
                    patch.append({"op": "add", "path": where, "value": {"kind": "steady", "on": turns}})
        yield Finding(
            code="behave.no-speed",
            severity=Severity.MUST,
            station="behave",
            part=part.id,
            title=f"{part.name} never turns: nothing drives its speed",
            sentence=f"Machines drive its directions, and {part.speed}, its speed, stays off.",
            numbers=(("speed pin", part.speed),),
            pointer=f"{at}/speed",
            patch=tuple(patch),
            mend="Full speed while it turns" if patch else "",
        )
