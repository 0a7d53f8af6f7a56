// Keys at the crossings of rows and columns. A scan drives one row low at a time and reads the pulled-up columns.
template <uint8_t ROWS, uint8_t COLUMNS>
struct Keys {
  const uint8_t *rows, *columns;
  bool raw[ROWS * COLUMNS] = {}, accepted[ROWS * COLUMNS] = {}, pressed[ROWS * COLUMNS] = {};
  uint32_t since[ROWS * COLUMNS] = {};

  Keys(const uint8_t *rows_, const uint8_t *columns_) : rows(rows_), columns(columns_) {}

  void rest() {
    for (bool &key : pressed) key = false;
  }

  void scan(uint32_t now, uint32_t wait) {
    for (uint8_t row = 0; row < ROWS; ++row) {
      digitalWrite(rows[row], LOW);
      pinMode(rows[row], OUTPUT);
      for (uint8_t column = 0; column < COLUMNS; ++column) {
        const uint8_t place = uint8_t(row * COLUMNS + column);
        const bool reading = digitalRead(columns[column]) == LOW;
        pressed[place] = false;
        if (reading != raw[place]) {
          raw[place] = reading;
          since[place] = now;
        }
        if (reading == accepted[place] || uint32_t(now - since[place]) < wait) continue;
        accepted[place] = reading;
        pressed[place] = reading;
      }
      pinMode(rows[row], INPUT);  // released: the other rows must not drive against it
    }
  }
};
