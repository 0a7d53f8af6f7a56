// Wait until stable: a change is accepted when the reading has been stable for the wait.
struct WaitUntilStable {
  bool accepted = false;
  bool raw = false;
  uint32_t since = 0;

  Edge step(uint32_t now, bool pressed, uint32_t wait) {
    if (pressed != raw) {
      raw = pressed;
      since = now;
    }
    // Unsigned subtraction stays right when the counter wraps.
    if (pressed == accepted || uint32_t(now - since) < wait) return NO_EDGE;
    accepted = pressed;
    return pressed ? PRESS : RELEASE;
  }
};
