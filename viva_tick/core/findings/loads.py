"""What the outputs' currents give away: lamps, transistors, coils, pins, ports, supplies."""

from __future__ import annotations

from collections.abc import Iterator

from ..boards import Board
from ..cautions import dangers, hurts, is_hard, load_words
from ..document import Channel
from ..document.parts import Lamp, Motor, Relay, RelayBoard, Solenoid, Spinning, Switched, as_fed
from ..electrics import BOARD_UA, DIM_UA, GAIN_AT_LEAST, LampLeg, base_ohm_for, base_ua, draws, lamp_legs, sums
from ..units import amps, ms, ohms
from .finding import Evidence, Finding, Patch, Severity
from .mends import replaced

Fault = tuple[str, Severity, str, str]  # code, severity, end of the title, sentence


def _lamp_fault(leg: LampLeg, board: Board, current_ua: float | None) -> Fault | None:
    design, absolute = board.pin_ua.design, board.pin_ua.absolute
    resistor = ohms(leg.resistor_ohm)
    if current_ua is None:
        sentence = f"Only the pin limits its current; {leg.pin} is made for {amps(design)}."
        return "wire.lamp-bare", Severity.MUST, "has no resistor", sentence
    if current_ua > design:
        severity = Severity.MUST if current_ua > absolute else Severity.LOOK
        sentence = (
            f"{resistor} lets {amps(current_ua)} through; design for {amps(design)}, never over {amps(absolute)}."
        )
        return "wire.lamp-over", severity, "takes too much current", sentence
    if current_ua < DIM_UA and current_ua < leg.wanted_ua:
        sentence = f"{resistor} leaves it {amps(current_ua)}; 1 to 5 mA is enough to see."
        return "wire.lamp-dim", Severity.LOOK, "will hardly be seen", sentence
    return None


def lamp(evidence: Evidence) -> Iterator[Finding]:
    """A lamp on a pin without a resistor, with too much current, or too dim to see."""
    board = evidence.bench.the_board
    for leg in lamp_legs(evidence.bench):
        current_ua = leg.current_ua(board)
        fault = _lamp_fault(leg, board, current_ua)
        if fault is None:
            continue
        code, severity, title, sentence = fault
        better = leg.better_ohm(board)
        where = f"{leg.at}/resistor_ohm"
        yield Finding(
            code=code,
            severity=severity,
            station="wire",
            part=leg.channel.split(".")[0],
            title=f"{leg.name} {title}",
            sentence=sentence,
            numbers=(
                ("resistor", ohms(leg.resistor_ohm) if leg.resistor_ohm else "none"),
                ("current", amps(current_ua) if current_ua is not None else "limited only by the pin"),
            ),
            pointer=where,
            patch=replaced(where, better) if better else (),
            mend=f"Use {ohms(better)}" if better else "",
        )


def base(evidence: Evidence) -> Iterator[Finding]:
    """A transistor without a resistor at its base, or with one that does not switch it through."""
    board = evidence.bench.the_board
    for at, part in evidence.bench.placed:
        if not isinstance(part, Switched) or part.fed != "transistor" or part.by_field:
            continue
        drawn = base_ua(part, board)
        if drawn is None:
            code, title = "wire.base-bare", "has no resistor before its transistor"
            sentence = f"Nothing bounds what {part.pin} gives the base; it is made for {amps(board.pin_ua.design)}."
        elif drawn * GAIN_AT_LEAST < part.load_ua:
            code, title = "wire.base-weak", "is not fully on: too little base current"
            sentence = (
                f"{ohms(part.base_ohm)} gives the base {amps(drawn)}; {amps(part.load_ua)} of load want a tenth of it, "
                f"and no transistor makes do with less than a fiftieth."
            )
        else:
            continue
        better = base_ohm_for(part, board)
        enough = (board.logic_mv - 700) / better * 1000 * GAIN_AT_LEAST >= part.load_ua
        where = f"{at}/base_ohm"
        yield Finding(
            code=code,
            severity=Severity.MUST,
            station="wire",
            part=part.id,
            title=f"{part.name} {title}",
            sentence=sentence,
            numbers=(("base resistor", ohms(part.base_ohm) if part.base_ohm else "none"), ("load", amps(part.load_ua))),
            pointer=where,
            patch=replaced(where, better) if enough or drawn is None else (),
            mend=f"Use {ohms(better)}" if enough or drawn is None else "",
        )


def pin_over(evidence: Evidence) -> Iterator[Finding]:
    """A pin gives a part other than a lamp more than it is made for."""
    board = evidence.bench.the_board
    lamps = {leg.channel.split(".")[0] for leg in lamp_legs(evidence.bench)}
    places = {part.id: (at, part) for at, part in evidence.bench.placed}
    for draw in draws(evidence.bench):
        worst = max((ua for _, ua in draw.pins), default=0.0)
        at, part = places[draw.part]
        bare = isinstance(part, Switched) and part.fed == "transistor" and not part.base_ohm
        if draw.part in lamps or worst <= board.pin_ua.design or bare:
            continue
        patch: Patch = ()
        mend = ""
        if isinstance(part, Switched):
            better = base_ohm_for(part, board)
            patch = replaced(f"{at}/base_ohm", better)
            mend = f"Use {ohms(better)}"
            if part.fed == "pin":
                patch = ({"op": "replace", "path": f"{at}/fed", "value": "transistor"}, *patch)
                mend = f"Add a transistor between, {ohms(better)} at its base"
        yield Finding(
            code="wire.pin-over",
            severity=Severity.MUST if worst > board.pin_ua.absolute else Severity.LOOK,
            station="wire",
            part=part.id,
            title=f"{part.name} takes too much from its pin",
            sentence=f"{draw.pins[0][0]} gives {amps(worst)}; design for {amps(board.pin_ua.design)}, never over "
            f"{amps(board.pin_ua.absolute)}.",
            numbers=(("from the pin", amps(worst)), ("made for", amps(board.pin_ua.design))),
            pointer=at,
            patch=patch,
            mend=mend,
        )


def sums_over(evidence: Evidence) -> Iterator[Finding]:
    """With everything on, the pins together, a port, or the supply give more than they may."""
    bench = evidence.bench
    draw_list = draws(bench)
    for total in sums(bench):
        if not total.over or total.bare:  # what nothing limits is for another rule to name
            continue
        code, mend = "wire.all-pins", ""
        patch: Patch = ()
        title, who = "The pins together give too much", "the board's pins may give"
        if total.what.startswith("port"):
            code, title, who = "wire.port-over", f"{total.what.capitalize()} gives too much", "the port may give"
        elif total.what == "supply":
            code, title, who = "wire.supply-over", "The board's supply is not enough", "it gives"
            patch, mend = _own_supplies(evidence, total.drawn_ua - total.limit_ua)
        names = [draw.name for draw in sorted(draw_list, key=lambda draw: -max(draw.pins_ua, draw.supply_ua))]
        some = ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
        yield Finding(
            code=code,
            severity=Severity.MUST,
            station="wire",
            part="",
            title=title,
            sentence=f"With everything on ({some}) it is {amps(total.drawn_ua)}; {who} {amps(total.limit_ua)}.",
            numbers=(("together", amps(total.drawn_ua)), ("limit", amps(total.limit_ua))),
            pointer="/outputs",
            patch=patch,
            mend=mend,
        )


def _own_supplies(evidence: Evidence, excess_ua: float) -> tuple[Patch, str]:
    """The fewest parts that must have a supply of their own so that the board's is enough again."""
    places = {part.id: (at, part) for at, part in evidence.bench.placed}
    chosen: list[str] = []
    for draw in sorted(draws(evidence.bench), key=lambda draw: -draw.supply_ua):
        at, part = places[draw.part]
        if excess_ua <= 0:
            break
        on_pin = isinstance(part, Switched) and part.fed == "pin"
        if (fed := as_fed(part)) and not fed.own_supply and not on_pin:
            chosen.append(at)
            excess_ua -= draw.supply_ua - draw.pins_ua
    if excess_ua > 0:
        return (), ""
    patch = tuple({"op": "replace", "path": f"{at}/own_supply", "value": True} for at in chosen)
    return patch, "Give the largest their own supply"


def relay_supply(evidence: Evidence) -> Iterator[Finding]:
    """Relay coils fed by the board's own supply take more than it gives, or nearly."""
    board = evidence.bench.the_board
    fed = [
        (at, part) for at, part in evidence.bench.placed if isinstance(part, Relay | RelayBoard) and not part.own_supply
    ]
    coils = sum(len(part.channels(at)) for at, part in fed)
    total_ua = sum(part.coil_ua * len(part.channels(at)) for at, part in fed)
    over = total_ua + BOARD_UA > board.supply_ua
    if not over and coils < 2:
        return
    names = " and ".join(part.name for _, part in fed[:2]) + ("" if len(fed) <= 2 else f" and {len(fed) - 2} more")
    enough = f"more than the {amps(board.supply_ua)} it has" if over else f"of the {amps(board.supply_ua)} it has"
    yield Finding(
        code="wire.relay-supply",
        severity=Severity.MUST if over else Severity.LOOK,
        station="wire",
        part=fed[0][1].id,
        title="Relays hang on the board's supply",
        sentence=f"{names}: {coils} {'coils' if coils > 1 else 'coil'}, {amps(total_ua)} together, {enough}; give them "
        "a supply of their own, grounds joined.",
        numbers=(("coils together", amps(total_ua)), ("supply", amps(board.supply_ua))),
        pointer=f"{fed[0][0]}/own_supply",
        patch=tuple({"op": "replace", "path": f"{at}/own_supply", "value": True} for at, _ in fed),
        mend="Give them their own supply",
    )


def unheld(evidence: Evidence) -> Iterator[Finding]:
    """Until set-up has run, nothing holds the pin of an output that could do harm, or a resistor holds it on."""
    board = evidence.bench.the_board
    ready = ms(board.start_up_us + board.set_up_us)
    groups: dict[tuple[str, bool], list[Channel]] = {}
    for channel in evidence.bench.channels:
        low_relay = channel.kind in ("relay", "relay-board") and channel.active_level == "low"
        held_on = channel.hold == ("up" if channel.active_level == "high" else "down")
        switches = channel.kind in ("relay", "relay-board", "solid-state")
        if held_on and channel.at_rest == "off" and (switches or hurts(channel)):
            groups.setdefault((channel.part.id, True), []).append(channel)
        elif channel.hold == "none" and (low_relay or hurts(channel)):
            groups.setdefault((channel.part.id, False), []).append(channel)
    for (part_id, held_on), channels in groups.items():
        first = channels[0]
        level = "up" if first.active_level == "low" else "down"
        low_relay = level == "up" and first.kind in ("relay", "relay-board")
        why = "a low-trigger board is on while its input is low" if low_relay else "what floats can switch it on"
        name = first.part.name if len(channels) > 1 else first.name
        pins = " and ".join(dict.fromkeys(channel.pin for channel in channels))
        floats = "floats" if len(channels) == 1 else "float"
        hard = any(is_hard(channel) for channel in channels)
        rail = "supply" if first.hold == "up" else "ground"
        said = f"a resistor holds {pins} to {rail}: that is on" if held_on else f"{pins} {floats}, and {why}"
        hazard = f" It switches {load_words(dangers(first))}." if dangers(first) else ""
        yield Finding(
            code="wire.held-on" if held_on else "wire.unheld",
            severity=Severity.MUST if hard else Severity.LOOK,
            station="wire",
            part=part_id,
            title=f"{name} is on before set-up" if held_on else f"{name} can click on at power-on",
            sentence=f"Until set-up has run, for {ready}, {said}.{hazard}",
            numbers=(("on for" if held_on else "floats for", ready),),
            pointer=f"{first.at}/hold",
            patch=tuple(
                {"op": "replace", "path": where, "value": level}
                for where in dict.fromkeys(f"{channel.at}/hold" for channel in channels)
            ),
            mend=f"Hold it off: 10 kΩ to {'supply' if level == 'up' else 'ground'}",
            show_us=(0,),
        )


def diode(evidence: Evidence) -> Iterator[Finding]:
    """A coil that nothing takes the spike of."""
    for at, part in evidence.bench.placed:
        bare_coil = isinstance(part, Solenoid | Spinning) and part.fed != "module" and not part.diode
        bare_motor = isinstance(part, Motor) and not part.diodes
        if not bare_coil and not bare_motor:
            continue
        field = "diode" if bare_coil else "diodes"
        load_ua = part.load_ua if isinstance(part, Switched | Motor) else 0
        yield Finding(
            code="wire.no-diode",
            severity=Severity.MUST,
            station="wire",
            part=part.id,
            title=f"{part.name}: no flyback diode",
            sentence=f"Switched off, {amps(load_ua)} in its coil go on flowing and raise the voltage until something "
            "breaks down: most often the transistor. A diode across it takes the spike.",
            numbers=(("coil", amps(load_ua)), ("diode", "none")),
            pointer=f"{at}/{field}",
            patch=replaced(f"{at}/{field}", True),
            mend="Add a diode across it" if bare_coil else "Use a driver with diodes",
        )


def dims_mains(evidence: Evidence) -> Iterator[Finding]:
    """A lamp on mains that is dimmed as a pin dims."""
    for at, part in evidence.bench.placed:
        if isinstance(part, Lamp) and part.dimmed and "mains" in part.loads:
            yield Finding(
                code="wire.dims-mains",
                severity=Severity.MUST,
                station="wire",
                part=part.id,
                title=f"{part.name}: mains is not dimmed like this",
                sentence="A dimmed pin switches hundreds of times a second; a mains module turns on for whole half "
                "waves, so it flickers or is left on. Use a dimmer module made for it, or do not dim.",
                numbers=(("dimmed", "yes"),),
                pointer=f"{at}/dimmed",
                patch=replaced(f"{at}/dimmed", False),
                mend="Switch it, do not dim",
            )
