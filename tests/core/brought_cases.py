"""Mistakes planted in programs: each a clean program, what is taken out, and what comes in its place."""

from __future__ import annotations

from pathlib import Path

FOLDER = Path(__file__).parent / "brought"
CLEAN = ("clean_flat.cpp", "clean_parted.cpp", "clean_sensed.cpp", "clean_main.c", "clean_flat.py", "clean_parted.py")


def program(name: str) -> str:
    """A clean program."""
    return (FOLDER / name).read_text()


# (the check that must find it, the program, what is there, what comes in its place)
PLANTED: tuple[tuple[str, str, str, str], ...] = (
    ("no-pull", "clean_flat.cpp", "pinMode(BUTTON, INPUT_PULLUP)", "pinMode(BUTTON, INPUT)"),
    ("no-pull", "clean_parted.cpp", "pinMode(STOP_PIN, INPUT_PULLUP)", "pinMode(STOP_PIN, INPUT)"),
    ("no-pull", "clean_main.c", "pinMode(KEY, INPUT_PULLUP)", "pinMode(KEY, INPUT)"),
    ("no-pull", "clean_flat.py", "Pin(14, Pin.IN, Pin.PULL_UP)", "Pin(14, Pin.IN)"),
    ("no-pull", "clean_parted.py", "machine.Pin(6, machine.Pin.IN, machine.Pin.PULL_UP)", "machine.Pin(6, machine.Pin.IN)"),
    ("pull-up-high", "clean_flat.cpp", "  if (level != seen) {", "  if (digitalRead(BUTTON) == HIGH) tone(6, 440);\n  if (level != seen) {"),
    ("pull-up-high", "clean_flat.py", "    if level != seen:", "    if button.value():\n        lamp.off()\n    if level != seen:"),
    ("pull-down-low", "clean_parted.py", "machine.Pin(6, machine.Pin.IN, machine.Pin.PULL_UP)", "machine.Pin(6, machine.Pin.IN, machine.Pin.PULL_DOWN)"),
    ("pin-twice", "clean_parted.cpp", "#define STOP_PIN 5", "#define STOP_PIN 4"),
    ("pin-twice", "clean_flat.py", "lamp = Pin(15,", "lamp = Pin(14,"),
    ("pin-twice", "clean_flat.cpp", "  Serial.begin", "  pinMode(BUTTON, OUTPUT);\n  Serial.begin"),
    ("pin-taken", "clean_flat.cpp", "const int LAMP = 9", "const int LAMP = 1"),
    ("no-mode", "clean_flat.cpp", "  pinMode(LAMP, OUTPUT);\n", ""),
    ("no-mode", "clean_main.c", "  pinMode(FAN, OUTPUT);\n", ""),
    ("late-mode", "clean_flat.cpp", "  pinMode(LAMP, OUTPUT);\n", "  digitalWrite(LAMP, LOW);\n  pinMode(LAMP, OUTPUT);\n"),
    ("cannot-dim", "clean_sensed.cpp", "{3, 5, 10}", "{3, 5, 8}"),
    ("cannot-interrupt", "clean_parted.cpp", "#define FLOW_PIN 2", "#define FLOW_PIN 7"),
    ("loop-waits", "clean_flat.cpp", "      Serial.println(lampOn ?", "      delay(300);\n      Serial.println(lampOn ?"),
    ("loop-waits", "clean_parted.cpp", "      if (pressed(start)) show(IDLE);", "      for (int n = 0; n < 4; n++) delay(200);\n      if (pressed(start)) show(IDLE);"),
    ("loop-waits", "clean_flat.py", "            lamp.value(on)", "            lamp.value(on)\n            time.sleep(0.3)"),
    ("loop-waits", "clean_parted.py", "    value = read_level()", "    time.sleep_ms(500)\n    value = read_level()"),
    ("handler-waits", "clean_parted.cpp", "  pulses++;", "  delay(5);\n  pulses++;"),
    ("handler-waits", "clean_parted.py", "    pulses += 1", "    time.sleep_ms(5)\n    pulses += 1"),
    ("handler-prints", "clean_parted.cpp", "  pulses++;", "  pulses++;\n  Serial.println(1);"),
    ("handler-prints", "clean_parted.py", "    pulses += 1", "    pulses += 1\n    print(pulses)"),
    ("waits-for-release", "clean_flat.cpp", "      lampOn = !lampOn;", "      lampOn = !lampOn;\n      while (digitalRead(BUTTON) == LOW) {\n      }"),
    ("waits-for-release", "clean_flat.py", "            on = not on", "            on = not on\n            while not button.value():\n                pass"),
    ("never-comes-back", "clean_main.c", "      running = false;", "      running = false;\n      while (1) {\n        digitalWrite(FAN, 0);\n      }"),
    ("never-comes-back", "clean_parted.py", "        pump.off()\n    value", "        pump.off()\n        while True:\n            pump.off()\n    value"),
    ("encoder-deaf", "clean_sensed.cpp", "  sense();\n  hear();", "  sense();\n  hear();\n  delay(5);"),
    ("pulse-waits", "clean_sensed.cpp", "  sense();\n  hear();", "  sense();\n  hear();\n  level = pulseIn(12, HIGH) / 100;"),
    ("read-waits", "clean_sensed.cpp", "    char letter = Serial.read();", "    String all = Serial.readString();\n    char letter = all[0];"),
    ("sum-wraps", "clean_flat.cpp", "now - changed >= WAIT", "now >= changed + WAIT"),
    ("sum-wraps", "clean_parted.cpp", "millis() - began >= RUN_MS", "began + RUN_MS < millis()"),
    ("sum-wraps", "clean_main.c", "(uint32_t)(now - since) >= HOLD_MS", "now > since + HOLD_MS"),
    ("sum-wraps", "clean_flat.py", "ticks_diff(now, changed) >= WAIT", "now > changed + WAIT"),
    ("deadline-wraps", "clean_main.c", "(uint32_t)(now - since) >= HOLD_MS", "now >= since"),
    ("reversed-wait", "clean_parted.cpp", "millis() - began >= RUN_MS", "began - millis() >= RUN_MS"),
    ("exact-time", "clean_parted.cpp", "millis() - began >= RUN_MS", "millis() % 90000 == 0"),
    ("narrow-time", "clean_flat.cpp", "unsigned long changed = 0;", "int changed = 0;"),
    ("narrow-time", "clean_parted.cpp", "unsigned long began = 0;", "long began = 0;"),
    ("narrow-time", "clean_main.c", "static uint32_t since;", "static uint16_t since;"),
    ("plain-difference", "clean_flat.py", "ticks_diff(now, changed) >= WAIT", "now - changed >= WAIT"),
    ("whole-seconds", "clean_parted.py", "time.ticks_diff(now, began) >= 90_000", "time.time() - began >= 90"),
    ("product-overflows", "clean_parted.cpp", "#define RUN_MS 90000UL", "#define RUN_MS (90 * 1000)"),
    ("product-overflows", "clean_flat.cpp", "const unsigned long WAIT = 25;", "const unsigned long WAIT = 60 * 60 * 24;"),
    ("forgets", "clean_flat.cpp", "  unsigned long now = millis();", "  unsigned long now = millis();\n  unsigned long told = 0;\n  if (now - told > 1000) Serial.println(stable);"),
    ("forgets", "clean_flat.cpp", "  bool level = digitalRead(BUTTON);", "  bool blink = false;\n  bool level = digitalRead(BUTTON);\n  if (level != seen) blink = !blink;"),
    ("shared-last", "clean_main.c", "    was_down = down;", "    was_down = down;\n    if (digitalRead(5) == 0 && now - since > 50) digitalWrite(FAN, 1);\n    if (digitalRead(6) == 0 && now - since > 50) digitalWrite(FAN, 0);"),
    ("debounce-short", "clean_flat.cpp", "const unsigned long WAIT = 25;", "const unsigned long WAIT = 1;"),
    ("debounce-short", "clean_flat.py", "WAIT = 25", "WAIT = 2"),
    ("not-volatile", "clean_parted.cpp", "volatile unsigned int pulses", "unsigned int pulses"),
    ("torn-read", "clean_parted.cpp", "  noInterrupts();\n  unsigned int copy = pulses;\n  pulses = 0;\n  interrupts();", "  unsigned int copy = pulses;\n  pulses = 0;"),
    ("fed-in-handler", "clean_parted.cpp", "  pulses++;", "  pulses++;\n  wdt_reset();"),
    ("fed-in-handler", "clean_parted.py", "    pulses += 1", "    pulses += 1\n    guard.feed()"),
    ("toggles-on-level", "clean_flat.cpp", "  if (level != seen) {", "  if (digitalRead(BUTTON) == LOW) lampOn = !lampOn;\n  if (level != seen) {"),
    ("toggles-on-level", "clean_main.c", "    if (down && !was_down) {", "    if (digitalRead(KEY) == 0) running = !running;\n    if (down && !was_down) {"),
    ("toggles-on-level", "clean_flat.py", "    if level != seen:", "    if not button.value():\n        on = not on\n    if level != seen:"),
    ("counts-bounces", "clean_main.c", "    if (down && !was_down) {", "    const bool raw = digitalRead(KEY) == 0;\n    static bool was_raw;\n    if (raw && !was_raw) running = !running;\n    was_raw = raw;\n    if (down && !was_down) {"),
    ("counts-bounces", "clean_flat.py", "    if ticks_diff(now, changed) >= WAIT and level != stable:", "    if level != stable:"),
    ("assigns-in-test", "clean_flat.cpp", "if (stable == LOW)", "if (stable = LOW)"),
    ("assigns-in-test", "clean_parted.cpp", "mode == RUNNING ? HIGH : LOW);", "mode == RUNNING ? HIGH : LOW);\n  if (mode = DONE) Serial.println(1);"),
    ("empty-if", "clean_flat.cpp", "    if (stable == LOW) {", "    if (stable == LOW);\n    {"),
    ("falls-through", "clean_parted.cpp", "        show(RUNNING);\n      }\n      break;", "        show(RUNNING);\n      }"),
    ("float-equal", "clean_sensed.cpp", "  bool before = on;", "  float share = value / 1023.0;\n  if (share == 0.5) shine();\n  bool before = on;"),
    ("float-equal", "clean_parted.py", "    if value > HIGH:", "    if value / 65535 == 0.5:\n        pump.off()\n    if value > HIGH:"),
    ("calls-itself", "clean_parted.cpp", "  mode = next;", "  mode = next;\n  if (next == DONE) show(IDLE);"),
    ("calls-itself", "clean_parted.py", "    return level.read_u16()", "    value = level.read_u16()\n    return value if value else read_level()"),
    ("bit-for-both", "clean_main.c", "down && !was_down", "down == true & was_down == false"),
    ("index-beyond", "clean_sensed.cpp", "    analogWrite(LAMPS[n], on ? level : 0);\n  }", "    analogWrite(LAMPS[n], on ? level : 0);\n  }\n  analogWrite(LAMPS[3], 0);"),
    ("index-beyond", "clean_sensed.cpp", "for (byte n = 0; n < 3; n++) {\n    analogWrite", "for (byte n = 0; n <= 3; n++) {\n    analogWrite"),
    ("past-the-top", "clean_sensed.cpp", "value > BRIGHT", "value >= 1024"),
    ("past-the-top", "clean_parted.py", "LOW, HIGH = 20_000, 26_000", "LOW = 20_000\nHIGH = 70_000"),
    ("volts-for-counts", "clean_sensed.cpp", "value < DARK", "value < 1.5"),
    ("no-hysteresis", "clean_sensed.cpp", "  bool before = on;", "  if (value < DARK) digitalWrite(13, HIGH);\n  else digitalWrite(13, LOW);\n  bool before = on;"),
    ("number-without-end", "clean_sensed.cpp", "    char letter = Serial.read();", "    level = Serial.parseInt();\n    char letter = 'x';"),
    ("string-grows", "clean_sensed.cpp", "    char letter = Serial.read();", "    char letter = Serial.read();\n    said += letter;"),
    ("never-begun", "clean_flat.cpp", "  Serial.begin(9600);\n", ""),
    ("prints-each-pass", "clean_sensed.cpp", "  turn();\n  sense();", "  turn();\n  Serial.println(level);\n  sense();"),
    ("prints-each-pass", "clean_flat.py", "    now = ticks_ms()", "    now = ticks_ms()\n    print(now)"),
    ("outlasts-watchdog", "clean_parted.cpp", "        Serial.println(takePulses());", "        Serial.println(takePulses());\n        delay(1500);"),
    ("outlasts-watchdog", "clean_parted.py", "    value = read_level()", "    time.sleep(5)\n    value = read_level()"),
    ("never-fed", "clean_parted.cpp", "  wdt_reset();\n", ""),
    ("never-fed", "clean_parted.py", "    guard.feed()\n", ""),
    ("never-off-at-start", "clean_parted.cpp", "  wdt_disable();\n", ""),
)  # fmt: skip
# What comes with some of them, truly: a wait in a handler's loop is a wait, too.
ALSO: dict[str, set[str]] = {
    "outlasts-watchdog": {"loop-waits"},
    "no-hysteresis": {"no-mode"},
    "forgets": {"counts-bounces"},
    "encoder-deaf": {"loop-waits"},
    "pin-twice": {"no-pull", "loop-waits"},
}
BEFORE = {
    "deadline-wraps": ("      since = now;", "      since = now + HOLD_MS;"),
    "string-grows": ("char line[24];", 'String said = "";\nchar line[24];'),
    "loop-waits": ("from time import", "import time\nfrom time import"),
}
