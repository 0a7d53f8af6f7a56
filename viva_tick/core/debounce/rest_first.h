// Wait until stable: a change is believed when the reading has stood still for the wait.
struct RestFirst {
  bool believed = false;
  bool raw = false;
  uint32_t since = 0;

  Edge step(uint32_t now, bool pressed, uint32_t wait) {
    if (pressed != raw) {
      raw = pressed;
      since = now;
    }
    // Unsigned subtraction stays right when the counter wraps.
    if (pressed == believed || uint32_t(now - since) < wait) return NO_EDGE;
    believed = pressed;
    return pressed ? PRESS : RELEASE;
  }
};
