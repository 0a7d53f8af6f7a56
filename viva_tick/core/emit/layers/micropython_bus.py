class Bus:
    """The two-wire bus: what is written goes out as it is closed."""

    def begin(self):
        self.hz = 100000

    def clock(self, hz):
        self.line = machine.I2C(0, scl=machine.Pin(BUS_CLOCK_PIN), sda=machine.Pin(BUS_DATA_PIN), freq=hz)

    def open(self, address):
        self.address = address
        self.bytes = bytearray()

    def write(self, code):
        self.bytes.append(code)

    def close(self):
        self.line.writeto(self.address, self.bytes)


bus = Bus()
