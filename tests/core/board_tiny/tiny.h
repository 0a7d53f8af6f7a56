// A board in miniature, the same for the host and for an 8-bit device with its 16-bit int: inputs that change at random
// but always in the same way, a counter that this file turns, and every change of an output as a line of numbers.
#pragma once
#ifdef __AVR__
#include <calls.h>
#include <avr/sleep.h>
#else
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#define HIGH 0x1
#define LOW 0x0
#define INPUT 0x0
#define OUTPUT 0x1
#define INPUT_PULLUP 0x2
#define CHANGE 1
#define FALLING 2
#define RISING 3
#define interrupts()
#define noInterrupts()
#define digitalPinToInterrupt(p) ((p) == 2 ? 0 : 1)
static const uint8_t A0 = 14, A1 = 15, A2 = 16, A3 = 17, A4 = 18, A5 = 19;
struct Line {
  void begin(unsigned long);
  int available();
  int availableForWrite();
  int read();
  size_t write(uint8_t value);
};
extern Line Serial;
void tone(uint8_t, unsigned int, unsigned long = 0);
void setup();
void loop();
#endif
#include "Servo.h"
#include "Wire.h"

static uint32_t now_ms = START_MS;
static uint16_t shown[24];
static uint8_t is_shown[24];
static void (*handlers[2])() = {nullptr, nullptr};

#ifdef __AVR__
static void say(char letter) {
  while (!(UCSR0A & (1 << UDRE0))) {}
  UDR0 = uint8_t(letter);
}
#else
static void say(char letter) { std::putchar(letter); }
#endif

static void number(uint32_t value) {
  char digits[10];
  uint8_t many = 0;
  do {
    digits[many++] = char('0' + value % 10);
    value /= 10;
  } while (value);
  while (many) say(digits[--many]);
}

static void show(uint8_t pin, uint16_t value) {
  if (is_shown[pin] && shown[pin] == value) return;
  is_shown[pin] = 1;
  shown[pin] = value;
  number(now_ms - START_MS);
  say(' ');
  number(pin);
  say(' ');
  number(value);
  say('\n');
}

static uint16_t chance(uint8_t of, uint32_t place) {
  uint32_t x = 2463534242UL ^ (place * 2654435761UL) ^ (uint32_t(of) << 24);
  x ^= x << 13;
  x ^= x >> 17;
  x ^= x << 5;
  return uint16_t(x >> 8);
}

static uint16_t reads = 0;  // of pins, in this pass

extern "C" {
void pinMode(uint8_t, uint8_t) {}
void digitalWrite(uint8_t pin, uint8_t value) { show(pin, value ? 1 : 0); }
int digitalRead(uint8_t pin) {
  if (++reads > 64) ++now_ms;  // so that a program that waits for a pin comes to an end of it
  return chance(pin, uint32_t(now_ms + 13UL * pin) / 170) % 3 ? HIGH : LOW;
}
int analogRead(uint8_t pin) {
  const uint32_t at = (now_ms + 97UL * pin) % 4096;
  return int((at < 2048 ? at / 2 : (4095 - at) / 2) & 1023);
}
void analogWrite(uint8_t pin, int value) { show(pin, uint16_t(1000 + value)); }
unsigned long millis(void) { return now_ms; }
unsigned long micros(void) { return now_ms * 1000UL; }
void delay(unsigned long ms) { now_ms += uint32_t(ms); }
void delayMicroseconds(unsigned int) {}
void attachInterrupt(uint8_t which, void (*handler)(void), int) { handlers[which & 1] = handler; }
}
void tone(uint8_t pin, unsigned int hz, unsigned long) { show(pin, uint16_t(20000 + hz)); }
void noTone(uint8_t) {}
Line Serial;
void Line::begin(unsigned long) {}
static uint32_t heard = 0;  // two bytes every 250 ms
int Line::available() { return now_ms / 250 * 2 != heard; }
int Line::availableForWrite() { return 16; }
int Line::read() {
  heard = now_ms / 250 * 2 - (heard + 1 == now_ms / 250 * 2 ? 0 : 1);
  return heard % 2 ? '0' + int(chance(99, now_ms / 250) % 6) : '\n';
}

// What is written over the serial line, and what goes over the bus, counts as outputs 22 and 23: sums of all so far.
static uint16_t written_sum = 0, bus_sum = 0;
size_t Line::write(uint8_t value) {
  written_sum = uint16_t(written_sum * 31 + value);
  show(22, written_sum);
  return 1;
}
uint8_t Servo::attach(int pin_) {
  pin = pin_;
  return 0;
}
void Servo::write(int degrees) { show(uint8_t(pin), uint16_t(30000 + degrees)); }
Bus Wire;
void Bus::begin() {}
void Bus::setClock(uint32_t) {}
void Bus::beginTransmission(uint8_t address) { bus_sum = uint16_t(bus_sum * 31 + address); }
unsigned Bus::write(uint8_t what) {
  bus_sum = uint16_t(bus_sum * 31 + what);
  return 1;
}
uint8_t Bus::endTransmission() {
  show(23, bus_sum);
  return 0;
}
