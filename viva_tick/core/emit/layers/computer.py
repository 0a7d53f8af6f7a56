"""The board under the program: a computer's pins by its character device, its times, its lines."""
import threading
import time

import gpiod
from gpiod.line import Bias, Direction, Edge, Value

CHIP = "/dev/gpiochip0"  # the chip whose numbers the pins have
MASK = 0xFFFFFFFF  # the counters have 32 bits
LOW, HIGH = 0, 1
INPUT, OUTPUT, INPUT_PULLUP, INPUT_PULLDOWN = 0, 1, 2, 3
FALLING, RISING, CHANGE = Edge.FALLING, Edge.RISING, Edge.BOTH
BIASES = {INPUT: Bias.DISABLED, INPUT_PULLUP: Bias.PULL_UP, INPUT_PULLDOWN: Bias.PULL_DOWN}

lines = {}  # requests by pin
levels = {}  # with which an output begins
biases = {}  # of inputs
pulses = {}  # pins that a thread drives
handlers = threading.RLock()  # held while one runs, and by what must not be disturbed


def millis():
    return time.monotonic_ns() // 1_000_000 & MASK


def micros():
    return time.monotonic_ns() // 1_000 & MASK


def wait_ms(ms):
    time.sleep(ms / 1_000)


def wait_us(us):
    time.sleep(us / 1_000_000)


def lock():
    """Handlers wait until `unlock`."""
    handlers.acquire()


def unlock():
    handlers.release()


def take(number, settings):
    if number in lines:
        lines[number].reconfigure_lines({number: settings})
    else:
        lines[number] = gpiod.request_lines(CHIP, consumer="program", config={number: settings})


def pin_mode(number, mode):
    if mode == OUTPUT:
        level = Value.ACTIVE if levels.get(number) else Value.INACTIVE
        take(number, gpiod.LineSettings(direction=Direction.OUTPUT, output_value=level))
    else:
        take(number, gpiod.LineSettings(direction=Direction.INPUT, bias=BIASES[mode]))
        biases[number] = BIASES[mode]


def read_pin(number):
    return HIGH if lines[number].get_value(number) == Value.ACTIVE else LOW


def write_pin(number, level):
    if number in pulses:
        pulses.pop(number).stop()
    levels[number] = level
    if number in lines:
        lines[number].set_value(number, Value.ACTIVE if level else Value.INACTIVE)


class Pulses(threading.Thread):
    """A pin on and off by a thread, for lamps and buzzers: a busy computer keeps no beat."""

    def __init__(self, number):
        super().__init__(daemon=True)
        self.number = number
        self.on_s = self.off_s = 0.01
        self.over = False

    def run(self):
        while not self.over:
            lines[self.number].set_value(self.number, Value.ACTIVE)
            time.sleep(self.on_s)
            lines[self.number].set_value(self.number, Value.INACTIVE)
            time.sleep(self.off_s)

    def stop(self):
        self.over = True
        self.join()


def pulse(number, on_s, off_s):
    if number not in pulses:
        pulses[number] = Pulses(number)
        pulses[number].on_s, pulses[number].off_s = on_s, off_s
        pulses[number].start()
    pulses[number].on_s, pulses[number].off_s = on_s, off_s


def dim(number, duty):
    """A share of 255, a hundred times a second."""
    pulse(number, duty / 25_500, (255 - duty) / 25_500)


def tone(number, hz):
    pulse(number, 0.5 / hz, 0.5 / hz)


def no_tone(number):
    if number in pulses:
        pulses.pop(number).stop()


def measure(_number):
    """A computer has no converter."""
    return 0


def on_edge(number, handler, way):
    """A thread waits for the pin's edges; the handler runs while nobody holds the lock."""
    settings = gpiod.LineSettings(direction=Direction.INPUT, bias=biases[number], edge_detection=way)
    lines[number].reconfigure_lines({number: settings})

    def listen():
        while True:
            for _event in lines[number].read_edge_events():
                with handlers:
                    handler()

    threading.Thread(target=listen, daemon=True).start()
