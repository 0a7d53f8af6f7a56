// Runs a sketch on the double: standard input holds the run's numbers and the levels at the pins.
#include "board.h"

int64_t clock_us = 0, held_us = 0;
uint32_t counter_start = 0;
int64_t counter_zero_us = 0;
int64_t cost_pass_us = 0, cost_read_us = 0;
std::map<int, Levels> levels;
std::map<int, int> written;

void setup();
void loop();

int main() {
  long long zero, ready, end, start, pass, read, idle, pin, count, at, level;
  if (std::scanf("%lld %lld %lld %lld %lld %lld %lld", &zero, &ready, &end, &start, &pass, &read, &idle) != 7) return 2;
  counter_zero_us = zero;
  counter_start = uint32_t(start);
  cost_pass_us = pass;
  cost_read_us = read;
  while (std::scanf("%lld %lld", &pin, &count) == 2)
    for (; count > 0 && std::scanf("%lld %lld", &at, &level) == 2; --count) levels[int(pin)].changes.push_back({at, int(level)});
  clock_us = ready;
  setup();
  clock_us = ready;  // the board's time for set-up is in `ready` already
  while (clock_us < end) {
    const int64_t begin = clock_us;
    held_us = 0;
    loop();
    clock_us = begin + idle + held_us;
  }
  return 0;
}
