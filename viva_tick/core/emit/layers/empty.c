// A layer to fill in for your board: each function by its calls. As it stands it builds, and does nothing.
#include "hardware.h"

// Time since power-on; both counters go round. While it waits nothing else runs but handlers.
uint32_t hw_millis(void) { return 0; }
uint32_t hw_micros(void) { return 0; }
void hw_wait_ms(uint32_t ms) { (void)ms; }
void hw_wait_us(uint32_t us) { (void)us; }

// Pins. `hw_write` before `hw_pin_mode` sets the level with which an output begins.
void hw_pin_mode(uint8_t pin, uint8_t mode) { (void)pin; (void)mode; }
int hw_read(uint8_t pin) { (void)pin; return 0; }
void hw_write(uint8_t pin, uint8_t level) { (void)pin; (void)level; }
uint16_t hw_measure(uint8_t pin) { (void)pin; return 0; }
void hw_dim(uint8_t pin, uint8_t duty) { (void)pin; (void)duty; }
void hw_tone(uint8_t pin, uint16_t hz) { (void)pin; (void)hz; }
void hw_no_tone(uint8_t pin) { (void)pin; }

// Handlers run at an edge, not between `hw_lock` and `hw_unlock`.
void hw_on_edge(uint8_t pin, void (*handler)(void), uint8_t way) { (void)pin; (void)handler; (void)way; }
void hw_lock(void) {}
void hw_unlock(void) {}

// The serial line: bytes that have come (-1: none), room for bytes to go; `hw_serial_write` waits for room.
void hw_serial_begin(uint32_t baud) { (void)baud; }
int hw_serial_available(void) { return 0; }
int hw_serial_read(void) { return -1; }
int hw_serial_room(void) { return 1; }
void hw_serial_write(char letter) { (void)letter; }

// The two-wire bus: what is written goes out as it is closed.
void hw_bus_begin(void) {}
void hw_bus_clock(uint32_t hz) { (void)hz; }
void hw_bus_open(uint8_t address) { (void)address; }
void hw_bus_write(uint8_t code) { (void)code; }
void hw_bus_close(void) {}

// A servo: a pulse of 544 to 2,400 µs, fifty times a second (common practice).
void hw_servo_attach(hw_servo *servo, uint8_t pin) { (void)servo; (void)pin; }
void hw_servo_turn(hw_servo *servo, uint8_t degrees) { (void)servo; (void)degrees; }

// Memory that start-up leaves as it is.

// Why the board started (bits: 1 power, 2 reset pin, 4 a dip of the supply, 8 watchdog), and starting it anew. A layer
// takes the cause, and turns the watchdog off, before anything else.
uint8_t hw_cause(void) { return 0; }
void hw_restart(void) {}

// The watchdog, in the board's own step for so many ms: it resets; it calls a handler; it calls it first and resets
// the next time, unless it is armed again.
void hw_watchdog_on(uint32_t ms) { (void)ms; }
void hw_watchdog_calls(uint32_t ms, void (*handler)(void)) { (void)ms; (void)handler; }
void hw_watchdog_calls_first(uint32_t ms, void (*handler)(void)) { (void)ms; (void)handler; }
void hw_watchdog_arm(void) {}
void hw_watchdog_feed(void) {}
void hw_watchdog_off(void) {}

// A handler that comes each millisecond. Sleep until a handler comes: deep, with the counters at rest, and unlocking as
// it falls asleep; or for a while, the counters running.
void hw_each_ms(void (*handler)(void)) { (void)handler; }
void hw_wake_at(uint8_t pin, void (*handler)(void)) { (void)pin; (void)handler; }
void hw_sleep_deep(void) {}
void hw_sleep_a_while(void) {}

// The store: it outlives the supply. A byte is written only where it differs.
void hw_store_put(uint16_t at, uint8_t value) { (void)at; (void)value; }
void hw_store_get(uint16_t at, void *field, uint16_t bytes) { (void)at; (void)field; (void)bytes; }

#ifndef HW_NO_MAIN
int main(void) {
  setup();
  for (;;) loop();
}
#endif
