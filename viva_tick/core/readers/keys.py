"""Keys of a matrix: each believed when its reading has rested for the wait; keys that are let pass make no event."""

from __future__ import annotations


class KeyCleaner:
    """What the firmware believes of every key, by its place, row by row."""

    __slots__ = ("believed", "raw", "since_ms", "wait_ms")

    def __init__(self, keys: int, wait_ms: int) -> None:
        self.wait_ms = wait_ms
        self.believed = [False] * keys
        self.raw = [False] * keys
        self.since_ms = [0] * keys

    def scan(self, now_ms: int, closed: list[bool]) -> list[tuple[int, bool]]:
        """Take one scan; answer (place, pressed) of every key whose belief changes, in order."""
        changed = []
        for place, reading in enumerate(closed):
            if reading != self.raw[place]:
                self.raw[place] = reading
                self.since_ms[place] = now_ms
            if reading != self.believed[place] and (now_ms - self.since_ms[place]) & 0xFFFF_FFFF >= self.wait_ms:
                self.believed[place] = reading
                changed.append((place, reading))
        return changed


class CodeLock:
    """Keys held against a code: as many as it has are taken before it says which; a long rest begins anew."""

    __slots__ = ("code", "forget_ms", "last_ms", "right", "taken")

    def __init__(self, code: list[int], forget_ms: int) -> None:
        self.code = code
        self.forget_ms = forget_ms
        self.taken = 0
        self.right = True
        self.last_ms = 0

    def key(self, now_ms: int, place: int) -> str:
        """Take a key: "code" or "wrong" when there are enough of them, "" until then."""
        if not self.code:
            return ""
        if self.taken and (now_ms - self.last_ms) & 0xFFFF_FFFF > self.forget_ms:
            self.taken, self.right = 0, True
        self.last_ms = now_ms
        self.right = self.right and place == self.code[self.taken]
        self.taken += 1
        if self.taken < len(self.code):
            return ""
        right = self.right
        self.taken, self.right = 0, True
        return "code" if right else "wrong"


CODE_SKETCH = """\
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
    if (++taken < length) return NO_CODE;
    const bool was = right;
    taken = 0;
    right = true;
    return was ? CODE : WRONG;
  }
};
"""

KEYS_SKETCH = """\
// Keys at the crossings of rows and columns. A scan drives one row low at a time and reads the pulled-up columns.
template <uint8_t ROWS, uint8_t COLUMNS>
struct Keys {
  const uint8_t *rows, *columns;
  bool raw[ROWS * COLUMNS] = {}, believed[ROWS * COLUMNS] = {}, pressed[ROWS * COLUMNS] = {};
  uint32_t since[ROWS * COLUMNS] = {};

  Keys(const uint8_t *rows_, const uint8_t *columns_) : rows(rows_), columns(columns_) {}

  void rest() {
    for (bool &key : pressed) key = false;
  }

  void scan(uint32_t now, uint32_t wait) {
    for (uint8_t row = 0; row < ROWS; ++row) {
      digitalWrite(rows[row], LOW);
      pinMode(rows[row], OUTPUT);
      for (uint8_t column = 0; column < COLUMNS; ++column) {
        const uint8_t place = uint8_t(row * COLUMNS + column);
        const bool reading = digitalRead(columns[column]) == LOW;
        pressed[place] = false;
        if (reading != raw[place]) {
          raw[place] = reading;
          since[place] = now;
        }
        if (reading == believed[place] || uint32_t(now - since[place]) < wait) continue;
        believed[place] = reading;
        pressed[place] = reading;
      }
      pinMode(rows[row], INPUT);  // let go: the other rows must not drive against it
    }
  }
};
"""
