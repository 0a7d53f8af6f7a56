// Count samples: up while pressed, down while not; accepted at either end.
struct CountSamples {
  const uint32_t sample_ms;
  bool accepted = false;
  bool running = false;
  uint32_t count = 0;
  uint32_t since = 0;

  explicit CountSamples(uint32_t sample_ms_) : sample_ms(sample_ms_) {}

  Edge step(uint32_t now, bool pressed, uint32_t wait) {
    const uint32_t ends = wait >= sample_ms ? wait / sample_ms : 1;
    if (count == (pressed ? ends : 0)) {
      running = false;
      return NO_EDGE;
    }
    // Unsigned subtraction stays right when the counter wraps.
    if (running && uint32_t(now - since) < sample_ms) return NO_EDGE;
    running = true;
    since = now;
    count += pressed ? 1 : -1;
    if (count != 0 && count != ends) return NO_EDGE;
    running = false;
    if (accepted == pressed) return NO_EDGE;
    accepted = pressed;
    return pressed ? PRESS : RELEASE;
  }
};
