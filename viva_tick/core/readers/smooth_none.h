// Each sample as it is.
struct Plain {
  uint16_t take(uint16_t count) { return count; }
};
