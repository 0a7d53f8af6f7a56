// A test double of the board calls: time is simulated, contacts are played back, outputs are written down.
// It knows nothing of Viva Tick but what a board would show: how long a call takes, and the level at a pin.
// A sketch sees declarations alone, so that it compiles in a moment; what stands behind them is in calls.cpp.
#ifndef BOARD_H
#define BOARD_H
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <cstring>

enum { LOW = 0, HIGH = 1, INPUT = 0, OUTPUT = 1, INPUT_PULLUP = 2, INPUT_PULLDOWN = 3 };
enum { FALLING = LOW, RISING = HIGH, CHANGE = 2 };
enum { A0 = 14, A1, A2, A3, A4, A5 };

uint32_t millis();
uint32_t micros();
void delay(uint32_t ms);
void delayMicroseconds(uint32_t us);
void pinMode(int pin, int mode);
int digitalRead(int pin);
void digitalWrite(int pin, int level);
int analogRead(int pin);
void analogWrite(int pin, int duty);
void tone(int pin, int hz);
void noTone(int pin);
void interrupts();
void noInterrupts();
int digitalPinToInterrupt(int pin);
void attachInterrupt(int pin, void (*handler)(), int way);

struct Line {
  void begin(uint32_t baud);
  int available();
  int read();
  int availableForWrite();
  void write(char letter);
};
extern Line Serial;

// Work of a task, and a wait: the loop stands still meanwhile.
void hold(int64_t us);
void wait(int64_t us);

// The watchdog and its registers, and those of a timer's interrupt.
enum { WDTO_15MS, WDTO_30MS, WDTO_60MS, WDTO_120MS, WDTO_250MS, WDTO_500MS, WDTO_1S, WDTO_2S, WDTO_4S, WDTO_8S };
enum { WDP3 = 5, WDE = 3, WDCE = 4, WDIE = 6, OCIE0A = 1, PORF = 0, EXTRF = 1, BORF = 2, WDRF = 3 };
extern int MCUSR, WDTCSR, OCR0A, TIMSK0;
void wdt_enable(int step);
void wdt_disable();
void wdt_reset();
#define ISR(vector) void vector()

// Pins that wake the board, eight a handler.
int *digitalPinToPCMSK(int pin);
int digitalPinToPCMSKbit(int pin);
int *digitalPinToPCICR(int pin);
int digitalPinToPCICRbit(int pin);

enum { SLEEP_MODE_IDLE, SLEEP_MODE_PWR_DOWN };
void set_sleep_mode(int kind);
void sleep_enable();
void sleep_disable();
void sleep_cpu();
void sleep_mode();
#endif
