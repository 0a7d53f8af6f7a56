// The average of the last samples; of as many as there are, at first.
template <uint8_t OVER>
struct Average {
  uint16_t kept[OVER];
  uint8_t have = 0, next = 0;
  uint32_t sum = 0;

  uint16_t take(uint16_t count) {
    if (have == OVER) sum -= kept[next];
    else ++have;
    kept[next] = count;
    sum += count;
    next = uint8_t((next + 1) % OVER);
    return uint16_t(sum / have);
  }
};
