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
std::vector<Matrix> matrices;
std::map<int, int> modes;
std::map<int, std::vector<int>> counts;
std::map<int, size_t> converted;
int64_t convert_us = 0;
Line Serial;
int MCUSR = 0, WDTCSR = 0, OCR0A = 0, TIMSK0 = 0;
int64_t fed_us = 0;

// Passes as the run had them: since when, how long each, how many.
struct Passes {
  int64_t at, each, many;
};
std::vector<Passes> passes;

// What a look again costs is nearly right here. Where a pass begins when the run has one begin, but for that, it
// begins just then: else the counter, read a few µs later, could say a millisecond more.
int64_t in_step(int64_t at_us) {
  static size_t now = 0;
  int64_t off_us = 101;
  while (now + 1 < passes.size() && passes[now + 1].at < at_us + off_us) ++now;
  for (size_t one = now > 1 ? now - 2 : 0; one <= now && one < passes.size(); ++one) {
    const Passes &some = passes[one];
    const int64_t place = at_us > some.at && some.each ? (at_us - some.at + some.each / 2) / some.each : 0;
    const int64_t begins_us = some.at + (place < some.many ? place : some.many) * some.each;
    if (std::llabs(begins_us - at_us) < std::llabs(off_us)) off_us = begins_us - at_us;
  }
  return off_us < 101 ? at_us + off_us : at_us;
}

void setup();
void loop();

int main() {
  long long zero, ready, end, start, pass, read, idle, latency, polled, convert;
  if (std::scanf("%lld %lld %lld %lld %lld %lld %lld %lld %lld %lld", &zero, &ready, &end, &start, &pass, &read, &idle,
                 &latency, &polled, &convert) != 10) return 2;
  counter_zero_us = zero;
  counter_start = uint32_t(start);
  cost_pass_us = pass;
  cost_read_us = read;
  end_us = end;
  latency_us = latency;
  convert_us = convert;
  // L pin n (at level)…; A pin n counts…; K rows columns diodes pins… n (at touching)…; S n (at byte)…; P n (at each many)…
  char what;
  const auto number = [] { long long got = 0; return std::scanf("%lld", &got) == 1 ? got : 0; };
  while (std::scanf(" %c", &what) == 1) {
    if (what == 'L' || what == 'A') {
      const int pin = int(number());
      for (long long left = number(); left > 0; --left) {
        const long long at = number();
        if (what == 'L') levels[pin].changes.push_back({at, int(number())});
        else counts[pin].push_back(int(at));
      }
    } else if (what == 'K') {
      Matrix keys;
      keys.rows.resize(size_t(number()));
      keys.columns.resize(size_t(number()));
      keys.diodes = number() != 0;
      for (int &pin : keys.rows) pin = int(number());
      for (int &pin : keys.columns) pin = int(number());
      for (long long left = number(); left > 0; --left) {
        const long long at = number();
        keys.changes.push_back({at, uint64_t(number())});
      }
      matrices.push_back(keys);
    } else if (what == 'P') {
      for (long long left = number(); left > 0; --left) {
        const long long at = number(), each = number();
        passes.push_back({at, each, number()});
      }
    } else {
      for (long long left = number(); left > 0; --left) {
        const long long at = number();
        Serial.bytes.push_back({at, int(number())});
      }
    }
  }
  clock_us = ready;
  setup();
  clock_us = ready;  // the board's time for set-up is in `ready` already
  while (clock_us < end) {
    const int64_t begin = clock_us;
    held_us = reads = 0;
    loop();
    // One reading of each polled pin is in `idle`; a sketch that looks again, or until, or scans keys, takes longer.
    const int64_t more = reads - polled;
    clock_us = in_step(begin + idle + held_us + (more > 0 ? more * read : 0));
    watch();
  }
  return 0;
}
