"""A study as plain data and as lines of text, for the command line and for other programs."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict
from typing import Any

from .document import Bench
from .engine import Kind
from .findings import SEVERITY_WORDS, Finding
from .guard import VERDICTS, HangRow
from .kernel import LOOP
from .pace import anatomy, reach, schedulability
from .study import Study
from .timing import Answers
from .units import at_s, fine, ms


def answers_data(said: Answers) -> dict[str, Any]:
    """The answers as plain JSON data, times in µs."""
    return asdict(said)


def study_data(done: Study) -> dict[str, Any]:
    """The run, its answers, its trace and the findings as plain JSON data."""
    return {
        "bench": done.bench.name,
        "scenario": done.run.scenario if done.run else None,
        "seed": done.run.seed if done.run else None,
        "stopped": done.run.stopped if done.run else None,
        "answers": answers_data(done.answers) if done.answers else None,
        "findings": [finding.data() for finding in done.findings],
        "trace": done.run.trace.data() if done.run else None,
    }


def finding_lines(findings: tuple[Finding, ...] | list[Finding]) -> Iterator[str]:
    """Findings for reading: what, why, where, and what would mend it."""
    for finding in findings:
        yield f"{SEVERITY_WORDS[finding.severity]}: {finding.title}"
        yield f"    {finding.sentence}"
        yield from (f"    → {line.title}. {line.sentence} [{line.code}]" for line in finding.lines)
        if finding.asks:
            yield f"    {finding.asks.words}? {finding.asks.suggested_us / 1e6:g} s is a suggestion."
        yield f"    at {finding.pointer} [{finding.code}]" + (f"; mend: {finding.mend}" if finding.mend else "")


def study_lines(bench: Bench, done: Study) -> Iterator[str]:
    """A run for reading."""
    if not done.run or not done.answers:
        return
    said = done.answers
    yield f"{bench.name}: “{done.run.scenario}”, {at_s(done.run.trace.length_us)}, seed {done.run.seed}"
    if done.run.stopped:
        yield done.run.stopped
    for part in bench.contacts:
        counted = said.tallies[part.id]
        wait = said.waits[part.id]
        waited = f", wait {ms(wait.median)} (worst {ms(wait.most)})" if wait else ""
        yield f"    {part.name}: pressed {counted.made}, counted {counted.counted}{waited}"
    for _, sensed in bench.sensed:
        if tally := said.sensed.get(sensed.id):
            wrong = f", wrong {tally.wrong}" if tally.wrong else ""
            yield f"    {sensed.name}: made {tally.made}, counted {tally.counted}{wrong}"
    for driven in bench.channels:
        yield f"    {driven.name}: on for {at_s(said.on_us[driven.id])}"
    trace = done.run.trace
    for variable in bench.firmware.variables:
        values = trace.signal(Kind.VALUE, variable.id).values
        yield f"    {variable.name}: {values[-1] if values else 'not set up'} at the end"
    for line in bench.text_lines:
        shown = trace.signal(Kind.TEXT, line.id).values[-1:] if (Kind.TEXT, line.id) in trace else []
        if shown and shown[0]:
            yield f"    {line.name}: “{shown[0]}” at the end"
    for one in said.expected:
        yield f"    {'met' if one.met else 'NOT met'}: {one.words}" + (f"; got {one.got}" if one.got else "")
    why = f" ({said.longest_pass_why})" if said.longest_pass_why else ""
    yield f"    longest pass {ms(said.longest_pass_us)}{why}; resets {len(said.resets_us)}"


def pace_lines(done: Study) -> Iterator[str]:
    """A bench's pass, inputs and tasks for reading."""
    bench = done.bench
    parts = anatomy(bench)
    yield f"A pass takes {fine(parts.usual_us)}, {fine(parts.longest_us)} at the longest"
    for block in parts.blocks:
        why = f" ({block.why})" if block.why else ""
        yield f"    {block.name}: {fine(block.usual_us)}, longest {fine(block.longest_us)}{why}"
    for one in reach(bench, done.run, done.answers):
        unread = "for ever" if one.unread_us is None else ms(one.unread_us)
        surest = "none" if one.surest_us is None else ms(one.surest_us)
        yield f"{one.name}: unread for {unread} at the longest, surest tap {surest}"
    for job in done.answers.jobs.values() if done.answers else ():
        drift = "" if job.drift_us is None else f", drifts {ms(job.drift_us)} an hour"
        yield f"{job.task}: {job.jobs} jobs, jitter {ms(job.jitter_us)}, missed {job.missed}{drift}"
    if bench.firmware.tasks:
        plan = schedulability(bench)
        yield f"Under a kernel: utilisation {float(plan.load):.3f}, bound {plan.limit:.3f}"
        for row in plan.responses:
            name = "the loop" if row.task.id == LOOP else row.task.id
            yield f"    {name}: response {row.words}"


def hang_lines(rows: list[HangRow]) -> Iterator[str]:
    """Hang tests for reading, a fault a line."""
    for row in rows:
        name = f"{row.fault.title}: {row.name}" if row.name else row.fault.title
        slowest = f", slowest {ms(row.slowest_us)}" if row.slowest_us is not None else ""
        stayed = ""
        if row.stayed:
            stayed = f"; {row.stayed[0]} left on {'to the end' if row.stayed[2] else 'for ' + ms(row.stayed[1])}"
        lost = f"; state lost: {', '.join(row.lost)}" if row.lost else ""
        yield f"{name}: {VERDICTS[row.verdict]}, {row.recovered} of {row.runs} recovered{slowest}{stayed}{lost}"
