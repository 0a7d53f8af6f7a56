

class Console:
    """What is typed, and what is shown, where the program was started."""

    def begin(self, _baud):
        pass

    def available(self):
        return 1 if select.select([sys.stdin], [], [], 0)[0] else 0

    def read(self):
        return ord(sys.stdin.read(1) or "\n")

    def room(self):
        return 64

    def write(self, code):
        sys.stdout.write(chr(code))
        sys.stdout.flush()


serial = Console()
