"""The outputs' side of the sketch: one struct that knows the drives the bench uses, and no others."""

from __future__ import annotations

from ..document import Bench, Channel
from ..document.parts import Sounder
from ..drives import Blink, Burst, Dimmed, Drive, Follow, FollowVariable, Pulse, Ramp, Sequence, Steady, Tone
from .names import snake

STRUCT = """\
// An output: what it does, since when, and what is on its pin, in percent.
struct Output {
  const uint8_t pin;
  const uint8_t on_level;
  DriveKind kind = STEADY;
  uint8_t level = 0;  // on the pin
  uint8_t want = 0;   // of the drive
  uint8_t begins_at = 0;
  bool fresh = false;  // a drive waits to begin
  uint32_t since = 0;
@FIELDS@
  Output(uint8_t pin_, uint8_t on_level_) : pin(pin_), on_level(on_level_) {}

  void put(uint8_t value) {
    level = value;
@PUT@    digitalWrite(pin, (value > 0) == (on_level == HIGH) ? HIGH : LOW);
  }

  void begin() {
    put(0);  // first the level, then the direction: the pin never shows the wrong one
    pinMode(pin, OUTPUT);
  }

  void start(DriveKind kind_, uint8_t begins_at_) {
    kind = kind_;
    begins_at = begins_at_;
    fresh = true;
@START@  }

  void steady(uint8_t value) { start(STEADY, value); }
@CALLS@
  uint8_t course(uint32_t now) {
    (void)now;
    switch (kind) {
@COURSES@      default: return want;
    }
  }
@HOLD@
  void update(uint32_t now) {
    const bool begins = fresh;
    if (fresh) {
@WAITING@      fresh = false;
      since = now;
@BEGUN@      want = begins_at;
    } else {
      want = course(now);
    }
@GUARD@  }
};
"""

FIELDS = {
    "beats": "  uint32_t on_ms = 0, off_ms = 0;\n",
    "pulses": "  uint32_t on_ms = 0;\n",
    "counted": "  uint32_t rest_ms = 0, for_ms = 0, begun = 0;\n  uint16_t times = 1, rounds = 0, place = 0;\n",
    "ends": "  bool over = false;\n",
    "ramps": "  uint32_t ramp_ms = 0;\n  uint8_t from = 0, to = 0, curve = 0;\n",
    "sequences": "  const Step *steps = nullptr;\n  uint16_t count = 0, at = 0, left = 0;\n",
    "follows": "  uint8_t follows = 0;  // which of the things that outputs follow\n  uint8_t seen = 0;\n",
    "notes": "  uint16_t own_hz = 0, hz = 0;\n",
    "waits": "  bool waits = false;  // the whole loop stands still for it\n",
    "guards": (
        "  uint32_t longest = 0, changed = 0;\n  bool ever = false, spent = false;\n"
        "  bool (*held)(uint32_t now) = nullptr;  // another output keeps it off\n"
    ),
}
STARTS = {
    "ends": "    over = false;\n",
    "counted": "    place = 0;\n",
    "sequences": "    at = 0;\n",
    "follows": "    follows = 0;\n",
    "notes": "    hz = own_hz;\n",
    "waits": "    waits = false;\n",
}
CALLS = {
    "blink": """\
  void blink(uint32_t on_for, uint32_t off_for) {
    start(BLINK, 100);
    on_ms = on_for;
    off_ms = off_for;
  }
""",
    "beat": """\
  void beat(uint32_t on_for, uint32_t off_for, uint32_t rest, uint16_t flashes, uint16_t rounds_, uint32_t for_all) {
    start(BEAT, 100);
    on_ms = on_for;
    off_ms = off_for;
    rest_ms = rest;
    times = flashes;
    rounds = rounds_;
    for_ms = for_all;
  }
""",
    "pulse": """\
  void pulse(uint32_t length) {
    start(PULSE, 100);
    on_ms = length;
  }
""",
    "ramp": """\
  void ramp(uint8_t from_, uint8_t to_, uint32_t time, uint8_t curve_) {
    start(RAMP, from_);
    from = from_;
    to = to_;
    ramp_ms = time;
    curve = curve_;
  }
""",
    "sequence": """\
  void sequence(const Step *steps_, uint16_t count_, uint16_t rounds_) {
    start(SEQUENCE, steps_[0].level);
    steps = steps_;
    count = count_;
    left = rounds_;
  }
""",
    "follow": """\
  void follow(uint8_t which) {
    start(FOLLOW, 0);
    follows = which;
  }
""",
}
COURSES = {
    "blink": """\
      case BLINK:
        if (uint32_t(now - since) < (want ? on_ms : off_ms)) return want;
        since += want ? on_ms : off_ms;  // last + time, so that the beat does not drift
        return want ? 0 : 100;
""",
    "beat": """\
      case BEAT: {
        if (over) return 0;
        if (for_ms && uint32_t(now - begun) >= for_ms) {
          over = true;
          return 0;
        }
        const uint32_t wait = want ? on_ms : place + 1 == times ? rest_ms : off_ms;
        if (uint32_t(now - since) < wait) return want;
        since += wait;
        if (!want && ++place == times) {
          place = 0;
          if (rounds == 1) {
            over = true;
            return 0;
          }
          if (rounds) --rounds;
        }
        return want ? 0 : 100;
      }
""",
    "pulse": """\
      case PULSE: return uint32_t(now - since) >= on_ms ? uint8_t(0) : want;
""",
    "ramp": """\
      case RAMP:
        if (over || uint32_t(now - since) >= ramp_ms) {
          over = true;
          return to;
        }
        return ramp_at(now - since);
""",
    "sequence": """\
      case SEQUENCE:
        if (!over && uint32_t(now - since) >= steps[at].ms) {
          since += steps[at].ms;
          if (at + 1 < count) {
            ++at;
          } else if (left == 1) {
            over = true;
          } else {
            if (left) --left;
            at = 0;
          }
        }
        return steps[at].level;
""",
    "follow": """\
      case FOLLOW: return seen;
""",
}
RAMP_AT = """\
  uint8_t ramp_at(uint32_t passed) const {
    uint32_t x = 1000UL * passed / ramp_ms;  // thousandths, whole numbers throughout
    if (curve == 1) x = x * x / 1000;
    if (curve == 2) x = x * x * (3000 - 2 * x) / 1000000UL;
    const uint8_t way = uint8_t((to > from ? to - from : from - to) * x / 1000);
    return uint8_t(to > from ? from + way : from - way);
  }

"""
WAITS = {
    "beat": """\
        case BEAT: {
          uint32_t all = for_ms ? for_ms : 0xFFFFFFFFUL;
          for (uint16_t round = 0; round < rounds; ++round)
            for (uint16_t n = 0; n < times; ++n) {
              stay(100, on_ms, all);
              stay(0, n + 1 == times ? rest_ms : off_ms, all);
            }
          put(0);
          break;
        }
""",
    "pulse": """\
        case PULSE:
          put(100);
          delay(on_ms);
          put(0);
          break;
""",
    "ramp": """\
        case RAMP:
          for (uint32_t passed = 0; passed < ramp_ms; passed += 10) {
            put(ramp_at(passed));
            delay(ramp_ms - passed < 10 ? ramp_ms - passed : 10);
          }
          put(to);
          break;
""",
    "sequence": """\
        case SEQUENCE:
          for (uint16_t round = 0; round < left; ++round)
            for (uint16_t n = 0; n < count; ++n) {
              put(steps[n].level);
              delay(steps[n].ms);
            }
          break;
""",
}
STAY = """
  void stay(uint8_t value, uint32_t ms, uint32_t &all) {
    if (!all) return;
    put(value);
    if (ms > all) ms = all;
    delay(ms);
    all -= ms;
  }
"""
GUARD = """\
    uint8_t get = want;
    if (!want) {
      spent = false;
    } else {
      if (longest && level && uint32_t(now - changed) >= longest) spent = true;
      if (spent || (held && !level && held(now))) get = 0;
    }
    if ((get > 0) != (level > 0)) {
      changed = now;
      if (get) ever = true;
    }
    if (begins || get != level) put(get);
"""
NO_GUARD = "    if (begins || want != level) put(want);\n"
STEP = "struct Step {\n  uint8_t level;  // percent\n  uint32_t ms;\n};\n\n"
CURVES = {"straight": 0, "square": 1, "smooth": 2}


def _form(drive: Drive) -> str:
    """Which of the struct's forms a drive needs; empty for one that is steady."""
    match drive:
        case Blink(times=0, for_us=0):
            return "blink"
        case Blink() | Burst():
            return "beat"
        case Pulse():
            return "pulse"
        case Tone(length_us=length):
            return "pulse" if length else ""
        case Ramp():
            return "ramp"
        case Sequence():
            return "sequence"
        case Follow() | FollowVariable():
            return "follow"
        case _:
            return ""


class OutputTexts:
    """What the bench's outputs give to the sketch, and the calls that start their drives."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self.drives = [(output, drive) for machine in bench.firmware.machines for _, output, drive in machine.drives]
        self.followed: list[Follow | FollowVariable] = list(
            dict.fromkeys(d for _, d in self.drives if isinstance(d, Follow | FollowVariable))
        )
        self.sequences = list(dict.fromkeys(d for _, d in self.drives if isinstance(d, Sequence)))
        self.guarded = bool(bench.firmware.limits or bench.firmware.interlocks)
        self.notes = any(isinstance(d, Tone) for _, d in self.drives) or any(
            isinstance(channel.part, Sounder) for channel in bench.channels
        )

    def call(self, output: str, drive: Drive) -> str:
        """The statement that starts a drive."""
        out = f"{snake(output)}_out"
        match drive:
            case Steady():
                said = f"steady({100 if drive.on else 0})"
            case Dimmed(percent=percent):
                said = f"steady({percent})"
            case Blink(times=0, for_us=0):
                said = f"blink({drive.on_us // 1000}UL, {drive.off_us // 1000}UL)"
            case Blink():
                on, off = drive.on_us // 1000, drive.off_us // 1000
                rounds = drive.times or (-(-drive.for_us // (drive.on_us + drive.off_us)) if drive.blocking else 0)
                said = f"beat({on}UL, {off}UL, {off}UL, 1, {rounds}, {drive.for_us // 1000}UL)"
            case Burst():
                on, off, rest = drive.on_us // 1000, drive.off_us // 1000, drive.rest_us // 1000
                said = f"beat({on}UL, {off}UL, {rest}UL, {drive.times}, {drive.rounds}, 0)"
            case Pulse():
                said = f"pulse({drive.length_us // 1000}UL)"
            case Tone():
                said = f"pulse({drive.length_us // 1000}UL)" if drive.length_us else "steady(100)"
                said += f"; {out}.hz = {drive.hz}"
            case Ramp():
                said = f"ramp({drive.start}, {drive.end}, {drive.time_us // 1000}UL, {CURVES[drive.curve]})"
            case Sequence():
                said = f"sequence(steps_{self.sequences.index(drive) + 1}, {len(drive.steps)}, {drive.rounds})"
            case Follow() | FollowVariable():
                said = f"follow({self.followed.index(drive) + 1})"
        waits = f"; {out}.waits = true" if drive.blocks_us else ""
        return f"{out}.{said}{waits};"

    @property
    def dims(self) -> bool:
        """Whether a level between off and full can come to a pin."""
        return any(
            drive.needs_level or (isinstance(drive, Sequence) and drive.dims) or isinstance(drive, Follow)
            for _, drive in self.drives
        )

    def struct(self) -> str:
        """The `Output` struct with the drives that occur."""
        forms = {form for _, drive in self.drives if (form := _form(drive))}
        waits = any(drive.blocks_us for _, drive in self.drives)
        waiting = {_form(drive) for _, drive in self.drives if drive.blocks_us}
        uses = {
            "beats": bool(forms & {"blink", "beat"}),
            "pulses": "pulse" in forms and not forms & {"blink", "beat"},
            "counted": "beat" in forms,
            "ends": bool(forms & {"beat", "ramp", "sequence"}),
            "ramps": "ramp" in forms,
            "sequences": "sequence" in forms,
            "follows": "follow" in forms,
            "notes": self.notes,
            "waits": waits,
            "guards": self.guarded,
        }
        put = ""
        if self.notes:
            put += "    if (value && hz) {\n      tone(pin, hz);\n      return;\n    }\n    if (hz) noTone(pin);\n"
        if self.dims:
            put += (
                "    if (value > 0 && value < 100) {\n      const uint8_t duty = uint8_t(value * 255UL / 100);\n"
                "      analogWrite(pin, on_level == HIGH ? duty : 255 - duty);\n      return;\n    }\n"
            )
        wait_text = ""
        if waits:
            held = "        if (held && !level && held(now)) return;  // not yet\n" if self.guarded else ""
            after = "        changed = millis();\n        ever = true;\n" if self.guarded else ""
            wait_text = (
                f"      if (waits) {{  // the whole loop stands still\n{held}        fresh = waits = false;\n"
                f"        switch (kind) {{\n{''.join(WAITS[form] for form in WAITS if form in waiting)}"
                f"          default: break;\n        }}\n{after}        kind = STEADY;\n        want = level;\n"
                "        return;\n      }\n"
            )
        begun = "      begun = now;\n" if "beat" in forms else ""
        begun += "      begins_at = kind == FOLLOW ? seen : begins_at;\n" if "follow" in forms else ""
        begun += "      spent = false;\n" if self.guarded else ""
        parts = {
            "@FIELDS@": "".join(FIELDS[name] for name in FIELDS if uses[name]),
            "@PUT@": put,
            "@START@": "".join(STARTS[name] for name in STARTS if uses[name]),
            "@CALLS@": "".join(CALLS[form] for form in CALLS if form in forms),
            "@COURSES@": "".join(COURSES[form] for form in COURSES if form in forms),
            "@HOLD@": (STAY if "beat" in waiting else ""),
            "@WAITING@": wait_text,
            "@BEGUN@": begun,
            "@GUARD@": GUARD if self.guarded else NO_GUARD,
        }
        text = STRUCT
        for mark, with_text in parts.items():
            text = text.replace(mark, with_text)
        if "ramp" in forms:
            text = text.replace("  uint8_t course(", RAMP_AT + "  uint8_t course(")
        kinds = ["STEADY", *(form.upper() for form in CALLS if form in forms)]
        enum = f"enum DriveKind : uint8_t {{ {', '.join(kinds)} }};\n\n"
        rows = [
            f"const Step steps_{number}[] = {{{', '.join(f'{{{s.percent}, {s.us // 1000}UL}}' for s in one.steps)}}};\n"
            for number, one in enumerate(self.sequences, 1)
        ]
        return enum + (STEP + "".join(rows) + "\n" if rows else "") + text

    def variables(self) -> str:
        """One variable an output, and what keeps one off while another is on."""
        text = "".join(map(self._output, self.bench.channels))
        rivals: dict[str, list[str]] = {}
        for lock in self.bench.firmware.interlocks:
            for one, other in ((lock.one, lock.other), (lock.other, lock.one)):
                out = f"{snake(other)}_out"
                rivals.setdefault(one, []).append(
                    f"{out}.level || ({out}.ever && uint32_t(now - {out}.changed) < {lock.dead_us // 1000}UL)"
                )
        for ident, rows in rivals.items():
            text += f"bool {snake(ident)}_held(uint32_t now) {{ return {' || '.join(rows)}; }}\n"
        return text

    def _output(self, channel: Channel) -> str:
        level = "LOW" if channel.active_level == "low" else "HIGH"
        return f"Output {snake(channel.id)}_out({snake(channel.id).upper()}_PIN, {level});\n"

    def setup(self) -> list[str]:
        """Lines of `setup`."""
        lines = []
        for channel in self.bench.channels:
            out = f"{snake(channel.id)}_out"
            if isinstance(channel.part, Sounder):
                lines.append(f"  {out}.own_hz = {channel.part.tone_hz};")
            if limit := self.bench.firmware.limits.get(channel.id):
                lines.append(f"  {out}.longest = {limit.longest_us // 1000}UL;")
            if any(channel.id in (lock.one, lock.other) for lock in self.bench.firmware.interlocks):
                lines.append(f"  {out}.held = {snake(channel.id)}_held;")
            lines.append(f"  {out}.begin();")
        return lines

    def update(self, channel: Channel, seen: dict[Drive, str]) -> str:
        """Its place in the loop; `seen` are the expressions of what is followed."""
        out = f"{snake(channel.id)}_out"
        mine = dict.fromkeys(
            d for output, d in self.drives if output == channel.id and isinstance(d, Follow | FollowVariable)
        )
        looks = [f"  if ({out}.follows == {self.followed.index(d) + 1}) {out}.seen = {seen[d]};\n" for d in mine]
        return f"{''.join(looks)}  {out}.update(now);\n"
