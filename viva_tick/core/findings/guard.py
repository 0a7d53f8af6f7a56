"""The watchdog: whether there is one, whether its time is right, where it is fed, what it leaves behind."""

from __future__ import annotations

from collections.abc import Iterator

from ..cautions import hurts, load_words
from ..document import Feed, pointer
from ..document.parts import Heater
from ..guard import choose
from ..units import ms
from .finding import Evidence, Finding, Patch, Severity
from .mends import longest_on, replaced


def unguarded(evidence: Evidence) -> Iterator[Finding]:
    """Nothing takes a hazardous output off again after a hang."""
    bench = evidence.bench
    hazardous = [channel for channel in bench.channels if hurts(channel)]
    if bench.firmware.guards or not hazardous:
        return
    best = choose(bench).best
    patch: Patch = ()
    if best and "reset" in bench.the_board.watchdog_modes:
        patch = (
            *replaced("/firmware/watchdog/mode", "reset"),
            *replaced("/firmware/watchdog/timeout_us", best.step_us),
        )
    names = ", ".join(channel.name for channel in hazardous)
    yield Finding(
        code="guard.none",
        severity=Severity.MUST,
        station="guard",
        part="watchdog",
        title="Nothing guards a hazardous output",
        sentence=f"If the loop hangs while {names} is on, it is left on until somebody pulls the plug.",
        numbers=(("hazardous", str(len(hazardous))), ("watchdog", "off")),
        pointer="/firmware/watchdog/mode",
        patch=patch,
        mend=f"Reset after {ms(best.step_us)}" if best and patch else "",
    )


def timeout(evidence: Evidence) -> Iterator[Finding]:
    """A timeout that the board has not, that a healthy pass reaches, or that comes too late for what hurts."""
    bench = evidence.bench
    watchdog, board = bench.firmware.watchdog, bench.the_board
    if not bench.firmware.guards:
        return
    where = "/firmware/watchdog/timeout_us"
    choice = choose(
        bench, evidence.answers.longest_pass_us if evidence.answers and not evidence.answers.resets_us else 0
    )
    best = choice.best
    take = replaced(where, best.step_us) if best and best.step_us != watchdog.timeout_us else ()
    words = f"Use {ms(best.step_us)}" if best and take else ""
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
            patch=replaced("/firmware/watchdog/mode", board.watchdog_modes[-1]) if board.watchdog_modes else (),
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
            patch=take or replaced(where, near),
            mend=words or f"Use {ms(near)}",
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
            title="The watchdog can reset a healthy board" if bites else "Little room above the longest pass",
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
            title="Too long for a hazardous output",
            sentence=f"After a hang {', '.join(choice.hazardous)} can stay on for {ms(choice.now.hazard_us)}; "
            f"{ms(watchdog.hazard_us)} is what you allow.{room}",
            numbers=(
                ("output left on for", ms(choice.now.hazard_us)),
                ("allowed", ms(watchdog.hazard_us)),
                ("slowest corner", ms(choice.now.latest_us)),
            ),
            pointer=where,
            patch=take if choice.best else (),
            mend=words,
        )


def feeding(evidence: Evidence) -> Iterator[Finding]:
    """Fed where it does not prove that the loop goes round."""
    watchdog = evidence.bench.firmware.watchdog
    if not evidence.bench.firmware.guards:
        return
    rest = [place for place in watchdog.also if place not in ("interrupt", "wait")]
    if "interrupt" in watchdog.places:
        patch = (
            *replaced("/firmware/watchdog/feed", "end" if watchdog.feed == "interrupt" else watchdog.feed),
            *replaced("/firmware/watchdog/also", rest),
        )
        yield Finding(
            code="guard.fed-interrupt",
            severity=Severity.MUST,
            station="guard",
            part="watchdog",
            title="Fed from an interrupt",
            sentence="The timer's interrupt goes on while the loop hangs, and so does the feeding: it never acts. "
            "Feed it once a pass.",
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
            patch=replaced("/firmware/watchdog/also", rest),
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
            patch=replaced("/firmware/watchdog/also", []),
            mend=f"Only at the {watchdog.feed}" if watchdog.feed in ("start", "end") else "Only there",
        )
    yield from _unfed(evidence)


def _unfed(evidence: Evidence) -> Iterator[Finding]:
    """It should be fed by a task, by actions or by reports of tasks, and what should do it is not there."""
    firmware = evidence.bench.firmware
    watchdog = firmware.watchdog
    feeder = watchdog.feed_task in firmware.feeders
    acts = any(isinstance(action, Feed) for machine in firmware.machines for _, action in machine.actions)
    only = len(watchdog.places) == 1  # a task that is named and not there is wrong beside other places, too
    for place, wrong, what in (
        ("task", not feeder, "A task should feed it, and there is none of that name"),
        ("action", only and not acts, "An action of a machine should feed it, and no machine does"),
        ("reports", only and not firmware.tasks, "Every task should report, and there is none"),
    ):
        if place in watchdog.places and wrong:
            yield Finding(
                code="guard.unfed",
                severity=Severity.MUST,
                station="guard",
                part="watchdog",
                title="Nothing feeds it",
                sentence=f"{what}: it acts again and again.",
                numbers=(("fed by", (place == "task" and watchdog.feed_task) or "nobody"),),
                pointer=f"/firmware/watchdog/{'feed_task' if place == 'task' else 'feed'}",
                patch=replaced("/firmware/watchdog/feed", "end"),
                mend="Feed it at the end",
            )


def alone(evidence: Evidence) -> Iterator[Finding]:
    """Heat or mains with the watchdog as all that stands between."""
    bench = evidence.bench
    if not bench.firmware.guards:
        return
    for channel in bench.channels:
        fused = isinstance(channel.part, Heater) and channel.part.cut_out
        if not {"heat", "mains"} & set(channel.loads) or channel.id in bench.firmware.limits or fused:
            continue
        yield Finding(
            code="guard.alone",
            severity=Severity.LOOK,
            station="guard",
            part=channel.id,
            title=f"{channel.name}: a watchdog is not a safety device",
            sentence="It does not see a welded relay, nor a counter that has stopped. Fit what stops it without "
            "the firmware (a cut-out, a fused module), and give it a longest time.",
            numbers=(("load", load_words(channel.loads)), ("longest on", "no limit")),
            pointer=pointer("firmware", "limits"),
            asks=longest_on(channel),
        )
