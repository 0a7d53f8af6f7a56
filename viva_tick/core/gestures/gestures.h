// A button's gestures: while more clicks can come a click waits for them; what is held is no click.
enum Gesture : uint8_t { CLICK = 1, DOUBLE = 2, TRIPLE = 4, HOLD = 8, REPEAT = 16, LONG_RELEASE = 32 };

struct Gestures {
  const uint8_t most;
  const uint32_t window, hold_after, repeat_every;
  const bool quicken;
  uint8_t now_said = 0, clicks = 0;
  bool down = false, held = false;
  uint32_t since = 0, repeated = 0, gap = 0;

  Gestures(uint8_t most_, uint32_t window_, uint32_t hold_, uint32_t repeat_, bool quicken_)
      : most(most_), window(window_), hold_after(hold_), repeat_every(repeat_), quicken(quicken_) {}

  bool said(Gesture what) const { return now_said & what; }

  void clicked() {
    now_said |= uint8_t(1 << (clicks - 1));
    clicks = 0;
  }

  void spend() {
    clicks = 0;
    down = false;
  }

  void step(uint32_t now, Edge edge) {
    now_said = 0;
    if (clicks && !down && uint32_t(now - since) >= window) clicked();
    if (edge == PRESS) {
      down = true;
      held = false;
      since = now;
    } else if (edge == RELEASE && down) {
      down = false;
      since = now;
      if (held) {
        now_said |= LONG_RELEASE;
      } else {
        ++clicks;
        if (clicks == most) clicked();
      }
    }
    if (!down || !hold_after) return;
    if (!held && uint32_t(now - since) >= hold_after) {
      if (clicks) clicked();
      now_said |= HOLD;
      held = true;
      repeated = now;
      gap = repeat_every;
    } else if (held && repeat_every && uint32_t(now - repeated) >= gap) {
      now_said |= REPEAT;
      repeated = now;
      if (quicken) gap = gap * 3 / 4 > 40 ? gap * 3 / 4 : 40;
    }
  }
};
