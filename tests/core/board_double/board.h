// A test double of the board calls: time is simulated, contacts are played back, outputs are written down.
// It knows nothing of Viva Tick but what a board would show: how long a call takes, and the level at a pin.
#pragma once
#include <cstdint>
#include <cstdio>
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

extern int64_t clock_us, held_us;
extern uint32_t counter_start;
extern int64_t counter_zero_us;
extern int64_t cost_pass_us, cost_read_us;
extern std::map<int, Levels> levels;
extern std::map<int, int> written;

inline uint32_t millis() {
  const uint32_t now = counter_start + uint32_t((clock_us - counter_zero_us) / 1000);
  clock_us += cost_pass_us;
  return now;
}

inline void hold(int64_t us) {
  clock_us += us;
  held_us += us;
}

inline void delay(uint32_t ms) { hold(int64_t(ms) * 1000); }

inline int digitalRead(int pin) {
  clock_us += cost_read_us;
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
