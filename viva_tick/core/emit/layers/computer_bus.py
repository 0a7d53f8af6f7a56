

class Bus:
    """The two-wire bus: what is written goes out as it is closed. The computer sets its rate."""

    def begin(self):
        self.line = os.open("/dev/i2c-1", os.O_RDWR)

    def clock(self, _hz):
        pass

    def open(self, address):
        fcntl.ioctl(self.line, 0x0703, address)  # I2C_SLAVE
        self.bytes = bytearray()

    def write(self, code):
        self.bytes.append(code)

    def close(self):
        os.write(self.line, self.bytes)


bus = Bus()
