"""From drawing to breadboard: the wires step by step, what to buy, what a meter must show."""

from .bands import bands
from .card import Step, card_text, colours_of, key_of, resistor_of, shopping, steps
from .meter import Reading, first_power_on

__all__ = [
    "Reading",
    "Step",
    "bands",
    "card_text",
    "colours_of",
    "first_power_on",
    "key_of",
    "resistor_of",
    "shopping",
    "steps",
]
