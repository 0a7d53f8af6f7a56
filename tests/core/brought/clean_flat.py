# MicroPython, one loop.
from machine import Pin
from time import ticks_ms, ticks_diff

button = Pin(14, Pin.IN, Pin.PULL_UP)
lamp = Pin(15, Pin.OUT)
WAIT = 25

on = False
seen = 1
stable = 1
changed = ticks_ms()

while True:
    now = ticks_ms()
    level = button.value()
    if level != seen:
        seen = level
        changed = now
    if ticks_diff(now, changed) >= WAIT and level != stable:
        stable = level
        if stable == 0:
            on = not on
            lamp.value(on)
