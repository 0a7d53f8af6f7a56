// How many of a pass's steps follow the one before, the same way, within a while.
struct Pace {
  const uint32_t fast;
  int8_t way = 0;
  uint32_t last = 0;

  Pace(uint32_t fast_) : fast(fast_) {}

  int16_t steps(uint32_t now, int16_t turned) {
    int16_t quick = 0;
    if (way && uint32_t(now - last) > fast) way = 0;  // over, before the counter comes round to it
    for (int16_t n = turned; n != 0; n = int16_t(n > 0 ? n - 1 : n + 1)) {
      const int8_t now_way = n > 0 ? 1 : -1;
      if (now_way == way && uint32_t(now - last) <= fast) quick = int16_t(quick + now_way);
      way = now_way;
      last = now;
    }
    return quick;
  }
};
