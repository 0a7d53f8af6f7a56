// Fixed delay: every change is an edge; it holds the loop after it has acted on one.
struct DelayAfter {
  bool accepted = false;

  Edge step(uint32_t, bool pressed, uint32_t) {
    if (pressed == accepted) return NO_EDGE;
    accepted = pressed;
    return pressed ? PRESS : RELEASE;
  }
};
