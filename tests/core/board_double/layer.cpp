// The layer of programs in C, over the double.
#include "inside.h"
#include "EEPROM.h"
#include "Servo.h"
#include "Wire.h"
#include <cstring>

static void (*barks)() = nullptr;
static void (*each)() = nullptr;
static void (*wakes)() = nullptr;
static uint8_t caused = 0;
static bool taken = false;

void WDT_vect() { if (barks) barks(); }
void TIMER0_COMPA_vect() { if (each) each(); }
void PCINT0_vect() { if (wakes) wakes(); }
void PCINT1_vect() { if (wakes) wakes(); }
void PCINT2_vect() { if (wakes) wakes(); }

// Before anything else, as a layer does: the cause is kept, the watchdog off.
void watch_off_early() {
  const int flags[] = {PORF, EXTRF, BORF, WDRF};
  for (int bit = 0; bit < 4; ++bit)
    if (MCUSR >> flags[bit] & 1) caused = uint8_t(caused | 1 << bit);
  taken = true;
  MCUSR = 0;
  wdt_disable();
}

static int step_of(uint32_t ms) {
  static const uint32_t steps[] = {16, 32, 64, 125, 250, 500, 1000, 2000, 4000, 8000};
  int step = 0;
  while (step < 9 && steps[step] < ms) ++step;
  return step;
}

static void watched(uint32_t ms, int bits) {
  const int step = step_of(ms);
  wdt_reset();
  WDTCSR = bits | (step & 8 ? 1 << WDP3 : 0) | (step & 7);
}

extern "C" {
uint32_t hw_millis() { return millis(); }
uint32_t hw_micros() { return micros(); }
void hw_wait_ms(uint32_t ms) { delay(ms); }
void hw_wait_us(uint32_t us) { delayMicroseconds(us); }
void hw_pin_mode(uint8_t pin, uint8_t mode) { pinMode(pin, mode == 1 ? OUTPUT : INPUT); }
int hw_read(uint8_t pin) { return digitalRead(pin); }
void hw_write(uint8_t pin, uint8_t level) { digitalWrite(pin, level); }
uint16_t hw_measure(uint8_t pin) { return uint16_t(analogRead(pin)); }
void hw_dim(uint8_t pin, uint8_t duty) { analogWrite(pin, duty); }
void hw_tone(uint8_t pin, uint16_t hz) { tone(pin, hz); }
void hw_no_tone(uint8_t pin) { noTone(pin); }
void hw_on_edge(uint8_t pin, void (*handler)(), uint8_t way) { attachInterrupt(pin, handler, way); }
void hw_lock() { noInterrupts(); }
void hw_unlock() { interrupts(); }
void hw_serial_begin(uint32_t baud) { Serial.begin(baud); }
int hw_serial_available() { return Serial.available(); }
int hw_serial_read() { return Serial.read(); }
int hw_serial_room() { return Serial.availableForWrite(); }
void hw_serial_write(char letter) { Serial.write(letter); }
void hw_bus_begin() { Wire.begin(); }
void hw_bus_clock(uint32_t hz) { Wire.setClock(hz); }
void hw_bus_open(uint8_t address) { Wire.beginTransmission(address); }
void hw_bus_write(uint8_t code) { Wire.write(code); }
void hw_bus_close() { Wire.endTransmission(); }
struct hw_servo {
  uint8_t pin;
};
void hw_servo_attach(hw_servo *servo, uint8_t pin) { servo->pin = pin; }
void hw_servo_turn(hw_servo *servo, uint8_t degrees) {
  Servo one;
  one.attach(servo->pin);
  one.write(degrees);
}
uint8_t hw_cause() { return caused; }
void hw_restart() {
  wdt_enable(0);
  for (;;) delayMicroseconds(100);
}
void hw_watchdog_on(uint32_t ms) { wdt_enable(step_of(ms)); }
void hw_watchdog_calls(uint32_t ms, void (*handler)()) {
  barks = handler;
  watched(ms, 1 << WDIE);
}
void hw_watchdog_calls_first(uint32_t ms, void (*handler)()) {
  barks = handler;
  watched(ms, 1 << WDIE | 1 << WDE);
}
void hw_watchdog_arm() { WDTCSR |= 1 << WDIE; }
void hw_watchdog_feed() { wdt_reset(); }
void hw_watchdog_off() { wdt_disable(); }
void hw_each_ms(void (*handler)()) {
  each = handler;
  TIMSK0 |= 1 << OCIE0A;
}
void hw_wake_at(uint8_t pin, void (*handler)()) {
  wakes = handler;
  *digitalPinToPCMSK(pin) |= 1 << digitalPinToPCMSKbit(pin);
  *digitalPinToPCICR(pin) |= 1 << digitalPinToPCICRbit(pin);
}
void hw_sleep_deep() {
  set_sleep_mode(SLEEP_MODE_PWR_DOWN);
  interrupts();
  sleep_cpu();
}
void hw_sleep_a_while() {
  set_sleep_mode(SLEEP_MODE_IDLE);
  sleep_mode();
}
void hw_store_put(uint16_t at, uint8_t value) { EEPROM.update(at, value); }
void hw_store_get(uint16_t at, void *field, uint16_t bytes) { std::memcpy(field, store_cells + at, bytes); }
void hw_hold(int64_t us) { hold(us); }

void c_setup();
void c_loop();
}

void setup() { c_setup(); }
void loop() { c_loop(); }
