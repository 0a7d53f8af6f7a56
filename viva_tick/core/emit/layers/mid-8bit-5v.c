// The layer for the 8-bit 5 V board with 20 pins: 16 MHz, its pins by port, its timers as such boards' builders have
// them. Timer 0 counts milliseconds and dims pins 5 and 6, timer 1 dims 9 and 10 or turns servos, timer 2 dims 3 and 11
// or makes notes.
#include "hardware.h"

#include <avr/eeprom.h>
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/sleep.h>
#include <avr/wdt.h>
#include <util/delay.h>
#include <util/twi.h>

typedef void (*Handler)(void);

// Pins 0 to 7 are port D, 8 to 13 port B, the analogue ones port C.
static volatile uint8_t *port_of(uint8_t pin) { return pin < 8 ? &PORTD : pin < 14 ? &PORTB : &PORTC; }
static volatile uint8_t *mode_of(uint8_t pin) { return pin < 8 ? &DDRD : pin < 14 ? &DDRB : &DDRC; }
static volatile uint8_t *level_of(uint8_t pin) { return pin < 8 ? &PIND : pin < 14 ? &PINB : &PINC; }
static uint8_t bit_of(uint8_t pin) { return (uint8_t)(1 << (pin < 8 ? pin : pin < 14 ? pin - 8 : pin - 14)); }

// Before memory is set up: why the board started, and the watchdog off, which a reset by it leaves on.
static uint8_t flags __attribute__((section(".noinit")));

void watch_off_early(void) __attribute__((naked, used, section(".init3")));
void watch_off_early(void) {
  flags = MCUSR;
  MCUSR = 0;
  wdt_disable();
}

uint8_t hw_cause(void) {
  uint8_t causes = 0;
  if (flags & (1 << PORF)) causes |= 1;
  if (flags & (1 << EXTRF)) causes |= 2;
  if (flags & (1 << BORF)) causes |= 4;
  if (flags & (1 << WDRF)) causes |= 8;
  return causes;
}

void hw_restart(void) {
  cli();
  wdt_enable(WDTO_15MS);
  for (;;) {
  }
}

// Time. Timer 0 overflows every 1,024 us: a millisecond, and three 125ths of one.
static volatile uint32_t milliseconds = 0, overflows = 0;
static volatile uint8_t parts = 0;
static volatile Handler each = 0;

ISR(TIMER0_OVF_vect) {
  uint32_t now = milliseconds + 1;
  parts = (uint8_t)(parts + 3);
  if (parts >= 125) {
    parts = (uint8_t)(parts - 125);
    ++now;
  }
  milliseconds = now;
  ++overflows;
}

ISR(TIMER0_COMPA_vect) {
  if (each) each();
}

uint32_t hw_millis(void) {
  const uint8_t was = SREG;
  cli();
  const uint32_t now = milliseconds;
  SREG = was;
  return now;
}

uint32_t hw_micros(void) {
  const uint8_t was = SREG;
  cli();
  uint32_t over = overflows;
  const uint8_t count = TCNT0;
  if ((TIFR0 & (1 << TOV0)) && count < 255) ++over;
  SREG = was;
  return ((over << 8) + count) * 4;
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

void hw_each_ms(void (*handler)(void)) {
  each = handler;
  OCR0A = 128;
  TIMSK0 |= 1 << OCIE0A;
}

// Pins.
static void undim(uint8_t pin) {
  switch (pin) {
    case 3: TCCR2A &= (uint8_t)~(1 << COM2B1); break;
    case 5: TCCR0A &= (uint8_t)~(1 << COM0B1); break;
    case 6: TCCR0A &= (uint8_t)~(1 << COM0A1); break;
    case 9: TCCR1A &= (uint8_t)~(1 << COM1A1); break;
    case 10: TCCR1A &= (uint8_t)~(1 << COM1B1); break;
    case 11: TCCR2A &= (uint8_t)~(1 << COM2A1); break;
    default: break;
  }
}

void hw_pin_mode(uint8_t pin, uint8_t mode) {
  const uint8_t bit = bit_of(pin), was = SREG;
  cli();
  if (mode == OUTPUT) {
    *mode_of(pin) |= bit;
  } else {
    *mode_of(pin) &= (uint8_t)~bit;
    if (mode == INPUT_PULLUP) *port_of(pin) |= bit;
    else *port_of(pin) &= (uint8_t)~bit;
  }
  SREG = was;
}

int hw_read(uint8_t pin) { return *level_of(pin) & bit_of(pin) ? HIGH : LOW; }

void hw_write(uint8_t pin, uint8_t level) {
  const uint8_t bit = bit_of(pin), was = SREG;
  undim(pin);
  cli();
  if (level) *port_of(pin) |= bit;
  else *port_of(pin) &= (uint8_t)~bit;
  SREG = was;
}

uint16_t hw_measure(uint8_t pin) {
  ADMUX = (uint8_t)((1 << REFS0) | (pin - A0));
  ADCSRA = (1 << ADEN) | (1 << ADSC) | 7;  // 125 kHz
  while (ADCSRA & (1 << ADSC)) {
  }
  return ADC;
}

void hw_dim(uint8_t pin, uint8_t duty) {
  switch (pin) {
    case 3:
      TCCR2A |= (1 << COM2B1) | (1 << WGM20);
      TCCR2B = 1 << CS22;
      OCR2B = duty;
      break;
    case 5:
      TCCR0A |= 1 << COM0B1;
      OCR0B = duty;
      break;
    case 6:
      TCCR0A |= 1 << COM0A1;
      OCR0A = duty;
      break;
    case 9:
      TCCR1A |= (1 << COM1A1) | (1 << WGM10);
      TCCR1B = (1 << CS11) | (1 << CS10);
      OCR1A = duty;
      break;
    case 10:
      TCCR1A |= (1 << COM1B1) | (1 << WGM10);
      TCCR1B = (1 << CS11) | (1 << CS10);
      OCR1B = duty;
      break;
    case 11:
      TCCR2A |= (1 << COM2A1) | (1 << WGM20);
      TCCR2B = 1 << CS22;
      OCR2A = duty;
      break;
    default: hw_write(pin, duty >= 128); break;  // no timer's
  }
}

// Notes: timer 2 turns the pin over twice a wave.
static volatile uint8_t *note_port = 0;
static volatile uint8_t note_bit = 0;

ISR(TIMER2_COMPA_vect) {
  if (note_port) *note_port ^= note_bit;
}

void hw_tone(uint8_t pin, uint16_t hz) {
  static const uint16_t divides[] = {1, 8, 32, 64, 128, 256, 1024};
  uint8_t step = 0;
  while (step < 6 && F_CPU / 2 / divides[step] / hz > 256) ++step;
  note_port = port_of(pin);
  note_bit = bit_of(pin);
  TCCR2A = 1 << WGM21;
  TCCR2B = (uint8_t)(step + 1);
  OCR2A = (uint8_t)(F_CPU / 2 / divides[step] / hz - 1);
  TIMSK2 |= 1 << OCIE2A;
}

void hw_no_tone(uint8_t pin) {
  TIMSK2 &= (uint8_t)~(1 << OCIE2A);
  note_port = 0;
  *port_of(pin) &= (uint8_t)~bit_of(pin);
}

// Handlers. Pins 2 and 3 have interrupts of their own; the others share one a port.
static volatile Handler on_edges[2] = {0, 0};
static volatile Handler on_pins[3] = {0, 0, 0};
static volatile uint8_t ways[3] = {CHANGE, CHANGE, CHANGE}, watched[3] = {0, 0, 0}, before[3] = {0, 0, 0};

ISR(INT0_vect) {
  if (on_edges[0]) on_edges[0]();
}

ISR(INT1_vect) {
  if (on_edges[1]) on_edges[1]();
}

static void pin_changed(uint8_t port, uint8_t now) {
  const uint8_t changed = (uint8_t)((now ^ before[port]) & watched[port]);
  const uint8_t up = (uint8_t)(changed & now), down = (uint8_t)(changed & ~now);
  before[port] = now;
  const uint8_t counts = ways[port] == RISING ? up : ways[port] == FALLING ? down : changed;
  if (counts && on_pins[port]) on_pins[port]();
}

ISR(PCINT0_vect) { pin_changed(0, PINB); }
ISR(PCINT1_vect) { pin_changed(1, PINC); }
ISR(PCINT2_vect) { pin_changed(2, PIND); }

static void watch_pin(uint8_t pin, void (*handler)(void), uint8_t way) {
  const uint8_t port = pin < 8 ? 2 : pin < 14 ? 0 : 1, bit = bit_of(pin);
  on_pins[port] = handler;
  ways[port] = way;
  watched[port] |= bit;
  before[port] = *level_of(pin);
  *(port == 2 ? &PCMSK2 : port == 0 ? &PCMSK0 : &PCMSK1) |= bit;
  PCICR |= (uint8_t)(1 << port);
}

void hw_on_edge(uint8_t pin, void (*handler)(void), uint8_t way) {
  if (pin != 2 && pin != 3) {
    watch_pin(pin, handler, way);
    return;
  }
  const uint8_t one = (uint8_t)(pin - 2), senses = way == RISING ? 3 : way == FALLING ? 2 : 1;
  on_edges[one] = handler;
  EICRA = (uint8_t)((EICRA & ~(3 << 2 * one)) | senses << 2 * one);
  EIFR = (uint8_t)(1 << one);
  EIMSK |= (uint8_t)(1 << one);
}

void hw_lock(void) { cli(); }
void hw_unlock(void) { sei(); }

// The serial line, with a buffer each way.
enum { BUFFER = 64 };
static volatile char came[BUFFER], goes[BUFFER];
static volatile uint8_t came_in = 0, came_out = 0, goes_in = 0, goes_out = 0;

ISR(USART_RX_vect) {
  const char got = (char)UDR0;
  const uint8_t next = (uint8_t)((came_in + 1) % BUFFER);
  if (next == came_out) return;  // full: it is lost
  came[came_in] = got;
  came_in = next;
}

ISR(USART_UDRE_vect) {
  if (goes_in == goes_out) {
    UCSR0B &= (uint8_t)~(1 << UDRIE0);
    return;
  }
  UDR0 = (uint8_t)goes[goes_out];
  goes_out = (uint8_t)((goes_out + 1) % BUFFER);
}

void hw_serial_begin(uint32_t baud) {
  const uint16_t divides = (uint16_t)((F_CPU / 4 / baud - 1) / 2);
  UCSR0A = 1 << U2X0;
  UBRR0 = divides;
  UCSR0C = (1 << UCSZ01) | (1 << UCSZ00);
  UCSR0B = (1 << RXEN0) | (1 << TXEN0) | (1 << RXCIE0);
}

int hw_serial_available(void) { return (uint8_t)(BUFFER + came_in - came_out) % BUFFER; }

int hw_serial_read(void) {
  if (came_in == came_out) return -1;
  const uint8_t got = (uint8_t)came[came_out];
  came_out = (uint8_t)((came_out + 1) % BUFFER);
  return got;
}

int hw_serial_room(void) { return BUFFER - 1 - (uint8_t)(BUFFER + goes_in - goes_out) % BUFFER; }

void hw_serial_write(char letter) {
  while (!hw_serial_room()) {
  }
  goes[goes_in] = letter;
  goes_in = (uint8_t)((goes_in + 1) % BUFFER);
  UCSR0B |= 1 << UDRIE0;
}

// The two-wire bus. A display that does not answer is given up, not waited for.
static bool bus_done(void) {
  for (uint16_t turns = 0; turns < 10000; ++turns)
    if (TWCR & (1 << TWINT)) return true;
  return false;
}

void hw_bus_begin(void) { hw_bus_clock(100000UL); }

void hw_bus_clock(uint32_t hz) {
  TWSR = 0;
  TWBR = (uint8_t)((F_CPU / hz - 16) / 2);
  TWCR = 1 << TWEN;
}

void hw_bus_write(uint8_t code) {
  TWDR = code;
  TWCR = (1 << TWINT) | (1 << TWEN);
  (void)bus_done();
}

void hw_bus_open(uint8_t address) {
  TWCR = (1 << TWINT) | (1 << TWSTA) | (1 << TWEN);
  (void)bus_done();
  hw_bus_write((uint8_t)(address << 1));
}

void hw_bus_close(void) { TWCR = (1 << TWINT) | (1 << TWSTO) | (1 << TWEN); }

// Servos: timer 1 counts half microseconds; one pulse after the other, the rest of 20 ms after the last.
enum { SERVOS = 6 };
#define FRAME 40000U
static volatile uint16_t pulses[SERVOS];
static uint8_t servo_pins[SERVOS], servo_count = 0;
static volatile uint8_t servo_now = 0;
static volatile uint16_t servo_spent = 0;

ISR(TIMER1_COMPA_vect) {
  if (servo_now > 0 && servo_now <= servo_count)
    *port_of(servo_pins[servo_now - 1]) &= (uint8_t)~bit_of(servo_pins[servo_now - 1]);
  if (servo_now < servo_count) {
    *port_of(servo_pins[servo_now]) |= bit_of(servo_pins[servo_now]);
    OCR1A = (uint16_t)(OCR1A + pulses[servo_now]);
    servo_spent = (uint16_t)(servo_spent + pulses[servo_now]);
    ++servo_now;
  } else {
    OCR1A = (uint16_t)(OCR1A + (FRAME - servo_spent));
    servo_spent = 0;
    servo_now = 0;
  }
}

static uint16_t pulse_of(uint8_t degrees) { return (uint16_t)(2 * (544 + (uint32_t)degrees * (2400 - 544) / 180)); }

void hw_servo_attach(hw_servo *servo, uint8_t pin) {
  if (servo_count == SERVOS) return;
  servo->pin = servo_count;
  servo_pins[servo_count] = pin;
  pulses[servo_count] = pulse_of(90);
  *mode_of(pin) |= bit_of(pin);
  ++servo_count;
  TCCR1A = 0;
  TCCR1B = 1 << CS11;
  TIMSK1 |= 1 << OCIE1A;
}

void hw_servo_turn(hw_servo *servo, uint8_t degrees) {
  const uint8_t was = SREG;
  cli();
  pulses[servo->pin] = pulse_of(degrees);
  SREG = was;
}

// The watchdog. Its step is the shortest that is no shorter.
static volatile Handler barks = 0;

ISR(WDT_vect) {
  if (barks) barks();
}

static uint8_t step_of(uint32_t ms) {
  uint8_t step = 0;
  for (uint32_t long_ms = 16; step < 9 && long_ms < ms; ++step) long_ms = step == 2 ? 125 : 2 * long_ms;
  return step;
}

static void watch(uint32_t ms, uint8_t modes) {
  const uint8_t step = step_of(ms), was = SREG;
  cli();
  wdt_reset();
  WDTCSR = (1 << WDCE) | (1 << WDE);  // the change needs two writes within four cycles
  WDTCSR = (uint8_t)(modes | (step & 8 ? 1 << WDP3 : 0) | (step & 7));
  SREG = was;
}

void hw_watchdog_on(uint32_t ms) { watch(ms, 1 << WDE); }

void hw_watchdog_calls(uint32_t ms, void (*handler)(void)) {
  barks = handler;
  watch(ms, 1 << WDIE);
}

void hw_watchdog_calls_first(uint32_t ms, void (*handler)(void)) {
  barks = handler;
  watch(ms, (1 << WDIE) | (1 << WDE));
}

void hw_watchdog_arm(void) { WDTCSR |= 1 << WDIE; }
void hw_watchdog_feed(void) { wdt_reset(); }
void hw_watchdog_off(void) { wdt_disable(); }

// Sleep.
void hw_wake_at(uint8_t pin, void (*handler)(void)) { watch_pin(pin, handler, CHANGE); }

void hw_sleep_deep(void) {
  set_sleep_mode(SLEEP_MODE_PWR_DOWN);
  sleep_enable();
  sei();  // and asleep in the next cycle: none comes between
  sleep_cpu();
  sleep_disable();
}

void hw_sleep_a_while(void) {
  set_sleep_mode(SLEEP_MODE_IDLE);
  sleep_mode();
}

// The store.
void hw_store_put(uint16_t at, uint8_t value) { eeprom_update_byte((uint8_t *)at, value); }
void hw_store_get(uint16_t at, void *field, uint16_t bytes) { eeprom_read_block(field, (const void *)at, bytes); }

#ifndef HW_NO_MAIN
int main(void) {
  TCCR0A = (1 << WGM01) | (1 << WGM00);
  TCCR0B = (1 << CS01) | (1 << CS00);
  TIMSK0 = 1 << TOIE0;
  sei();
  setup();
  for (;;) loop();
}
#endif
