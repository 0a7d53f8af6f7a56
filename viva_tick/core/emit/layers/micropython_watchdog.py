

dog = None


def watchdog_on(ms):
    """Once on, it stays on."""
    global dog
    dog = machine.WDT(timeout=ms)


def watchdog_feed():
    if dog:
        dog.feed()
