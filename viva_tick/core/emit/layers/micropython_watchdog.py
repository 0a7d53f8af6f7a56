dog = None


def watchdog_on(ms):
    """Once on, it stays on."""
    global dog
    dog = machine.WDT(timeout=ms)


def watchdog_feed():
    if dog:
        dog.feed()


def cause():
    """Why the board started: 1 power, 2 reset pin, 8 watchdog; 0: this runtime does not say."""
    causes = (("PWRON_RESET", 1), ("HARD_RESET", 2), ("WDT_RESET", 8))
    for name, bit in causes:
        if machine.reset_cause() == getattr(machine, name, None):
            return bit
    return 0


def restart():
    machine.reset()


def each_ms(handler):
    """A handler that comes each millisecond."""
    machine.Timer(-1, period=1, mode=machine.Timer.PERIODIC, callback=lambda _timer: handler())
