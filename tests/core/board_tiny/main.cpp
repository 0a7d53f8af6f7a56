#include "tiny.h"
#include "program.inc"

int main() {
  setup();
  for (uint16_t pass = 0; pass < PASSES; ++pass) {
    reads = 0;
    loop();
    if (handlers[0] && pass % 61 == 0) handlers[0]();
    now_ms += pass % 250 == 249 ? 4321 : 1;
  }
#ifdef __AVR__
  cli();
  sleep_mode();
#endif
  return 0;
}
