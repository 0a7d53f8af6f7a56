// What the double is made of, and what its main program sets.
#pragma once
#include "board.h"
#include <map>
#include <utility>
#include <vector>

struct Levels {
  std::vector<std::pair<int64_t, int>> changes;
  size_t next = 0;
  int level = 0;
};

// A handler of an edge.
struct Called {
  int pin, level;
  size_t next;
  void (*handler)();
};

// A row of keys is driven while its pin is an output that is low; a column reads low when keys join it to such a row.
struct Matrix {
  std::vector<int> rows, columns;
  bool diodes;
  std::vector<std::pair<int64_t, uint64_t>> changes;  // since when, which keys touch, bit by bit, row by row
};

extern int64_t clock_us, held_us, reads, end_us, latency_us, convert_us, fed_us;
extern int64_t cost_pass_us, cost_read_us, counter_zero_us;
extern int64_t called_at_us;  // the counter stands still for a handler at the edge that called it
extern uint32_t counter_start;
extern bool in_handler, turned_off, setting_up;
extern int64_t set_up_held_us;  // how long set-up waited for what is on the bus
extern std::map<int, Levels> levels;
extern std::map<int, int> written;
extern std::vector<Matrix> matrices;
extern std::map<int, std::vector<int>> counts;  // what the converter gives, in its order
extern std::map<int, size_t> converted;
extern std::vector<std::pair<int64_t, int>> line_bytes;

void watch(bool works = false);
// What becomes of the board itself: when, the bit of its cause, how long it is off.
struct Upset {
  int64_t at;
  int cause;
  int64_t off;
};
extern std::vector<Upset> upsets;
extern size_t next_upset;
[[noreturn]] void reset_at(int64_t at_us, int cause = WDRF, int64_t off_us = 0);
bool upset_by(int64_t at_us);
[[noreturn]] void be_upset();
