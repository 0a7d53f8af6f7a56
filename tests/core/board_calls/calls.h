// The calls that such boards' compilers provide, declared for the cross compiler of the 8-bit boards.
#pragma once
#include <avr/interrupt.h>
#include <avr/io.h>
#include <stddef.h>
#include <stdint.h>
#include <stdlib.h>
#include <string.h>

#define HIGH 0x1
#define LOW 0x0
#define INPUT 0x0
#define OUTPUT 0x1
#define INPUT_PULLUP 0x2
#define CHANGE 1
#define FALLING 2
#define RISING 3
#define interrupts() sei()
#define noInterrupts() cli()
#define digitalPinToInterrupt(p) ((p) == 2 ? 0 : 1)

extern "C" {
void pinMode(uint8_t pin, uint8_t mode);
void digitalWrite(uint8_t pin, uint8_t value);
int digitalRead(uint8_t pin);
int analogRead(uint8_t pin);
void analogWrite(uint8_t pin, int value);
unsigned long millis(void);
unsigned long micros(void);
void delay(unsigned long ms);
void delayMicroseconds(unsigned int us);
void attachInterrupt(uint8_t number, void (*handler)(void), int mode);
void setup(void);
void loop(void);
}
void tone(uint8_t pin, unsigned int hz, unsigned long ms = 0);
void noTone(uint8_t pin);

#if defined(PCMSK2)
static const uint8_t A0 = 14, A1 = 15, A2 = 16, A3 = 17, A4 = 18, A5 = 19;
#define digitalPinToPCICR(p) (&PCICR)
#define digitalPinToPCICRbit(p) (((p) <= 7) ? 2 : ((p) <= 13) ? 0 : 1)
#define digitalPinToPCMSK(p) (((p) <= 7) ? &PCMSK2 : ((p) <= 13) ? &PCMSK0 : &PCMSK1)
#define digitalPinToPCMSKbit(p) (((p) <= 7) ? (p) : ((p) <= 13) ? (p) - 8 : (p) - 14)

struct Line {
  void begin(unsigned long baud);
  int available();
  int availableForWrite();
  int read();
  size_t write(uint8_t value);
};
extern Line Serial;
#else
#define digitalPinToPCICR(p) (&GIMSK)
#define digitalPinToPCICRbit(p) 5
#define digitalPinToPCMSK(p) (&PCMSK)
#define digitalPinToPCMSKbit(p) (p)
#endif
