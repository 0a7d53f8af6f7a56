// No debounce: every change of the reading is an edge.
struct Believed {
  bool believed = false;

  Edge step(uint32_t, bool pressed, uint32_t) {
    if (pressed == believed) return NO_EDGE;
    believed = pressed;
    return pressed ? PRESS : RELEASE;
  }
};
