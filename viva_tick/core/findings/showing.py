"""Text and rows of outputs: what does not fit its line, what changes too fast to be read, numbers that pick nothing."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator

from ..document import Bench, Machine, TextLine, pointer
from ..document.parts import Display
from ..drives import Picked, Text
from ..engine import Kind
from ..texts import longest, pieces, plain
from .finding import Evidence, Finding, Patch, Severity
from .mends import replaced

READABLE = 10  # changes a second that an eye can still follow, at most (common practice)
SLOW_US = 250_000


def _texts(bench: Bench) -> Iterator[tuple[int, Machine, str, TextLine, Text]]:
    """(number and machine, where, line, text) of every text that a machine shows."""
    lines = {line.id: line for line in bench.text_lines}
    for number, machine in enumerate(bench.firmware.machines):
        for steps, output, drive in machine.drives:
            if isinstance(drive, Text) and output in lines:
                yield number, machine, pointer("firmware", "machines", number, *steps), lines[output], drive


def _widest(bench: Bench, of: str) -> int:
    """How many places a number, or the name of a machine's state, takes at most."""
    for one in bench.firmware.variables:
        if one.id == of:
            return max(len(str(one.least)), len(str(one.most)))
    return max((len(s.name) for m in bench.firmware.machines if m.id == of for s in m.leaves), default=0)


def too_long(evidence: Evidence) -> Iterator[Finding]:
    """A text can be longer than its line, or has letters that a display does not know."""
    bench = evidence.bench
    for _, machine, where, line, text in _texts(bench):
        parts = pieces(text.text)
        long = longest(parts, lambda of: _widest(bench, of))
        if long > line.columns:
            yield Finding(
                code="behave.text-cut",
                severity=Severity.LOOK,
                station="behave",
                part=machine.id,
                title=f"{line.name}: “{text.text[:24]}” can be cut off",
                sentence=f"It takes up to {long} characters, and the line has {line.columns}: the rest is not shown.",
                numbers=(("the text", f"{long} characters"), ("the line", f"{line.columns}")),
                pointer=f"{where}/text",
            )
        letters = "".join(part for part in _letters(bench, text))
        if odd := sorted({letter for letter in letters if plain(letter) != letter}):
            yield Finding(
                code="behave.text-letters",
                severity=Severity.LOOK,
                station="behave",
                part=machine.id,
                title=f"{line.name} does not know {' '.join(odd[:6])}",
                sentence=f"Displays and terminals know ASCII letters alone; a question mark stands for {odd[0]}.",
                numbers=(("shown", plain(text.text)[:24]),),
                pointer=f"{where}/text",
            )


def _letters(bench: Bench, text: Text) -> Iterator[str]:
    """Every letter that a text can show."""
    machines = {machine.id: machine for machine in bench.firmware.machines}
    for part in pieces(text.text):
        if not isinstance(part, str) and part.of in machines:
            yield from (state.name for state in machines[part.of].leaves)
    yield text.text


def too_fast(evidence: Evidence) -> Iterator[Finding]:
    """A line is written anew more often than an eye can follow."""
    bench, run = evidence.bench, evidence.run
    if run is None:
        return
    for line in bench.text_lines:
        if not isinstance(line.part, Display) or (Kind.TEXT, line.id) not in run.trace:
            continue
        times = run.trace.signal(Kind.TEXT, line.id).times_us
        most = max(((bisect_left(times, at + 1_000_000) - n, at) for n, at in enumerate(times)), default=(0, 0))
        if most[0] <= READABLE:
            continue
        mine = [(machine, where, text) for _, machine, where, other, text in _texts(bench) if other.id == line.id]
        moving = [(machine, where) for machine, where, text in mine if "{" in text.text and not text.every_us]
        if not moving:
            continue
        patch: Patch = tuple(one for _, where in moving for one in replaced(f"{where}/every_us", SLOW_US))
        yield Finding(
            code="behave.text-fast",
            severity=Severity.LOOK,
            station="behave",
            part=moving[0][0].id,
            title=f"{line.name} changes {most[0]} times in a second",
            sentence=f"Nobody can read that, and each time it is written it holds the loop. Writing it every "
            f"{SLOW_US // 1000} ms is enough.",
            numbers=(("in a second", str(most[0])), ("readable", f"up to {READABLE}")),
            pointer=moving[0][1],
            patch=patch,
            mend=f"Write it every {SLOW_US // 1000} ms",
            show_us=(most[1],),
        )


def picks_nothing(evidence: Evidence) -> Iterator[Finding]:
    """A number can be one that picks no output of its row."""
    bench = evidence.bench
    variables = {one.id: (n, one) for n, one in enumerate(bench.firmware.variables)}
    seen: set[tuple[str, str]] = set()
    for number, machine in enumerate(bench.firmware.machines):
        for steps, output, drive in machine.drives:
            if not isinstance(drive, Picked) or (output, drive.variable) in seen or drive.shows != "one":
                continue
            seen.add((output, drive.variable))
            place, one = variables[drive.variable]
            row = bench.groups[output]
            last = len(row.members) - 1 + drive.first
            if one.most <= last:
                continue
            spare = f"{last + 1}" if one.most == last + 1 else f"{last + 1} to {one.most}"
            fits = one.begins <= last and one.least <= last
            yield Finding(
                code="behave.picks-nothing",
                severity=Severity.LOOK,
                station="behave",
                part=machine.id,
                title=f"{row.name}: {one.name} can pick none of them",
                sentence=f"{one.name} goes up to {one.most}, and the last of {len(row.members)} outputs is number "
                f"{last}: at {spare} all are off.",
                numbers=((one.name, f"{one.least} to {one.most}"), ("outputs", str(len(row.members)))),
                pointer=pointer("firmware", "machines", number, *steps),
                patch=replaced(f"/firmware/variables/{place}/most", last) if fits else (),
                mend=f"{one.name} up to {last}" if fits else "",
            )


def same_address(evidence: Evidence) -> Iterator[Finding]:
    """Two displays have one address on the bus."""
    found: dict[tuple[str, int], tuple[str, Display]] = {}
    for at, part in evidence.bench.placed:
        if not isinstance(part, Display):
            continue
        if part.address in {address for _, address in found}:
            other = next(one for (_, address), (_, one) in found.items() if address == part.address)
            taken = {address for _, address in found} | {part.address}
            free = next(address for address in (*range(0x27, 0x1F, -1), *range(0x3F, 0x37, -1)) if address not in taken)
            yield Finding(
                code="wire.bus-address",
                severity=Severity.MUST,
                station="wire",
                part=part.id,
                title=f"{part.name} and {other.name} have one address",
                sentence=f"Both answer at {part.address:#04x}, and show the same. Set the jumpers of one of them.",
                numbers=(("address", f"{part.address:#04x}"),),
                pointer=f"{at}/address",
                patch=replaced(f"{at}/address", free),
                mend=f"Give it {free:#04x}",
            )
        found[at, part.address] = (at, part)
