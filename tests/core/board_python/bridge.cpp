// The double as a library: what is run is Python, behind two calls; what it asks is asked through plain functions.
#include "inside.h"
#include "Servo.h"
#include "Wire.h"

static void (*set_up)() = nullptr;
static void (*pass)() = nullptr;

void setup() { set_up(); }
void loop() { pass(); }

static int db_caused = 0;
static void (*db_timer)() = nullptr;

void TIMER0_COMPA_vect() { if (db_timer) db_timer(); }

// Before anything else, as the runtime does: the cause is kept, the watchdog off.
void watch_off_early() {
  db_caused = (MCUSR & 1 << PORF ? 1 : 0) | (MCUSR & 1 << EXTRF ? 2 : 0) | (MCUSR & 1 << WDRF ? 8 : 0);
  MCUSR = 0;
  wdt_disable();
}

int double_main(int count, char **arguments);

extern "C" {
int run(int count, char **arguments, void (*set_up_)(), void (*pass_)()) {
  set_up = set_up_;
  pass = pass_;
  return double_main(count, arguments);
}

uint32_t db_counter() { return counter_start + uint32_t((clock_us - counter_zero_us) / 1000); }
uint32_t db_millis() { return millis(); }
uint32_t db_micros() { return micros(); }
void db_delay(uint32_t ms) { delay(ms); }
void db_hold(int64_t us) { hold(us); }
void db_mode(int pin, int mode) { pinMode(pin, mode); }
int db_read(int pin) { return digitalRead(pin); }
void db_write(int pin, int level) { digitalWrite(pin, level); }
int db_measure(int pin) { return analogRead(pin); }
void db_dim(int pin, int duty) { analogWrite(pin, duty); }
void db_tone(int pin, int hz) { tone(pin, hz); }
void db_edge(int pin, void (*handler)(), int way) { attachInterrupt(pin, handler, way); }
void db_serial_begin() { Serial.begin(9600); }
int db_serial_available() { return Serial.available(); }
int db_serial_read() { return Serial.read(); }
int db_serial_room() { return Serial.availableForWrite(); }
void db_serial_write(int letter) { Serial.write(char(letter)); }
void db_turn(int pin, int degrees) {
  Servo one;
  one.attach(pin);
  one.write(degrees);
}
void db_bus_clock(uint32_t hz) { Wire.setClock(hz); }
void db_bus(int address, int count, const uint8_t *codes) {
  Wire.beginTransmission(uint8_t(address));
  for (int n = 0; n < count; ++n) Wire.write(codes[n]);
  Wire.endTransmission();
}
void db_dog(uint32_t ms) {
  static const uint32_t steps[] = {16, 32, 64, 125, 250, 500, 1000, 2000, 4000, 8000};
  int step = 0;
  while (step < 9 && steps[step] < ms) ++step;
  wdt_enable(step);
}
void db_feed() { wdt_reset(); }
int db_cause() { return db_caused; }
void db_each(void (*handler)()) {
  db_timer = handler;
  TIMSK0 |= 1 << OCIE0A;
}
void db_restart() {
  wdt_enable(0);
  for (;;) delayMicroseconds(100);
}
void db_lock() { noInterrupts(); }
void db_unlock() { interrupts(); }
}
