"""Numbers that arrive: which mean something, and which are the same one again."""

from __future__ import annotations


class Listener:
    """Takes numbers as they arrive; `meaning[n]` is the name of number `first` + n, "" for none."""

    __slots__ = ("first", "last", "last_ms", "meaning", "repeat_ms", "unknown")

    def __init__(self, first: int, meaning: tuple[str, ...], repeat_ms: int) -> None:
        self.first = first
        self.meaning = meaning
        self.repeat_ms = repeat_ms
        self.last = -1
        self.last_ms = 0
        self.unknown = 0

    def rest(self, now_ms: int) -> None:
        """Each pass: a number so long ago is over, before the counter comes round to it."""
        if self.last >= 0 and (now_ms - self.last_ms) & 0xFFFF_FFFF >= self.repeat_ms:
            self.last = -1

    def hear(self, now_ms: int, number: int) -> str:
        """The name of a number that has just arrived; "" for one that is let pass."""
        self.rest(now_ms)
        again = number == self.last and (now_ms - self.last_ms) & 0xFFFF_FFFF < self.repeat_ms
        self.last, self.last_ms = number, now_ms
        if again:
            return ""
        place = number - self.first
        name = self.meaning[place] if 0 <= place < len(self.meaning) else ""
        if not name:
            self.unknown += 1
        return name


LISTENER_SKETCH = """\
// Numbers from the serial line: one at most in a pass, -1 for none or the same one again too soon.
struct Listener {
  const bool typed;  // digits and a new line, or one byte a number
  const bool lines;  // what ends a line is no number
  const uint32_t repeat;
  int32_t typing = -1, last = -1;
  uint32_t last_at = 0;

  Listener(bool typed_, bool lines_, uint32_t repeat_) : typed(typed_), lines(lines_), repeat(repeat_) {}

  int32_t arrived() {
    while (Serial.available() > 0) {
      const int got = Serial.read();
      if (!typed && lines && (got == 10 || got == 13)) continue;
      if (!typed) return got;
      if (got >= '0' && got <= '9') {
        typing = (typing < 0 ? 0 : typing) * 10 + (got - '0');
        if (typing > 65535) typing = 65535;
      } else if (typing >= 0) {  // the end of the line, or whatever comes with it
        const int32_t number = typing;
        typing = -1;
        return number;
      }
    }
    return -1;
  }

  int32_t hear(uint32_t now) {
    if (last >= 0 && uint32_t(now - last_at) >= repeat) last = -1;  // over, before the counter comes round to it
    const int32_t number = arrived();
    if (number < 0) return -1;
    const bool again = number == last && uint32_t(now - last_at) < repeat;
    last = number;
    last_at = now;
    return again ? -1 : number;
  }
};
"""
