// Runs a sketch on the double: standard input holds the run's numbers and the levels at the pins.
#include "board.h"

int64_t clock_us = 0, held_us = 0, reads = 0;
uint32_t counter_start = 0;
int64_t counter_zero_us = 0;
int64_t cost_pass_us = 0, cost_read_us = 0;
std::map<int, Levels> levels;
std::map<int, int> written;
int64_t end_us = 0, latency_us = 0, called_at_us = -1;
std::vector<Called> called;

void setup();
void loop();

int main() {
  long long zero, ready, end, start, pass, read, idle, latency, pin, count, at, level;
  if (std::scanf("%lld %lld %lld %lld %lld %lld %lld %lld", &zero, &ready, &end, &start, &pass, &read, &idle,
                 &latency) != 8) return 2;
  counter_zero_us = zero;
  counter_start = uint32_t(start);
  cost_pass_us = pass;
  cost_read_us = read;
  end_us = end;
  latency_us = latency;
  while (std::scanf("%lld %lld", &pin, &count) == 2)
    for (; count > 0 && std::scanf("%lld %lld", &at, &level) == 2; --count) levels[int(pin)].changes.push_back({at, int(level)});
  const size_t inputs = levels.size();
  clock_us = ready;
  setup();
  clock_us = ready;  // the board's time for set-up is in `ready` already
  while (clock_us < end) {
    const int64_t begin = clock_us;
    held_us = reads = 0;
    loop();
    // One reading of each input is in `idle`; a sketch that looks again, or until, takes longer.
    const int64_t more = reads - int64_t(inputs);
    clock_us = begin + idle + held_us + (more > 0 ? more * read : 0);
  }
  return 0;
}
