"""What can be said of a part besides what its drawing shows: rows of controls, as data, by kind of part."""

from __future__ import annotations

from dataclasses import replace
from typing import get_args

from ...core.boards import Board
from ...core.document import Bench, Part
from ...core.document.parts import (
    Analogue,
    ButtonModule,
    Commands,
    Contacting,
    Encoder,
    FourLegged,
    KeyMatrix,
    MagnetContact,
    OpenWire,
    PanelButton,
    Potentiometer,
    ResistiveSensor,
    SignalIn,
    TwoWay,
    VoltageSource,
    as_contacting,
)
from ...core.document.parts.base import WireColour, Wiring
from ...core.electrics import LONG_CABLE_CM, pull_window
from ...core.units import ohms
from ..typed import typed
from .controls import Control, Options, Row
from .wire_outputs import on_levels, output_rows

HELD: Options = (("none", "floats"), ("up", "held up"), ("down", "held down"))
YES: Options = ((True, "yes"), (False, "no"))
METALS: Options = (("gold", "gold"), ("silver", "silver"))
GUARDS: Options = (("none", "nothing"), ("resistor", "a resistor"), ("clamp", "a clamp"), ("opto", "an opto-isolator"))
WIRED: Options = tuple(
    (value, value.replace("-", ", "))
    for value in (
        "pin-supply-ground",
        "pin-ground-supply",
        "supply-pin-ground",
        "supply-ground-pin",
        "ground-pin-supply",
        "ground-supply-pin",
    )
)
LAWS: Options = (("beta", "warmth"), ("power", "light"), ("straight", "straight"))
PAIRS: Options = (("1-2", "1 and 2"), ("1-3", "1 and 3"), ("2-3", "2 and 3"))
RAILS: Options = (("ground", "ground"), ("supply", "supply"))
AT_REST: Options = (("open", "open"), ("closed", "closed"))
LEVELS: Options = (("low", "low"), ("high", "high"))
COLOURS: Options = tuple((colour, colour or "by the scheme") for colour in get_args(WireColour))


def pulls(board: Board, short: bool) -> Options:
    """What can hold a pin on this board."""
    down: Options = (("internal-down", "board's pull-down"),) if board.pull_down_ohm else ()
    words = ("resistor up", "resistor down") if short or down else ("resistor to supply", "resistor to ground")
    return (("internal-up", "board's pull-up"), *down, ("up", words[0]), ("down", words[1]), ("none", "nothing"))


def _window_words(wiring: Wiring, board: Board) -> str:
    """What would do for the pull over this wire, and how fast the pin settles through it."""
    rail = "ground" if wiring.pull.endswith("down") else "supply"
    inside = board.pull_down_ohm if rail == "ground" else board.pull_up_ohm
    ohm = wiring.pull_ohm if not wiring.pull.startswith("internal") else (inside or (wiring.pull_ohm,))[-1]
    window = pull_window(rail, ohm, wiring.wire_cm, board)
    settles = f"{window.settle_us:.1f} µs" if window.settle_us >= 0.1 else "under 0.1 µs"
    if wiring.pull.startswith("internal"):
        return f"settles in {settles}"
    return f"{ohms(window.least_ohm)} to {ohms(window.most_ohm)} would do; settles in {settles}"


def _filter_row(wiring: Wiring, at: str) -> Row:
    """A resistor and a capacitor before the pin."""
    row = [Control("before the pin", f"{at}/filter", wiring.filter, (("none", "nothing"), ("rc", "R and C")))]
    if wiring.filter == "rc":
        row += [
            Control("", f"{at}/series_ohm", wiring.series_ohm, reads="ohm", unit="Ω"),
            Control("", f"{at}/filter_nf", wiring.filter_nf, unit="nF"),
            Control("input", f"{at}/schmitt", wiring.schmitt, ((False, "plain"), (True, "Schmitt"))),
        ]
    return row


def contact_rows(held: Contacting, at: str, board: Board, rails: bool = True) -> list[Row]:
    """How a contact is wired, in one line."""
    wiring = held.wiring
    row = [Control("Held by", f"{at}/wiring/pull", wiring.pull, pulls(board, short=False))]
    if wiring.pull in ("up", "down"):
        row.append(Control("", f"{at}/wiring/pull_ohm", wiring.pull_ohm, reads="ohm", unit="Ω"))
    if rails:
        row.append(Control("contact to", f"{at}/wiring/contact_to", wiring.contact_to, RAILS))
        row.append(Control("at rest", f"{at}/wiring/normally", wiring.normally, AT_REST))
    if not isinstance(held, OpenWire):
        row.append(Control("metal", f"{at}/metal", held.metal, METALS))
    row.append(Control("pressed reads", f"{at}/active_level", held.active_level, LEVELS))
    row += _filter_row(wiring, f"{at}/wiring")
    if wiring.wire_cm > LONG_CABLE_CM or wiring.guard != "none":
        row.append(Control("against surges", f"{at}/wiring/guard", wiring.guard, GUARDS))
    if wiring.pull != "none":
        row.append(Control("", "", _window_words(wiring, board), reads="note"))
    return [row]


def _input_rows(part: Part, at: str, board: Board) -> list[Row]:
    match part:
        case FourLegged():
            legs = Control(
                "Wired", f"{at}/legs", part.legs, (("across", "corner to corner"), ("joined", "joined pair"))
            )
            return [[legs], *contact_rows(part, at, board)]
        case ButtonModule():
            pins = [
                Control("Pins 1, 2, 3", f"{at}/wired", part.wired, WIRED),
                Control("contact", f"{at}/contact_pins", part.contact_pins, PAIRS),
                Control("resistor", f"{at}/resistor_pins", part.resistor_pins, PAIRS),
            ]
            return [pins, *contact_rows(part, at, board, rails=False)]
        case TwoWay():
            other = Control(
                "Other side", f"{at}/other_throw", part.other_throw, (("open", "open"), ("wired", "to the other rail"))
            )
            return [[other], *contact_rows(part, at, board)]
        case OpenWire():
            return contact_rows(part, at, board, rails=False)
        case MagnetContact():
            magnet = [
                Control("Magnet", f"{at}/magnet_mm", part.magnet_mm, unit="mm long"),
                Control("passes at", f"{at}/speed_mm_s", part.speed_mm_s, unit="mm/s"),
            ]
            return [magnet, *contact_rows(part, at, board)]
        case SignalIn():
            row = [
                Control("It drives", f"{at}/drives", part.drives, (("low-only", "only low"), ("both", "both levels"))),
                Control("its high", f"{at}/high_mv", part.high_mv, reads="volt", unit="V"),
                Control("grounds joined", f"{at}/grounds_joined", part.grounds_joined, YES),
            ]
            return [row, *contact_rows(part, at, board)]
        case PanelButton():
            return [*contact_rows(part, at, board), _panel_lamp(part, at)]
        case _ if contact := as_contacting(part):
            return contact_rows(contact, at, board)
        case Encoder():
            return _encoder_rows(part, at, board)
        case KeyMatrix():
            return _matrix_rows(part, at, board)
        case Analogue():
            return _analogue_rows(part, at)
        case Commands():
            return _command_rows(part, at)
    return []


def _panel_lamp(part: PanelButton, at: str) -> Row:
    if part.lamp is None:
        return []
    lamp, where = part.lamp, f"{at}/lamp"
    return [
        Control("Its lamp on", f"{where}/active_level", lamp.active_level, LEVELS),
        Control("resistor", f"{where}/resistor_ohm", lamp.resistor_ohm, reads="ohm", unit="Ω"),
        Control("before set-up", f"{where}/hold", lamp.hold, HELD),
    ]


def _encoder_rows(part: Encoder, at: str, board: Board) -> list[Row]:
    rows = [
        [Control("A, B held by", f"{at}/pull", part.pull, pulls(board, short=False))],
        [
            Control("Counts a detent", f"{at}/counts_a_click", part.counts_a_click, ((4, "4"), (2, "2"), (1, "1"))),
            Control("right is", f"{at}/swapped", part.swapped, ((False, "A before B"), (True, "B before A"))),
            Control("read", f"{at}/read_by", part.read_by, (("polling", "each pass"), ("interrupt", "by interrupt"))),
        ],
    ]
    if part.push:
        push = contact_rows(part.push, f"{at}/push", board)[0]
        rows.append([replace(push[0], label="Push held by"), *push[1:]])
    return rows


def _matrix_rows(part: KeyMatrix, at: str, board: Board) -> list[Row]:
    return [
        [Control("Columns held", f"{at}/pull", part.pull, pulls(board, short=False))],
        [
            Control("Diodes", f"{at}/diodes", part.diodes, ((True, "one a key"), (False, "none"))),
            Control("keys at once", f"{at}/keys_at_once", part.keys_at_once),
            Control("Keys, row by row", f"{at}/keys", " ".join(part.keys), reads="words", wide=True),
        ],
    ]


def _analogue_rows(part: Analogue, at: str) -> list[Row]:
    rows: list[Row] = []
    if isinstance(part, ResistiveSensor):
        rows.append([
            Control("Sensor to", f"{at}/sensor_to", part.sensor_to, (("supply", "supply"), ("ground", "ground"))),
            Control("law", f"{at}/law", part.law, LAWS),
        ])  # fmt: skip
        rows.append([
            Control("Two points", f"{at}/low/value", part.low.value, reads="float", unit=part.unit),
            Control("", f"{at}/low/ohm", part.low.ohm, reads="ohms", unit="Ω"),
            Control("and", f"{at}/high/value", part.high.value, reads="float", unit=part.unit),
            Control("", f"{at}/high/ohm", part.high.ohm, reads="ohms", unit="Ω"),
        ])  # fmt: skip
        table = " · ".join(f"{p.value:g}: {typed(p.ohm, 'ohms')}" for p in part.points)
        rows.append([Control("between them, value: Ω", f"{at}/points", table, reads="ohms-at", wide=True)])
    elif isinstance(part, VoltageSource):
        rows.append([
            Control("Gives", f"{at}/least_mv", part.least_mv, reads="volt", unit="V at"),
            Control("", f"{at}/least", part.least, reads="float"),
            Control("and", f"{at}/most_mv", part.most_mv, reads="volt", unit="V at"),
            Control("", f"{at}/most", part.most, reads="float"),
            Control("unit", f"{at}/unit", part.unit, reads="text"),
        ])  # fmt: skip
        table = " · ".join(f"{p.value:g}: {typed(p.mv, 'volt')}" for p in part.points)
        rows.append([Control("between them, value: V", f"{at}/points", table, reads="volts-at", wide=True)])
        rows.append([
            Control("Divider above", f"{at}/upper_ohm", part.upper_ohm, reads="ohm", unit="Ω (0: none)"),
            Control("± ", f"{at}/tolerance_percent", part.tolerance_percent, reads="float", unit="%"),
            Control("follows the supply", f"{at}/ratiometric", part.ratiometric, YES),
        ])  # fmt: skip
    elif isinstance(part, Potentiometer):
        rows.append([
            Control("Turns from", f"{at}/least", part.least, reads="float"),
            Control("to", f"{at}/most", part.most, reads="float"),
            Control("unit", f"{at}/unit", part.unit, reads="text"),
        ])  # fmt: skip
    noise = Control("Noise", f"{at}/noise_mv", part.noise_mv, reads="milli", unit="mV from peak to peak")
    if rows:
        rows[-1].append(noise)
    return rows


def _command_rows(part: Commands, at: str) -> list[Row]:
    sources = (("typed", "typed"), ("speech", "speech"), ("radio", "radio"), ("infra-red", "infra-red"))
    row = [
        Control("From", f"{at}/source", part.source, sources),
        Control("numbers begin at", f"{at}/first_number", part.first_number, ((0, "0"), (1, "1"))),
    ]
    heard = [
        Control("Heard", f"{at}/hit_percent", part.hit_percent, unit="of 100"),
        Control("active at once", f"{at}/active_most", part.active_most, unit="(0: all)"),
        Control("its high", f"{at}/high_mv", part.high_mv, reads="volt", unit="V"),
    ]
    names = [Control("Names", f"{at}/names", ", ".join(part.names), reads="list", wide=True)]
    if part.source == "typed":
        return [row, names]
    own = " ".join(map(str, part.numbers))
    names.append(Control("its own numbers", f"{at}/numbers", own, reads="numbers", wide=True))
    hits = []
    for n, one in enumerate(part.hits):
        hits += [
            Control("at" if n else "Recognised at", f"{at}/hits/{n}/cm", one.cm, unit="cm"),
            Control("", f"{at}/hits/{n}/percent", one.percent, unit="%"),
        ]
    sets = [
        [
            Control("The bytes", f"{at}/sets/{n}/bytes", " ".join(map(str, one.bytes)), reads="numbers"),
            Control("make it listen for", f"{at}/sets/{n}/words", ", ".join(one.words), reads="list", wide=True),
        ]
        for n, one in enumerate(part.sets)
    ]
    return [row, heard, names, hits, *sets]


def wire_end(part: Part, at: str) -> Row:
    """The wire from a contact to the board: how long it is."""
    return [
        Control("", f"{line.at}/wiring/wire_cm", line.wiring.wire_cm, reads="cm", unit="cm")
        for line in part.contacts(at)[:1]
    ]


def rows(bench: Bench, part: Part, at: str) -> list[Row]:
    """Everything that can be set on a part: lines of words, each of which opens the others that could stand there."""
    found = output_rows(part, at) if at.startswith("/outputs") else _input_rows(part, at, bench.the_board)
    found = found + on_levels(bench, part, at)
    return [[replace(one, menu=bool(one.options)) for one in row] for row in found if row]
