// What stands behind the calls.
#include "inside.h"
#include "Servo.h"
#include "Wire.h"

int64_t clock_us = 0, held_us = 0, reads = 0, end_us = 0, latency_us = 0, convert_us = 0, fed_us = 0;
int64_t cost_pass_us = 0, cost_read_us = 0, counter_zero_us = 0, called_at_us = -1;
uint32_t counter_start = 0;
bool in_handler = false, turned_off = false, setting_up = false;
int64_t set_up_held_us = 0;
std::map<int, Levels> levels;
std::map<int, int> written;
std::vector<Matrix> matrices;
std::map<int, std::vector<int>> counts;
std::map<int, size_t> converted;
std::vector<std::pair<int64_t, int>> line_bytes;
Line Serial;
int MCUSR = 0, WDTCSR = 0, OCR0A = 0, TIMSK0 = 0;

static std::vector<Called> called;
static bool masked = false;
static std::map<int, int> modes;
static std::map<int, size_t> pins_seen;
static int pin_masks[3] = {0, 0, 0}, pins_on = 0, sleep_kind = 0;
static size_t next_byte = 0;
static int64_t idle_ns = 0;
static const int64_t CHARACTER_NS = 10000000000LL / 9600;
static const int BUFFER = 64;

void WDT_vect() __attribute__((weak));
void TIMER0_COMPA_vect() __attribute__((weak));
void PCINT0_vect() __attribute__((weak));
void PCINT1_vect() __attribute__((weak));
void PCINT2_vect() __attribute__((weak));

uint32_t millis() {
  if (called_at_us >= 0) return counter_start + uint32_t((called_at_us - counter_zero_us) / 1000);
  const uint32_t now = counter_start + uint32_t((clock_us - counter_zero_us) / 1000);
  clock_us += cost_pass_us;
  return now;
}

uint32_t micros() { return uint32_t(clock_us); }

// The watchdog counts while anything is held: it calls its handler, if it may, and otherwise the board resets. An
// interrupt of the timer comes as often as anything is looked at.
void watch(bool works) {
  if (in_handler) return;
  if (TIMSK0 & (1 << OCIE0A) && !masked) TIMER0_COMPA_vect();
  static const int64_t steps[] = {16000, 32000, 64000, 125000, 250000, 500000, 1000000, 2000000, 4000000, 8000000};
  while (WDTCSR & ((1 << WDE) | (1 << WDIE))) {
    const int64_t bites_us = fed_us + steps[(WDTCSR & 7) | (WDTCSR & (1 << WDP3) ? 8 : 0)];
    if (clock_us <= bites_us || upset_by(bites_us)) break;
    const bool calls = WDTCSR & (1 << WDIE);
    std::printf("%lld %d 1\n", static_cast<long long>(bites_us), calls ? -1 : -2);
    if (!calls) reset_at(bites_us);
    // What the handler takes work has to make up for; a wait goes on meanwhile.
    const int64_t before_us = clock_us;
    in_handler = true;
    WDT_vect();
    in_handler = false;
    const int64_t took_us = clock_us - before_us, over_us = bites_us + took_us;
    const int64_t later_us = works ? took_us : over_us > before_us ? over_us - before_us : 0;
    clock_us = before_us + later_us;
    held_us += later_us - took_us;
    if (WDTCSR & (1 << WDE)) WDTCSR &= ~(1 << WDIE);
    fed_us = bites_us;
  }
  if (upset_by(clock_us)) be_upset();
}

void (*held_by)(int64_t us) = nullptr;  // a kernel: others may go on meanwhile

void hold(int64_t us) {
  if (held_by) return held_by(us);
  clock_us += us;
  held_us += us;
  watch(true);
}

void wait(int64_t us) {
  if (held_by) return held_by(us);
  clock_us += us;
  held_us += us;
  watch();
}

void delay(uint32_t ms) {
  if (setting_up) set_up_held_us += int64_t(ms) * 1000;
  wait(int64_t(ms) * 1000);
}

uint8_t Servo::attach(int pin_) {
  pin = pin_;
  return 0;
}

void Servo::write(int degrees) { std::printf("%lld %d %d\n", (long long)clock_us, pin, 30000 + degrees); }

// Each byte has nine bits, and there is a start and a stop.
Bus Wire;
static uint32_t bus_hz = 100000;
static int bus_address = 0;
static std::vector<uint8_t> bus_bytes;

// What a display understands of what its expander shows: half a byte at each falling edge of the bit for taking over.
struct Shown {
  int before = 0, half = -1, width = 8, cursor = 0;
};
static std::map<int, Shown> shown;

static void take_over(int address, Shown &one, int pins) {
  const int half = pins >> 4, letters = pins & 1;
  if (one.width == 8) {
    if (!letters && half == 2) one.width = 4;
    return;
  }
  if (one.half < 0) {
    one.half = half;
    return;
  }
  const int all = one.half << 4 | half;
  one.half = -1;
  if (letters) {
    std::printf("%lld %d %d\n", (long long)clock_us, -1000 - 256 * address - one.cursor, all);
    ++one.cursor;
  } else if (all & 0x80) {
    one.cursor = all & 0x7F;
  } else if (all == 1) {
    one.cursor = 0;
    std::printf("%lld %d %d\n", (long long)clock_us, -1000 - 256 * address - 255, 0);
  }
}

void Bus::begin() {}

void Bus::setClock(uint32_t hz) { bus_hz = hz; }

void Bus::beginTransmission(uint8_t address) {
  bus_address = address;
  bus_bytes.clear();
}

unsigned Bus::write(uint8_t what) {
  bus_bytes.push_back(what);
  return 1;
}

uint8_t Bus::endTransmission() {
  const int64_t bits = int64_t(9) * int64_t(1 + bus_bytes.size()) + 2, us = (bits * 1000000 + bus_hz - 1) / bus_hz;
  if (setting_up) set_up_held_us += us;
  hold(us);
  Shown &one = shown[bus_address];
  for (uint8_t pins : bus_bytes) {
    if ((one.before & 4) && !(pins & 4)) take_over(bus_address, one, one.before);
    one.before = pins;
  }
  return 0;
}

void delayMicroseconds(uint32_t us) { wait(us); }

// Handlers run at their edges, in the order of the edges, before whatever the sketch does next.
static void serve() {
  for (;;) {
    Called *first = nullptr;
    for (Called &one : called) {
      const auto &changes = levels[one.pin].changes;
      while (one.next < changes.size() && one.level != CHANGE && changes[one.next].second != one.level) ++one.next;
      if (one.next >= changes.size() || changes[one.next].first > clock_us) continue;
      if (!first || changes[one.next].first < levels[first->pin].changes[first->next].first) first = &one;
    }
    if (!first) return;
    called_at_us = levels[first->pin].changes[first->next++].first + latency_us;
    first->handler();
    called_at_us = -1;
  }
}

int *digitalPinToPCMSK(int pin) { return &pin_masks[pin / 8]; }

int digitalPinToPCMSKbit(int pin) { return pin % 8; }

int *digitalPinToPCICR(int) { return &pins_on; }

int digitalPinToPCICRbit(int pin) { return pin / 8; }

static void serve_pins() {
  for (int pin = 0; pin < 24; ++pin) {
    if (!(pin_masks[pin / 8] >> (pin % 8) & 1)) continue;
    const auto &changes = levels[pin].changes;
    size_t &seen = pins_seen[pin];
    const size_t before = seen;
    while (seen < changes.size() && changes[seen].first <= clock_us) ++seen;
    if (seen == before) continue;
    (pin / 8 == 0 ? PCINT0_vect : pin / 8 == 1 ? PCINT1_vect : PCINT2_vect)();
  }
}

void noInterrupts() {
  masked = true;
  serve();
  serve_pins();
}

void set_sleep_mode(int kind) { sleep_kind = kind; }

void sleep_enable() {}

void sleep_disable() {}

// Asleep: until a pin changes, the watchdog calls, or, where timers go on, the counter counts.
void sleep_cpu() {
  int64_t until_us = end_us + 1;
  if (sleep_kind == SLEEP_MODE_IDLE) {
    until_us = counter_zero_us + ((clock_us - counter_zero_us) / 1000 + 1) * 1000;
  } else {
    static const int64_t steps[] = {16000, 32000, 64000, 125000, 250000, 500000, 1000000, 2000000, 4000000, 8000000};
    if (WDTCSR & (1 << WDIE)) until_us = fed_us + steps[(WDTCSR & 7) | (WDTCSR & (1 << WDP3) ? 8 : 0)];
    for (int pin = 0; pin < 24; ++pin) {
      const auto &changes = levels[pin].changes;
      if ((pin_masks[pin / 8] >> (pin % 8) & 1) && pins_seen[pin] < changes.size() &&
          changes[pins_seen[pin]].first < until_us)
        until_us = changes[pins_seen[pin]].first;
    }
  }
  if (until_us < clock_us) until_us = clock_us;
  const int64_t slept_us = until_us - clock_us;
  clock_us = until_us;
  held_us += slept_us + (sleep_kind == SLEEP_MODE_IDLE ? cost_pass_us : 0);  // and asking for the time
  if (upset_by(clock_us)) be_upset();
  if (clock_us > end_us) std::exit(0);
  if (sleep_kind != SLEEP_MODE_PWR_DOWN) return;
  counter_zero_us += slept_us;
  if (WDTCSR & (1 << WDIE)) WDT_vect();
  serve_pins();
}

void sleep_mode() { sleep_cpu(); }

void interrupts() { masked = false; }

int digitalPinToInterrupt(int pin) { return pin; }

void attachInterrupt(int pin, void (*handler)(), int way) {
  Called one{pin, way, 0, handler};
  const auto &changes = levels[pin].changes;
  while (one.next < changes.size() && changes[one.next].first <= clock_us) ++one.next;
  called.push_back(one);
}

static bool keyed_low(const Matrix &keys, size_t column) {
  uint64_t touching = 0;
  for (const auto &change : keys.changes) {
    if (change.first > clock_us) break;
    touching = change.second;
  }
  std::vector<bool> row(keys.rows.size()), low(keys.columns.size());
  for (size_t n = 0; n < row.size(); ++n) row[n] = modes[keys.rows[n]] == OUTPUT && written[keys.rows[n]] == LOW;
  for (size_t turn = 0; turn <= row.size() + low.size(); ++turn)
    for (size_t r = 0; r < row.size(); ++r)
      for (size_t c = 0; c < low.size(); ++c) {
        if (!(touching >> (r * low.size() + c) & 1)) continue;
        if (row[r]) low[c] = true;
        if (low[c] && !keys.diodes) row[r] = true;
      }
  return low[column];
}

int digitalRead(int pin) {
  if (called_at_us >= 0) {  // in a handler: the level at its edge, and no time of the loop's
    int level = 0;
    for (const auto &change : levels[pin].changes) {
      if (change.first > called_at_us - latency_us) break;
      level = change.second;
    }
    return level;
  }
  clock_us += cost_read_us;
  ++reads;
  watch();
  if (clock_us > end_us && !in_handler) std::exit(0);
  serve();
  for (const Matrix &keys : matrices)
    for (size_t column = 0; column < keys.columns.size(); ++column)
      if (keys.columns[column] == pin) return keyed_low(keys, column) ? LOW : HIGH;
  Levels &at = levels[pin];
  while (at.next < at.changes.size() && at.changes[at.next].first <= clock_us) at.level = at.changes[at.next++].second;
  return at.level;
}

int analogRead(int pin) {
  hold(convert_us);
  if ((clock_us > end_us && !in_handler) || converted[pin] >= counts[pin].size()) std::exit(0);
  return counts[pin][converted[pin]++];
}

void digitalWrite(int pin, int level) {
  if (written.count(pin) && written[pin] == level) return;
  written[pin] = level;
  std::printf("%lld %d %d\n", (long long)clock_us, pin, level);
}

void pinMode(int pin, int mode) { modes[pin] = mode; }

void analogWrite(int pin, int duty) {
  if (written.count(pin) && written[pin] == 1000 + duty) return;
  written[pin] = 1000 + duty;
  std::printf("%lld %d %d\n", (long long)clock_us, pin, 1000 + duty);
}

void tone(int pin, int hz) {
  if (written.count(pin) && written[pin] == 20000 + hz) return;
  written[pin] = 20000 + hz;
  std::printf("%lld %d %d\n", (long long)clock_us, pin, 20000 + hz);
}

void noTone(int) {}

void wdt_enable(int step) {
  WDTCSR = (1 << WDE) | (step & 8 ? 1 << WDP3 : 0) | (step & 7);
  fed_us = clock_us;
}

void wdt_disable() {
  WDTCSR = 0;
  turned_off = true;
}

void wdt_reset() { fed_us = clock_us; }

void Line::begin(uint32_t) {
  while (next_byte < line_bytes.size() && line_bytes[next_byte].first <= clock_us) ++next_byte;
}

int Line::available() { return next_byte < line_bytes.size() && line_bytes[next_byte].first <= clock_us; }

int Line::read() { return available() ? line_bytes[next_byte++].second : -1; }

int Line::availableForWrite() {
  const int64_t left = idle_ns - clock_us * 1000;
  return int(BUFFER - (left > 0 ? (left + CHARACTER_NS - 1) / CHARACTER_NS : 0));
}

void Line::write(char letter) {
  std::printf("%lld -3 %d\n", (long long)clock_us, letter);
  const int64_t over = idle_ns - clock_us * 1000 - (BUFFER - 1) * CHARACTER_NS;
  if (over > 0) wait((over + 999) / 1000);
  idle_ns = (idle_ns > clock_us * 1000 ? idle_ns : clock_us * 1000) + CHARACTER_NS;
}
