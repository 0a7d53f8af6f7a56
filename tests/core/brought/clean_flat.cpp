// One file, everything in the loop.

const int BUTTON = 2;
const int LAMP = 9;
const unsigned long WAIT = 25;

bool lampOn = false;
bool stable = HIGH;
bool seen = HIGH;
unsigned long changed = 0;

void setup() {
  pinMode(BUTTON, INPUT_PULLUP);
  pinMode(LAMP, OUTPUT);
  Serial.begin(9600);
}

void loop() {
  unsigned long now = millis();
  bool level = digitalRead(BUTTON);
  if (level != seen) {
    seen = level;
    changed = now;
  }
  if (now - changed >= WAIT && level != stable) {
    stable = level;
    if (stable == LOW) {
      lampOn = !lampOn;
      digitalWrite(LAMP, lampOn ? HIGH : LOW);
      Serial.println(lampOn ? "on" : "off");
    }
  }
}
