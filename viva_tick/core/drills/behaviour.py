"""Faults of machines, of times, of the watchdog, and of how the program is made."""

from __future__ import annotations

import copy
from collections.abc import Callable, Iterator
from typing import Any

from .base import Change, Data, Hidden, changed, machines, outputs

STRIP = "Play the scenario and look at the strip: what comes otherwise than it should?"
PROGRAM = "Read the program at that state."


def _transitions(change: Callable[[Data, int], Any]) -> Callable[[Data], Iterator[Change]]:
    """One transition changed, taken out (None) or given another before it (a list)."""

    def plants(data: Data) -> Iterator[Change]:
        for place, machine in machines(data):
            for number, one in enumerate(machine["transitions"]):
                new = change(machine, number)
                if new is one:
                    continue
                found = copy.deepcopy(data)
                rows = found["firmware"]["machines"][place]["transitions"]
                if new is None:
                    del rows[number]
                elif isinstance(new, list):
                    rows[number : number + 1] = new
                else:
                    rows[number] = new
                yield machine["name"], found

    return plants


def _states(change: Callable[[Data, Data], Data | None]) -> Callable[[Data], Iterator[Change]]:
    def plants(data: Data) -> Iterator[Change]:
        for place, machine in machines(data):
            for number, state in enumerate(machine["states"]):
                new = change(machine, state)
                if new is not None and new != state:
                    path = f"/firmware/machines/{place}/states/{number}"
                    yield f"{machine['name']}, {state['name']}", changed(data, (path, new))

    return plants


def _hidden_behind(machine: Data, number: int) -> Any:
    """Another transition for the same event, before this one, to somewhere else."""
    one = machine["transitions"][number]
    others = [state["id"] for state in machine["states"] if state["id"] != one["target"]]
    if one.get("guards") or not others:
        return one
    return [{**one, "target": others[0], "actions": []}, one]


def _without_way_in(machine: Data, number: int) -> Any:
    one = machine["transitions"][number]
    into = [row for row in machine["transitions"] if row["target"] == one["target"] and row["source"] != one["target"]]
    return None if len(into) == 1 and one["target"] != machine["initial"] else one


def _without_way_out(machine: Data, number: int) -> Any:
    one = machine["transitions"][number]
    out = [row for row in machine["transitions"] if row["source"] == one["source"] and row["target"] != one["source"]]
    return None if len(out) == 1 else one


def _elsewhere(machine: Data, number: int) -> Any:
    one = machine["transitions"][number]
    others = [state["id"] for state in machine["states"] if state["id"] not in (one["target"], one["source"])]
    return {**one, "target": others[0]} if others else one


def _other_time(share: float) -> Callable[[Data, int], Any]:
    def change(machine: Data, number: int) -> Any:
        one = machine["transitions"][number]
        if one["on"]["kind"] != "timeout" or one["on"].get("variable"):
            return one
        us = max(round(one["on"]["after_us"] * share / 1000), 1) * 1000
        return {**one, "on": {**one["on"], "after_us": us, "until_us": None}}

    return change


def _other_event(machine: Data, number: int) -> Any:
    one = machine["transitions"][number]
    other = {"press": "release", "release": "press", "above": "below", "below": "above"}.get(one["on"]["kind"])
    return {**one, "on": {**one["on"], "kind": other}} if other else one


def _turned_drive(_: Data, state: Data) -> Data | None:
    for output, drive in state["drives"].items():
        if drive["kind"] == "steady":
            return {**state, "drives": {**state["drives"], output: {"kind": "steady", "on": not drive["on"]}}}
    return None


def _forgotten_drive(_: Data, state: Data) -> Data | None:
    for output, drive in state["drives"].items():
        if drive["kind"] == "steady" and not drive["on"]:
            return {**state, "drives": {name: one for name, one in state["drives"].items() if name != output}}
    return None


def _held_pulse(_: Data, state: Data) -> Data | None:
    for output, drive in state["drives"].items():
        if drive["kind"] in ("pulse", "blink") and not drive.get("blocking"):
            new = {"kind": "pulse", "length_us": 800_000, "blocking": True}
            return {**state, "drives": {**state["drives"], output: new}}
    return None


def _fast_blink(_: Data, state: Data) -> Data | None:
    for output, drive in state["drives"].items():
        if drive["kind"] == "blink":
            return {**state, "drives": {**state["drives"], output: {**drive, "on_us": 1_000, "off_us": 1_000}}}
    return None


def _dimmed(_: Data, state: Data) -> Data | None:
    for output, drive in state["drives"].items():
        if drive["kind"] == "steady" and drive["on"]:
            return {**state, "drives": {**state["drives"], output: {"kind": "level", "percent": 40}}}
    return None


def _initial(data: Data) -> Iterator[Change]:
    for place, machine in machines(data):
        for state in machine["states"]:
            if state["id"] != machine["initial"] and not state.get("parent"):
                yield machine["name"], changed(data, (f"/firmware/machines/{place}/initial", state["id"]))


def _press_first(data: Data) -> Iterator[Change]:
    for place, machine in machines(data):
        for number, one in enumerate(machine["transitions"]):
            if one["on"]["kind"] in ("click", "hold", "double"):
                new = {**one, "on": {"kind": "press", "input": one["on"]["input"]}}
                found = changed(data)
                found["firmware"]["machines"][place]["transitions"].insert(number, new)
                yield machine["name"], found


def _firmware(*changes: tuple[str, Any]) -> Callable[[Data], Iterator[Change]]:
    def plants(data: Data) -> Iterator[Change]:
        yield "the program", changed(data, *((f"/firmware/{path}", value) for path, value in changes))

    return plants


def _task(**how: Any) -> Callable[[Data], Iterator[Change]]:
    def plants(data: Data) -> Iterator[Change]:
        for place, task in enumerate(data["firmware"]["tasks"]):
            yield (
                task["name"],
                changed(data, *((f"/firmware/tasks/{place}/{name}", value) for name, value in how.items())),
            )

    return plants


def _more_work(data: Data) -> Iterator[Change]:
    """A task that takes half a second every second, and gives nothing up meanwhile."""
    found = copy.deepcopy(data)
    task = {"id": "more-work", "name": "Log to the card", "period_us": 1_000_000, "run_us": 450_000, "blocking": True}
    if data["firmware"]["school"] != "kernel":
        found["firmware"]["tasks"].append(task)
        yield "Log to the card", found


def _watchdog(**how: Any) -> Callable[[Data], Iterator[Change]]:
    def plants(data: Data) -> Iterator[Change]:
        now = {"mode": "reset", "timeout_us": 250_000, "feed": "end", "off_at_start": True}
        now |= {
            name: value
            for name, value in data["firmware"]["watchdog"].items()
            if data["firmware"]["watchdog"]["mode"] != "off"
        }
        yield "the watchdog", changed(data, ("/firmware/watchdog", {**now, **how}))

    return plants


def _slow_pass(data: Data) -> Iterator[Change]:
    now = data["firmware"]["watchdog"]
    if now["mode"] != "off":
        delay = min(max(round(now["timeout_us"] * 1.3 / 1000) * 1000, 1000), 1_000_000)
        yield "the watchdog", changed(data, ("/firmware/loop/tail_delay_us", delay))


def _pin_clash(data: Data) -> Iterator[Change]:
    pins = [part["pin"] for _, part in outputs(data, "pin")]
    for place, part in enumerate(data["inputs"]):
        if "pin" in part and pins and part["pin"] not in pins and "contact" in part:
            yield part["name"], changed(data, (f"/inputs/{place}/pin", pins[0]))


def _bounced_on(data: Data) -> Iterator[Change]:
    """An old switch where the bench has a good one."""
    for place, part in enumerate(data["inputs"]):
        if part.get("contact", {}).get("kind") == "model" and part["contact"]["switch"] != "float-contact":
            yield (
                part["name"],
                changed(data, (f"/inputs/{place}/contact", {"kind": "model", "switch": "float-contact"})),
            )


FAULTS = (
    Hidden(
        "behind",
        "machine",
        "A transition that is never taken",
        "In {of} one transition stands behind another for the same event.",
        "behave.second-transition",
        3,
        _transitions(_hidden_behind),
        (STRIP, "The event comes, and leads elsewhere.", PROGRAM),
        "The state, at that event.",
    ),
    Hidden(
        "no-way-in",
        "machine",
        "A state that nothing leads to",
        "Nothing leads to one state of {of}.",
        "behave.unreachable",
        2,
        _transitions(_without_way_in),
        (STRIP, "One state never comes.", "Which event should lead there?"),
        "Trying each event in each state.",
    ),
    Hidden(
        "no-way-out",
        "machine",
        "A state that is never left",
        "One state of {of} is never left.",
        "behave.dead-end",
        2,
        _transitions(_without_way_out),
        (STRIP, "From then on nothing changes.", "What should end it?"),
        "Playing on after the last change.",
    ),
    Hidden(
        "elsewhere",
        "machine",
        "The wrong way",
        "A transition of {of} leads to the wrong state.",
        "behave.unexpected",
        3,
        _transitions(_elsewhere),
        (STRIP, "Up to there it is right.", PROGRAM),
        "The scenario's checks.",
    ),
    Hidden(
        "too-soon",
        "machine",
        "A time that is too short",
        "A time of {of} is a quarter of what it should be.",
        "behave.unexpected",
        3,
        _transitions(_other_time(0.25)),
        (STRIP, "Measure between two changes.", "Which time is it?"),
        "Callipers on the strip.",
    ),
    Hidden(
        "too-late",
        "machine",
        "A time that is too long",
        "A time of {of} is four times what it should be.",
        "behave.unexpected",
        3,
        _transitions(_other_time(4)),
        (STRIP, "Measure between two changes.", "Which time is it?"),
        "Callipers on the strip.",
    ),
    Hidden(
        "other-edge",
        "machine",
        "The other edge",
        "A transition of {of} waits for the release where the press was meant, or the other way round.",
        "behave.unexpected",
        2,
        _transitions(_other_event),
        ("Press and hold. Then let go.", "When does it act?", PROGRAM),
        "Press and hold.",
    ),
    Hidden(
        "turned-drive",
        "machine",
        "On for off",
        "{of} switches an output the wrong way.",
        "behave.unexpected",
        2,
        _states(_turned_drive),
        (STRIP, "In one state an output is the other way.", PROGRAM),
        "Each state, looked at.",
    ),
    Hidden(
        "left-on",
        "machine",
        "An output that nobody switches off",
        "{of} leaves an output as it was.",
        "behave.unexpected",
        2,
        _states(_forgotten_drive),
        (STRIP, "Something stays on.", "Which state should end it?"),
        "What is on at the end.",
    ),
    Hidden(
        "begins-wrong",
        "machine",
        "Begins in the wrong state",
        "{of} begins where it should not.",
        "behave.rest-state",
        1,
        _initial,
        ("What is on after the start?", "Nothing was pressed yet.", "In which state does it begin?"),
        "Looking before pressing.",
    ),
    Hidden(
        "press-first",
        "machine",
        "The press comes before the click",
        "In {of} a press acts before it can be a click or a hold.",
        "behave.press-first",
        3,
        _press_first,
        ("Hold it for long.", "It has acted already.", "What does a press do there?"),
        "Holding it for long.",
    ),
    Hidden(
        "held-pulse",
        "timing",
        "A pulse that holds the loop",
        "{of} holds the loop while its output is on.",
        "pace.blocking",
        2,
        _states(_held_pulse),
        (
            "Press something while it sounds or flashes.",
            "Nothing is heard meanwhile.",
            "Look at the loop on the strip.",
        ),
        "A press during the pulse.",
    ),
    Hidden(
        "tail-delay",
        "timing",
        "A delay in every pass",
        "Each pass ends with a delay of 300 ms.",
        "pace.blocking",
        2,
        _firmware(("loop/tail_delay_us", 300_000)),
        ("Tap it quickly.", "Everything comes late, or not at all.", "Look at the loop on the strip."),
        "The loop's lane.",
    ),
    Hidden(
        "more-work",
        "timing",
        "A task that takes too long",
        "“{of}” holds the loop for 0.45 s every second.",
        "pace.blocking",
        2,
        _more_work,
        ("Tap it many times.", "Some taps are lost, about half of them.", "What does the loop do each second?"),
        "The loop's lane.",
    ),
    Hidden(
        "late-work",
        "timing",
        "Work that comes later and later",
        "The next job of {of} is counted from its end.",
        "pace.drift",
        3,
        _task(keeps="now"),
        ("Measure its beat over a minute.", "It is not what it should be.", "From where is the next one counted?"),
        "A minute of it.",
    ),
    Hidden(
        "no-line-end",
        "timing",
        "Numbers without an end",
        "What is typed has no end, and is never whole.",
        "pace.no-line-end",
        2,
        _firmware(("serial/ending", "none")),
        ("Type a number.", "Nothing happens, or only later.", "What tells that it is whole?"),
        "The line, letter by letter.",
    ),
    Hidden(
        "wraps",
        "timing",
        "A time that wraps",
        "Instants are compared: near the counter's end a wait is over at once.",
        "pace.wrap",
        3,
        _firmware(("timekeeping/compares", "until")),
        ("Play every scenario.", "One begins late in the counter's life.", "What comes after its end?"),
        "The scenario that begins weeks on.",
    ),
    Hidden(
        "bites",
        "guard",
        "A watchdog that bites the healthy",
        "The watchdog's time is 15 ms.",
        "guard.too-short",
        2,
        _watchdog(timeout_us=15_000),
        ("Look for resets on the strip.", "When do they come?", "How long is the longest pass then?"),
        "The resets on the strip.",
    ),
    Hidden(
        "slow-pass",
        "guard",
        "A pass that outlasts the watchdog",
        "A pass takes longer than the watchdog waits.",
        "guard.too-short",
        1,
        _slow_pass,
        ("What happens at all?", "It starts over and over.", "How long is a pass?"),
        "The lamp of the start, over and over.",
    ),
    Hidden(
        "unfed",
        "guard",
        "A watchdog that nobody feeds",
        "Nobody feeds the watchdog.",
        "guard.unfed",
        1,
        _watchdog(feed="action"),
        ("Look for resets on the strip.", "They come in a beat.", "Who feeds it?"),
        "The beat of the resets.",
    ),
    Hidden(
        "left-on-at-start",
        "guard",
        "Still on after a reset",
        "The watchdog is not put off at start-up.",
        "guard.left-on",
        3,
        _watchdog(off_at_start=False, timeout_us=15_000),
        ("What comes after the first reset?", "Another one, at once.", "With which step does it go on?"),
        "What comes after the first reset.",
    ),
    Hidden(
        "clash",
        "program",
        "Two parts on one pin",
        "{of} is on a pin that an output has.",
        "wire.pin-shared",
        1,
        _pin_clash,
        ("Look at the wire list.", "Put the probe on its pin: who moves it?", "Which pin is it on?"),
        "The wire list.",
    ),
    Hidden(
        "pulls-off",
        "program",
        "Pulls that were never enabled",
        "Set-up does not enable the board's pulls.",
        "wire.pulls-off",
        2,
        _firmware(("set_up/enables_pulls", False)),
        ("Put the meter on the pin, let go.", "Nothing holds it, though the program asks.", "What does set-up do?"),
        "The meter, let go.",
    ),
    Hidden(
        "cannot-dim",
        "program",
        "Dimmed on a pin that cannot",
        "{of} dims an output on a pin that cannot.",
        "behave.undimmable",
        2,
        _states(_dimmed),
        ("Is it as bright as it should be?", "Put the probe on the output.", "What can that pin do?"),
        "Looking at it.",
    ),
    Hidden(
        "worn",
        "cleaning",
        "A contact that is worn out",
        "{of} bounces for much longer than it did.",
        "clean.too-short",
        3,
        _bounced_on,
        (
            "Press it ten times. How many are counted?",
            "Put the probe on the pin, close up.",
            "How long does it bounce?",
        ),
        "The probe on the pin, close up.",
    ),
)
