// Wait until stable, in one function for all inputs: it remembers one reading, whichever input it was.
bool shared_reading = false;
uint32_t shared_stable_since = 0;

struct SharedRest {
  bool accepted = false;

  static bool stable(uint32_t now, bool pressed, uint32_t wait) {
    if (pressed != shared_reading) {
      shared_reading = pressed;
      shared_stable_since = now;
    }
    return uint32_t(now - shared_stable_since) >= wait;
  }

  Edge step(uint32_t now, bool pressed, uint32_t wait) {
    const bool rested = stable(now, pressed, wait);
    if (pressed == accepted || !rested) return NO_EDGE;
    accepted = pressed;
    return pressed ? PRESS : RELEASE;
  }
};
