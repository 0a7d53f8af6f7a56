"""What the outputs' struct is put together from: C++ with the places that a bench fills."""

from __future__ import annotations

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

  void begin(uint8_t rest) {
    want = rest;
@REST@    put(rest);  // first the level, then the direction: the pin never shows the wrong one
    pinMode(pin, OUTPUT);
  }

  void start(DriveKind kind_, uint8_t begins_at_) {
    kind = kind_;
    begins_at = begins_at_;
    fresh = true;
@START@  }

  void steady(uint8_t value) { start(STEADY, value); }
@CALLS@
@RAMP@  uint8_t course(uint32_t now) {
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
    "again": "  bool again = false;  // and so on in the next pass\n",
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
    "again": "    again = false;\n",
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
    "blink": """\
        case BLINK:
          put(100);
          delay(on_ms);
          put(0);
          delay(off_ms);
          break;
""",
    "beat": """\
        case BEAT: {
          uint32_t all = for_ms ? for_ms : 0xFFFFFFFFUL;
          for (uint16_t round = 0; round < (rounds ? rounds : 1); ++round)
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
          for (uint16_t round = 0; round < (left ? left : 1); ++round)
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
    // What was long ago is over for good, before the counter comes round to it.
    if (ever && uint32_t(now - changed) > 0x7FFFFFFFUL && !level) ever = false;
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
