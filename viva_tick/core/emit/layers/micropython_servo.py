class Servo:
    """A pulse of 544 to 2,400 µs, fifty times a second: common practice."""

    def attach(self, number):
        self.timer = timer_of(number, 50)

    def turn(self, degrees):
        self.timer.duty_ns(544000 + degrees * (2400000 - 544000) // 180)
