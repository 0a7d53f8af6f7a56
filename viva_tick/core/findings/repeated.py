"""What holds in the run on the strip, and not in every repeat of it."""

from __future__ import annotations

from collections.abc import Iterator

from ..document import pointer
from ..rates import wilson
from ..repeats import FACTORS, Flips, outcomes
from .finding import Evidence, Finding, Severity


def _why(hung: Flips | None) -> str:
    if hung is None:
        return ""
    if hung.marginal:
        return f" Only the instant within a millisecond decides: of {hung.of} runs it changed {hung.changed['phase']}."
    effects = sorted(hung.effects().items(), key=lambda row: -row[1])
    main = [FACTORS[factor] for factor, share in effects if share and share >= effects[0][1] / 2]
    return f" It hangs on {_listed(main)}." if main else ""


def _listed(names: list[str]) -> str:
    return " and ".join(filter(None, (", ".join(names[:-1]), names[-1])))


def not_always(evidence: Evidence) -> Iterator[Finding]:
    """An outcome that held in fewer than all repeats. One that does not hold on the strip is found there."""
    bench, scenario, known = evidence.bench, evidence.scenario, evidence.repeats
    if known is None or scenario is None:
        return
    place = next((n for n, one in enumerate(bench.scenarios) if one.name == scenario.name), 0)
    for ident, words in outcomes(bench, scenario).items():
        of, so, first = known.tally.rows.get(ident, (0, 0, None))
        if so == of or not first:
            continue
        kind, _, rest = ident.partition(" ")
        hung = known.hung.get(ident)
        least, most = wilson(so, of)
        code, part, at = ("clean", rest, bench.contact(rest).at) if kind == "press" else ("behave", "", "")
        holds = f"{so:,} of {of:,} repeats"
        yield Finding(
            code=f"{code}.not-always",
            severity=Severity.LOOK,
            station=code,
            part=part,
            title=f"{'Marginal: holds' if hung and hung.marginal else 'Holds'} in {holds}",
            sentence=f"“{words}” holds on the strip, not in number {first}.{_why(hung)}",
            numbers=(("holds in", holds), ("95 % interval", f"{100 * least:.1f} to {100 * most:.1f} %")),
            pointer=at or pointer("scenarios", place, "expects", int(rest)),
            repeat=first,
        )
