// A test double of the board calls: time is simulated, contacts are played back, outputs are written down.
// It knows nothing of Viva Tick but what a board would show: how long a call takes, and the level at a pin.
#pragma once
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <map>
#include <utility>
#include <vector>

enum { LOW = 0, HIGH = 1, INPUT = 0, OUTPUT = 1, INPUT_PULLUP = 2, INPUT_PULLDOWN = 3 };
enum { A0 = 14, A1, A2, A3, A4, A5 };
enum { WDTO_15MS, WDTO_30MS, WDTO_60MS, WDTO_120MS, WDTO_250MS, WDTO_500MS, WDTO_1S, WDTO_2S, WDTO_4S, WDTO_8S };

struct Levels {
  std::vector<std::pair<int64_t, int>> changes;
  size_t next = 0;
  int level = 0;
};

extern int64_t clock_us, held_us, reads;
extern uint32_t counter_start;
extern int64_t counter_zero_us;
extern int64_t cost_pass_us, cost_read_us;
extern std::map<int, Levels> levels;
extern int64_t called_at_us;  // the counter stands still for a handler at the edge that called it
extern std::map<int, int> written;

inline uint32_t millis() {
  if (called_at_us >= 0) return counter_start + uint32_t((called_at_us - counter_zero_us) / 1000);
  const uint32_t now = counter_start + uint32_t((clock_us - counter_zero_us) / 1000);
  clock_us += cost_pass_us;
  return now;
}

inline void hold(int64_t us) {
  clock_us += us;
  held_us += us;
}

inline void delay(uint32_t ms) { hold(int64_t(ms) * 1000); }

extern int64_t end_us, latency_us;
struct Called {
  int pin, level;
  size_t next;
  void (*handler)();
};
extern std::vector<Called> called;

// Handlers run at their edges, before whatever the sketch does next.
inline void interrupts() {
  for (Called &one : called) {
    const auto &changes = levels[one.pin].changes;
    for (; one.next < changes.size() && changes[one.next].first <= clock_us; ++one.next) {
      if (changes[one.next].second != one.level) continue;
      called_at_us = changes[one.next].first + latency_us;
      one.handler();
      called_at_us = -1;
    }
  }
}

enum { FALLING = 0, RISING = 1 };
inline int digitalPinToInterrupt(int pin) { return pin; }
inline void attachInterrupt(int pin, void (*handler)(), int way) {
  Called one{pin, way == RISING ? HIGH : LOW, 0, handler};
  const auto &changes = levels[pin].changes;
  while (one.next < changes.size() && changes[one.next].first <= clock_us) ++one.next;
  called.push_back(one);
}

inline int digitalRead(int pin) {
  clock_us += cost_read_us;
  ++reads;
  if (clock_us > end_us) std::exit(0);
  interrupts();
  Levels &at = levels[pin];
  while (at.next < at.changes.size() && at.changes[at.next].first <= clock_us) at.level = at.changes[at.next++].second;
  return at.level;
}

inline void digitalWrite(int pin, int level) {
  if (written.count(pin) && written[pin] == level) return;
  written[pin] = level;
  std::printf("%lld %d %d\n", (long long)clock_us, pin, level);
}

inline void pinMode(int, int) {}
inline void wdt_enable(int) {}
inline void wdt_disable() {}
inline void wdt_reset() {}
