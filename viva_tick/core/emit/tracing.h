// What has changed, a line a change: the time in us, what, of which, its value now.
void tell_text(const char *text) {
  const uint8_t length = uint8_t(strlen(text));
  for (uint8_t n = 0; n < length; ++n) Serial.write(text[n]);
}

void tell_number(uint32_t value) {
  char digits[10];
  uint8_t count = 0;
  do {
    digits[count] = char('0' + value % 10);
    ++count;
    value /= 10;
  } while (value);
  for (uint8_t n = count; n > 0; --n) Serial.write(digits[n - 1]);
}

void tell(uint32_t now, const char *what, uint8_t value) {  // where the buffer is full this waits
  tell_number(now);
  tell_text(what);
  tell_number(value);
  Serial.write('\n');
}
