"""MicroPython with functions, a handler, a converter and a watchdog."""
import machine
import time

flow = machine.Pin(4, machine.Pin.IN, machine.Pin.PULL_UP)
pump = machine.Pin(5, machine.Pin.OUT)
start = machine.Pin(6, machine.Pin.IN, machine.Pin.PULL_UP)
level = machine.ADC(machine.Pin(26))
guard = machine.WDT(timeout=4000)

LOW, HIGH = 20_000, 26_000
pulses = 0
began = time.ticks_ms()
running = False
was_down = False


def on_pulse(pin):
    global pulses
    pulses += 1


def read_level():
    return level.read_u16()


def step(now):
    global running, began, was_down
    down = start.value() == 0
    if down and not was_down:
        running = True
        began = now
        pump.on()
    was_down = down
    if running and time.ticks_diff(now, began) >= 90_000:
        running = False
        pump.off()
    value = read_level()
    if value > HIGH:
        pump.off()
    elif value < LOW and running:
        pump.on()


flow.irq(handler=on_pulse, trigger=machine.Pin.IRQ_FALLING)
while True:
    guard.feed()
    step(time.ticks_ms())
