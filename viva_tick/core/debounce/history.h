// History: so many samples in a row must differ from what is accepted.
struct History {
  const uint32_t sample_ms;
  bool accepted = false;
  uint32_t streak = 0;
  uint32_t since = 0;

  explicit History(uint32_t sample_ms_) : sample_ms(sample_ms_) {}

  Edge step(uint32_t now, bool pressed, uint32_t wait) {
    if (streak == 0) {
      if (pressed == accepted) return NO_EDGE;
    } else if (uint32_t(now - since) < sample_ms) {  // right across the counter's wrap
      return NO_EDGE;
    }
    since = now;
    if (pressed == accepted) {
      streak = 0;
      return NO_EDGE;
    }
    ++streak;
    if (streak < (wait >= sample_ms ? wait / sample_ms : 1)) return NO_EDGE;
    streak = 0;
    accepted = pressed;
    return pressed ? PRESS : RELEASE;
  }
};
