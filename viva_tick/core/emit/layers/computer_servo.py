

class Servo:
    """A pulse of 544 to 2,400 µs, fifty times a second (common practice), by a thread: it trembles
    when the computer is busy."""

    def attach(self, number):
        self.number = number
        if number not in lines:
            pin_mode(number, OUTPUT)

    def turn(self, degrees):
        on_s = (544 + degrees * (2400 - 544) / 180) / 1_000_000
        pulse(self.number, on_s, 0.02 - on_s)
