#if USE_TYPES
// A line of text is put together here before it is written.
char text_line[TEXT_MOST + 1];
uint8_t text_length = 0, text_columns = TEXT_MOST;

#if USE_DISPLAYS
// A character display behind an expander on the bus: the lower bits are for characters, for taking over and for the
// light; the upper four are data, half a byte at a time, taken over as that bit falls.
struct Display {
  const uint8_t address;

  explicit Display(uint8_t address_) : address(address_) {}

  void half(uint8_t what, uint8_t bits) {
    const uint8_t sent = uint8_t((what & 0xF0) | bits | 0x08);
    Wire.write(sent);
    Wire.write(uint8_t(sent | 0x04));
    Wire.write(sent);
  }

  void send(uint8_t what, uint8_t bits) {
    Wire.beginTransmission(address);
    half(what, bits);
    half(uint8_t(what << 4), bits);
    Wire.endTransmission();
  }

  void begin() {
    const uint8_t halves[] = {HALVES};
    const uint8_t commands[] = {COMMANDS};
    delay(POWER_ON_MS);
    for (uint8_t n = 0; n < sizeof halves; ++n) {
      Wire.beginTransmission(address);
      half(halves[n], 0);
      Wire.endTransmission();
      delay(WIDTH_MS);
    }
    for (uint8_t n = 0; n < sizeof commands; ++n) send(commands[n], 0);
    delay(CLEAR_MS);
  }
};

// One line of it, and what stands there.
struct DisplayLine {
  Display &display;
  const uint8_t start, columns;
  char stands[TEXT_COLUMNS];

  DisplayLine(Display &display_, uint8_t start_, uint8_t columns_) : display(display_), start(start_), columns(columns_) {}

  void begin() {  // as the display has cleared itself
    for (uint8_t n = 0; n < TEXT_COLUMNS; ++n) stands[n] = ' ';
  }

  void write() {  // from the first character that differs to the last
    while (text_length < columns) {
      text_line[text_length] = ' ';
      ++text_length;
    }
    uint8_t first = 0, end = columns;
    while (first < columns && text_line[first] == stands[first]) ++first;
    if (first == columns) return;
    while (text_line[end - 1] == stands[end - 1]) --end;
    display.send(uint8_t(0x80 | (start + first)), 0);
    for (uint8_t n = first; n < end; ++n) {
      display.send(uint8_t(text_line[n]), 1);
      stands[n] = text_line[n];
    }
  }
};
#endif
#endif
#if USE_SAYING
void begin_text(uint8_t columns) {
  text_length = 0;
  text_columns = columns;
}

void say_letter(char letter) {
  if (text_length >= text_columns) return;
  text_line[text_length] = letter;
  ++text_length;
}

#if USE_PRINTS
void print_text() {
  for (uint8_t n = 0; n < text_length; ++n) Serial.write(text_line[n]);
  Serial.write('\n');
}

#endif
#if USE_SAY
void say(const char *what, uint8_t width) {
  const uint8_t length = uint8_t(strlen(what));
  for (uint8_t n = 0; n < length; ++n) say_letter(what[n]);
  for (uint8_t n = length; n < width; ++n) say_letter(' ');
}

#endif
#if USE_NUMBERS
// At the right of `width` places, or of as many as it takes.
void say_number(int32_t value, uint8_t width) {
  char digits[11];
  uint8_t count = 0;
  uint32_t left = value < 0 ? uint32_t(0) - uint32_t(value) : uint32_t(value);
  do {
    digits[count] = char('0' + left % 10);
    ++count;
    left /= 10;
  } while (left);
  if (value < 0) {
    digits[count] = '-';
    ++count;
  }
  for (uint8_t n = count; n < width; ++n) say_letter(' ');
  for (uint8_t n = count; n > 0; --n) say_letter(digits[n - 1]);
}

#endif
#if USE_BARS
// Whole places, rounded down.
void say_bar(int32_t value, int32_t least, int32_t most, uint8_t width) {
  const uint8_t full = most > least ? uint8_t(int64_t(width) * (int64_t(value) - least) / (int64_t(most) - least)) : width;
  for (uint8_t n = 0; n < width; ++n) say_letter(n < full ? '#' : ' ');
}

#endif
#endif
