#if AT_FIELDS
  uint32_t on_ms = 0, off_ms = 0;
#endif
#if AT_CALLS
  void blink(uint32_t on_for, uint32_t off_for) {
    start(BLINK, 100);
    on_ms = on_for;
    off_ms = off_for;
  }
#endif
#if AT_COURSE
      case BLINK:
        if (uint32_t(now - since) < (want ? on_ms : off_ms)) return want;
        since += want ? on_ms : off_ms;  // last + time, so that the beat does not drift
        return want ? 0 : 100;
#endif
#if AT_WAIT && USE_HELD_BLINK
        case BLINK:
          put(100);
          delay(on_ms);
          put(0);
          delay(off_ms);
          break;
#endif
