/* Plain C with a main of its own. */
#include <stdint.h>
#include <stdbool.h>
#include "hardware.h"

#define KEY 3
#define FAN 12
#define HOLD_MS 2000u

static bool running;
static bool was_down;
static uint32_t since;

static bool key_down(uint32_t now) {
  static uint32_t changed;
  static bool seen, stable;
  const bool level = digitalRead(KEY) == 0;
  if (level != seen) {
    seen = level;
    changed = now;
  }
  if ((uint32_t)(now - changed) >= 20u) {
    stable = seen;
  }
  return stable;
}

int main(void) {
  pinMode(KEY, INPUT_PULLUP);
  pinMode(FAN, OUTPUT);
  for (;;) {
    const uint32_t now = millis();
    const bool down = key_down(now);
    if (down && !was_down) {
      running = true;
      since = now;
      digitalWrite(FAN, 1);
    }
    was_down = down;
    if (running && (uint32_t)(now - since) >= HOLD_MS) {
      running = false;
      digitalWrite(FAN, 0);
    }
  }
}
