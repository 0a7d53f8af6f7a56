"""The outputs' side of the sketch: one struct that knows the drives the bench uses, and no others."""

from __future__ import annotations

from ..document import Bench
from ..drives import Blink, Drive, Pulse, Steady

HEAD = """\
// An output: what it does, since when, and what is on its pin.
struct Output {
  const uint8_t pin;
  const uint8_t on_level;
  DriveKind kind = STEADY;
  bool on = false;
  bool fresh = false;  // a drive waits to begin
  bool begins_on = false;
  uint32_t since = 0;
  uint32_t on_ms = 0;
  uint32_t off_ms = 0;

@MAKE@
  void put(bool value) {
    on = value;
@TONE@    digitalWrite(pin, value == (on_level == HIGH) ? HIGH : LOW);
  }

  void begin() {
    put(false);  // first the level, then the direction: the pin never shows the wrong one
    pinMode(pin, OUTPUT);
  }

  void start(DriveKind kind_, bool begins_on_, uint32_t on_ms_, uint32_t off_ms_) {
    kind = kind_;
    begins_on = begins_on_;
    on_ms = on_ms_;
    off_ms = off_ms_;
    fresh = true;
  }

  void steady(bool value) { start(STEADY, value, 0, 0); }
"""

MAKE = "  Output(uint8_t pin_, uint8_t on_level_) : pin(pin_), on_level(on_level_) {}\n"
MAKE_WITH_TONE = """\
  const uint16_t tone_hz;  // 0: its level is enough

  Output(uint8_t pin_, uint8_t on_level_, uint16_t tone_hz_ = 0)
      : pin(pin_), on_level(on_level_), tone_hz(tone_hz_) {}
"""
TONE = """\
    if (tone_hz) {
      if (value) tone(pin, tone_hz);
      else noTone(pin);
      return;
    }
"""

CALLS = {
    "BLINK": "  void blink(uint32_t on_for, uint32_t off_for) { start(BLINK, true, on_for, off_for); }\n",
    "PULSE": "  void pulse(uint32_t length) { start(PULSE, true, length, 0); }\n",
    "PULSE_AND_WAIT": "  void pulse_and_wait(uint32_t length) { start(PULSE_AND_WAIT, true, length, 0); }\n",
}

WAITING = """\
      if (kind == PULSE_AND_WAIT) {
        delay(on_ms);  // the whole loop stands still
        put(false);
        kind = STEADY;
      }
"""

COURSES = {
    "BLINK": """\
    if (kind == BLINK && uint32_t(now - since) >= (on ? on_ms : off_ms)) {
      since += on ? on_ms : off_ms;  // last + time, so that the beat does not drift
      put(!on);
    }
""",
    "PULSE": """\
    if (kind == PULSE && on && uint32_t(now - since) >= on_ms) put(false);
""",
}


UPDATE = """
  void update(uint32_t now) {
    if (fresh) {
      fresh = false;
      since = now;
      put(begins_on);
"""


def _kind(drive: Drive) -> str:
    if isinstance(drive, Blink):
        return "BLINK"
    if isinstance(drive, Pulse):
        return "PULSE_AND_WAIT" if drive.blocking else "PULSE"
    return "STEADY"


def call(drive: Drive) -> str:
    """The call that starts a drive."""
    match drive:
        case Steady(on=on):
            return f"steady({'true' if on else 'false'})"
        case Blink(on_us=on_us, off_us=off_us):
            return f"blink({on_us // 1000}UL, {off_us // 1000}UL)"
        case Pulse(length_us=length_us, blocking=blocking):
            return f"{'pulse_and_wait' if blocking else 'pulse'}({length_us // 1000}UL)"


def output_struct(bench: Bench) -> str:
    """The `Output` struct with the drives that occur."""
    states = [state for machine in bench.firmware.machines for state in machine.states]
    used = {_kind(drive) for state in states for drive in state.drives.values()} - {"STEADY"}
    kinds = ["STEADY", *(kind for kind in CALLS if kind in used)]
    update = UPDATE
    update += (WAITING if "PULSE_AND_WAIT" in used else "") + "      return;\n    }\n"
    update += "".join(text for kind, text in COURSES.items() if kind in used) + "  }\n};\n"
    enum = f"enum DriveKind : uint8_t {{ {', '.join(kinds)} }};\n\n"
    sounds = any(channel.kind == "sounder" for channel in bench.channels)
    head = HEAD.replace("@MAKE@", MAKE_WITH_TONE if sounds else MAKE).replace("@TONE@", TONE if sounds else "")
    return enum + head + "".join(CALLS[kind] for kind in kinds[1:]) + update
