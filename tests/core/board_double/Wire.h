// The bus, and the displays on it: each behind an expander, four data bits above the bits for characters (1) and for
// taking over (4).
#pragma once
#include <cstdint>
struct Bus {
  void begin();
  void setClock(uint32_t hz);
  void beginTransmission(uint8_t address);
  uint8_t endTransmission();
  unsigned write(uint8_t what);
};
extern Bus Wire;
