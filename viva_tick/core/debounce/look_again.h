#if USE_PRESS
// Wait and look again, on the press only: everything stops for the wait, and until the button is released.
#elif USE_RELEASE
// Wait and look again, acting when it is released: everything stops for the wait, and until the button is released.
#else
// Wait and look again: everything stops for the wait, and until the button is released.
#endif
struct LookAgain {
  const uint8_t pin;
  const uint8_t on_level;
  bool accepted = false;
#if USE_RELEASE
  bool owed = false;
#endif
  bool let_go = false;

  LookAgain(uint8_t pin_, uint8_t on_level_) : pin(pin_), on_level(on_level_) {}

  bool pressed() const { return digitalRead(pin) == on_level; }

  Edge step(uint32_t, bool reading, uint32_t wait) {
    if (let_go) {
      let_go = false;
      return RELEASE;
    }
#if USE_RELEASE
    if (owed) {
      owed = false;
      let_go = true;
      return PRESS;
    }
#endif
    if (!reading) return NO_EDGE;
    delay(wait);
    if (!pressed()) return NO_EDGE;
    accepted = true;
#if USE_RELEASE
    return NO_EDGE;
#else
    return PRESS;
#endif
  }

#if USE_PRESS
  void finish(uint32_t) {
    if (!accepted) return;
    while (pressed()) {}
#else
  void finish(uint32_t wait) {
    if (!accepted) return;
    do {
      while (pressed()) {}
      delay(wait);
    } while (pressed());
#endif
    accepted = false;
#if USE_RELEASE
    owed = true;
#else
    let_go = true;
#endif
  }
};
