// The store's calls.
#pragma once
#include <avr/eeprom.h>

struct Cells {
  uint8_t read(int at) { return eeprom_read_byte(reinterpret_cast<const uint8_t *>(at)); }
  void write(int at, uint8_t value) { eeprom_write_byte(reinterpret_cast<uint8_t *>(at), value); }
  void update(int at, uint8_t value) { eeprom_update_byte(reinterpret_cast<uint8_t *>(at), value); }
  template <typename T>
  T &get(int at, T &into) {
    uint8_t *to = reinterpret_cast<uint8_t *>(&into);
    for (size_t n = 0; n < sizeof into; ++n) to[n] = read(at + int(n));
    return into;
  }
};
extern Cells EEPROM;
