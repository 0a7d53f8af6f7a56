"""What the debounce methods and their intervals give away."""

from __future__ import annotations

from collections.abc import Iterator

from ..contacts import bounce_figures
from ..debounce import METHODS
from ..document import pointer
from ..sweep import doubled_rate, shortest_tap_us
from ..units import at_s, ms
from .finding import Case, Finding, Patch, Severity
from .mends import advised_debounce


def none(case: Case) -> Iterator[Finding]:
    """No debounce on a bouncing contact that triggers an action."""
    for part in case.bench.contacts:
        debounce = case.bench.debounce(part.id)
        figures = bounce_figures(case.bench, part)
        bare = debounce.method == "none" or (METHODS[debounce.method].has_interval and not debounce.interval_us)
        if not bare or part.id not in case.edge_inputs or not figures.bounces:
            continue
        patch, words = advised_debounce(case, part.id, "rest-first")
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


def too_short(case: Case) -> Iterator[Finding]:
    """The interval is shorter than the bounce."""
    for part in case.bench.contacts:
        debounce = case.bench.debounce(part.id)
        method = METHODS[debounce.method]
        if not method.has_interval or not debounce.interval_us:
            continue
        doubled, presses = doubled_rate(case.bench, part.id, case.idle_pass_us)
        if not doubled:
            continue
        figures = bounce_figures(case.bench, part)
        matter_us = figures.longest_gap_us if method.statistic == "gap" else figures.longest_settle_us
        what = "rests up to" if method.statistic == "gap" else "bounces for up to"
        then = "between bounces" if method.statistic == "gap" else ""
        verb = "is believed after" if method.statistic == "gap" else "is listened to again after"
        patch, words = advised_debounce(case, part.id, debounce.method)
        often = (
            f"One press in {round(presses / doubled)} counts twice."
            if doubled * 2 < presses
            else (f"{doubled * 100 // presses} presses in 100 count twice.")
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
                ("counted twice", f"{doubled} of {presses} {'modelled' if figures.modelled else 'captured'}"),
            ),
            pointer=pointer("firmware", "debounce", part.id, "interval_us"),
            patch=patch,
            mend=words,
        )


def too_long(case: Case) -> Iterator[Finding]:
    """The interval is longer than the shortest tap in the scenarios."""
    for part in case.bench.contacts:
        debounce = case.bench.debounce(part.id)
        method = METHODS[debounce.method]
        shortest = shortest_tap_us(case.bench, part.id)
        if not method.has_interval or method.blocks or not shortest or debounce.interval_us < shortest[0]:
            continue
        loses = method.statistic == "gap"
        patch, words = advised_debounce(case, part.id, debounce.method)
        end = "so that tap is lost." if loses else "so a tap that follows it at once is lost."
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


def counted(case: Case) -> Iterator[Finding]:
    """Presses made are not the presses counted, in this run."""
    if not case.answers or not case.scenario:
        return
    for index, part in enumerate(case.bench.contacts):
        tally = case.answers.tallies[part.id]
        if tally.agrees:
            continue
        faults = []
        for instants, word in (
            (tally.doubled_us, "counted again"),
            (tally.missed_us, "missed"),
            (tally.from_nothing_us, "counted from nothing"),
        ):
            if instants:
                named = ", ".join(at_s(at) for at in instants[:3])
                more = f" and {len(instants) - 3} more" if len(instants) > 3 else ""
                faults.append(f"{word} at {named}{more}")
        instants = tuple(sorted(tally.doubled_us + tally.missed_us + tally.from_nothing_us))
        patch: Patch = ()
        words = ""
        if tally.doubled_us and not tally.from_nothing_us:
            method = case.bench.debounce(part.id).method
            patch, words = advised_debounce(case, part.id, "rest-first" if method == "none" else method)
        title = "counted twice" if tally.doubled_us else "missed" if tally.missed_us else "counted from nothing"
        yield Finding(
            code="clean.counted",
            severity=Severity.MUST,
            station="clean",
            part=part.id,
            title=f"{part.name} {title}",
            sentence=f"Pressed {tally.made} times, counted {tally.counted}: {'; '.join(faults)}."
            if tally.made != 1
            else f"Pressed once, counted {tally.counted}: {'; '.join(faults)}.",
            numbers=(("pressed", str(tally.made)), ("counted", str(tally.counted))),
            pointer=pointer("inputs", index),
            patch=patch,
            mend=words,
            show_us=instants[:50],
        )
