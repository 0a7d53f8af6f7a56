// Functions, a switch over states, a watchdog, an interrupt.
#include <avr/wdt.h>

#define START_PIN 4
#define STOP_PIN 5
#define VALVE_PIN 8
#define FLOW_PIN 2
#define RUN_MS 90000UL

enum Mode { IDLE, RUNNING, DONE };

struct Button {
  byte pin;
  bool down;
  bool last;
  unsigned long since;
};

Button start = {START_PIN, false, false, 0};
Button stop = {STOP_PIN, false, false, 0};
Mode mode = IDLE;
unsigned long began = 0;
volatile unsigned int pulses = 0;

void onPulse() {
  pulses++;
}

bool pressed(Button &button) {
  bool level = digitalRead(button.pin) == LOW;
  if (level != button.last) {
    button.last = level;
    button.since = millis();
  }
  if (millis() - button.since < 20 || level == button.down) return false;
  button.down = level;
  return level;
}

unsigned int takePulses() {
  noInterrupts();
  unsigned int copy = pulses;
  pulses = 0;
  interrupts();
  return copy;
}

void show(Mode next) {
  mode = next;
  digitalWrite(VALVE_PIN, mode == RUNNING ? HIGH : LOW);
}

void setup() {
  wdt_disable();
  pinMode(START_PIN, INPUT_PULLUP);
  pinMode(STOP_PIN, INPUT_PULLUP);
  pinMode(FLOW_PIN, INPUT_PULLUP);
  pinMode(VALVE_PIN, OUTPUT);
  Serial.begin(115200);
  attachInterrupt(digitalPinToInterrupt(FLOW_PIN), onPulse, FALLING);
  wdt_enable(WDTO_1S);
}

void loop() {
  wdt_reset();
  switch (mode) {
    case IDLE:
      if (pressed(start)) {
        began = millis();
        show(RUNNING);
      }
      break;
    case RUNNING:
      if (pressed(stop) || millis() - began >= RUN_MS) {
        show(DONE);
        Serial.println(takePulses());
      }
      break;
    case DONE:
      if (pressed(start)) show(IDLE);
      break;
  }
}
