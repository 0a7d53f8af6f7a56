class Console:
    """The line to the computer, as text that the runtime reads and writes."""

    def begin(self, _baud):
        self.poll = select.poll()
        self.poll.register(sys.stdin, select.POLLIN)

    def available(self):
        return 1 if self.poll.poll(0) else 0

    def read(self):
        return ord(sys.stdin.read(1))

    def room(self):
        return 64

    def write(self, code):
        sys.stdout.write(chr(code))


serial = Console()
