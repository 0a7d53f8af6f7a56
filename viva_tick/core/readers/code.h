// Keys held against a code: as many as it has are taken before it says which; a long rest begins anew.
enum CodeSays : uint8_t { NO_CODE, CODE, WRONG };

struct CodeLock {
  const uint8_t *code;
  const uint8_t length;
  const uint32_t forget;
  uint8_t taken = 0;
  bool right = true;
  uint32_t last = 0;

  CodeLock(const uint8_t *code_, uint8_t length_, uint32_t forget_) : code(code_), length(length_), forget(forget_) {}

  CodeSays key(uint32_t now, uint8_t place) {
    if (taken && uint32_t(now - last) > forget) {
      taken = 0;
      right = true;
    }
    last = now;
    right = right && place == code[taken];
    ++taken;
    if (taken < length) return NO_CODE;
    const bool was = right;
    taken = 0;
    right = true;
    return was ? CODE : WRONG;
  }
};
