"""What has one cause is one card: the cause, with what follows from it as its lines."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from .finding import Evidence, Finding, Severity

TOO_OFTEN = ("clean.none", "clean.too-short", "clean.one-edge", "clean.unneeded")
TOO_SELDOM = ("clean.too-long",)


def _about(finding: Finding, part: str) -> bool:
    return part in (finding.part, *finding.pointer.split("/"))


def _counted_because(evidence: Evidence, counted: Finding, causes: list[Finding]) -> Finding | None:
    """Which of the causes made an input count wrongly."""
    if not evidence.answers:
        return None
    tally = next(
        (one for of, one in evidence.answers.tallies.items() if evidence.bench.contact(of).at == counted.pointer), None
    )
    if tally is None:
        return None
    mine = [one for one in causes if _about(one, tally.input)]
    if tally.doubled_us or tally.from_nothing_us:
        return next((one for one in mine if one.code in TOO_OFTEN), None)
    if own := next((one for one in mine if one.code in TOO_SELDOM), None):
        return own
    for one in causes:
        if one.code == "pace.blocking":
            stretches = [(at, to) for at in one.show_us for begun, to in _stretches(evidence) if begun == at]
            if any(at - 1_000 <= missed <= to for missed in tally.missed_us for at, to in stretches):
                return one
    return None


def _stretches(evidence: Evidence) -> list[tuple[int, int]]:
    return [(one.at_us, one.at_us + one.length_us) for one in evidence.answers.blocked] if evidence.answers else []


def _late_because(evidence: Evidence, late: Finding, causes: list[Finding]) -> Finding | None:
    """What holds the loop for longest makes an answer late."""
    blocking = [one for one in causes if one.code == "pace.blocking" and one.show_us]
    if not blocking or not evidence.answers:
        return None
    why = evidence.answers.longest_pass_why
    return next((one for one in blocking if one.part == why.split()[-1:][0]), None) if why else None


def _wrong_after(evidence: Evidence, failed: Finding, taken: list[tuple[Finding, Finding]]) -> Finding | None:
    """A check that failed after an input had been counted wrongly failed because of that."""
    if not failed.show_us or not evidence.run:
        return None
    first = [(min(counted.show_us), cause) for counted, cause in taken if counted.code == "clean.counted"]
    sooner = [(at_us, cause) for at_us, cause in first if at_us <= max(failed.show_us)]
    return min(sooner, key=lambda one: one[0])[1] if sooner else None


def grouped(evidence: Evidence, findings: Iterable[Finding]) -> list[Finding]:
    """The findings, those that follow from another put into it as lines; a cause is as grave as the gravest of them."""
    every = list(findings)
    causes = [one for one in every if one.code in (*TOO_OFTEN, *TOO_SELDOM, "pace.blocking")]
    because: list[tuple[Finding, Finding]] = []
    for one in every:
        cause = None
        if one.code == "clean.counted":
            cause = _counted_because(evidence, one, causes)
        elif one.code == "pace.promised":
            cause = _late_because(evidence, one, causes)
        elif one.code == "clean.not-always":
            cause = next((each for each in causes if each.code != "pace.blocking" and _about(each, one.part)), None)
        if cause is not None:
            because.append((one, cause))
    for one in every:
        if one.code == "behave.unexpected" and (cause := _wrong_after(evidence, one, because)):
            because.append((one, cause))
    taken = {id(one) for one, _ in because}
    order = list(Severity)
    found = []
    for one in every:
        if id(one) in taken:
            continue
        lines = tuple(line for line, cause in because if cause is one)
        gravest = min([one, *lines], key=lambda each: order.index(each.severity)).severity
        show = one.show_us or next((line.show_us for line in lines if line.show_us), ())
        found.append(replace(one, lines=lines, severity=gravest, show_us=show) if lines else one)
    return found
