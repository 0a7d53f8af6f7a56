// Lock out after the first edge: the first edge is accepted at once, then the input is deaf for the wait.
struct LockOut {
  bool accepted = false;
  bool locked = false;
  uint32_t since = 0;

  Edge step(uint32_t now, bool pressed, uint32_t wait) {
    if (locked) {
      // Unsigned subtraction stays right when the counter wraps.
      if (uint32_t(now - since) < wait) return NO_EDGE;
      locked = false;
    }
    if (pressed == accepted) return NO_EDGE;
    accepted = pressed;
    locked = true;
    since = now;
    return pressed ? PRESS : RELEASE;
  }
};
