// Two buttons pressed together: the second no later than so long after the first.
struct Chord {
  const uint32_t together;
  bool down[2] = {false, false};
  uint32_t pressed[2] = {0, 0};

  explicit Chord(uint32_t together_) : together(together_) {}

  bool step(uint32_t now, Edge one, Edge other) {
    const Edge edges[2] = {one, other};
    for (uint8_t n = 0; n < 2; ++n) {
      if (edges[n] == NO_EDGE) continue;
      down[n] = edges[n] == PRESS;
      pressed[n] = now;
    }
    if ((one != PRESS && other != PRESS) || !down[0] || !down[1]) return false;
    return uint32_t(now - pressed[0]) <= together && uint32_t(now - pressed[1]) <= together;
  }
};
