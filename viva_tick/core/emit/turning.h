// A servo: where it was told to be, where it goes, since when. It never turns back on the way.
struct Aim {
  Servo servo;
  const uint8_t pin, rest;
  uint8_t now_at = 0, from = 0, to = 0;
  uint8_t follows = 0;  // which variable it follows
  bool fresh = false, going = false;
  uint32_t since = 0, over = 0;

  Aim(uint8_t pin_, uint8_t rest_) : pin(pin_), rest(rest_) {}

  void begin() {
    now_at = from = to = rest;
    servo.attach(pin);
    servo.write(rest);
  }

  void turn(uint8_t degrees, uint32_t time) {
    to = degrees;
    over = time;
    follows = 0;
    fresh = true;
  }

  void follow(uint8_t which) {
    over = 0;
    follows = which;
    fresh = true;
  }

  // Whether a turn that took its time has just come to its end.
  bool update(uint32_t now) {
    if (fresh) {
      fresh = false;
      from = now_at;
      since = now;
      going = over > 0;
    }
    uint8_t at = to;
    bool there = false;
    if (going) {
      const uint32_t passed = now - since;
      if (passed >= over) {
        going = false;
        there = true;
      } else {
        const uint8_t way = uint8_t(uint32_t(to > from ? to - from : from - to) * passed / over);
        at = uint8_t(to > from ? from + way : from - way);
      }
    }
    if (at == now_at) return there;
    now_at = at;
    servo.write(at);
    return there;
  }
};
