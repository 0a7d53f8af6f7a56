// A low-pass: each sample moves it by 1/2^SHIFT of the difference.
template <uint8_t SHIFT>
struct Slow {
  int32_t slow = -1;

  uint16_t take(uint16_t count) {
    if (slow < 0) slow = int32_t(count) << SHIFT;
    else slow += int32_t(count) - (slow >> SHIFT);
    return uint16_t(slow >> SHIFT);
  }
};
