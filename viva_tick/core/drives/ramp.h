#if AT_FIELDS && !USE_BEAT
  bool over = false;
#endif
#if AT_FIELDS
  uint32_t ramp_ms = 0;
  uint8_t from = 0, to = 0, curve = 0;
#endif
#if AT_START && !USE_BEAT
    over = false;
#endif
#if AT_CALLS
  void ramp(uint8_t from_, uint8_t to_, uint32_t time, uint8_t curve_) {
    start(RAMP, from_);
    from = from_;
    to = to_;
    ramp_ms = time;
    curve = curve_;
  }
#endif
#if AT_CALLS && USE_RAMP_ON
  void ramp_on(uint8_t to_, uint32_t time, uint8_t curve_) { ramp(level, to_, time, curve_); }
#endif
#if AT_HELPERS
  uint8_t ramp_at(uint32_t passed) const {
    uint32_t x = 1000UL * passed / ramp_ms;  // thousandths, whole numbers throughout
    if (curve == 1) x = x * x / 1000;
    if (curve == 2) x = x * x * (3000 - 2 * x) / 1000000UL;
    const uint8_t way = uint8_t((to > from ? to - from : from - to) * x / 1000);
    return uint8_t(to > from ? from + way : from - way);
  }
#endif
#if AT_COURSE
      case RAMP:
        if (over || uint32_t(now - since) >= ramp_ms) {
          over = true;
          return to;
        }
        return ramp_at(now - since);
#endif
#if AT_WAIT && USE_HELD_RAMP
        case RAMP:
          for (uint32_t passed = 0; passed < ramp_ms; passed += 10) {
            put(ramp_at(passed));
            delay(ramp_ms - passed < 10 ? ramp_ms - passed : 10);
          }
          put(to);
          break;
#endif
#if AT_END
      case RAMP:
        if (!over) return false;
        break;
#endif
