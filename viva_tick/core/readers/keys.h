// Keys at the crossings of rows and columns. A scan drives one row low at a time and reads the pulled-up columns.
template <uint8_t ROW_COUNT, uint8_t COLUMN_COUNT>
struct Keys {
  const uint8_t *rows;
  const uint8_t *columns;
  bool raw[ROW_COUNT * COLUMN_COUNT] = {}, accepted[ROW_COUNT * COLUMN_COUNT] = {}, pressed[ROW_COUNT * COLUMN_COUNT] = {};
  uint32_t since[ROW_COUNT * COLUMN_COUNT] = {};

  Keys(const uint8_t *rows_, const uint8_t *columns_) : rows(rows_), columns(columns_) {}

  void rest() {
    for (uint8_t n = 0; n < ROW_COUNT * COLUMN_COUNT; ++n) pressed[n] = false;
  }

  void scan(uint32_t now, uint32_t wait) {
    for (uint8_t row = 0; row < ROW_COUNT; ++row) {
      digitalWrite(rows[row], LOW);
      pinMode(rows[row], OUTPUT);
      for (uint8_t column = 0; column < COLUMN_COUNT; ++column) {
        const uint8_t place = uint8_t(row * COLUMN_COUNT + column);
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
