"""Physical things on the bench. A new kind is a model beside its siblings and a name in one of the two unions."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from .base import (
    Burden,
    CapturedContact,
    Channel,
    Claim,
    Contacting,
    ContactLine,
    ModelledContact,
    Part,
    TextLine,
    Wiring,
    as_contacting,
)
from .captures import Capture, Edge
from .contacts import (
    Button,
    ButtonLamp,
    ButtonModule,
    ContactPart,
    Float,
    FourLegged,
    LimitSwitch,
    MagnetContact,
    OpenWire,
    PanelButton,
    SignalIn,
    SlideSwitch,
    Switch,
    TwoWay,
)
from .outputs import (
    Beeper,
    Display,
    Driven,
    Fan,
    Fed,
    Heater,
    Lamp,
    Load,
    Motor,
    OutputBase,
    Pump,
    Relay,
    RelayBoard,
    RelayChannel,
    RgbLamp,
    RgbLeg,
    SerialText,
    Servo,
    SignalOut,
    SmallMotor,
    Solenoid,
    SolidStateRelay,
    Sounder,
    Spinning,
    Switched,
    as_fed,
)
from .sensing import (
    Analogue,
    Commands,
    Encoder,
    HitsAt,
    KeyMatrix,
    LevelSensor,
    LightSensor,
    Point,
    Potentiometer,
    ResistiveSensor,
    Sensed,
    TemperatureSensor,
    VoltageSensor,
    VoltageSource,
    VoltPoint,
)

InputPart = Annotated[
    Button
    | FourLegged
    | ButtonModule
    | Switch
    | SlideSwitch
    | PanelButton
    | LimitSwitch
    | OpenWire
    | MagnetContact
    | Float
    | Encoder
    | KeyMatrix
    | Potentiometer
    | LightSensor
    | TemperatureSensor
    | VoltageSensor
    | LevelSensor
    | Commands
    | SignalIn,
    Field(discriminator="kind"),
]
OutputPart = Annotated[
    Lamp
    | RgbLamp
    | Beeper
    | Sounder
    | Relay
    | RelayBoard
    | SolidStateRelay
    | Motor
    | Solenoid
    | Fan
    | Pump
    | Load
    | SmallMotor
    | Servo
    | Heater
    | Display
    | SerialText
    | SignalOut,
    Field(discriminator="kind"),
]

__all__ = [
    "Analogue",
    "Beeper",
    "Burden",
    "Button",
    "ButtonLamp",
    "ButtonModule",
    "Capture",
    "CapturedContact",
    "Channel",
    "Claim",
    "Commands",
    "ContactLine",
    "ContactPart",
    "Contacting",
    "Display",
    "Driven",
    "Edge",
    "Encoder",
    "Fan",
    "Fed",
    "Float",
    "FourLegged",
    "Heater",
    "HitsAt",
    "InputPart",
    "KeyMatrix",
    "Lamp",
    "LevelSensor",
    "LightSensor",
    "LimitSwitch",
    "Load",
    "MagnetContact",
    "ModelledContact",
    "Motor",
    "OpenWire",
    "OutputBase",
    "OutputPart",
    "PanelButton",
    "Part",
    "Point",
    "Potentiometer",
    "Pump",
    "Relay",
    "RelayBoard",
    "RelayChannel",
    "ResistiveSensor",
    "RgbLamp",
    "RgbLeg",
    "Sensed",
    "SerialText",
    "Servo",
    "SignalIn",
    "SignalOut",
    "SlideSwitch",
    "SmallMotor",
    "Solenoid",
    "SolidStateRelay",
    "Sounder",
    "Spinning",
    "Switch",
    "Switched",
    "TemperatureSensor",
    "TextLine",
    "TwoWay",
    "VoltPoint",
    "VoltageSensor",
    "VoltageSource",
    "Wiring",
    "as_contacting",
    "as_fed",
]
