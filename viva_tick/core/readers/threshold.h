enum Crossing : int8_t { BELOW = -1, NO_CROSSING = 0, ABOVE = 1 };

// Above from `upper` on, below again under `lower`, each only when it has been so for a while.
struct Threshold {
  const int32_t upper, lower;  // one that is never reached may lie beyond the scale
  const bool falling;
  const uint32_t dwell;
  bool accepted = false, waiting = false;
  uint32_t since = 0;

  Threshold(int32_t upper_, int32_t lower_, bool falling_, uint32_t dwell_)
      : upper(upper_), lower(lower_), falling(falling_), dwell(dwell_) {}

  Crossing step(uint32_t now, uint16_t count) {
    const int32_t line = accepted ? lower : upper;
    const bool beyond = falling ? count <= line : count >= line;
    if (beyond == accepted) {
      waiting = false;
      return NO_CROSSING;
    }
    if (!waiting) {
      waiting = true;
      since = now;
    }
    if (uint32_t(now - since) < dwell) return NO_CROSSING;
    waiting = false;
    accepted = beyond;
    return beyond ? ABOVE : BELOW;
  }
};
