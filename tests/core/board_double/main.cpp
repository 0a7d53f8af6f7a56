// Runs a sketch on the double: standard input holds the run's numbers and the levels at the pins.
#include "inside.h"
#include "EEPROM.h"
#include <algorithm>
#include <iterator>
#include <stdio_ext.h>
#include <unistd.h>

void watch_off_early() __attribute__((weak));
uint8_t store_cells[1024];
int64_t cost_write_us = 0;
Store EEPROM;

// What a reset leaves as it is, where the sketch has any: KEPT puts it in this section.
extern uint8_t __start_noinit[] __attribute__((weak)), __stop_noinit[] __attribute__((weak));
static char *program, booted[4096];
// A watchdog that reset the board stays on until the program turns it off, or the supply goes: another reset leaves it.
static bool left_on = false;

// The board starts anew: the program, with what outlived it in a file beside it.
void reset_at(int64_t at_us, int cause, int64_t off_us) {
  std::FILE *file = std::fopen(booted, "wb");
  const size_t converters = converted.size();
  const bool left = cause == WDRF || (left_on && cause != PORF && cause != BORF);
  const int64_t begun[] = {at_us, cause, off_us, int64_t(next_upset), left};
  std::fwrite(begun, sizeof begun, 1, file);
  std::fwrite(store_cells, sizeof store_cells, 1, file);
  std::fwrite(&converters, sizeof converters, 1, file);
  for (const auto &one : converted) std::fwrite(&one, sizeof one, 1, file);
  std::fwrite(__start_noinit, 1, size_t(__stop_noinit - __start_noinit), file);
  std::fclose(file);
  std::fflush(stdout);
  lseek(0, 0, SEEK_SET);
  char again[] = "again";
  char *arguments[] = {program, again, nullptr};
  execv(program, arguments);
  std::exit(3);
}

std::vector<Upset> upsets;
size_t next_upset = 0;

bool upset_by(int64_t at_us) { return next_upset < upsets.size() && upsets[next_upset].at < at_us; }

void be_upset() {
  const Upset now = upsets[next_upset++];
  std::printf("%lld -2 1\n", static_cast<long long>(now.at));
  reset_at(now.at, now.cause, now.off);
}

// When it was reset, by which cause, how long it was off. Memory without a supply forgets.
struct Woken {
  int64_t at, cause, off, upsets, left;
};

Woken woken() {
  Woken begun = {0, 0, 0, 0, 0};
  size_t converters = 0;
  std::FILE *file = std::fopen(booted, "rb");
  bool whole = file && std::fread(&begun, sizeof begun, 1, file) == 1 &&
               std::fread(store_cells, sizeof store_cells, 1, file) == 1 &&
               std::fread(&converters, sizeof converters, 1, file) == 1;
  for (; whole && converters; --converters) {
    std::pair<int, size_t> one;
    whole = std::fread(&one, sizeof one, 1, file) == 1;
    converted[one.first] = one.second;
  }
  const size_t size = size_t(__stop_noinit - __start_noinit);
  if (!whole || std::fread(__start_noinit, 1, size, file) != size) std::exit(4);
  std::fclose(file);
  if (begun.cause == PORF || begun.cause == BORF) std::fill(__start_noinit, __stop_noinit, uint8_t(0xA5));
  next_upset = size_t(begun.upsets);
  return begun;
}

// Passes as the run had them: since when, how long each, how many.
struct Passes {
  int64_t at, each, many;
};
std::vector<Passes> passes;

// What a look again costs is nearly right here. Where a pass begins when the run has one begin, but for that, it
// begins just then: else the counter, read a few µs later, could say a millisecond more.
int64_t in_step(int64_t begun_us, int64_t at_us) {
  static size_t now = 0;
  int64_t off_us = 101;
  while (now + 1 < passes.size() && passes[now + 1].at < at_us + off_us) ++now;
  for (size_t one = now > 1 ? now - 2 : 0; one <= now && one < passes.size(); ++one) {
    const Passes &some = passes[one];
    const int64_t place = at_us > some.at && some.each ? (at_us - some.at + some.each / 2) / some.each : 0;
    const int64_t begins_us = some.at + (place < some.many ? place : some.many) * some.each;
    if (begins_us > begun_us && std::llabs(begins_us - at_us) < std::llabs(off_us)) off_us = begins_us - at_us;
  }
  return off_us < 101 ? at_us + off_us : at_us;
}

void setup();
void loop();

int main(int count, char **arguments) {
  // What is said is held until it is sure, even where who runs this has turned that off for itself.
  static char said[1 << 16];
  std::setvbuf(stdout, said, _IOFBF, sizeof said);
  program = arguments[0];
  std::snprintf(booted, sizeof booted, "%s.boot", program);
  long long zero, ready, end, start, pass, read, idle, latency, polled, convert, write, cleared, late;
  if (std::scanf("%lld %lld %lld %lld %lld %lld %lld %lld %lld %lld %lld %lld %lld", &zero, &ready, &end, &start, &pass, &read,
                 &idle, &latency, &polled, &convert, &write, &cleared, &late) != 13) return 2;
  cost_write_us = write;
  std::fill(std::begin(store_cells), std::end(store_cells), uint8_t(0xFF));
  const Woken begun = count > 1 ? woken() : Woken{0, PORF, 0, 0, 0};
  left_on = begun.left && !watch_off_early;
  const int64_t woken_us = begun.at + begun.off;
  zero += woken_us;
  ready += woken_us;
  if (count > 1) start = 0;
  MCUSR = cleared ? 0 : 1 << begun.cause;
  counter_zero_us = zero;
  counter_start = uint32_t(start);
  cost_pass_us = pass;
  cost_read_us = read;
  end_us = end;
  latency_us = latency;
  convert_us = convert;
  // U n (at cause off)…; L pin n (at level)…; A pin n counts…; K rows columns diodes pins… n (at touching)…; S n (at byte)…; P n (at each many)…
  char what;
  const auto number = [] { long long got = 0; return std::scanf("%lld", &got) == 1 ? got : 0; };
  while (std::scanf(" %c", &what) == 1) {
    if (what == 'L' || what == 'A') {
      const int pin = int(number());
      for (long long left = number(); left > 0; --left) {
        const long long at = number();
        if (what == 'L') levels[pin].changes.push_back({at, int(number())});
        else counts[pin].push_back(int(at));
      }
    } else if (what == 'K') {
      Matrix keys;
      keys.rows.resize(size_t(number()));
      keys.columns.resize(size_t(number()));
      keys.diodes = number() != 0;
      for (int &pin : keys.rows) pin = int(number());
      for (int &pin : keys.columns) pin = int(number());
      for (long long left = number(); left > 0; --left) {
        const long long at = number();
        keys.changes.push_back({at, uint64_t(number())});
      }
      matrices.push_back(keys);
    } else if (what == 'U') {
      for (long long left = number(); left > 0; --left) {
        const long long at = number(), cause = number();
        upsets.push_back({at, int(cause), number()});
      }
    } else if (what == 'P') {
      for (long long left = number(); left > 0; --left) {
        const long long at = number(), each = number();
        passes.push_back({at, each, number()});
      }
    } else {
      for (long long left = number(); left > 0; --left) {
        const long long at = number();
        line_bytes.push_back({at, int(number())});
      }
    }
  }
  // What upsets it before it has started comes first, unless a watchdog that is left on may bite before that.
  const bool may_bite = begun.left && !upset_by(woken_us + 16000);
  if (upset_by(ready) && !may_bite) be_upset();
  // What is early comes before start-up's own work; it turns the watchdog off where the sketch has such code.
  if (watch_off_early) watch_off_early();
  clock_us = ready;
  std::fflush(stdout);
  in_handler = true;  // nothing bites in set-up but what was not turned off
  setting_up = true;
  setup();
  in_handler = setting_up = false;
  clock_us = ready + set_up_held_us;  // the board's own time for set-up is in `ready` already
  fed_us = clock_us;
  if (begun.left && !turned_off && WDTCSR && woken_us + 16000 < ready) {
    __fpurge(stdout);
    if (woken_us + 16000 >= end) return 0;
    std::printf("%lld -2 1\n", static_cast<long long>(woken_us + 16000));
    reset_at(woken_us + 16000);
  }
  if (upset_by(ready)) {
    __fpurge(stdout);
    be_upset();
  }
  left_on = false;
  uint32_t chance = 1;
  while (clock_us < end) {
    const int64_t begin = clock_us;
    held_us = reads = 0;
    loop();
    // One reading of each polled pin is in `idle`; a sketch that looks again, or until, or scans keys, takes longer.
    const int64_t more = reads - polled;
    clock_us = in_step(begin, begin + idle + held_us + (more > 0 ? more * read : 0));
    if (late) {  // passes of its own: none is like the next
      chance = chance * 1103515245 + 12345;
      clock_us += (chance >> 16) % (late + 1);
    }
    watch();
  }
  return 0;
}
