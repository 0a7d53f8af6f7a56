"""Faults of wires, parts and thresholds, and of how contacts are cleaned."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

from .base import Change, Data, Hidden, changed, contacts, outputs

RAILS = {"ground": "supply", "supply": "ground"}
LEVELS = {"low": "high", "high": "low"}
METER = "Put the meter on the pin, pressed and let go: what does it show?"
SIGNAL = "Put the probe on the pin and look at its level while you press."


def _wired(change: Callable[[Data], dict[str, Any] | None]) -> Callable[[Data], Iterator[Change]]:
    """Other fields of a contact's wiring."""

    def plants(data: Data) -> Iterator[Change]:
        for at, _, part in contacts(data):
            fields = change(part)
            if fields:
                yield part["name"], changed(data, *((f"{at}/{name}", value) for name, value in fields.items()))

    return plants


def _pull(part: Data) -> str:
    """A resistor of its own that holds a contact's pin rightly."""
    return "up" if part["wiring"]["contact_to"] == "ground" else "down"


def _output(field: str, value: Callable[[Data], Any]) -> Callable[[Data], Iterator[Change]]:
    def plants(data: Data) -> Iterator[Change]:
        for at, part in outputs(data, field):
            new = value(part)
            if new is not None and new != part[field]:
                yield part["name"], changed(data, (f"{at}/{field}", new))

    return plants


def _cleaned(**how: Any) -> Callable[[Data], Iterator[Change]]:
    def plants(data: Data) -> Iterator[Change]:
        for _, ident, part in contacts(data):
            now = data["firmware"]["debounce"].get(ident, {"method": "rest-first", "interval_us": 20_000})
            new = {**now, **how}
            if new != now:
                yield part["name"], changed(data, (f"/firmware/debounce/{ident}", new))

    return plants


def _shared(method: str) -> Callable[[Data], Iterator[Change]]:
    """All contacts by one function, or by one time."""

    def plants(data: Data) -> Iterator[Change]:
        found = list(contacts(data))
        if len(found) > 1:
            how = {"method": method, "interval_us": 50_000, "sample_us": 1_000}
            yield "the contacts", changed(data, *((f"/firmware/debounce/{ident}", how) for _, ident, _ in found))

    return plants


def _reading(kind: str, change: Callable[[Data, Data], dict[str, Any] | None]) -> Callable[[Data], Iterator[Change]]:
    """Other fields of how an input that is more than a contact is read."""

    def plants(data: Data) -> Iterator[Change]:
        parts = {part["id"]: part for part in data["inputs"]}
        for ident, reading in data["firmware"]["readings"].items():
            if reading.get("kind") != kind or ident not in parts:
                continue
            fields = change(reading, parts[ident])
            if fields:
                rows = ((f"/firmware/readings/{ident}/{name}", value) for name, value in fields.items())
                yield parts[ident]["name"], changed(data, *rows)

    return plants


def _on_level(data: Data) -> Iterator[Change]:
    for _, part in outputs(data, "active_level"):
        yield part["name"], changed(data, (f"/firmware/on_levels/{part['id']}", LEVELS[part["active_level"]]))


def _unread(data: Data) -> Iterator[Change]:
    for ident in data["firmware"]["readings"]:
        found = changed(data)
        del found["firmware"]["readings"][ident]
        yield next(part["name"] for part in data["inputs"] if part["id"] == ident), found


def _middle(reading: Data, _: Data) -> dict[str, Any] | None:
    return {"above": reading["below"]} if reading["above"] != reading["below"] else None


def _far(reading: Data, part: Data) -> dict[str, Any]:
    span = abs(reading["above"]) + abs(reading["below"]) + 1
    return {"above": reading["above"] + 1000 * span, "below": reading["below"] + 1000 * span}


FAULTS = (
    Hidden(
        "floating",
        "wiring",
        "A pin that nothing holds",
        "Nothing holds the pin of {of} while its contact is open.",
        "wire.floating",
        1,
        _wired(lambda part: {"wiring/pull": "none"}),
        (METER, "Let go, it stands nowhere.", "What holds the pin?"),
        "The meter, let go.",
    ),
    Hidden(
        "same-rail",
        "wiring",
        "Contact and pull to one rail",
        "The contact of {of} and what holds its pin go to the same rail.",
        "wire.same-rail",
        1,
        _wired(lambda part: {"wiring/contact_to": RAILS[part["wiring"]["contact_to"]]}),
        (METER, "It shows the same pressed and let go.", "Where do contact and pull go?"),
        "The meter, pressed and let go.",
    ),
    Hidden(
        "inverted",
        "wiring",
        "Pressed taken for released",
        "What the program takes for pressed is {of} let go.",
        "wire.inverted",
        1,
        _wired(lambda part: {"active_level": LEVELS[part["active_level"]]}),
        (SIGNAL, "The level is right. What is made of it?", "It acts when it is let go."),
        "Press and hold: it acts on the wrong side.",
    ),
    Hidden(
        "pull-strong",
        "wiring",
        "A pull that wastes current",
        "The pull of {of} is 220 Ω: 23 mA at each press.",
        "wire.pull-strong",
        1,
        _wired(lambda part: {"wiring/pull": _pull(part), "wiring/pull_ohm": 220}),
        ("Put the meter in the supply while you press.", "A press takes too much.", "Read the pull's bands."),
        "The meter in the supply.",
    ),
    Hidden(
        "short",
        "wiring",
        "A press that joins the rails",
        "The pull of {of} is 10 Ω: a press joins the rails.",
        "wire.short",
        1,
        _wired(lambda part: {"wiring/pull": _pull(part), "wiring/pull_ohm": 10}),
        (
            "Put the meter in the supply while you press.",
            "A press takes half an ampere.",
            "What lies between the rails then?",
        ),
        "The meter in the supply.",
    ),
    Hidden(
        "pull-weak",
        "wiring",
        "A pull that is too weak",
        "The pull of {of} is 10 MΩ: leakage moves the pin.",
        "wire.pull-weak",
        2,
        _wired(lambda part: {"wiring/pull": _pull(part), "wiring/pull_ohm": 10_000_000}),
        (METER, "Let go, it is not quite at its rail.", "How many bands, and which?"),
        "The meter, let go.",
    ),
    Hidden(
        "rc-plain",
        "wiring",
        "A filter before a plain input",
        "A resistor and a capacitor slow {of}, and its pin is no Schmitt input.",
        "wire.rc-plain",
        2,
        _wired(
            lambda part: {
                "wiring/filter": "rc",
                "wiring/schmitt": False,
                "wiring/series_ohm": 10_000,
                "wiring/filter_nf": 470,
            }
        ),
        (SIGNAL, "The level flickers as it moves.", "What lies between contact and pin?"),
        "The probe on the pin, close up.",
    ),
    Hidden(
        "rc-slow",
        "wiring",
        "A capacitor that is too large",
        "Its capacitor makes {of} too slow for a tap.",
        "wire.rc-slow",
        2,
        _wired(
            lambda part: {
                "wiring/filter": "rc",
                "wiring/schmitt": True,
                "wiring/series_ohm": 100_000,
                "wiring/filter_nf": 10_000,
            }
        ),
        (SIGNAL, "The level follows late, or not at all.", "What is R times C?"),
        "The probe on the pin: how late?",
    ),
    Hidden(
        "lamp-bare",
        "wiring",
        "A lamp without a resistor",
        "{of} has no resistor.",
        "wire.lamp-bare",
        1,
        _output("resistor_ohm", lambda part: 0),
        ("Put the meter in the pin's wire.", "What bounds its current?", "Look at the wire list."),
        "The wire list, or the meter.",
    ),
    Hidden(
        "lamp-dim",
        "wiring",
        "A lamp that hardly lights",
        "{of} has 47 kΩ before it.",
        "wire.lamp-dim",
        1,
        _output("resistor_ohm", lambda part: 47_000),
        ("Is each lamp as bright as the others?", "Put the meter in its wire.", "Read its bands."),
        "Looking at it.",
    ),
    Hidden(
        "lamp-over",
        "wiring",
        "A lamp that takes too much",
        "{of} has 22 Ω before it: more than the pin is made for.",
        "wire.lamp-over",
        1,
        _output("resistor_ohm", lambda part: 22),
        ("Is each lamp as bright as the others?", "Put the meter in its wire.", "Read its bands."),
        "The meter in its wire.",
    ),
    Hidden(
        "output-inverted",
        "wiring",
        "An output wired the other way",
        "{of} is on when the program says off.",
        "wire.output-inverted",
        1,
        _on_level,
        ("What is on that should be off?", "Put the probe on its pin.", "Which level switches it on?"),
        "Looking at it before anything is pressed.",
    ),
    Hidden(
        "base-weak",
        "wiring",
        "A transistor that does not switch through",
        "The base of {of} gets too little.",
        "wire.base-weak",
        2,
        _output("base_ohm", lambda part: 100_000 if part.get("fed") == "transistor" else None),
        ("Does it come on as it should?", "Put the meter on the load.", "What does its base get?"),
        "The meter on the load.",
    ),
    Hidden(
        "base-bare",
        "wiring",
        "A transistor without a resistor",
        "Nothing stands before the base of {of}.",
        "wire.base-bare",
        2,
        _output("base_ohm", lambda part: 0 if part.get("fed") == "transistor" else None),
        ("Put the meter in the pin's wire.", "What bounds the current into its base?", "Look at the wire list."),
        "The wire list.",
    ),
    Hidden(
        "not-cleaned",
        "cleaning",
        "Not cleaned at all",
        "{of} is not cleaned: each bounce counts.",
        "clean.none",
        2,
        _cleaned(method="none"),
        ("Press once. How often is it counted?", SIGNAL, "What does the program do with bounces?"),
        "Counting presses on the panel.",
    ),
    Hidden(
        "too-short",
        "cleaning",
        "Shorter than it bounces",
        "The interval of {of} is 1 ms.",
        "clean.too-short",
        3,
        _cleaned(method="rest-first", interval_us=1_000),
        ("Press it ten times. How many are counted?", SIGNAL, "How long does it bounce, and how long is waited?"),
        "Ten presses, counted.",
    ),
    Hidden(
        "too-long",
        "cleaning",
        "Longer than a tap",
        "The interval of {of} is 400 ms: taps are lost.",
        "clean.too-long",
        2,
        _cleaned(method="rest-first", interval_us=400_000),
        ("Tap it quickly.", "Hold it for longer.", "How long must it stand still?"),
        "Tapping, then holding.",
    ),
    Hidden(
        "laggy",
        "cleaning",
        "Late after each press",
        "{of} is waited for for 150 ms.",
        "clean.lag",
        2,
        _cleaned(method="rest-first", interval_us=150_000),
        (
            "How soon does it answer?",
            "Put the probe on pin and output: what is between?",
            "How long must it stand still?",
        ),
        "Callipers between pin and output.",
    ),
    Hidden(
        "shared-timer",
        "cleaning",
        "One time for all",
        "All contacts share one “last press”: each deafens the others.",
        "clean.shared-timer",
        3,
        _shared("shared-ignore"),
        ("Press two, one soon after the other.", "Does the second count?", "Who remembers when the last press was?"),
        "Two presses within the interval.",
    ),
    Hidden(
        "shared-memory",
        "cleaning",
        "One memory for all",
        "All contacts are cleaned by one function with one memory.",
        "clean.shared-function",
        3,
        _shared("shared-rest"),
        ("Press two together.", "What does one do to the other?", "Who remembers which level was seen?"),
        "Two held at once.",
    ),
    Hidden(
        "dial-reversed",
        "cleaning",
        "Right is left",
        "A turn of {of} to the right counts down.",
        "clean.encoder-reversed",
        1,
        _reading("turns", lambda reading, _: {"reversed": not reading["reversed"]}),
        ("Turn it to the right.", "Which way does it count?", "Which wire is A?"),
        "One click to the right.",
    ),
    Hidden(
        "dial-uneven",
        "cleaning",
        "Two clicks for one step",
        "{of} gives another number of counts a click than is taken for a step.",
        "clean.encoder-undivided",
        2,
        _reading("turns", lambda reading, _: {"counts_a_step": {4: 2, 2: 4, 1: 4}[reading["counts_a_step"]]}),
        ("Turn it by one click.", "By how much does it count?", "How many counts has a click?"),
        "One click, counted.",
    ),
    Hidden(
        "dial-deaf",
        "cleaning",
        "Deaf to a fast turn",
        "Changes of {of} that come soon after one another are let pass.",
        "clean.encoder-deaf",
        3,
        _reading("turns", lambda reading, _: {"least_us": 60_000}),
        ("Turn it slowly, then fast.", "Where do the steps go?", "How soon may a change follow another?"),
        "A fast turn.",
    ),
    Hidden(
        "out-of-reach",
        "cleaning",
        "A threshold that is never reached",
        "The threshold of {of} is beyond what it can reach.",
        "clean.unreachable",
        1,
        _reading("measure", _far),
        (
            "Bring it from one end to the other.",
            "It never switches.",
            "What are its thresholds, and what does it give?",
        ),
        "From one end to the other.",
    ),
    Hidden(
        "unread",
        "machine",
        "An input that is never read",
        "{of} is wired, and the program does not read it.",
        "behave.nobody",
        2,
        _unread,
        ("Which input does nothing at all?", "Its pin is right.", "Does the program read it?"),
        "Each input once.",
    ),
)
