// Lock out after the first edge, with one timer for all inputs: whichever acted last deafens the others too.
bool shared_locked = false;
uint32_t shared_since = 0;

struct SharedIgnore {
  bool accepted = false;

  Edge step(uint32_t now, bool pressed, uint32_t wait) {
    if (shared_locked && uint32_t(now - shared_since) >= 0x80000000UL) shared_locked = false;  // long over
    if (shared_locked && uint32_t(now - shared_since) < wait) return NO_EDGE;
    if (pressed == accepted) return NO_EDGE;
    accepted = pressed;
    shared_locked = true;
    shared_since = now;
    return pressed ? PRESS : RELEASE;
  }
};
