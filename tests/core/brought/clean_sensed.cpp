// A light switch with hysteresis, dimmed lamps in a list, an encoder, commands by line.
const byte CLK = 6, DT = 7;
const byte LAMPS[3] = {3, 5, 10};
const byte SENSOR = A0;
const int DARK = 300, BRIGHT = 420;

int level = 128;
bool on = false;
byte lastClk = HIGH;
char line[24];
byte many = 0;

void shine() {
  for (byte n = 0; n < 3; n++) {
    analogWrite(LAMPS[n], on ? level : 0);
  }
}

void turn() {
  byte clk = digitalRead(CLK);
  if (clk != lastClk && clk == LOW) {
    if (digitalRead(DT) != clk) {
      level = min(level + 8, 255);
    } else {
      level = max(level - 8, 0);
    }
    shine();
  }
  lastClk = clk;
}

void sense() {
  int value = analogRead(SENSOR);
  bool before = on;
  if (value < DARK) {
    on = true;
  } else if (value > BRIGHT) {
    on = false;
  }
  if (on != before) shine();
}

void hear() {
  while (Serial.available()) {
    char letter = Serial.read();
    if (letter == '\n') {
      line[many] = 0;
      level = constrain(atoi(line), 0, 255);
      many = 0;
      shine();
    } else if (many < sizeof(line) - 1) {
      line[many++] = letter;
    }
  }
}

void setup() {
  pinMode(CLK, INPUT_PULLUP);
  pinMode(DT, INPUT_PULLUP);
  for (byte n = 0; n < 3; n++) {
    pinMode(LAMPS[n], OUTPUT);
  }
  Serial.begin(9600);
}

void loop() {
  turn();
  sense();
  hear();
}
