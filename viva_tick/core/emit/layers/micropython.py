"""The board under the program: pins, times and lines, as a small runtime's modules have them."""

import time

import machine

MASK = 0xFFFFFFFF  # the counters have 32 bits
LOW, HIGH = 0, 1
INPUT, OUTPUT, INPUT_PULLUP, INPUT_PULLDOWN = 0, 1, 2, 3
FALLING, RISING = machine.Pin.IRQ_FALLING, machine.Pin.IRQ_RISING
CHANGE = FALLING | RISING

pins = {}  # by number
duties = {}  # pins whose level a timer makes
converters = {}
locked = 0
waiting = []  # handlers that came while they were locked out
ticked = time.ticks_ms()
counted = 0


def millis():
    """Milliseconds, 32 bits of them: the runtime's own have fewer."""
    global ticked, counted, locked
    locked += 1
    ticks = time.ticks_ms()
    counted = (counted + time.ticks_diff(ticks, ticked)) & MASK
    ticked = ticks
    now = counted
    unlock()
    return now


def micros():
    return time.ticks_us() & MASK


def wait_ms(ms):
    time.sleep_ms(ms)


def wait_us(us):
    time.sleep_us(us)


def lock():
    """Handlers wait until `unlock`."""
    global locked
    locked += 1


def unlock():
    global locked
    locked -= 1
    while not locked and waiting:
        waiting.pop(0)()


def pin(number):
    if number not in pins:
        pins[number] = machine.Pin(number)
    return pins[number]


def pin_mode(number, mode):
    if mode == OUTPUT:
        if number not in duties:
            pin(number).init(machine.Pin.OUT)
    elif mode == INPUT_PULLUP:
        pin(number).init(machine.Pin.IN, machine.Pin.PULL_UP)
    elif mode == INPUT_PULLDOWN:
        pin(number).init(machine.Pin.IN, machine.Pin.PULL_DOWN)
    else:
        pin(number).init(machine.Pin.IN)


def read_pin(number):
    return pin(number).value()


def write_pin(number, level):
    if number in duties:
        duties.pop(number).deinit()
        pin(number).init(machine.Pin.OUT, value=level)
    else:
        pin(number).value(level)


def measure(number):
    """Counts of the board's converter; the runtime makes 16 bits of them."""
    if number not in converters:
        converters[number] = machine.ADC(pin(number))
    return converters[number].read_u16() >> 16 - CONVERTER_BITS


def timer_of(number, hz):
    if number not in duties:
        duties[number] = machine.PWM(pin(number))
    duties[number].freq(hz)
    return duties[number]


def dim(number, duty):
    """A share of 255."""
    timer_of(number, 1000).duty_u16(duty * 257)


def tone(number, hz):
    timer_of(number, hz).duty_u16(32768)


def no_tone(number):
    timer_of(number, 1000).duty_u16(0)


def on_edge(number, handler, way):
    """What a handler does comes after what is locked, never amid it."""

    def called(_pin):
        if locked:
            waiting.append(handler)
        else:
            handler()

    pin(number).irq(called, way)
