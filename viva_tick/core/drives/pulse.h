#if AT_FIELDS && !USE_BLINK && !USE_BEAT
  uint32_t on_ms = 0;
#endif
#if AT_CALLS
  void pulse(uint32_t length) {
    start(PULSE, 100);
    on_ms = length;
  }
#endif
#if AT_COURSE
      case PULSE: return uint32_t(now - since) >= on_ms ? uint8_t(0) : want;
#endif
#if AT_WAIT && USE_HELD_PULSE
        case PULSE:
          put(100);
          delay(on_ms);
          put(0);
          break;
#endif
#if AT_END
      case PULSE:
        if (want) return false;
        break;
#endif
