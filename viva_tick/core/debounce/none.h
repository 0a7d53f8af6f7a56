// No debounce: every change of the reading is an edge.
struct Believed {
  bool accepted = false;

  Edge step(uint32_t, bool pressed, uint32_t) {
    if (pressed == accepted) return NO_EDGE;
    accepted = pressed;
    return pressed ? PRESS : RELEASE;
  }
};
