// Ignore time on edge interrupts, one handler for several pins: it does not know which of them called it.
volatile bool shared_flag = false;
volatile bool shared_called = false;
volatile uint32_t shared_last = 0;
uint32_t shared_wait = 0;
uint8_t shared_members = 0;
volatile uint8_t shared_looked = 0;  // of them have seen the flag, and were not pressed

struct OnSharedInterrupt {
  bool accepted = false;

  static void edge() {
    const uint32_t now = millis();
    if (shared_called && uint32_t(now - shared_last) < shared_wait) return;
    shared_called = true;
    shared_flag = true;
    shared_last = now;
    shared_looked = 0;
  }

  void join(uint32_t wait) {  // the first one's wait is that of all
    if (!shared_members) shared_wait = wait;
    ++shared_members;
  }

  Edge step(uint32_t now, bool pressed, uint32_t wait) {
    (void)wait;  // one for all
    noInterrupts();  // the handler must not come between
    const uint32_t passed = now - shared_last;
    if (shared_called && passed >= shared_wait && passed < 0x80000000UL) shared_called = false;
    const bool mine = shared_flag && pressed;
    if (mine) {
      shared_flag = false;
    } else if (shared_flag) {
      ++shared_looked;
      if (shared_looked >= shared_members) shared_flag = false;  // nobody's
    }
    interrupts();
    if (mine) {
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
