#if AT_FIELDS && !USE_BLINK
  uint32_t on_ms = 0, off_ms = 0;
#endif
#if AT_FIELDS
  uint32_t rest_ms = 0, for_ms = 0, begun = 0;
  uint16_t times = 1, rounds = 0, place = 0;
  bool over = false;
#endif
#if AT_START
    over = false;
    place = 0;
#endif
#if AT_CALLS
  void beat(uint32_t on_for, uint32_t off_for, uint32_t rest, uint16_t flashes, uint16_t rounds_, uint32_t for_all) {
    start(BEAT, 100);
    on_ms = on_for;
    off_ms = off_for;
    rest_ms = rest;
    times = flashes;
    rounds = rounds_;
    for_ms = for_all;
  }
#endif
#if AT_HELPERS && USE_HELD_BEAT
  // What is left of the whole time after that.
  uint32_t stay(uint8_t value, uint32_t ms, uint32_t all) {
    if (!all) return 0;
    put(value);
    const uint32_t longest = ms < all ? ms : all;
    delay(longest);
    return all - longest;
  }
#endif
#if AT_BEGIN
      begun = now;
#endif
#if AT_COURSE
      case BEAT: {
        if (over) return 0;
        if (for_ms && uint32_t(now - begun) >= for_ms) {
          over = true;
          return 0;
        }
        const uint32_t wait = want ? on_ms : place + 1 == times ? rest_ms : off_ms;
        if (uint32_t(now - since) < wait) return want;
        since += wait;
        if (!want) ++place;
        if (place == times) {
          place = 0;
          if (rounds == 1) {
            over = true;
            return 0;
          }
          if (rounds) --rounds;
        }
        return want ? 0 : 100;
      }
#endif
#if AT_WAIT && USE_HELD_BEAT
        case BEAT: {
          uint32_t all = for_ms ? for_ms : 0xFFFFFFFFUL;
          for (uint16_t round = 0; round < (rounds ? rounds : 1); ++round)
            for (uint16_t n = 0; n < times; ++n) {
              all = stay(100, on_ms, all);
              all = stay(0, n + 1 == times ? rest_ms : off_ms, all);
            }
          put(0);
          break;
        }
#endif
#if AT_END
      case BEAT:
        if (!over) return false;
        break;
#endif
