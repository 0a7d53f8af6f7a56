#if AT_FIELDS
  uint8_t follows = 0;  // which of the things that outputs follow
  uint8_t seen = 0;
#endif
#if AT_START
    follows = 0;
#endif
#if AT_CALLS
  void follow(uint8_t which) {
    start(FOLLOW, 0);
    follows = which;
  }
#endif
#if AT_BEGIN
      begins_at = kind == FOLLOW ? seen : begins_at;
#endif
#if AT_COURSE
      case FOLLOW: return seen;
#endif
