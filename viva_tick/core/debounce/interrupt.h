// Ignore time on an edge interrupt: the handler keeps a flag that the pass consumes.
struct OnInterrupt {
  bool accepted = false;
  volatile bool flag = false;
  volatile bool called = false;
  volatile uint32_t last = 0;

  void handle(uint32_t wait) {
    const uint32_t now = millis();
    if (called && uint32_t(now - last) < wait) return;
    called = true;
    last = now;
    flag = true;
  }

  Edge step(uint32_t now, bool pressed, uint32_t wait) {
    noInterrupts();  // the handler must not come between
    const uint32_t passed = now - last;
    // Over, before the counter comes round to it. An edge after `now` was read lies ahead of it: not over.
    if (called && passed >= wait && passed < 0x80000000UL) called = false;
    interrupts();
    if (flag) {
      flag = false;
      accepted = true;
      return PRESS;
    }
    if (accepted && !pressed) {
      accepted = false;
      return RELEASE;
    }
    return NO_EDGE;
  }
};
