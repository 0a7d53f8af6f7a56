// Numbers from the serial line: one at most in a pass, -1 for none or the same one again too soon.
struct Listener {
  const bool typed;  // digits and a new line, or one byte a number
  const bool lines;  // what ends a line is no number
  const uint32_t repeat;
#if USE_ENDS
  uint32_t ends = 0;  // a rest of so long ends what is typed; 0: only its line does
#endif
  int32_t typing = -1, last = -1;
  uint32_t last_at = 0;
#if USE_ENDS
  uint32_t typing_at = 0;
#endif

  Listener(bool typed_, bool lines_, uint32_t repeat_) : typed(typed_), lines(lines_), repeat(repeat_) {}

#if USE_ENDS
  int32_t arrived(uint32_t now) {
#else
  int32_t arrived() {
#endif
    while (Serial.available() > 0) {
      const int got = Serial.read();
      if (!typed && lines && (got == 10 || got == 13)) continue;
      if (!typed) return got;
      if (got >= '0' && got <= '9') {
        typing = (typing < 0 ? 0 : typing) * 10 + (got - '0');
        if (typing > 65535) typing = 65535;
#if USE_ENDS
        typing_at = now;
#endif
      } else if (typing >= 0) {  // the end of the line, or whatever comes with it
        const int32_t number = typing;
        typing = -1;
        return number;
      }
    }
#if USE_ENDS
    if (ends && typing >= 0 && uint32_t(now - typing_at) >= ends) {
      const int32_t number = typing;
      typing = -1;
      return number;
    }
#endif
    return -1;
  }

  int32_t hear(uint32_t now) {
    if (last >= 0 && uint32_t(now - last_at) >= repeat) last = -1;  // over, before the counter comes round to it
#if USE_ENDS
    const int32_t number = arrived(now);
#else
    const int32_t number = arrived();
#endif
    if (number < 0) return -1;
    const bool again = number == last && uint32_t(now - last_at) < repeat;
    last = number;
    last_at = now;
    return again ? -1 : number;
  }
};
