class Wires:
    """The serial line at the board's pins."""

    def begin(self, baud):
        self.line = machine.UART(0, baudrate=baud)

    def available(self):
        return self.line.any()

    def read(self):
        return self.line.read(1)[0]

    def room(self):
        return 64

    def write(self, code):
        self.line.write(bytes([code]))


serial = Wires()
