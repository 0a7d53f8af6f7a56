"""The watchdog: whether there is one, whether its time is right, where it is fed, what it leaves behind."""

from __future__ import annotations

from collections.abc import Iterator

from ..cautions import hurts
from ..document import pointer
from ..document.parts import Heater
from ..guard import choose, wear
from ..machines.analysis import left_on
from ..units import ms
from .finding import Case, Finding, Patch, Severity

YEARS = 10  # what a bench should last


def _set(path: str, value: object) -> Patch:
    return ({"op": "replace", "path": path, "value": value},)


def unguarded(case: Case) -> Iterator[Finding]:
    """Nothing takes an output that can hurt off again after a hang."""
    bench = case.bench
    hazardous = [channel for channel in bench.channels if hurts(channel)]
    if bench.firmware.watchdog.on or not hazardous:
        return
    best = choose(bench).best
    patch: Patch = ()
    if best and "reset" in bench.the_board.watchdog_modes:
        patch = (*_set("/firmware/watchdog/mode", "reset"), *_set("/firmware/watchdog/timeout_us", best.step_us))
    names = ", ".join(channel.name for channel in hazardous)
    yield Finding(
        code="guard.none",
        severity=Severity.MUST,
        station="guard",
        part="watchdog",
        title="Nothing guards what can hurt",
        sentence=f"If the loop hangs while {names} is on, it stays on until somebody pulls the plug.",
        numbers=(("can hurt", str(len(hazardous))), ("watchdog", "off")),
        pointer="/firmware/watchdog/mode",
        patch=patch,
        mend=f"Reset after {ms(best.step_us)}" if best and patch else "",
    )


def timeout(case: Case) -> Iterator[Finding]:
    """A timeout that the board has not, that a healthy pass reaches, or that comes too late for what hurts."""
    bench = case.bench
    watchdog, board = bench.firmware.watchdog, bench.the_board
    if not watchdog.on:
        return
    where = "/firmware/watchdog/timeout_us"
    choice = choose(bench, case.answers.longest_pass_us if case.answers and not case.answers.resets_us else 0)
    take = _set(where, choice.best.step_us) if choice.best and choice.best.step_us != watchdog.timeout_us else ()
    words = f"Take {ms(choice.best.step_us)}" if choice.best and take else ""
    room = ""
    if choice.best is None and choice.shorten:
        room = f" No step fits: shorten {choice.shorten.name} by {ms(choice.by_us)}."
    if watchdog.mode not in board.watchdog_modes:
        yield Finding(
            code="guard.mode",
            severity=Severity.MUST,
            station="guard",
            part="watchdog",
            title="The board has no such watchdog",
            sentence=f"{board.name}: its watchdog can "
            f"{' or '.join(mode.replace('-', ' then ') for mode in board.watchdog_modes)}.",
            numbers=(("asked", watchdog.mode),),
            pointer="/firmware/watchdog/mode",
            patch=_set("/firmware/watchdog/mode", board.watchdog_modes[-1]) if board.watchdog_modes else (),
            mend=f"Let it {board.watchdog_modes[-1].replace('-', ' then ')}" if board.watchdog_modes else "",
        )
    if board.watchdog_steps_us and watchdog.timeout_us not in board.watchdog_steps_us:
        near = min(board.watchdog_steps_us, key=lambda step: abs(step - watchdog.timeout_us))
        yield Finding(
            code="guard.no-step",
            severity=Severity.LOOK,
            station="guard",
            part="watchdog",
            title=f"{ms(watchdog.timeout_us)} is no step of this board",
            sentence=f"It can {', '.join(ms(step) for step in board.watchdog_steps_us)}; the compiler takes the "
            f"next one.",
            numbers=(("set", ms(watchdog.timeout_us)), ("nearest", ms(near))),
            pointer=where,
            patch=take or _set(where, near),
            mend=words or f"Take {ms(near)}",
        )
    if "interrupt" in watchdog.places:
        return  # it never acts: a finding of its own
    if not choice.now.clears:
        bites = choice.now.soonest_us <= choice.healthy_us
        yield Finding(
            code="guard.too-short",
            severity=Severity.MUST if bites else Severity.LOOK,
            station="guard",
            part="watchdog",
            title="The watchdog can bite a healthy pass" if bites else "Little room above the longest pass",
            sentence=f"At its fastest corner {ms(watchdog.timeout_us)} are {ms(choice.now.soonest_us)}; the "
            f"longest healthy pass "
            f"takes {ms(choice.healthy_us)} ({choice.why.name}), and you want {watchdog.margin_percent} % more.{room}",
            numbers=(
                ("longest pass", ms(choice.healthy_us)),
                ("fastest corner", ms(choice.now.soonest_us)),
                ("needed", ms(choice.needed_us)),
            ),
            pointer=where,
            patch=take,
            mend=words,
        )
    if choice.hazardous and not choice.now.safe:
        yield Finding(
            code="guard.too-long",
            severity=Severity.MUST,
            station="guard",
            part="watchdog",
            title="Too long for what can hurt",
            sentence=f"After a hang {', '.join(choice.hazardous)} can stay on for {ms(choice.now.hazard_us)}; "
            f"{ms(watchdog.hazard_us)} is what you allow.{room}",
            numbers=(
                ("stays on", ms(choice.now.hazard_us)),
                ("allowed", ms(watchdog.hazard_us)),
                ("slowest corner", ms(choice.now.latest_us)),
            ),
            pointer=where,
            patch=take if choice.best else (),
            mend=words,
        )


def feeding(case: Case) -> Iterator[Finding]:
    """Fed where it does not prove that the loop goes round."""
    watchdog = case.bench.firmware.watchdog
    if not watchdog.on:
        return
    rest = [place for place in watchdog.also if place not in ("interrupt", "wait")]
    if "interrupt" in watchdog.places:
        patch = (
            *_set("/firmware/watchdog/feed", "end" if watchdog.feed == "interrupt" else watchdog.feed),
            *_set("/firmware/watchdog/also", rest),
        )
        yield Finding(
            code="guard.fed-interrupt",
            severity=Severity.MUST,
            station="guard",
            part="watchdog",
            title="Fed from an interrupt",
            sentence="The timer's interrupt goes on while the loop hangs, and so does the feeding: it never acts. "
            "Feed it once, "
            "where the loop comes round.",
            numbers=(("fed", "by an interrupt"),),
            pointer="/firmware/watchdog/feed",
            patch=patch,
            mend="Feed it at the end",
        )
    elif "wait" in watchdog.places:
        yield Finding(
            code="guard.fed-wait",
            severity=Severity.MUST,
            station="guard",
            part="watchdog",
            title="Fed inside every wait",
            sentence="A wait that never ends is fed for ever: just the hang that it is there for is not seen.",
            numbers=(("fed", "in waits"),),
            pointer="/firmware/watchdog/also",
            patch=_set("/firmware/watchdog/also", rest),
            mend="Not inside waits",
        )
    elif len(watchdog.places) > 1:
        yield Finding(
            code="guard.fed-often",
            severity=Severity.LOOK,
            station="guard",
            part="watchdog",
            title=f"Fed in {len(watchdog.places)} places",
            sentence="Each place more is one more way for half a loop to look alive. Once a pass is enough.",
            numbers=(("places", ", ".join(sorted(watchdog.places))),),
            pointer="/firmware/watchdog/also",
            patch=_set("/firmware/watchdog/also", []),
            mend=f"Only at the {watchdog.feed}" if watchdog.feed in ("start", "end") else "Only there",
        )
    task = next((one for one in case.bench.firmware.tasks if one.id == watchdog.feed_task), None)
    if "task" in watchdog.places and task is None:
        yield Finding(
            code="guard.unfed",
            severity=Severity.MUST,
            station="guard",
            part="watchdog",
            title="Nothing feeds it",
            sentence="A task should feed it, and there is none of that name: it acts again and again.",
            numbers=(("fed by", watchdog.feed_task or "nobody"),),
            pointer="/firmware/watchdog/feed_task",
            patch=_set("/firmware/watchdog/feed", "end"),
            mend="Feed it at the end",
        )


def aftermath(case: Case) -> Iterator[Finding]:
    """What comes after it has acted: boots without end, no cause, no end to the hang."""
    bench = case.bench
    watchdog, board = bench.firmware.watchdog, bench.the_board
    if not watchdog.on:
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
            patch=_set("/firmware/watchdog/mode", can[0]) if can else (),
            mend="Interrupt, then reset" if can[:1] == ["interrupt-reset"] else "Reset" if can else "",
        )
        return
    if not watchdog.off_at_start:
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
            patch=_set("/firmware/watchdog/off_at_start", True),
            mend="Turn it off first thing",
        )
    if watchdog.cause == "lost":
        yield Finding(
            code="guard.cause-lost",
            severity=Severity.NOTE,
            station="guard",
            part="watchdog",
            title="Nobody will know why it reset",
            sentence="The cause is gone once the board has started. Keep it where a reset does not erase it.",
            numbers=(("cause", "lost"),),
            pointer="/firmware/watchdog/cause",
            patch=_set("/firmware/watchdog/cause", "kept"),
            mend="Keep the cause",
        )


def worn(case: Case) -> Iterator[Finding]:
    """Memory that is written more often than it stands."""
    store = case.bench.the_board.store
    for number, keep in enumerate(case.bench.firmware.keeps):
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
                sentence=f"Nothing on {case.bench.the_board.name} outlives the supply in this way.",
                numbers=(("kept", keep.of),),
                pointer=pointer("firmware", "keeps", number, "where"),
                patch=_set(pointer("firmware", "keeps", number, "where"), "ram"),
                mend="Keep it in memory",
            )
            continue
        study = next(one for one in wear(case.bench, case.run) if one.keep is keep)
        if keep.when == "feed" or (study.years is not None and study.years < YEARS):
            lasts = "minutes" if keep.when == "feed" else f"{study.years:.1f} years"
            yield Finding(
                code="guard.worn",
                severity=Severity.MUST,
                station="guard",
                part=keep.of,
                title="Memory is worn out by writing",
                sentence=f"It stands {store.wears:,} writes a cell. Written "
                f"{'at each feed' if keep.when == 'feed' else f'{study.a_day:,.0f} times a day'}, "
                f"it lasts {lasts}. Write what has changed, or when the watchdog calls.",
                numbers=(("stands", f"{store.wears:,} writes"), ("lasts", lasts)),
                pointer=where,
                patch=_set(where, "change" if keep.when != "change" else "interrupt"),
                mend="Write changes only" if keep.when != "change" else "Only when the watchdog calls",
            )


def survives(case: Case) -> Iterator[Finding]:
    """A state that outlives the reset has something on that can hurt."""
    bench = case.bench
    kept = {keep.of: number for number, keep in enumerate(bench.firmware.keeps)}
    for machine in bench.firmware.machines:
        if machine.id not in kept:
            continue
        on = [channel.name for channel in bench.channels if hurts(channel) and left_on(machine, channel.id)]
        if on:
            yield Finding(
                code="guard.survives",
                severity=Severity.MUST,
                station="guard",
                part=machine.id,
                title=f"{on[0]} comes back on after a reset",
                sentence=f"{machine.name} goes on where it was, and in some of its states {', '.join(on)} is on: a "
                f"reset that "
                "was to take it off puts it on again. Begin anew, and keep only numbers.",
                numbers=(("kept", machine.name),),
                pointer=pointer("firmware", "keeps", kept[machine.id]),
                patch=({"op": "remove", "path": pointer("firmware", "keeps", kept[machine.id])},),
                mend="Begin anew",
            )


def alone(case: Case) -> Iterator[Finding]:
    """Heat or mains with the watchdog as all that stands between."""
    bench = case.bench
    if not bench.firmware.watchdog.on:
        return
    for channel in bench.channels:
        fused = isinstance(channel.part, Heater) and channel.part.cut_out
        if channel.load not in ("heat", "mains") or channel.id in bench.firmware.limits or fused:
            continue
        yield Finding(
            code="guard.alone",
            severity=Severity.LOOK,
            station="guard",
            part=channel.id,
            title=f"{channel.name}: a watchdog is not a safety device",
            sentence="It does not see a welded relay, nor a counter that stands still. Fit what stops it without "
            "the firmware "
            "(a cut-out, a fused module), and give it a longest time.",
            numbers=(("load", channel.load), ("longest on", "no limit")),
            pointer=pointer("firmware", "limits"),
            patch=(
                {"op": "add", "path": pointer("firmware", "limits", channel.id), "value": {"longest_us": 600_000_000}},
            ),
            mend="Ten minutes at most",
        )
