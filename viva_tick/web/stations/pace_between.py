"""Pace, for the tasks of a kernel: their steps in a row, and what stands between them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ...core.document import Bench
from ...core.document.kernel import Between, Next, Own, Put, Receive, Rest, StartTimer, Step, Steps, Take, Work
from ...core.ids import free_id
from ...core.units import ms
from ..patches import Patch, add, take_out
from .controls import Control

AT = "/firmware/kernel/between"
FULL = (("drop", "what comes is dropped"), ("wait", "who puts in waits"), ("overwrite", "the oldest gives way"))
WITHIN_US = (None, 10_000, 100_000, 1_000_000)


@dataclass(frozen=True)
class Card:
    """A step as it stands in the row: what is said before its controls, and where it can go."""

    id: str
    words: str
    controls: tuple[Control, ...]
    remove: Patch
    sooner: Patch | None
    later: Patch | None
    waits: bool


def _within(at: str, now_us: int | None) -> Control:
    times = dict.fromkeys([*WITHIN_US, now_us])
    options = tuple((us, "as long as it takes" if us is None else f"for {ms(us)} at most") for us in times)
    return Control("", f"{at}/within_us", now_us, options, menu=True)


def _card_words(step: Step, at: str, between: Between) -> tuple[str, tuple[Control, ...]]:
    """What a step says, and what can be set of it."""
    name = between.names.get(getattr(step, "of", ""), "")
    match step:
        case Work():
            data = Control("on", f"{at}/uses", step.uses, reads="text", wide=True)
            return "works", (Control("", f"{at}/us", step.us, reads="time"), data)
        case Rest():
            return "waits", (Control("", f"{at}/us", step.us, reads="time"),)
        case Next():
            return "waits for its next period", ()
        case Own():
            return "reads, steps and drives what it owns", ()
        case Take():
            mutex = step.of in {one.id for one in between.mutexes}
            return f"{'takes' if mutex else 'waits for'} {name}", (_within(at, step.within_us),)
        case Receive():
            return f"takes one out of {name}", (_within(at, step.within_us),)
        case Put():
            waits = between.full.get(step.of) == "wait"
            return f"puts one into {name}", (_within(at, step.within_us),) if waits else ()
        case StartTimer():
            return f"starts {name}", ()
        case _:
            back = step.of in {one.id for one in between.mutexes}
            return f"gives {name}{' back' if back else ''}", ()


def cards(steps: Steps, at: str, between: Between) -> list[Card]:
    """The steps as they stand in their row."""
    found = []
    for place, step in enumerate(steps):
        here, values = f"{at}/{place}", [one.model_dump(mode="json") for one in steps]

        def moved(by: int, place: int = place, values: list[Any] = values) -> Patch | None:
            to = place + by
            if not 0 <= to < len(values):
                return None
            return Patch([{"op": "move", "from": f"{at}/{place}", "path": f"{at}/{to}"}])

        words, controls = _card_words(step, here, between)
        waits = isinstance(step, Rest | Next | Take | Receive)
        ident = here.removeprefix(f"{AT}/").replace("/", "-")
        found.append(Card(ident, words, controls, take_out(here), moved(-1), moved(1), waits))
    return found


def to_add(between: Between, at: str, owns: bool) -> list[tuple[str, Patch]]:
    """What a row of steps can have more of."""
    found: list[tuple[str, dict[str, Any]]] = [("works for 1 ms", {"do": "work", "us": 1_000})]
    if owns:
        found += [
            ("reads, steps and drives what it owns", {"do": "own"}),
            ("waits for its next period", {"do": "next"}),
        ]
    found.append(("waits 10 ms", {"do": "rest", "us": 10_000}))
    for flag in between.flags:
        found += [
            (f"waits for {flag.name}", {"do": "take", "of": flag.id}),
            (f"gives {flag.name}", {"do": "give", "of": flag.id}),
        ]
    for mutex in between.mutexes:
        found.append((f"takes {mutex.name}", {"do": "take", "of": mutex.id}))
        found.append((f"gives {mutex.name} back", {"do": "give", "of": mutex.id}))
    for queue in between.queues:
        found.append((f"puts one into {queue.name}", {"do": "put", "of": queue.id}))
        found.append((f"takes one out of {queue.name}", {"do": "receive", "of": queue.id}))
    found += [(f"starts {timer.name}", {"do": "start", "of": timer.id}) for timer in between.timers]
    return [(words, add(f"{at}/-", value)) for words, value in found]


def new_body(bench: Bench) -> dict[str, Any]:
    """A task of the kernel, ready to be added: each period some work."""
    taken = {*bench.firmware.kernel.between.names, *(task.id for task in bench.firmware.tasks)}
    ident = free_id("kernel-task", taken)
    steps = [{"do": "next"}, {"do": "work", "us": 1_000}]
    return {"id": ident, "name": ident.replace("-", " ").capitalize(), "period_us": 10_000, "steps": steps}


def _made(between: Between, bench: Bench, field: str, word: str, **more: Any) -> tuple[str, Patch]:
    taken = {*between.names, *(task.id for task in bench.firmware.tasks)}
    ident = free_id(word, taken)
    return f"a {word}", add(f"{AT}/{field}/-", {"id": ident, "name": ident.replace("-", " ").capitalize(), **more})


def _users(between: Between, bench: Bench, ident: str) -> tuple[str, str]:
    """(who gives it or puts in, who waits for it or takes out), in words."""
    gives: list[str] = []
    takes: list[str] = []
    for name, _, steps in between.lists():
        for step in steps:
            if getattr(step, "of", "") == ident:
                (takes if step.do in ("take", "receive") else gives).append(name)
    for machine in bench.firmware.machines:
        gives += [machine.name for _, action in machine.actions if action.do == "signal" and action.of == ident]
        takes += [machine.name for one in machine.transitions if one.on.kind == "taken" and one.on.signal == ident]
    return ", ".join(dict.fromkeys(gives)) or "nobody", ", ".join(dict.fromkeys(takes)) or "nobody"


def body_context(bench: Bench, picked: str | None) -> dict[str, Any]:
    """What the editor of a task of the kernel shows; nothing where none is picked."""
    between = bench.firmware.kernel.between
    number = next((n for n, body in enumerate(between.bodies) if body.id == picked), None)
    if number is None:
        return {}
    body, at = between.bodies[number], f"{AT}/bodies/{number}"
    names = [(line.id, line.name) for line in bench.contacts] + [(part.id, part.name) for _, part in bench.sensed]
    names += [(machine.id, machine.name) for machine in bench.firmware.machines]
    others = {ident for ident, owner in between.owners.items() if owner != body.id}
    return {
        "body": body,
        "body_at": at,
        "owns": Control("", f"{at}/owns", body.owns, tuple(one for one in names if one[0] not in others), reads="set"),
        "cards": cards(body.steps, f"{at}/steps", between),
        "more_steps": to_add(between, f"{at}/steps", owns=True),
    }


def between_context(bench: Bench) -> dict[str, Any]:
    """What stands between the tasks: each with who gives and who takes; timers and hooks with their steps."""
    between = bench.firmware.kernel.between
    things = []
    for field, word, ones in (
        ("flags", "flag", between.flags),
        ("mutexes", "mutex", between.mutexes),
        ("queues", "queue", between.queues),
    ):
        for number, one in enumerate(ones):
            at = f"{AT}/{field}/{number}"
            controls: tuple[Control, ...] = ()
            if field == "queues":
                queue = between.queues[number]
                controls = (
                    Control("room for", f"{at}/length", queue.length),
                    Control("when full", f"{at}/full", queue.full, FULL, menu=True),
                )
            things.append((word, one, at, controls, _users(between, bench, one.id), take_out(at)))
    timers = []
    for number, timer in enumerate(between.timers):
        at = f"{AT}/timers/{number}"
        controls = (
            Control("", f"{at}/once", timer.once, ((False, "every"), (True, "once, after")), menu=True),
            Control("", f"{at}/period_us", timer.period_us, reads="time"),
            Control(
                "", f"{at}/runs", timer.runs, ((True, "from the start on"), (False, "when it is started")), menu=True
            ),
        )
        rows = cards(timer.steps, f"{at}/steps", between), to_add(between, f"{at}/steps", owns=False)
        timers.append((timer, at, controls, *rows, take_out(at)))
    hooks = [
        (words, name, cards(steps, f"{AT}/{name}", between), to_add(between, f"{AT}/{name}", owns=False))
        for name, words, steps in (
            ("tick_hook", "In each tick's interrupt", between.tick_hook),
            ("idle_hook", "While nobody else runs", between.idle_hook),
        )
    ]
    makes = [
        _made(between, bench, "flags", "flag"),
        _made(between, bench, "mutexes", "mutex"),
        _made(between, bench, "queues", "queue"),
        _made(between, bench, "timers", "timer"),
    ]
    timer_priority = Control("", f"{AT}/timer_priority", between.timer_priority)
    return {"things": things, "timers": timers, "hooks": hooks, "makes": makes, "timer_priority": timer_priority}
