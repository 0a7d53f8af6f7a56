

class Wires:
    """The serial line at the computer's pins; `raw` and its rate by the terminal's own settings."""

    def begin(self, baud):
        self.line = os.open("/dev/serial0", os.O_RDWR | os.O_NOCTTY | os.O_NONBLOCK)
        tty.setraw(self.line)
        rows = termios.tcgetattr(self.line)
        rows[4] = rows[5] = getattr(termios, "B%d" % baud)
        termios.tcsetattr(self.line, termios.TCSANOW, rows)

    def available(self):
        return 1 if select.select([self.line], [], [], 0)[0] else 0

    def read(self):
        return os.read(self.line, 1)[0]

    def room(self):
        return 64

    def write(self, code):
        os.write(self.line, bytes([code]))


serial = Wires()
