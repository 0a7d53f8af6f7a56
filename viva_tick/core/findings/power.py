"""What the board's supply, its timers, its bus and its start give away."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations

from ..cautions import hurts
from ..document.parts import Display, Sounder, Switched, as_fed
from ..drives import Follow, Ramp, Sequence, Tone
from ..electrics import sums
from ..units import amps, volts
from .finding import Evidence, Finding, Severity
from .mends import replaced
from .switching import starting_current

HEAVY_UA = 100_000  # a start that takes less is not felt


def inrush(evidence: Evidence) -> Iterator[Finding]:
    """What starts or stalls on the board's own supply takes it down."""
    bench = evidence.bench
    board = bench.the_board
    for at, part in bench.placed:
        peak_ua, said = starting_current(part)
        load_ua = int(getattr(part, "load_ua", 0))
        on_pin = isinstance(part, Switched) and part.fed == "pin"
        fed = as_fed(part)
        if fed is None or fed.own_supply or on_pin or peak_ua <= load_ua or peak_ua < HEAVY_UA:
            continue
        together_ua = next(one.drawn_ua for one in sums(bench) if one.what == "supply")
        over = together_ua - load_ua + peak_ua > board.supply_ua
        lacking = [] if bench.power.bulk_uf else ["no capacitor holds the supply up"]
        lacking += [] if bench.power.brown_out else ["with brown-out detection off the board may run on at random"]
        if not over and not lacking:
            continue
        guess = "" if said else " (guessed: type in what its data sheet says)"
        and_so = f", and {' and '.join(lacking)}" if lacking else ""
        yield Finding(
            code="wire.start-current",
            severity=Severity.MUST if over else Severity.LOOK,
            station="wire",
            part=part.id,
            title=f"{part.name} takes the supply down as it starts",
            sentence=f"Starting or stalled it takes about {amps(peak_ua)}{guess}; the board's supply gives "
            f"{amps(board.supply_ua)}{and_so}. Give it a supply of its own, or the supply some hundred µF.",
            numbers=(("starting", amps(peak_ua)), ("running", amps(load_ua)), ("supply", amps(board.supply_ua))),
            pointer=f"{at}/own_supply",
            patch=replaced(f"{at}/own_supply", True),
            mend="Give it its own supply",
        )


def brown_out(evidence: Evidence) -> Iterator[Finding]:
    """The board does not reset itself when its supply dips, beside what can hurt or what is kept."""
    bench = evidence.bench
    stored = any(keep.where == "store" for keep in bench.firmware.keeps)
    hazardous = [channel.name for channel in bench.channels if hurts(channel)]
    if bench.power.brown_out or not (stored or hazardous):
        return
    what = f"{hazardous[0]} may be left on" if hazardous else "the store may be written with nonsense"
    yield Finding(
        code="guard.brown-out",
        severity=Severity.MUST if hazardous else Severity.LOOK,
        station="guard",
        part="watchdog",
        title="Brown-out detection is off",
        sentence=f"Below its least voltage the processor goes on at random: {what}. Switch it on, at 2.7 V for 3.3 V "
        "and up to 8 MHz, at 4.3 V for 5 V and 16 MHz.",
        numbers=(("brown-out detection", "off"),),
        pointer="/power/brown_out",
        patch=replaced("/power/brown_out", True),
        mend="Switch it on",
    )


def boot_pins(evidence: Evidence) -> Iterator[Finding]:
    """An output sits on a pin that stands high, or pulses, as the board starts."""
    board = evidence.bench.the_board
    for channel in evidence.bench.channels:
        pin = board.pin(channel.pin)
        if pin is None or "boot-high" not in pin.can or channel.active_level != "high":
            continue
        yield Finding(
            code="wire.boot-high",
            severity=Severity.MUST if hurts(channel) else Severity.NOTE,
            station="wire",
            part=channel.part.id,
            title=f"{channel.name} comes on as the board starts",
            sentence=f"{channel.pin} stands high, or pulses, while the board starts, whatever a resistor says. Give "
            f"{channel.name} another pin.",
            numbers=(("pin", channel.pin),),
            pointer=f"{channel.at}/pin",
        )


def timers(evidence: Evidence) -> Iterator[Finding]:
    """A note is made with the timer that dims another output."""
    bench = evidence.bench
    board = bench.the_board
    drives = [(output, drive) for machine in bench.firmware.machines for _, output, drive in bench.drives_of(machine)]
    sounding = [
        bench.channel(output).name
        for output, drive in drives
        if isinstance(drive, Tone) or isinstance(bench.channel(output).part, Sounder)
    ]
    if not sounding or board.tone_timer is None:
        return
    for channel in bench.channels:
        pin = board.pin(channel.pin)
        dims = any(
            output == channel.id
            and (isinstance(drive, Ramp | Follow) or drive.needs_level or (isinstance(drive, Sequence) and drive.dims))
            for output, drive in drives
        )
        if not dims or pin is None or pin.timer != board.tone_timer:
            continue
        yield Finding(
            code="wire.timer-shared",
            severity=Severity.MUST,
            station="wire",
            part=channel.part.id,
            title=f"{channel.name} is dimmed by the timer that makes notes",
            sentence=f"{sounding[0]} sounds with timer {board.tone_timer}, and {channel.pin} is dimmed by it: while a "
            f"note sounds {channel.name} is not dimmed. Dim it on a pin of another timer.",
            numbers=(("timer", board.tone_timer), ("dimmed on", channel.pin)),
            pointer=f"{channel.at}/pin",
        )


def bus(evidence: Evidence) -> Iterator[Finding]:
    """Two displays at one address; a bus that nothing pulls up, or that is pulled to more than the board allows."""
    board = evidence.bench.the_board
    shown = [(at, part) for at, part in evidence.bench.placed if isinstance(part, Display)]
    for (_, one), (at, other) in combinations(shown, 2):
        if one.address == other.address and one.data == other.data:
            free = next(address for address in range(0x20, 0x78) if address not in {part.address for _, part in shown})
            yield Finding(
                code="wire.bus-address",
                severity=Severity.MUST,
                station="wire",
                part=other.id,
                title=f"{one.name} and {other.name} have one address",
                sentence=f"Both answer at {one.address} on the bus, over each other. Most have bridges to solder for "
                "another.",
                numbers=(("address", str(one.address)),),
                pointer=f"{at}/address",
                patch=replaced(f"{at}/address", free),
                mend=f"Address {free} for {other.name}",
            )
    if shown and all(part.bus_pull == "none" for _, part in shown):
        at, part = shown[0]
        yield Finding(
            code="wire.bus-pull",
            severity=Severity.MUST,
            station="wire",
            part=part.id,
            title="Nothing pulls the bus up",
            sentence="Whatever is on the bus only pulls it down: without a resistor from each line to the board's "
            f"{volts(board.logic_mv)}, 4.7 kΩ as a rule, it never goes high (common practice).",
            numbers=(("bus pulled up to", "nothing"),),
            pointer=f"{at}/bus_pull",
            patch=replaced(f"{at}/bus_pull", "logic"),
            mend=f"4.7 kΩ to {volts(board.logic_mv)}",
        )
    for at, part in shown:
        if part.bus_pull == "5v" and board.pin_most_mv < 5_000:
            yield Finding(
                code="wire.bus-volts",
                severity=Severity.MUST,
                station="wire",
                part=part.id,
                title=f"{part.name} pulls the bus to 5 V",
                sentence=f"{part.data} allows at most {volts(board.pin_most_mv)}. Take its pull-ups off and put some "
                f"to {volts(board.logic_mv)}, or a level shifter between.",
                numbers=(("pulled up to", "5 V"), ("allows", volts(board.pin_most_mv))),
                pointer=f"{at}/bus_pull",
                patch=replaced(f"{at}/bus_pull", "logic"),
                mend=f"Pull it up to {volts(board.logic_mv)}",
            )
