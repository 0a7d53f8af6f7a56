"""A small runtime's `machine`, `time` and `select`, for both runtimes: all that they do is to ask `run`."""


def modules(run, bits):
    """(machine, time, select) as rows of names. `run(name, *given)` answers; handlers are among what it is given."""

    class Pin:
        OUT, IN, PULL_UP, PULL_DOWN, IRQ_FALLING, IRQ_RISING = 1, 0, 2, 3, 4, 8

        def __init__(self, number):
            self.number = number

        def init(self, mode, pull=None, value=None):
            run("mode", self.number, mode if pull is None else pull)
            if value is not None:
                self.value(value)

        def value(self, level=None):
            if level is None:
                return run("read", self.number)
            return run("write", self.number, level)

        def irq(self, handler, way):
            run("edge", self.number, lambda: handler(self), {4: 0, 8: 1, 12: 2}[way])

    class PWM:
        def __init__(self, pin):
            self.number, self.hz = pin.number, 0

        def freq(self, hz):
            self.hz = hz

        def duty_u16(self, duty):
            if duty == 32768:
                run("tone", self.number, self.hz)
            elif duty:
                run("dim", self.number, duty // 257)

        def duty_ns(self, ns):
            run("turn", self.number, (ns - 544000) * 180 // (2400000 - 544000) + ((ns - 544000) * 180 % 1856000 > 0))

        def deinit(self):
            pass

    class ADC:
        def __init__(self, pin):
            self.number = pin.number

        def read_u16(self):
            return run("measure", self.number) << 16 - bits

    class UART:
        def __init__(self, *_, **__):
            run("begin")

        def any(self):
            return run("available")

        def read(self, _):
            return bytes([run("byte")])

        def write(self, what):
            run("say", what[0])

    class I2C:
        def __init__(self, *_, freq=0, **__):
            run("clock", freq)

        def writeto(self, address, what):
            run("bus", address, list(what))

    class Timer:
        PERIODIC = 1

        def __init__(self, *_, callback=None, **__):
            run("each", lambda: callback(self))

    class WDT:
        def __init__(self, timeout):
            run("dog", timeout)

        def feed(self):
            run("feed")

    class Poll:
        def register(self, *_):
            run("begin")

        def poll(self, _):
            return run("available")

    machine = {
        "Pin": Pin, "PWM": PWM, "ADC": ADC, "UART": UART, "I2C": I2C, "Timer": Timer, "WDT": WDT,
        "PWRON_RESET": 1, "HARD_RESET": 2, "WDT_RESET": 3,
        "reset_cause": lambda: {1: 1, 2: 2, 8: 3}.get(run("cause"), 0), "reset": lambda: run("reset"),
    }
    time = {
        "ticks_ms": lambda: run("ms") & 0x3FFFFFFF,
        "ticks_us": lambda: run("us") & 0x3FFFFFFF,
        "ticks_diff": lambda one, other: ((one - other + 0x20000000) & 0x3FFFFFFF) - 0x20000000,
        "sleep_ms": lambda ms: run("wait", ms),
        "sleep_us": lambda us: run("wait_us", us),
    }
    return machine, time, {"POLLIN": 1, "poll": Poll}
