// Fixed delay: every change is an edge; loop() stands still after it has acted on one.
struct DelayAfter {
  bool believed = false;

  Edge step(uint32_t, bool pressed, uint32_t) {
    if (pressed == believed) return NO_EDGE;
    believed = pressed;
    return pressed ? PRESS : RELEASE;
  }
};
