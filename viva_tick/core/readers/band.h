// Whether a level has stayed between two thresholds for a while: said once each time that it has.
struct Band {
  const int32_t low, high;
  const uint32_t wait;
  bool inside = false, said = false;
  uint32_t since = 0;

  Band(int32_t low_, int32_t high_, uint32_t wait_) : low(low_), high(high_), wait(wait_) {}

  bool step(uint32_t now, uint16_t count) {
    if (count < low || count > high) {
      inside = false;
      return false;
    }
    if (!inside) {
      inside = true;
      said = false;
      since = now;
    }
    if (said || uint32_t(now - since) < wait) return false;
    said = true;
    return true;
  }
};
