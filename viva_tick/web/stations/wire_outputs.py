"""What can be set on a part that is driven: its feed, what it switches, its place before set-up."""

from __future__ import annotations

from ...core.cautions import HAZARD_NAMES
from ...core.document import Bench, Part, pointer
from ...core.document.parts import (
    Burden,
    Display,
    Driven,
    Heater,
    Lamp,
    Load,
    Motor,
    Relay,
    RelayBoard,
    RgbLamp,
    Servo,
    SignalOut,
    Solenoid,
    SolidStateRelay,
    Sounder,
    Spinning,
    Switched,
    as_fed,
)
from .controls import Control, Options, Row

HELD: Options = (("none", "floats"), ("up", "held up"), ("down", "held down"))
YES: Options = ((True, "yes"), (False, "no"))
LOADS: Options = tuple(HAZARD_NAMES.items())
BOTH_ON: Options = (("forbidden", "shorts it"), ("brakes", "brakes"))


def on_levels(bench: Bench, part: Part, at: str) -> list[Row]:
    """What the firmware writes to switch it on, which need not be what its wiring wants."""
    found = []
    for channel in part.channels(at):
        name = "Firmware writes" if channel.name == part.name else f"{channel.name}: firmware writes"
        where = pointer("firmware", "on_levels", channel.id)
        words = (("high", "high for on"), ("low", "low for on"))
        found.append(Control(name, where, bench.on_level(channel), words, adds=True))
    return [found]


def output_rows(part: Part, at: str) -> list[Row]:
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
