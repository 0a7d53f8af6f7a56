// Servos, as such boards' builders declare them.
#pragma once
#include <stdint.h>
struct Servo {
  int pin = -1;
  uint8_t attach(int pin);
  void write(int degrees);
};
