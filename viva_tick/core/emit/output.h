#if USE_TABLES
struct Step {
  uint8_t level;  // percent
  uint32_t ms;
};
#endif
// An output: what it does, since when, and what is on its pin, in percent.
struct Output {
  const uint8_t pin;
  const uint8_t on_level;
  DriveKind kind = STEADY;
  uint8_t level = 0;  // on the pin
  uint8_t want = 0;   // of the drive
  uint8_t begins_at = 0;
  bool fresh = false;  // a drive waits to begin
  uint32_t since = 0;
#define AT_FIELDS 1
#include "drives.h"
#undef AT_FIELDS
#if USE_NOTES
  uint16_t own_hz = 0, hz = 0;
#endif
#if USE_WAITS
  bool waits = false;  // it holds the loop
#endif
#if USE_AGAIN
  bool again = false;  // and so on in the next pass
#endif
#if USE_ENDS
  bool told = true;  // whether its end was told
#endif
#if USE_GUARDS
  uint32_t longest = 0, changed = 0;
  bool ever = false, spent = false;
  bool (*held)(uint32_t now) = nullptr;  // another output keeps it off
#endif

  Output(uint8_t pin_, uint8_t on_level_) : pin(pin_), on_level(on_level_) {}

  void put(uint8_t value) {
    level = value;
#if USE_NOTES
    if (value && hz) {
      tone(pin, hz);
      return;
    }
    if (hz) noTone(pin);
#endif
#if USE_LEVELS
    if (value > 0 && value < 100) {
      const uint8_t duty = uint8_t(value * 255UL / 100);
      analogWrite(pin, on_level == HIGH ? duty : 255 - duty);
      return;
    }
#endif
    digitalWrite(pin, (value > 0) == (on_level == HIGH) ? HIGH : LOW);
  }

  void begin(uint8_t rest) {
    want = rest;
#if USE_GUARDS
    changed = millis();
    if (held && held(changed)) rest = 0;
    ever = rest > 0;
#endif
    put(rest);  // first the level, then the direction: the pin never shows the wrong one
    pinMode(pin, OUTPUT);
  }

  void start(DriveKind kind_, uint8_t begins_at_) {
    kind = kind_;
    begins_at = begins_at_;
    fresh = true;
#if USE_ENDS
    told = false;
#endif
#define AT_START 1
#include "drives.h"
#undef AT_START
#if USE_NOTES
    hz = own_hz;
#endif
#if USE_WAITS
    waits = false;
#endif
#if USE_AGAIN
    again = false;
#endif
  }

  void steady(uint8_t value) {
    start(STEADY, value);
#if USE_ENDS
    told = true;  // it has no end
#endif
  }
#define AT_CALLS 1
#include "drives.h"
#undef AT_CALLS

#define AT_HELPERS 1
#include "drives.h"
#undef AT_HELPERS

#if USE_ENDS
  bool ends() {  // once, as what it does comes to an end of its own
    if (fresh || told) return false;
    switch (kind) {
#define AT_END 1
#include "drives.h"
#undef AT_END
      case STEADY: break;  // it has held the loop until its end
      default: return false;
    }
    told = true;
    return true;
  }

#endif
  uint8_t course(uint32_t now) {
    (void)now;
    switch (kind) {
#define AT_COURSE 1
#include "drives.h"
#undef AT_COURSE
      default: return want;
    }
  }

  void update(uint32_t now) {
    const bool begins = fresh;
    if (fresh) {
#if USE_WAITS
      if (waits) {  // it holds the loop
#if USE_GUARDS
        if (held && !level && held(now)) return;  // not yet
#endif
        fresh = waits = false;
        switch (kind) {
#define AT_WAIT 1
#include "drives.h"
#undef AT_WAIT
          default: break;
        }
#if USE_GUARDS
        changed = millis();
        ever = true;
#endif
#if USE_AGAIN
        if (again) {
          fresh = waits = true;
          return;
        }
#endif
        kind = STEADY;
        want = level;
        return;
      }
#endif
      fresh = false;
      since = now;
#define AT_BEGIN 1
#include "drives.h"
#undef AT_BEGIN
#if USE_GUARDS
      spent = false;
#endif
      want = begins_at;
    } else {
      want = course(now);
    }
#if USE_GUARDS
    // What was long ago is over for good, before the counter comes round to it.
    if (ever && uint32_t(now - changed) > 0x7FFFFFFFUL && !level) ever = false;
    uint8_t get = want;
    if (!want) {
      spent = false;
    } else {
      if (longest && level && uint32_t(now - changed) >= longest) spent = true;
      if (spent || (held && !level && held(now))) get = 0;
    }
    if ((get > 0) != (level > 0)) {
      changed = now;
      if (get) ever = true;
    }
    if (begins || get != level) put(get);
#else
    if (begins || want != level) put(want);
#endif
  }
};
