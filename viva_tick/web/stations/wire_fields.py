"""What can be said of a part besides what its drawing shows: rows of controls, as data, by kind of part."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, get_args

from ...core.boards import Board
from ...core.cautions import HAZARD_NAMES
from ...core.document import Bench, Part, pointer
from ...core.document.parts import (
    Analogue,
    Burden,
    ButtonModule,
    Commands,
    Contacting,
    Display,
    Driven,
    Encoder,
    FourLegged,
    Heater,
    KeyMatrix,
    Lamp,
    Load,
    MagnetContact,
    Motor,
    OpenWire,
    PanelButton,
    Potentiometer,
    Relay,
    RelayBoard,
    ResistiveSensor,
    RgbLamp,
    Servo,
    SignalIn,
    SignalOut,
    Solenoid,
    SolidStateRelay,
    Sounder,
    Spinning,
    Switched,
    TwoWay,
    VoltageSource,
    as_contacting,
    as_fed,
)
from ...core.document.parts.base import WireColour, Wiring
from ...core.electrics import LONG_CABLE_CM, pull_window
from ...core.units import ohms
from ..typed import typed

Options = tuple[tuple[Any, str], ...]

HELD: Options = (("none", "floats"), ("up", "held up"), ("down", "held down"))
YES: Options = ((True, "yes"), (False, "no"))
LOADS: Options = tuple(HAZARD_NAMES.items())
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
BOTH_ON: Options = (("forbidden", "shorts it"), ("brakes", "brakes"))
LAWS: Options = (("beta", "warmth"), ("power", "light"), ("straight", "straight"))
PAIRS: Options = (("1-2", "1 and 2"), ("1-3", "1 and 3"), ("2-3", "2 and 3"))
RAILS: Options = (("ground", "ground"), ("supply", "supply"))
AT_REST: Options = (("open", "open"), ("closed", "closed"))
LEVELS: Options = (("low", "low"), ("high", "high"))
COLOURS: Options = tuple((colour, colour or "by the scheme") for colour in get_args(WireColour))


@dataclass(frozen=True)
class Control:
    """One thing that can be set: at `path`, now `value`. With `options` it is a row of choices, or a list where
    `menu`; else a field that is read as `reads`, with `unit` behind it."""

    label: str
    path: str
    value: Any
    options: Options = ()
    menu: bool = False
    reads: str = "int"
    unit: str = ""
    wide: bool = False
    adds: bool = False  # nothing may be there yet


Row = list[Control]


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


def _on_levels(bench: Bench, part: Part, at: str) -> list[Row]:
    """What the firmware writes to switch it on, which need not be what its wiring wants."""
    found = []
    for channel in part.channels(at):
        name = "Firmware writes" if channel.name == part.name else f"{channel.name}: firmware writes"
        where = pointer("firmware", "on_levels", channel.id)
        words = (("high", "high for on"), ("low", "low for on"))
        found.append(Control(name, where, bench.on_level(channel), words, adds=True))
    return [found]


def _output_rows(part: Part, at: str) -> list[Row]:
    rows: list[Row] = []
    if isinstance(part, Driven):
        rows.append([
            Control("On when", f"{at}/active_level", part.active_level, (("high", "high"), ("low", "low"))),
            Control("at rest", f"{at}/at_rest", part.at_rest, (("off", "off"), ("on", "on"))),
            Control("before set-up", f"{at}/hold", part.hold, HELD),
        ])  # fmt: skip
        rows.append([Control("Switches", f"{at}/loads", part.loads, LOADS, reads="set")])
        rows += _burden(part.burden, at, isinstance(part, Relay | SolidStateRelay | Switched), part.loads)
    feed: Row = []
    if isinstance(part, Switched):
        feed.append(
            Control(
                "Fed by",
                f"{at}/fed",
                part.fed,
                (("pin", "the pin"), ("transistor", "transistor"), ("module", "module")),
            )
        )
        if part.fed == "transistor":
            kinds = (("bipolar", "bipolar"), ("field-effect", "field-effect"))
            feed.append(Control("", f"{at}/transistor", part.transistor, kinds))
        if part.fed != "pin":
            feed.append(Control("as it starts", f"{at}/peak_ua", part.peak_ua, reads="amp", unit="mA (0: not said)"))
    match part:
        case Lamp():
            if part.fed == "pin":
                feed.append(Control("wanted", f"{at}/wanted_ua", part.wanted_ua, reads="amp", unit="mA"))
            feed.append(Control("dimmed", f"{at}/dimmed", part.dimmed, YES))
        case Sounder():
            feed.append(Control("tone", f"{at}/tone_hz", part.tone_hz, unit="Hz"))
        case Solenoid() | Spinning() | Load():
            feed.append(Control("diode", f"{at}/diode", part.diode, YES))
        case Heater():
            feed.append(Control("own cut-out", f"{at}/cut_out", part.cut_out, YES))
        case RgbLamp():
            feed.append(
                Control("Common leg to", f"{at}/common", part.common, (("ground", "ground"), ("supply", "supply")))
            )
            feed.append(Control("dimmed", f"{at}/dimmed", part.dimmed, YES))
        case Relay() | RelayBoard():
            feed += _relay(part, at)
        case SolidStateRelay() | Motor() | Servo():
            feed.append(Control("High from", f"{at}/trigger_mv", part.trigger_mv, reads="volt", unit="V"))
            if isinstance(part, SolidStateRelay):
                at_once = (("zero-crossing", "at a zero crossing"), ("at-once", "at once"))
                feed.append(Control("turns on", f"{at}/turns_on", part.turns_on, at_once))
        case SignalOut():
            feed.append(Control("Grounds joined", f"{at}/grounds_joined", part.grounds_joined, YES))
        case Display():
            feed.append(Control("Its high", f"{at}/high_mv", part.high_mv, reads="volt", unit="V"))
            feed.append(Control("takes", f"{at}/load_ua", part.load_ua, reads="amp", unit="mA"))
            pulls_to = (("logic", "the board's voltage"), ("5v", "5 V"), ("none", "nothing"))
            feed.append(Control("bus pulled up to", f"{at}/bus_pull", part.bus_pull, pulls_to))
            feed.append(Control("Lines", f"{at}/lines", part.lines))
            feed.append(Control("of", f"{at}/columns", part.columns, unit="characters"))
            speeds = tuple((hz, f"{hz // 1000} kHz") for hz in sorted({100_000, 400_000, part.bus_hz}))
            feed.append(Control("bus at", f"{at}/bus_hz", part.bus_hz, speeds))
    rows.append(feed)
    if isinstance(part, Motor | Servo):
        rows.append([Control("Switches", f"{at}/loads", part.loads, LOADS, reads="set")])
    stops = isinstance(part, Driven | Motor | Servo) and "motion" in part.loads
    if stops:
        rows.append([Control("Hard-wired stop", f"{at}/hard_stop", getattr(part, "hard_stop", False), YES)])
    if isinstance(part, Motor):
        rows.append([
            Control("Both inputs on", f"{at}/both_on", part.both_on, BOTH_ON),
            Control("diodes", f"{at}/diodes", part.diodes, YES),
            Control("before set-up", f"{at}/hold", part.hold, HELD),
        ])  # fmt: skip
        rows.append([
            Control("Takes", f"{at}/load_ua", part.load_ua, reads="amp", unit="mA"),
            Control("as it starts", f"{at}/peak_ua", part.peak_ua, reads="amp", unit="mA (0: not said)"),
        ])  # fmt: skip
    if isinstance(part, RelayBoard):
        rows += _relay_rows(part, at)
    if (fed := as_fed(part)) and getattr(part, "fed", "") != "pin":
        supply = [
            Control(
                "Current from", f"{at}/own_supply", fed.own_supply, ((False, "the board"), (True, "its own supply"))
            )
        ]
        if fed.own_supply and not getattr(part, "isolated", False):
            supply.append(Control("grounds joined", f"{at}/grounds_joined", fed.grounds_joined, YES))
        rows.append(supply)
    return rows


def _burden(burden: Burden | None, at: str, asked: bool, loads: tuple[str, ...]) -> list[Row]:
    """What it switches in figures, once somebody gave them."""
    where = f"{at}/burden"
    if burden is None:
        if not asked or not set(loads) - {"nothing"}:
            return []
        mains = "mains" in loads
        blank = {"supply": "ac", "mv": 230_000, "ua": 1_000_000} if mains else {"supply": "dc", "mv": 12_000}
        return [[Control("Its load", where, None, ((blank, "give its figures"),))]]
    sorts = (("resistive", "resistive"), ("inductive", "inductive"), ("lamp", "lamps"), ("motor", "a motor"))
    return [
        [
            Control("Its load", f"{where}/mv", burden.mv, reads="volt", unit="V"),
            Control("", f"{where}/supply", burden.supply, (("ac", "AC"), ("dc", "DC"))),
            Control("takes", f"{where}/ua", burden.ua, reads="amp", unit="mA"),
            Control("", f"{where}/sort", burden.sort, sorts),
        ],
        [
            Control("Snubber", f"{where}/snubber", burden.snubber, YES),
            Control("fuse", f"{where}/fuse_ua", burden.fuse_ua, reads="amp", unit="mA (0: none)"),
            Control("wire", f"{where}/wire_mm2", burden.wire_mm2, reads="float", unit="mm² (0: not said)"),
        ],
    ]


def _relay(part: Relay | RelayBoard, at: str) -> Row:
    row = [
        Control("Input", f"{at}/opto", part.opto, ((True, "opto-isolated"), (False, "plain"))),
        Control("high from", f"{at}/trigger_mv", part.trigger_mv, reads="volt", unit="V"),
    ]
    if isinstance(part, Relay):
        row.append(Control("contact used", f"{at}/contact_used", part.contact_used, (("no", "NO"), ("nc", "NC"))))
        row.append(Control("made for", f"{at}/contact_ua", part.contact_ua, reads="amp", unit="mA"))
    else:
        row.insert(0, Control("On when", f"{at}/active_level", part.active_level, (("low", "low"), ("high", "high"))))
        row.append(Control("coil", f"{at}/coil_ua", part.coil_ua, reads="amp", unit="mA"))
    return row


def _relay_rows(part: RelayBoard, at: str) -> list[Row]:
    """What each relay of a board switches."""
    found: list[Row] = []
    for number, relay in enumerate(part.relays):
        where = f"{at}/relays/{number}"
        found.append([
            Control(f"IN {number + 1}", f"{where}/name", relay.name, reads="text", wide=False),
            Control("switches", f"{where}/loads", relay.loads, LOADS, reads="set"),
            Control("", f"{where}/contact_used", relay.contact_used, (("no", "NO"), ("nc", "NC"))),
            Control("rests", f"{where}/at_rest", relay.at_rest, (("off", "off"), ("on", "on"))),
            Control("", f"{where}/hold", relay.hold, HELD),
        ])  # fmt: skip
        found += _burden(relay.burden, where, True, relay.loads)
        if "motion" in relay.loads:
            found.append([Control("Hard-wired stop", f"{where}/hard_stop", relay.hard_stop, YES)])
    return found


def wire_end(part: Part, at: str) -> Row:
    """The wire from a contact to the board: how long it is."""
    return [
        Control("", f"{line.at}/wiring/wire_cm", line.wiring.wire_cm, reads="cm", unit="cm")
        for line in part.contacts(at)[:1]
    ]


def rows(bench: Bench, part: Part, at: str) -> list[Row]:
    """Everything that can be set on a part: lines of words, each of which opens the others that could stand there."""
    found = _output_rows(part, at) if at.startswith("/outputs") else _input_rows(part, at, bench.the_board)
    found = found + _on_levels(bench, part, at)
    return [[replace(one, menu=bool(one.options)) for one in row] for row in found if row]
