// An encoder by the table of its Gray code: to the right A leads B. Bounces add up to nothing; 2 is an error.
const int8_t GRAY_STEP[16] = {0, 1, -1, 2, -1, 0, 2, 1, 1, 2, 0, -1, 2, -1, 1, 0};

struct Quadrature {
  const int8_t counts_a_step;
  const int8_t sign;
  int8_t seen = -1;  // nothing yet
  int8_t counts = 0;
  uint16_t errors = 0;
#if USE_LEAST
  uint32_t least = 0, last = 0;  // a change sooner than that after the one before is not looked at
  bool recent = false;
#endif

  Quadrature(int8_t counts_a_step_, int8_t sign_) : counts_a_step(counts_a_step_), sign(sign_) {}

#if USE_LEAST
  void rest(uint32_t now) {
    if (recent && uint32_t(now - last) >= least) recent = false;
  }

  int8_t see(bool a, bool b, uint32_t now) {
#else
  int8_t see(bool a, bool b) {
#endif
    const int8_t state = int8_t((a ? 1 : 0) | (b ? 2 : 0));
    if (seen < 0) {
      seen = state;
      return 0;
    }
#if USE_LEAST
    if (state != seen) {
      rest(now);
      if (recent) return 0;
      recent = least > 0;
      last = now;
    }
#endif
    const int8_t step = GRAY_STEP[(seen << 2) | state];
    seen = state;
    if (step == 2) {
      ++errors;
      return 0;
    }
    counts = int8_t(counts + step);
    if (counts < counts_a_step && counts > -counts_a_step) return 0;
    const int8_t whole = counts > 0 ? sign : int8_t(-sign);
    counts = 0;
    return whole;
  }
};
