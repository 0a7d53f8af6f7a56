// Memory that outlives the supply, and takes its time to be written.
#pragma once
#include "board.h"
#include <cstring>

extern uint8_t store_cells[1024];
extern int64_t cost_write_us;

struct Store {
  uint8_t read(int at) { return store_cells[at]; }
  void write(int at, uint8_t value) {
    hold(cost_write_us);
    store_cells[at] = value;
  }
  void update(int at, uint8_t value) {
    if (store_cells[at] != value) write(at, value);
  }
  template <typename T>
  T &get(int at, T &into) {
    std::memcpy(&into, store_cells + at, sizeof into);
    return into;
  }
};
extern Store EEPROM;
