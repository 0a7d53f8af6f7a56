#if AT_FIELDS && !USE_BEAT && !USE_RAMP
  bool over = false;
#endif
#if AT_FIELDS
  const Step *steps = nullptr;
  uint16_t count = 0, at = 0, left = 0;
#endif
#if AT_START && !USE_BEAT && !USE_RAMP
    over = false;
#endif
#if AT_START
    at = 0;
#endif
#if AT_CALLS
  void sequence(const Step *steps_, uint16_t count_, uint16_t rounds_) {
    start(SEQUENCE, steps_[0].level);
    steps = steps_;
    count = count_;
    left = rounds_;
  }
#endif
#if AT_COURSE
      case SEQUENCE:
        if (!over && uint32_t(now - since) >= steps[at].ms) {
          since += steps[at].ms;
          if (at + 1 < count) {
            ++at;
          } else if (left == 1) {
            over = true;
          } else {
            if (left) --left;
            at = 0;
          }
        }
        return steps[at].level;
#endif
#if AT_WAIT && USE_HELD_SEQUENCE
        case SEQUENCE:
          for (uint16_t round = 0; round < (left ? left : 1); ++round)
            for (uint16_t n = 0; n < count; ++n) {
              put(steps[n].level);
              delay(steps[n].ms);
            }
          break;
#endif
#if AT_END
      case SEQUENCE:
        if (!over) return false;
        break;
#endif
