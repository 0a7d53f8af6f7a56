// The bus, as such boards' builders declare it.
#pragma once
#include <stdint.h>
struct Bus {
  void begin();
  void setClock(uint32_t hz);
  void beginTransmission(uint8_t address);
  uint8_t endTransmission();
  unsigned write(uint8_t what);
};
extern Bus Wire;
