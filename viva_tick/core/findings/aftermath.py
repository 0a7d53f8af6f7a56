"""What a reset leaves behind: its cause, what outlives it and what that wears, outputs that are on after it."""

from __future__ import annotations

from collections.abc import Iterator

from ..cautions import hurts
from ..document import pointer
from ..exploring.analysis import left_on
from ..guard import save_us, wear
from ..units import ms
from .finding import Evidence, Finding, Severity
from .mends import replaced

YEARS = 10  # what a bench should last
HOUR_US = 3_600_000_000


def after(evidence: Evidence) -> Iterator[Finding]:
    """What comes after it has acted: boots without end, no cause, no end to the hang."""
    bench = evidence.bench
    watchdog, board = bench.firmware.watchdog, bench.the_board
    if not bench.firmware.guards:
        return
    if watchdog.mode == "interrupt":
        can = [mode for mode in ("interrupt-reset", "reset") if mode in board.watchdog_modes]
        yield Finding(
            code="guard.never-resets",
            severity=Severity.MUST,
            station="guard",
            part="watchdog",
            title="Its interrupt mends nothing",
            sentence="When the loop hangs the interrupt is called, and then the loop hangs on. Let it reset after "
            "that.",
            numbers=(("mode", "interrupt"),),
            pointer="/firmware/watchdog/mode",
            patch=replaced("/firmware/watchdog/mode", can[0]) if can else (),
            mend="Interrupt, then reset" if can[:1] == ["interrupt-reset"] else "Reset" if can else "",
        )
        return
    if not watchdog.off_at_start and not bench.firmware.restarts:  # what restarts the board turns it off
        shortest = min(board.watchdog_steps_us, default=0)
        ready = board.start_up_us + board.set_up_us
        loops = 0 < shortest < ready
        yield Finding(
            code="guard.left-on",
            severity=Severity.MUST if loops else Severity.LOOK,
            station="guard",
            part="watchdog",
            title="Boots over and over" if loops else "Still on as the board starts",
            sentence="After its reset the watchdog is still on, with its shortest step"
            + (f" of {ms(shortest)}; set-up is done after {ms(ready)}. It never gets there." if loops else ".")
            + " Turn it off first thing.",
            numbers=(("shortest step", ms(shortest)), ("set up after", ms(ready))),
            pointer="/firmware/watchdog/off_at_start",
            patch=replaced("/firmware/watchdog/off_at_start", True),
            mend="Turn it off first thing",
        )
    yield from _cause_cleared(evidence)
    if watchdog.cause == "lost" and watchdog.told_by == "flag" and not board.loader_clears_cause:
        yield Finding(
            code="guard.cause-lost",
            severity=Severity.NOTE,
            station="guard",
            part="watchdog",
            title="Nobody will know why it reset",
            sentence="The cause is gone once the board has started. Keep it where a reset does not erase it.",
            numbers=(("cause", "lost"),),
            pointer="/firmware/watchdog/cause",
            patch=replaced("/firmware/watchdog/cause", "kept"),
            mend="Keep the cause",
        )


def _cause_cleared(evidence: Evidence) -> Iterator[Finding]:
    """What loads programs clears the reset's cause before they run: nobody hears of it, and a kept cause is 0."""
    bench = evidence.bench
    watchdog = bench.firmware.watchdog
    if watchdog.told_by == "mark" or not bench.the_board.loader_clears_cause or not bench.the_board.program:
        return
    hears = [
        machine.name
        for machine in bench.firmware.machines
        if any(transition.on.kind == "watchdog-reset" for transition in machine.transitions)
    ]
    who = f"{', '.join(hears)} never hears of it" if hears else "nothing tells it from switching on"
    by = "the watchdog's interrupt" if watchdog.mode == "interrupt-reset" else "the program before each feed"
    also = "" if watchdog.mode == "interrupt-reset" else "; after a pull of the reset pin it stands, too"
    yield Finding(
        code="guard.cause-cleared",
        severity=Severity.MUST if hears else Severity.NOTE if watchdog.cause == "lost" else Severity.LOOK,
        station="guard",
        part="watchdog",
        title="The reset's cause is cleared before the program runs",
        sentence=f"This board's loader clears it as it starts: a kept cause is 0, and {who}. A mark in memory that "
        f"is kept through a reset, written by {by}, outlives it{also}.",
        numbers=(("told by", "the board's flag"), ("cause", watchdog.cause)),
        pointer="/firmware/watchdog/told_by",
        patch=replaced("/firmware/watchdog/told_by", "mark"),
        mend="Use a mark in memory",
    )


def never_known(evidence: Evidence) -> Iterator[Finding]:
    """A cause is listened for that this board's program never learns."""
    bench = evidence.bench
    if not bench.the_board.loader_clears_cause or not bench.the_board.program:
        return
    for number, machine in enumerate(bench.firmware.machines):
        for place, transition in enumerate(machine.transitions):
            kind = transition.on.kind
            if kind not in ("power-on", "pin-reset", "dip-reset"):
                continue
            where = pointer("firmware", "machines", number, "transitions", place)
            yield Finding(
                code="guard.cause-unknown",
                severity=Severity.MUST,
                station="guard",
                part=machine.id,
                title=f"{machine.name} never learns why the board started",
                sentence="This board's loader clears the cause before the program runs, and nothing leaves a mark for "
                "this one. Listen for the board's start instead, or load the program without the loader.",
                numbers=(("listens for", kind),),
                pointer=f"{where}/on/kind",
                patch=replaced(f"{where}/on/kind", "boot"),
                mend="Listen for the start",
            )


def worn(evidence: Evidence) -> Iterator[Finding]:
    """Memory that is written more often than it stands."""
    bench = evidence.bench
    store = bench.the_board.store
    for number, keep in enumerate(bench.firmware.keeps):
        if keep.where != "store":
            continue
        where = pointer("firmware", "keeps", number, "when")
        if store is None:
            yield Finding(
                code="guard.no-store",
                severity=Severity.MUST,
                station="guard",
                part=keep.of,
                title="The board has no such memory",
                sentence=f"Nothing on {evidence.bench.the_board.name} outlives the supply in this way.",
                numbers=(("kept", keep.of),),
                pointer=pointer("firmware", "keeps", number, "where"),
                patch=replaced(pointer("firmware", "keeps", number, "where"), "ram"),
                mend="Keep it in memory",
            )
            continue
        study = next(one for one in wear(bench, evidence.run) if one.keep is keep)
        if study.years is None or study.years >= YEARS:
            continue
        called = bench.firmware.guards and bench.firmware.watchdog.mode != "reset" and keep.when != "interrupt"
        hourly = (*replaced(where, "every"), *replaced(where.removesuffix("when") + "every_us", HOUR_US))
        yield Finding(
            code="guard.worn",
            severity=Severity.LOOK,
            station="guard",
            part=keep.of,
            title=f"Memory is worn out in {study.years:.1f} years",
            sentence=f"It lasts {store.wears:,} writes a byte ({store.source}). As often as in this scenario, "
            f"{study.a_day:,.0f} times a day, that is {study.years:.1f} years. Write it when the watchdog calls its "
            "interrupt, or once an hour.",
            numbers=(("lasts", f"{store.wears:,} writes"), ("a day", f"{study.a_day:,.0f}")),
            pointer=where,
            patch=replaced(where, "interrupt") if called else hourly if keep.every_us < HOUR_US else (),
            mend="Only when the watchdog calls its interrupt"
            if called
            else "Once an hour"
            if keep.every_us < HOUR_US
            else "",
        )


HANDLER_US = 1_000  # longer, and the millisecond counter and what arrives suffer


def long_handler(evidence: Evidence) -> Iterator[Finding]:
    """The watchdog's handler writes to the store while everything else waits."""
    bench = evidence.bench
    took_us = save_us(bench)
    if not bench.firmware.guards or bench.firmware.watchdog.mode == "reset" or took_us <= HANDLER_US:
        return
    keeps = bench.firmware.keeps
    number = next(n for n, keep in enumerate(keeps) if keep.when == "interrupt" and keep.where == "store")
    where = pointer("firmware", "keeps", number, "where")
    yield Finding(
        code="guard.long-handler",
        severity=Severity.LOOK,
        station="guard",
        part=keeps[number].of,
        title="The watchdog's handler takes long",
        sentence=f"It writes for up to {ms(took_us)} with interrupts off: the counter loses that, and edges "
        "and characters that come meanwhile are lost. Keep it in memory there, and store it after the start.",
        numbers=(("handler", ms(took_us)), ("at most", ms(HANDLER_US))),
        pointer=where,
        patch=replaced(where, "ram"),
        mend="Keep it in memory",
    )


def survives(evidence: Evidence) -> Iterator[Finding]:
    """A state that outlives the reset has something on that can hurt."""
    bench = evidence.bench
    kept = {keep.of: number for number, keep in enumerate(bench.firmware.keeps)}
    for machine in bench.firmware.machines:
        if machine.id not in kept:
            continue
        on = [channel.name for channel in bench.channels if hurts(channel) and left_on(bench, machine, channel.id)]
        if on:
            yield Finding(
                code="guard.survives",
                severity=Severity.MUST,
                station="guard",
                part=machine.id,
                title=f"{on[0]} comes back on after a reset",
                sentence=f"{machine.name} goes on where it was, and in some of its states {', '.join(on)} is on: a "
                "reset that was to take it off puts it on again. Begin anew, and keep only variables.",
                numbers=(("kept", machine.name),),
                pointer=pointer("firmware", "keeps", kept[machine.id]),
                patch=({"op": "remove", "path": pointer("firmware", "keeps", kept[machine.id])},),
                mend="Begin anew",
            )
