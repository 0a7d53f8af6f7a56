"""What the pins' abilities give away."""

from __future__ import annotations

from collections.abc import Iterator

from ..boards import Board, boards
from ..document import InputPart, Part, pointer
from ..pins import best_free, unfit
from ..units import at_s, ms
from .finding import Case, Finding, Patch, Severity

# (ability, severity, end of the title, sentence); the first that fits a part speaks.
MIND: tuple[tuple[str, Severity, str, str], ...] = (
    ("reset", Severity.LOOK, "sits on the reset pin", "{} resets the board unless it is set up otherwise."),
    (
        "boot-strapping",
        Severity.LOOK,
        "may stop the board from starting",
        "The board reads {} as it starts; held the wrong way by a part, it does not start.",
    ),
    ("serial", Severity.LOOK, "shares the serial pins", "{} talks to your computer; uploads and prints disturb it."),
    (
        "starts-analogue",
        Severity.NOTE,
        "sits on a pin that starts analogue",
        "{} reads 0 until the firmware makes it digital; do it in set-up.",
    ),
)


def _placed(case: Case) -> Iterator[tuple[str, int, Part]]:
    for side, parts in (("inputs", case.bench.inputs), ("outputs", case.bench.outputs)):
        for index, part in enumerate(parts):
            yield side, index, part


def _moved(case: Case, board: Board, part: Part, where: str) -> tuple[Patch, str]:
    to = best_free(part, board, {placed.pin for placed in case.bench.parts})
    return (({"op": "replace", "path": where, "value": to},), f"Move to {to}") if to else ((), "")


def shared(case: Case) -> Iterator[Finding]:
    """Two parts on one pin."""
    board = boards()[case.bench.board]
    claims: dict[str, str] = {}
    given: set[str] = {part.pin for part in case.bench.parts}
    for side, index, part in _placed(case):
        if part.pin not in claims:
            claims[part.pin] = part.name
            continue
        where = pointer(side, index, "pin")
        to = best_free(part, board, given)
        given |= {to} if to else set()
        yield Finding(
            code="wire.pin-shared",
            severity=Severity.MUST,
            station="wire",
            part=part.id,
            title=f"Two parts on {part.pin}",
            sentence=f"{claims[part.pin]} and {part.name} are both on {part.pin}; each needs a pin of its own.",
            numbers=(("pin", part.pin),),
            pointer=where,
            patch=({"op": "replace", "path": where, "value": to},) if to else (),
            mend=f"Move {part.name} to {to}" if to else "",
        )


def abilities(case: Case) -> Iterator[Finding]:
    """A part on a pin that cannot do what it needs, or that has another duty."""
    board = boards()[case.bench.board]
    for side, index, part in _placed(case):
        pin = board.pin(part.pin)
        if pin is None:
            continue
        where = pointer(side, index, "pin")
        fault = unfit(part, pin)
        if fault == "input-only":
            said = ("input-only", Severity.MUST, "cannot be driven", f"{pin.id} can only be read; it drives nothing.")
        elif fault == "no-pull":
            said = ("no-pull", Severity.MUST, "is held by nothing", f"{pin.id} has no pull of its own to switch on.")
        else:
            known = next((row for row in MIND if row[0] in pin.can), None)
            if known is None:
                continue
            said = (known[0], known[1], known[2], known[3].format(pin.id))
        code, severity, title, sentence = said
        patch, mend = _moved(case, board, part, where)
        yield Finding(
            code=f"wire.{code}",
            severity=severity,
            station="wire",
            part=part.id,
            title=f"{part.name} {title}",
            sentence=sentence,
            numbers=(("pin", pin.id),),
            pointer=where,
            patch=patch if severity is not Severity.NOTE else (),
            mend=mend if severity is not Severity.NOTE else "",
        )


def board_pulls(case: Case) -> Iterator[Finding]:
    """The board has not the pull that an input asks for, or needs a bit to switch its pulls on."""
    board = boards()[case.bench.board]
    for index, part in enumerate(case.bench.inputs):
        where = pointer("inputs", index, "wiring", "pull")
        if part.wiring.pull == "internal-down" and board.pull_down_ohm is None:
            yield Finding(
                code="wire.no-pull-down",
                severity=Severity.MUST,
                station="wire",
                part=part.id,
                title=f"{part.name}: the board has no pull-down",
                sentence=f"This board can only pull up; a resistor to ground would hold {part.pin}.",
                numbers=(("pull", "down"),),
                pointer=where,
                patch=({"op": "replace", "path": where, "value": "down"},),
                mend="Add 10 kΩ to ground",
            )
    asking: list[InputPart] = [part for part in case.bench.inputs if part.wiring.pull.startswith("internal")]
    if asking and board.pull_enable:
        yield Finding(
            code="wire.pull-enable",
            severity=Severity.NOTE,
            station="wire",
            part=asking[0].id,
            title="The pulls need a bit of their own",
            sentence=f"The board's pulls work only with {board.pull_enable.name} set {board.pull_enable.active}.",
            numbers=(("inputs that ask for one", str(len(asking))),),
            pointer=pointer("inputs", case.bench.inputs.index(asking[0]), "wiring", "pull"),
        )


def starting(case: Case) -> Iterator[Finding]:
    """Something is pressed before the board has started."""
    board = boards()[case.bench.board]
    ready_us = board.start_up_us + board.set_up_us
    if not case.scenario or not case.run:
        return
    for index, part in enumerate(case.bench.inputs):
        early = [move.at_us for move in case.run.moves[part.id] if move.pressed and move.at_us < ready_us]
        if early:
            yield Finding(
                code="wire.starting",
                severity=Severity.LOOK,
                station="wire",
                part=part.id,
                title=f"{part.name} is pressed before the board has started",
                sentence=f"At {at_s(early[0])} the board is still starting; it reads nothing for {ms(ready_us)}.",
                numbers=(("pressed at", at_s(early[0])), ("ready at", at_s(ready_us))),
                pointer=pointer("inputs", index),
                show_us=tuple(early[:50]),
            )
