// What a cleaned contact did in a pass.
enum Edge : uint8_t { NO_EDGE, PRESS, RELEASE };
