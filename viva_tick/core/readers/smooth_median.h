// The middle one of the last samples: a single spike is never seen.
template <uint8_t OVER>
struct Median {
  uint16_t kept[OVER];
  uint8_t have = 0, next = 0;

  uint16_t take(uint16_t count) {
    kept[next] = count;
    next = uint8_t((next + 1) % OVER);
    if (have < OVER) ++have;
    uint16_t sorted[OVER] = {};
    for (uint8_t n = 0; n < have; ++n) {
      uint8_t at = n;
      for (; at && sorted[at - 1] > kept[n]; --at) sorted[at] = sorted[at - 1];
      sorted[at] = kept[n];
    }
    return sorted[have / 2];
  }
};
