#if AT_FIELDS
  uint8_t rated = 0;  // which of the variables that rates come from
  uint32_t rate_unit = 0, rate_ms = 0;
#endif
#if AT_START
    rated = 0;
#endif
#if AT_CALLS
  void rate(uint8_t which, uint32_t unit) {
    start(RATE, 100);
    rated = which;
    rate_unit = unit;
  }
#endif
#if AT_COURSE
      case RATE:
        if (uint32_t(now - since) < rate_ms) return want;
        since += rate_ms;  // last + time, so that the beat does not drift
        return want ? 0 : 100;
#endif
