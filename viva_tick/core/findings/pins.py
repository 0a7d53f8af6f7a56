"""What the pins' abilities give away."""

from __future__ import annotations

from collections.abc import Iterator

from ..boards import Board, Pin
from ..document import Claim
from ..document.parts import Commands
from ..pins import best_free, pull_path, unfit
from ..units import at_s, ms
from .finding import Evidence, Finding, Patch, Severity
from .mends import replaced

# Ability that is lacking: (code, end of the title, sentence).
LACKING = {
    "input-only": ("wire.input-only", "cannot be driven", "{} can only be read; it drives nothing."),
    "no-pull": ("wire.no-pull", "is held by nothing", "{} has no pull of its own to switch on."),
    "dimmable": ("wire.not-dimmable", "cannot be dimmed there", "{} can be on or off, nothing between."),
    "analogue": ("wire.not-analogue", "is read as on or off there", "{} reads high or low, no volts."),
    "interrupt": ("wire.not-interrupt", "interrupts nothing there", "An edge on {} cannot interrupt the loop."),
    "bus-data": ("wire.not-bus", "is not on the bus", "{} is not the board's bus data pin."),
    "bus-clock": ("wire.not-bus", "is not on the bus", "{} is not the board's bus clock pin."),
    "serial-in": ("wire.not-serial", "is not heard", "{} does not receive the serial line."),
}

# (abilities, code, severity, end of the title, sentence); the first that fits a claim speaks.
MIND: tuple[tuple[tuple[str, ...], str, Severity, str, str], ...] = (
    (("reset",), "reset", Severity.LOOK, "sits on the reset pin", "{} resets the board unless it is set up otherwise."),
    (
        ("boot-strapping",),
        "boot-strapping",
        Severity.LOOK,
        "may stop the board from starting",
        "The board reads {} as it starts; held the wrong way by a part, it does not start.",
    ),
    (
        ("serial-in", "serial-out"),
        "serial",
        Severity.LOOK,
        "shares the serial pins",
        "{} talks to your computer; uploads and prints disturb it.",
    ),
    (
        ("starts-analogue",),
        "starts-analogue",
        Severity.NOTE,
        "sits on a pin that starts analogue",
        "{} reads 0 as the board starts: set-up makes it digital, and so must a program of your own.",
    ),
)


def _moved(claim: Claim, board: Board, taken: set[str]) -> tuple[Patch, str]:
    to = best_free(claim, board, taken)
    return (replaced(claim.where, to), f"Move to {to}") if to else ((), "")


def _why(first: Claim, second: Claim) -> tuple[str, str]:
    """Code and sentence of two claims on one pin."""
    pin = first.pin
    for keeper, comer in ((first, second), (second, first)):
        if keeper.bus:
            return "wire.pin-bus", f"{keeper.name} needs {pin} for the bus; {comer.name} would hold the bus still."
        if "serial-in" in keeper.needs:
            return "wire.pin-serial", f"{keeper.name} arrives on {pin}; {comer.name} would drown it."
    return "wire.pin-shared", f"{first.name} and {second.name} are both on {pin}; each needs a pin of its own."


def shared(evidence: Evidence) -> Iterator[Finding]:
    """Two claims on one pin. A bus line may be shared by what is on the bus."""
    board = evidence.bench.the_board
    first: dict[str, Claim] = {}
    given = {claim.pin for claim in evidence.bench.claims}
    for claim in evidence.bench.claims:
        keeper = first.setdefault(claim.pin, claim)
        if keeper is claim or (claim.bus and claim.bus == keeper.bus):
            continue
        # The one that has no choice stays: the bus and the serial line have their pins.
        mover = keeper if (claim.bus or "serial-in" in claim.needs) and not keeper.bus else claim
        to = best_free(mover, board, given)
        given |= {to} if to else set()
        code, sentence = _why(keeper, claim)
        yield Finding(
            code=code,
            severity=Severity.MUST,
            station="wire",
            part=mover.part,
            title=f"Two parts on {claim.pin}",
            sentence=sentence,
            numbers=(("pin", claim.pin),),
            pointer=mover.where,
            patch=replaced(mover.where, to) if to else (),
            mend=f"Move {mover.name} to {to}" if to else "",
        )


def abilities(evidence: Evidence) -> Iterator[Finding]:
    """A part on a pin that cannot do what it needs, or that has another duty."""
    board = evidence.bench.the_board
    taken = {placed.pin for placed in evidence.bench.claims}
    hears_serial = any(isinstance(part, Commands) for part in evidence.bench.inputs)
    for claim in evidence.bench.claims:
        pin = board.pin(claim.pin)
        if pin is None:
            continue
        fault = unfit(claim, pin)
        if fault == "analogue" and board.analogue is None:
            continue  # no pin of this board would do: `no_converter` says so
        if fault:
            code, title, sentence = LACKING[fault]
            said = (code, Severity.MUST, title, sentence.format(pin.id))
        elif "analogue" in claim.needs and "radio-shared" in pin.can:
            sentence = f"While the radio is on, {pin.id} reads no volts."
            said = ("wire.radio-shared", Severity.LOOK, "cannot be read with the radio on", sentence)
        else:
            minded = _minded(claim, pin, hears_serial)
            if minded is None:
                continue
            said = minded
            if minded[0] in ("wire.reset", "wire.boot-strapping"):
                grave = Severity.MUST if _holds(evidence, claim) else Severity.NOTE
                said = (minded[0], grave, *minded[2:])
        code, severity, title, sentence = said
        patch, mend = _moved(claim, board, taken) if severity is not Severity.NOTE else ((), "")
        yield Finding(
            code=code,
            severity=severity,
            station="wire",
            part=claim.part,
            title=f"{claim.name} {title}",
            sentence=sentence,
            numbers=(("pin", pin.id),),
            pointer=claim.where,
            patch=patch,
            mend=mend,
        )


def _holds(evidence: Evidence, claim: Claim) -> bool:
    """Whether a part can hold its pin at the wrong level while the board starts: a contact can, a resistor, a source;
    an output that only waits to be driven cannot."""
    channel = next((one for one in evidence.bench.channels if (one.part.id, one.pin) == (claim.part, claim.pin)), None)
    return channel is None or channel.hold != "none"


def _minded(claim: Claim, pin: Pin, hears_serial: bool) -> tuple[str, Severity, str, str] | None:
    """What there is to mind about a pin that would do."""
    for needs, code, severity, title, sentence in MIND:
        hit = next((ability for ability in needs if ability in pin.can and ability not in claim.needs), None)
        if hit is None or (code == "starts-analogue" and "analogue" in claim.needs):
            continue
        if hit == "serial-out" and hears_serial:
            said = f"{pin.id} sends what the bench answers to its commands; a part on it would be driven by text."
            return "wire.pin-serial", Severity.MUST, "sits on the serial line", said
        return f"wire.{code}", severity, title, sentence.format(pin.id)
    return None


def no_converter(evidence: Evidence) -> Iterator[Finding]:
    """An analogue part on a board that has no converter."""
    if evidence.bench.the_board.analogue is not None:
        return
    for claim in evidence.bench.claims:
        if "analogue" in claim.needs:
            yield Finding(
                code="wire.no-converter",
                severity=Severity.MUST,
                station="wire",
                part=claim.part,
                title=f"{claim.name}: this board reads no volts",
                sentence="It has no converter. Take another board, or a converter module on the bus.",
                numbers=(("converters", "none"),),
                pointer=claim.where,
            )


def board_pulls(evidence: Evidence) -> Iterator[Finding]:
    """The board has not the pull that an input asks for, or needs a bit to switch its pulls on."""
    bench = evidence.bench
    board = bench.the_board
    for claim in bench.claims:
        if claim.pull == "internal-down" and board.pull_down_ohm is None:
            where = pull_path(bench, claim)
            yield Finding(
                code="wire.no-pull-down",
                severity=Severity.MUST,
                station="wire",
                part=claim.part,
                title=f"{claim.name}: the board has no pull-down",
                sentence=f"This board can only pull up; a resistor to ground would hold {claim.pin}.",
                numbers=(("pull", "down"),),
                pointer=where,
                patch=replaced(where, "down"),
                mend="Add 10 kΩ to ground",
            )
    asking = [claim for claim in bench.claims if claim.pull.startswith("internal")]
    if asking and not board.pulls_on:
        yield Finding(
            code="wire.pulls-off",
            severity=Severity.MUST,
            station="wire",
            part=asking[0].part,
            title="No pull of the board holds anything",
            sentence="Set-up leaves the board's pull enable as it is after a reset, with the pulls off: what asks for "
            "one floats while its contact is open.",
            numbers=(("pins that ask for one", str(len(asking))),),
            pointer="/firmware/set_up/enables_pulls",
            patch=replaced("/firmware/set_up/enables_pulls", True),
            mend="Enable them in set-up",
        )
    elif asking and board.pull_enable:
        yield Finding(
            code="wire.pull-enable",
            severity=Severity.NOTE,
            station="wire",
            part=asking[0].part,
            title="The pulls need a bit of their own",
            sentence=f"The board's pulls work only with {board.pull_enable.name} set {board.pull_enable.active}: "
            "the bench has set-up do it, and a program of your own has to.",
            numbers=(("pins that ask for one", str(len(asking))),),
            pointer=pull_path(bench, asking[0]),
        )


def left_analogue(evidence: Evidence) -> Iterator[Finding]:
    """An input reads 0 for ever, on a pin that set-up left analogue."""
    board = evidence.bench.the_board
    for claim in evidence.bench.claims:
        if not board.reads_zero(claim.pin) or {"analogue", "output"} & set(claim.needs):
            continue
        yield Finding(
            code="wire.left-analogue",
            severity=Severity.MUST,
            station="wire",
            part=claim.part,
            title=f"{claim.name} reads 0 for ever",
            sentence=f"{claim.pin} starts analogue and set-up leaves it so: whatever is on it, the program reads 0.",
            numbers=(("pin", claim.pin),),
            pointer="/firmware/set_up/makes_digital",
            patch=replaced("/firmware/set_up/makes_digital", True),
            mend="Make it digital in set-up",
        )


def starting(evidence: Evidence) -> Iterator[Finding]:
    """Something is pressed before the board has started."""
    board = evidence.bench.the_board
    ready_us = board.start_up_us + board.set_up_us
    if not evidence.scenario or not evidence.run:
        return
    for line in evidence.bench.contacts:
        early = [move.at_us for move in evidence.run.moves[line.id] if move.pressed and move.at_us < ready_us]
        if early:
            yield Finding(
                code="wire.starting",
                severity=Severity.LOOK,
                station="wire",
                part=line.part.id,
                title=f"{line.name} is pressed before the board has started",
                sentence=f"At {at_s(early[0])} the board is still starting; it reads nothing for {ms(ready_us)}.",
                numbers=(("pressed at", at_s(early[0])), ("ready at", at_s(ready_us))),
                pointer=line.at,
                show_us=tuple(early[:50]),
            )
