"""Kinds of part: what each does, and how it arrives. A new kind is a model, a row here and a drawing."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from pydantic import BaseModel

from .document import parts as of


@dataclass(frozen=True)
class Kind:
    """A kind of part. `group` is its shelf in the tray; `words` are what else a person may type to find it; `arrives`
    are fields in which it differs from the model's defaults; `pins` are its pins' fields, a list's with how many."""

    id: str
    name: str
    does: str
    group: str
    model: type[BaseModel]
    words: str = ""
    arrives: dict[str, Any] = field(default_factory=dict)
    pins: tuple[tuple[str, int], ...] = (("pin", 0),)

    @property
    def is_input(self) -> bool:
        """Whether it goes on the inputs' side."""
        return self.group in INPUT_GROUPS


INPUT_GROUPS = ("Pressed and switched", "Moved by a thing", "Turned and measured", "Told")
OUTPUT_GROUPS = ("Lights", "Sounds", "Switches", "Moves and heats", "Shows and tells")


def _bounces(switch: str) -> dict[str, Any]:
    return {"contact": {"kind": "model", "switch": switch}}


def _relays() -> list[dict[str, Any]]:
    return [{"id": f"relay-{n}", "name": f"Relay {n}", "pin": "", "hold": "up"} for n in (1, 2)]


_LEG = {"pin": ""}
PRESSED, MOVED, MEASURED, TOLD = INPUT_GROUPS
LIGHTS, SOUNDS, SWITCHES, MOVES, SHOWS = OUTPUT_GROUPS

KINDS: dict[str, Kind] = {
    kind.id: kind
    for kind in (
        Kind("button", "Button", "closes while it is pressed", PRESSED, of.Button, "push key",
             _bounces("small-button")),
        Kind("four-legged", "4-pin push button", "two pairs of legs, each pair always joined", PRESSED, of.FourLegged,
             "push button tactile", _bounces("small-button")),
        Kind("module", "Button module", "a button on a little board with a resistor and three pins", PRESSED,
             of.ButtonModule, "push button", {**_bounces("small-button"), "wiring": {"pull": "none"}}),
        Kind("panel-button", "Panel button", "common, closing and opening contact, a lamp of its own", PRESSED,
             of.PanelButton, "push nc no arcade", {**_bounces("worn-button"), "lamp": dict(_LEG)},
             (("pin", 0), ("lamp/pin", 0))),
        Kind("switch", "Switch", "stays as it is switched", PRESSED, of.Switch, "toggle two-way",
             _bounces("toggle-switch")),
        Kind("slide-switch", "Slide switch", "slides, and stays as it is switched", PRESSED, of.SlideSwitch, "two-way",
             {**_bounces("toggle-switch"), "other_throw": "wired"}),
        Kind("matrix", "Keys", "a matrix of keys: rows and columns", PRESSED, of.KeyMatrix, "keypad pad code",
             {"keys": list("123456789*0#")}, (("rows", 4), ("columns", 3))),
        Kind("limit-switch", "End stop", "closes when something runs against it", MOVED, of.LimitSwitch, "limit",
             _bounces("toggle-switch")),
        Kind("magnet", "Magnet", "closes while a magnet is near", MOVED, of.MagnetContact, "reed door wheel",
             _bounces("small-button")),
        Kind("float", "Float", "closes when it tilts", MOVED, of.Float, "tilt water level", _bounces("float-contact")),
        Kind("open-wire", "Open wire", "a pin that is read with nothing on it but a wire", TOLD, of.OpenWire,
             "bare floating pin aerial touch nothing noise", {"wiring": {"pull": "none"}}),
        Kind("encoder", "Encoder", "turns in detents, and can be pushed", MEASURED, of.Encoder, "rotary dial knob",
             {"push": {"pin": "", **_bounces("small-button")}}, (("a", 0), ("b", 0), ("push/pin", 0))),
        Kind("potentiometer", "Potentiometer", "a track and a wiper", MEASURED, of.Potentiometer, "dial knob pot"),
        Kind("light-sensor", "Light sensor", "a resistor that falls with light", MEASURED, of.LightSensor,
             "light ldr photo dark divider"),
        Kind("temperature-sensor", "Temperature sensor", "a resistor that falls with temperature", MEASURED,
             of.TemperatureSensor, "warmth thermistor ntc probe heat divider"),
        Kind("voltage-sensor", "Voltage input", "a voltage with its noise", MEASURED, of.VoltageSensor,
             "volts battery analogue"),
        Kind("level-sensor", "Level sensor", "level or pressure on a scale of your own", MEASURED, of.LevelSensor,
             "pressure depth water"),
        Kind("commands", "Commands", "numbers over the serial line, typed or heard", TOLD, of.Commands,
             "speech voice radio infra-red remote serial"),
        Kind("signal", "Signal in", "a logic signal from another board", TOLD, of.SignalIn, "logic",
             _bounces("logic-signal")),
        Kind("lamp", "LED", "lights", LIGHTS, of.Lamp, "lamp light"),
        Kind("rgb", "RGB LED", "three colours with one leg in common", LIGHTS, of.RgbLamp,
             "lamp light colour red green blue",
             {"red": {"pin": "", "drop_mv": 2_000}, "green": dict(_LEG), "blue": dict(_LEG)},
             (("red/pin", 0), ("green/pin", 0), ("blue/pin", 0))),
        Kind("beeper", "Buzzer (active)", "sounds while it is on", SOUNDS, of.Beeper, "beeper alarm"),
        Kind("sounder", "Sounder (passive)", "needs a tone to sound", SOUNDS, of.Sounder,
             "piezo speaker buzzer beeper tone"),
        Kind("relay", "Relay", "switches another circuit", SWITCHES, of.Relay, "coil mains"),
        Kind("relay-board", "Relay board", "a board of up to sixteen", SWITCHES, of.RelayBoard, "relay board channels",
             {"relays": _relays()}, (("relays/0/pin", 0), ("relays/1/pin", 0))),
        Kind("solid-state", "Solid-state relay", "switches without a contact", SWITCHES, of.SolidStateRelay,
             "relay ssr triac", {"hold": "down"}),
        Kind("fan", "Fan", "turns one way, through one transistor or a relay", MOVES, of.Fan,
             "ventilator blower dc motor transistor", {"hold": "down"}),
        Kind("pump", "Pump", "turns one way, through one transistor or a relay", MOVES, of.Pump,
             "water dc motor transistor", {"hold": "down"}),
        Kind("load", "Load", "anything on direct current, switched by one transistor", MOVES, of.Load,
             "transistor dc strip horn field-effect fet mosfet", {}),
        Kind("motor", "Motor", "turns both ways through a driver", MOVES, of.Motor, "bridge driver dc transistor",
             {"speed": "", "hold": "down"}, (("forward", 0), ("backward", 0), ("speed", 0))),
        Kind("one-way-motor", "Motor, one way", "turns one way, as fast as it is told", MOVES, of.SmallMotor,
             "dc train speed transistor", {"hold": "down"}),
        Kind("solenoid", "Valve", "a solenoid or valve", MOVES, of.Solenoid, "solenoid lock latch coil",
             {"hold": "down"}),
        Kind("servo", "Servo", "goes where its pulse says", MOVES, of.Servo, "motor arm"),
        Kind("heater", "Heater", "warms", MOVES, of.Heater, "bath heat", {"hold": "down"}),
        Kind("display", "Display", "shows characters, on the bus", SHOWS, of.Display, "lcd screen text",
             {}, (("data", 0), ("clock", 0))),
        Kind("serial-text", "Serial text", "writes lines of text to a computer or another board", SHOWS, of.SerialText,
             "print serial monitor log message computer"),
        Kind("signal-out", "Signal out", "a logic signal to another board", SHOWS, of.SignalOut, "logic"),
    )
}  # fmt: skip

INPUT_KINDS = {ident: kind for ident, kind in KINDS.items() if kind.is_input}
OUTPUT_KINDS = {ident: kind for ident, kind in KINDS.items() if not kind.is_input}
