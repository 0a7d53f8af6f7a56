// The layer for the 8-bit 5 V board in a DIP of 18 legs, at 8 MHz. What its registers are stands first, as numbers: look
// them up in your part's own data sheet before you trust them (here: from memory, no part at hand).
#include "hardware.h"

#ifndef REGISTER
#define REGISTER(address) (*(volatile uint8_t *)(uintptr_t)(address))
#endif
enum {
  TIMER = 0x01,
  LEVELS_A = 0x05,
  LEVELS_B = 0x06,
  INTERRUPTS = 0x0B,
  CONVERTED_HIGH = 0x1E,
  CONVERTER = 0x1F,
  TIMER_2 = 0x12,
  NOTES_DUTY = 0x15,
  NOTES_MODE = 0x17,
  OPTIONS = 0x81,
  INPUTS_A = 0x85,
  INPUTS_B = 0x86,
  CAUSES = 0x8E,
  PERIOD_2 = 0x92,
  ANALOGUE_PINS = 0x9B,
  CONVERTED_LOW = 0x9E,
  CONVERTER_SIDE = 0x9F,
  STORE_VALUE = 0x10C,
  STORE_AT = 0x10D,
  STORE_DO = 0x18C,
  STORE_KEY = 0x18D
};
// Bits of them.
enum { PULL_UPS_OFF = 0x80, EDGE_RISES = 0x40, TIMER_OUTSIDE = 0x20, FOR_WATCHDOG = 0x08 };
enum { ALL_ON = 0x80, TIMER_ON = 0x20, EDGE_ON = 0x10, TIMER_OVER = 0x04, EDGE_CAME = 0x02 };
enum { STORE_READS = 0x01, STORE_WRITES = 0x02, STORE_MAY = 0x04 };
enum { POWER_WAS_ON = 0x02, DIP_WAS_NOT = 0x01 };

static volatile uint32_t milliseconds = 0;
static void (*on_edge)(void) = 0;
static void (*each)(void) = 0;
static uint8_t begins_a = 0, begins_b = 0;  // with which outputs begin, and what they were told last
static uint8_t causes = 0;

static void set(uint16_t address, uint8_t bits) { REGISTER(address) = (uint8_t)(REGISTER(address) | bits); }
static void clear(uint16_t address, uint8_t bits) { REGISTER(address) = (uint8_t)(REGISTER(address) & ~bits); }
static bool is_a(uint8_t pin) { return pin >= A0; }
static uint8_t bit_of(uint8_t pin) { return (uint8_t)(1 << (is_a(pin) ? pin - A0 : pin)); }

// The one interrupt of such a board: the timer, 250 steps of 4 us, and the edge at B0.
void hw_interrupted(void);
void hw_interrupted(void) {
  if (REGISTER(INTERRUPTS) & TIMER_OVER) {
    REGISTER(TIMER) = (uint8_t)(REGISTER(TIMER) + 6);
    clear(INTERRUPTS, TIMER_OVER);
    ++milliseconds;
    if (each) each();
  }
  if (REGISTER(INTERRUPTS) & EDGE_CAME) {
    clear(INTERRUPTS, EDGE_CAME);
    if (on_edge) on_edge();
  }
}

#ifdef __SDCC
void hw_vector(void) __interrupt(0) { hw_interrupted(); }
#endif

// Set-up of the board itself: analogue off, else its pins read 0; pull-ups off until one is asked for; the timer on.
void hw_begin(void);
void hw_begin(void) {
  causes = REGISTER(CAUSES) & POWER_WAS_ON ? (REGISTER(CAUSES) & DIP_WAS_NOT ? 2 : 4) : 1;
  set(CAUSES, POWER_WAS_ON | DIP_WAS_NOT);
  REGISTER(ANALOGUE_PINS) = 0;
  REGISTER(OPTIONS) = PULL_UPS_OFF | 2;  // the timer: a step each 8 cycles
  set(INTERRUPTS, ALL_ON | TIMER_ON);
}

uint32_t hw_millis(void) {
  hw_lock();
  const uint32_t now = milliseconds;
  hw_unlock();
  return now;
}

uint32_t hw_micros(void) {
  hw_lock();
  const uint32_t now = milliseconds * 1000 + 4UL * (uint8_t)(REGISTER(TIMER) - 6);
  hw_unlock();
  return now;
}

void hw_wait_us(uint32_t us) {
  const uint32_t from = hw_micros();
  while ((uint32_t)(hw_micros() - from) < us) {
  }
}

void hw_wait_ms(uint32_t ms) {
  uint32_t from = hw_micros();
  for (; ms; --ms) {
    while ((uint32_t)(hw_micros() - from) < 1000) {
    }
    from += 1000;
  }
}

void hw_each_ms(void (*handler)(void)) { each = handler; }

// Pins. Port B has pull-ups, all on or all off; port A has none.
void hw_write(uint8_t pin, uint8_t level) {
  uint8_t *told = is_a(pin) ? &begins_a : &begins_b;
  *told = (uint8_t)(level ? *told | bit_of(pin) : *told & ~bit_of(pin));
  REGISTER(is_a(pin) ? LEVELS_A : LEVELS_B) = *told;  // what was told, not what is read: a loaded pin may read low
}

void hw_pin_mode(uint8_t pin, uint8_t mode) {
  const uint16_t inputs = is_a(pin) ? INPUTS_A : INPUTS_B;
  if (mode == OUTPUT) {
    clear(inputs, bit_of(pin));
    return;
  }
  set(inputs, bit_of(pin));
  if (mode == INPUT_PULLUP) clear(OPTIONS, PULL_UPS_OFF);
}

int hw_read(uint8_t pin) { return REGISTER(is_a(pin) ? LEVELS_A : LEVELS_B) & bit_of(pin) ? HIGH : LOW; }

// Channels 0 to 4 are A0 to A4, 5 and 6 are B6 and B7.
uint16_t hw_measure(uint8_t pin) {
  const uint8_t channel = (uint8_t)(is_a(pin) ? pin - A0 : pin - 1);
  set(ANALOGUE_PINS, (uint8_t)(1 << channel));
  REGISTER(CONVERTER_SIDE) = 0x80;  // the ten bits at the right
  REGISTER(CONVERTER) = (uint8_t)(0x41 | channel << 3);
  hw_wait_us(20);
  set(CONVERTER, 0x04);
  while (REGISTER(CONVERTER) & 0x04) {
  }
  return (uint16_t)(REGISTER(CONVERTED_HIGH) << 8 | REGISTER(CONVERTED_LOW));
}

// One timer dims; the pin is chosen as the part is programmed (B0 or B3).
void hw_dim(uint8_t pin, uint8_t duty) {
  (void)pin;
  REGISTER(PERIOD_2) = 254;
  REGISTER(NOTES_DUTY) = duty;
  REGISTER(NOTES_MODE) = 0x0C;
  REGISTER(TIMER_2) = 0x06;
}

// The same timer has a pitch as its period; below 490 Hz it cannot go.
void hw_tone(uint8_t pin, uint16_t hz) {
  (void)pin;
  const uint32_t period = 125000UL / hz;
  REGISTER(PERIOD_2) = (uint8_t)(period > 256 ? 255 : period - 1);
  REGISTER(NOTES_DUTY) = (uint8_t)(REGISTER(PERIOD_2) / 2);
  REGISTER(NOTES_MODE) = 0x0C;
  REGISTER(TIMER_2) = 0x06;
}

void hw_no_tone(uint8_t pin) {
  (void)pin;
  REGISTER(NOTES_MODE) = 0;
}

// One pin has an edge interrupt, for one way: B0.
void hw_on_edge(uint8_t pin, void (*handler)(void), uint8_t way) {
  (void)pin;
  on_edge = handler;
  if (way == FALLING) clear(OPTIONS, EDGE_RISES);
  else set(OPTIONS, EDGE_RISES);
  clear(INTERRUPTS, EDGE_CAME);
  set(INTERRUPTS, EDGE_ON);
}

void hw_lock(void) { clear(INTERRUPTS, ALL_ON); }
void hw_unlock(void) { set(INTERRUPTS, ALL_ON); }

// The watchdog of such a board is switched on as the part is programmed; here its step is set, and it is fed. It shares
// its divider with the timer, which then counts each cycle: see the data sheet before you use both.
void hw_watchdog_on(uint32_t ms) {
  uint8_t step = 0;
  while (step < 7 && (18UL << step) < ms) ++step;
  REGISTER(OPTIONS) = (uint8_t)((REGISTER(OPTIONS) & 0xF0) | FOR_WATCHDOG | step);
}

void hw_watchdog_feed(void) {
#ifdef __SDCC
  __asm__("clrwdt");
#endif
}

uint8_t hw_cause(void) { return causes; }

void hw_restart(void) {
  hw_lock();
  for (;;) {  // until the watchdog has had enough
  }
}

void hw_sleep_deep(void) {
  hw_unlock();
#ifdef __SDCC
  __asm__("sleep");
#endif
}

void hw_sleep_a_while(void) { hw_wait_ms(1); }
void hw_wake_at(uint8_t pin, void (*handler)(void)) { hw_on_edge(pin, handler, RISING); }

// The store: two keys before each byte.
void hw_store_put(uint16_t at, uint8_t value) {
  uint8_t was;
  hw_store_get(at, &was, 1);
  if (was == value) return;
  REGISTER(STORE_AT) = (uint8_t)at;
  REGISTER(STORE_VALUE) = value;
  set(STORE_DO, STORE_MAY);
  hw_lock();
  REGISTER(STORE_KEY) = 0x55;
  REGISTER(STORE_KEY) = 0xAA;
  set(STORE_DO, STORE_WRITES);
  hw_unlock();
  while (REGISTER(STORE_DO) & STORE_WRITES) {
  }
  clear(STORE_DO, STORE_MAY);
}

void hw_store_get(uint16_t at, void *field, uint16_t bytes) {
  uint8_t *to = field;
  for (uint16_t n = 0; n < bytes; ++n) {
    REGISTER(STORE_AT) = (uint8_t)(at + n);
    set(STORE_DO, STORE_READS);
    to[n] = REGISTER(STORE_VALUE);
  }
}

// What such a board has not; a program for it does not ask for these.
void hw_watchdog_calls(uint32_t ms, void (*handler)(void)) { (void)handler, hw_watchdog_on(ms); }
void hw_watchdog_calls_first(uint32_t ms, void (*handler)(void)) { (void)handler, hw_watchdog_on(ms); }
void hw_watchdog_arm(void) {}
void hw_watchdog_off(void) {}
void hw_serial_begin(uint32_t baud) { (void)baud; }
int hw_serial_available(void) { return 0; }
int hw_serial_read(void) { return -1; }
int hw_serial_room(void) { return 1; }
void hw_serial_write(char letter) { (void)letter; }
void hw_bus_begin(void) {}
void hw_bus_clock(uint32_t hz) { (void)hz; }
void hw_bus_open(uint8_t address) { (void)address; }
void hw_bus_write(uint8_t code) { (void)code; }
void hw_bus_close(void) {}
void hw_servo_attach(hw_servo *servo, uint8_t pin) { servo->pin = pin; }
void hw_servo_turn(hw_servo *servo, uint8_t degrees) { (void)servo, (void)degrees; }

#ifndef HW_NO_MAIN
int main(void) {
  hw_begin();
  setup();
  for (;;) loop();
}
#endif
