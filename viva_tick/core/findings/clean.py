"""What the debounce methods and their intervals give away."""

from __future__ import annotations

from collections.abc import Iterator

from ..contacts import bounce_figures
from ..debounce import METHODS
from ..document import Claim, pointer
from ..document.parts import OpenWire
from ..electrics import filter_of
from ..pins import best_free
from ..sweep import doubled_rate, shortest_tap_us
from ..units import at_s, ms
from .finding import Evidence, Finding, Patch, Severity
from .mends import advised_debounce, replaced


def none(evidence: Evidence) -> Iterator[Finding]:
    """No debounce on a bouncing contact that triggers an action."""
    for part in evidence.bench.contacts:
        debounce = evidence.bench.debounce(part.id)
        figures = bounce_figures(evidence.bench, part)
        bare = debounce.method == "none" or (METHODS[debounce.method].has_interval and not debounce.interval_us)
        if not bare or part.id not in evidence.edge_inputs or not figures.bounces:
            continue
        if not doubled_rate(evidence.bench, part.id, evidence.idle_pass_us)[0]:
            continue  # the passes are so long that they hide every bounce
        patch, words = advised_debounce(evidence, part.id, "rest-first")
        yield Finding(
            code="clean.none",
            severity=Severity.MUST,
            station="clean",
            part=part.id,
            title=f"{part.name} is not cleaned",
            sentence=f"It bounces up to {figures.most_bounces} times and every bounce moves a machine.",
            numbers=(
                ("bounces, at most", str(figures.most_bounces)),
                ("comes to rest in", ms(figures.longest_settle_us)),
            ),
            pointer=pointer("firmware", "debounce", part.id),
            patch=patch,
            mend=words,
        )


def too_short(evidence: Evidence) -> Iterator[Finding]:
    """The interval is shorter than the bounce."""
    for part in evidence.bench.contacts:
        debounce = evidence.bench.debounce(part.id)
        method = METHODS[debounce.method]
        rc = filter_of(part, evidence.bench.the_board)
        chatters = rc is not None and not rc.schmitt  # Wire says so
        if not method.has_interval or not debounce.interval_us or chatters:
            continue
        doubled, presses = doubled_rate(evidence.bench, part.id, evidence.idle_pass_us)
        if not doubled:
            continue
        figures = bounce_figures(evidence.bench, part)
        matter_us = figures.longest_gap_us if method.statistic == "gap" else figures.longest_settle_us
        what = "rests up to" if method.statistic == "gap" else "bounces for up to"
        then = "between bounces" if method.statistic == "gap" else ""
        verb = "is accepted after" if method.statistic == "gap" else "is listened to again after"
        patch, words = advised_debounce(evidence, part.id, debounce.method)
        often = (
            f"One press in {round(presses / doubled)} counts as more than one."
            if doubled * 2 < presses
            else (f"{doubled * 100 // presses} presses in 100 count as more than one.")
        )
        yield Finding(
            code="clean.too-short",
            severity=Severity.MUST,
            station="clean",
            part=part.id,
            title=f"{part.name}: interval too short",
            sentence=f"It {what} {ms(matter_us)} {then}".rstrip() + f" but {verb} {ms(debounce.interval_us)}. {often}",
            numbers=(
                ("interval", ms(debounce.interval_us)),
                ("longest gap" if method.statistic == "gap" else "longest bounce", ms(matter_us)),
                ("extra presses counted", f"{doubled} of {presses} {'modelled' if figures.modelled else 'captured'}"),
            ),
            pointer=pointer("firmware", "debounce", part.id, "interval_us"),
            patch=patch,
            mend=words,
        )


def one_edge(evidence: Evidence) -> Iterator[Finding]:
    """Only the press is filtered, and the bounces of the release count."""
    for part in evidence.bench.contacts:
        debounce = evidence.bench.debounce(part.id)
        method = METHODS[debounce.method]
        figures = bounce_figures(evidence.bench, part)
        if method.edges == "both" or not figures.release_settle_us or not debounce.interval_us:
            continue
        doubled, presses = doubled_rate(evidence.bench, part.id, evidence.idle_pass_us)
        if not doubled:
            continue
        patch, words = advised_debounce(evidence, part.id, method.family or "act-ignore")
        yield Finding(
            code="clean.one-edge",
            severity=Severity.LOOK,
            station="clean",
            part=part.id,
            title=f"{part.name}: only its press is filtered",
            sentence=f"Let go, it bounces for up to {ms(figures.release_settle_us)}, and each of those bounces can be "
            f"read as a press: {doubled} of {presses} count as more than one.",
            numbers=(("release bounces for", ms(figures.release_settle_us)), ("wait", ms(debounce.interval_us))),
            pointer=pointer("firmware", "debounce", part.id, "method"),
            patch=patch,
            mend=words,
        )


def too_long(evidence: Evidence) -> Iterator[Finding]:
    """The interval is longer than the shortest tap in the scenarios."""
    for part in evidence.bench.contacts:
        debounce = evidence.bench.debounce(part.id)
        method = METHODS[debounce.method]
        shortest = shortest_tap_us(evidence.bench, part.id)
        if not method.has_interval or method.blocks or not shortest or debounce.interval_us < shortest[0]:
            continue
        loses = method.statistic == "gap"
        patch, words = advised_debounce(evidence, part.id, debounce.method)
        if patch and patch[0]["value"]["interval_us"] >= shortest[0]:
            patch, words = (), ""  # no interval is safe for both its bounce and that tap
        end = "so that tap is missed." if loses else "so a tap that follows it at once is missed."
        yield Finding(
            code="clean.too-long",
            severity=Severity.MUST if loses else Severity.LOOK,
            station="clean",
            part=part.id,
            title=f"{part.name}: interval longer than a tap",
            sentence=f"“{shortest[2]}” taps it for {ms(shortest[0])}; "
            f"the interval is {ms(debounce.interval_us)}, {end}",
            numbers=(("interval", ms(debounce.interval_us)), ("shortest tap", ms(shortest[0]))),
            pointer=pointer("firmware", "debounce", part.id, "interval_us"),
            patch=patch,
            mend=words,
        )


def counted(evidence: Evidence) -> Iterator[Finding]:
    """Presses made are not the presses counted, in this run."""
    if not evidence.answers or not evidence.scenario:
        return
    for part in evidence.bench.contacts:
        tally = evidence.answers.tallies[part.id]
        if tally.agrees or isinstance(part.part, OpenWire):  # nobody presses a wire
            continue
        faults = []
        for instants, word in (
            (tally.doubled_us, "counted again"),
            (tally.missed_us, "missed"),
            (tally.from_nothing_us, "counted without a press"),
        ):
            if instants:
                named = ", ".join(at_s(at) for at in instants[:3])
                more = f" and {len(instants) - 3} more" if len(instants) > 3 else ""
                faults.append(f"{word} at {named}{more}")
        instants = tuple(sorted(tally.doubled_us + tally.missed_us + tally.from_nothing_us))
        patch: Patch = ()
        words = ""
        method = evidence.bench.debounce(part.id).method
        if tally.doubled_us and not tally.from_nothing_us and not method.startswith("shared-"):
            patch, words = advised_debounce(evidence, part.id, "rest-first" if method == "none" else method)
        title = "extra presses counted" if tally.doubled_us or tally.from_nothing_us else "presses missed"
        yield Finding(
            code="clean.counted",
            severity=Severity.MUST,
            station="clean",
            part=part.id,
            title=f"{part.name}: {title}",
            sentence=f"Pressed {tally.made} times, counted {tally.counted}: {'; '.join(faults)}."
            if tally.made != 1
            else f"Pressed once, counted {tally.counted}: {'; '.join(faults)}.",
            numbers=(("pressed", str(tally.made)), ("counted", str(tally.counted))),
            pointer=part.at,
            patch=patch,
            mend=words,
            show_us=instants[:50],
        )


SHARED = {
    "shared-ignore": (
        "clean.shared-timer",
        "One timer for several inputs",
        "{} share one “last press” time: for {} after any of them the others are deaf.",
        "act-ignore",
        "A timer for each",
    ),
    "shared-rest": (
        "clean.shared-function",
        "One function, one memory, several inputs",
        "{} are cleaned by one function that remembers one reading: while one is pressed and another is not, none is "
        "stable for {}, and nothing is accepted.",
        "rest-first",
        "A memory for each",
    ),
    "shared-interrupt": (
        "clean.shared-handler",
        "One handler for several pins",
        "{} call one handler that cannot tell which: for {} after any of them the others are ignored, and a press goes "
        "to whichever is read as pressed first.",
        "interrupt",
        "A handler for each",
    ),
}


def shared_state(evidence: Evidence) -> Iterator[Finding]:
    """Several inputs share what each should have for itself: a “last press” time, a function's memory, a handler."""
    bench = evidence.bench
    for method, (code, title, sentence, own, mend) in SHARED.items():
        sharing = [line for line in bench.contacts if bench.debounce(line.id).method == method]
        if len(sharing) < 2:
            continue
        more = f" and {len(sharing) - 2} more" if sharing[2:] else ""
        names = " and ".join(line.name for line in sharing[:2]) + more
        longest_us = max(bench.debounce(line.id).interval_us for line in sharing)
        yield Finding(
            code=code,
            severity=Severity.MUST,
            station="clean",
            part=sharing[0].id,
            title=title,
            sentence=sentence.format(names, ms(longest_us)),
            numbers=(("inputs", str(len(sharing))), ("interval", ms(longest_us))),
            pointer=pointer("firmware", "debounce", sharing[0].id, "method"),
            patch=tuple(
                {"op": "replace", "path": pointer("firmware", "debounce", line.id, "method"), "value": own}
                for line in sharing
            ),
            mend=mend,
        )


def no_interrupt(evidence: Evidence) -> Iterator[Finding]:
    """A contact is to interrupt on a pin that cannot."""
    board = evidence.bench.the_board
    for line in evidence.bench.contacts:
        pin = board.pin(line.pin)
        if METHODS[evidence.bench.debounce(line.id).method].by != "interrupt" or (pin and "interrupt" in pin.can):
            continue
        claim = Claim(line.part.id, line.name, line.pin, f"{line.at}/pin", ("interrupt",), line.wiring.pull)
        to = best_free(claim, board, {placed.pin for placed in evidence.bench.claims})
        yield Finding(
            code="clean.no-interrupt",
            severity=Severity.MUST,
            station="clean",
            part=line.id,
            title=f"{line.name} cannot interrupt",
            sentence=f"Its edges should call a handler, and {line.pin} interrupts nothing.",
            numbers=(("pin", line.pin),),
            pointer=f"{line.at}/pin",
            patch=replaced(f"{line.at}/pin", to) if to else (),
            mend=f"Move it to {to}" if to else "",
        )


FELT_US = 100_000  # up to 0.1 s is felt as instant: Miller 1968; Card, Robertson & Mackinlay 1991
BY_HAND = ("button", "four-legged", "module", "panel-button", "switch", "slide-switch", "encoder")


def lag(evidence: Evidence) -> Iterator[Finding]:
    """A hand waits longer for an answer than is felt as instant."""
    for line in evidence.bench.contacts:
        debounce = evidence.bench.debounce(line.id)
        waits = METHODS[debounce.method].statistic == "gap" or METHODS[debounce.method].samples
        if not waits or line.kind not in BY_HAND or debounce.interval_us <= FELT_US:
            continue
        patch, words = advised_debounce(evidence, line.id, debounce.method)
        yield Finding(
            code="clean.lag",
            severity=Severity.LOOK,
            station="clean",
            part=line.id,
            title=f"{line.name} answers late",
            sentence=f"A press waits {ms(debounce.interval_us)} to be accepted; up to {ms(FELT_US)} feels instant.",
            numbers=(("wait", ms(debounce.interval_us)), ("felt as instant", ms(FELT_US))),
            pointer=pointer("firmware", "debounce", line.id, "interval_us"),
            patch=patch,
            mend=words,
        )


def unneeded(evidence: Evidence) -> Iterator[Finding]:
    """A source that does not bounce is waited for all the same."""
    for line in evidence.bench.contacts:
        debounce = evidence.bench.debounce(line.id)
        method = METHODS[debounce.method]
        bare = method.id == "none" or not debounce.interval_us
        if bare or line.kind != "signal" or bounce_figures(evidence.bench, line).bounces:
            continue
        where = pointer("firmware", "debounce", line.id, "method")
        yield Finding(
            code="clean.unneeded",
            severity=Severity.NOTE,
            station="clean",
            part=line.id,
            title=f"{line.name} needs no cleaning",
            sentence=f"A logic signal does not bounce; {method.title.lower()} only makes it {ms(debounce.interval_us)} "
            "slow, or deaf.",
            numbers=(("interval", ms(debounce.interval_us)),),
            pointer=where,
            patch=(),
            mend="",
        )


def few_samples(evidence: Evidence) -> Iterator[Finding]:
    """Samples so far apart that one or none falls into the shortest tap, or a single one decides."""
    for line in evidence.bench.contacts:
        debounce = evidence.bench.debounce(line.id)
        if not METHODS[debounce.method].samples:
            continue
        count = max(debounce.interval_us // debounce.sample_us, 1)
        shortest = shortest_tap_us(evidence.bench, line.id)
        lost = shortest is not None and debounce.sample_us * count > shortest[0]
        if count >= 3 and not lost:
            continue
        better = max(debounce.interval_us // 8 // 1000, 1) * 1000
        where = pointer("firmware", "debounce", line.id, "sample_us")
        patch: Patch = replaced(where, better) if not lost and better < debounce.sample_us else ()
        yield Finding(
            code="clean.few-samples",
            severity=Severity.LOOK,
            station="clean",
            part=line.id,
            title=f"{line.name}: too few samples decide",
            sentence=f"{count} samples, {ms(debounce.sample_us)} apart: a stray one is a good part of what decides."
            if count < 3
            else f"{count} samples, {ms(debounce.sample_us)} apart, do not fit into its shortest tap.",
            numbers=(("samples", str(count)), ("apart", ms(debounce.sample_us))),
            pointer=where,
            patch=patch,
            mend=f"Sample every {ms(better)}" if patch else "",
        )
