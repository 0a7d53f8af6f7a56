"""What Log shows: everything that happened to a bench, newest first; or one card, one trial, two revisions."""

from __future__ import annotations

import json
import re
import time
from dataclasses import dataclass, fields, replace
from datetime import datetime
from typing import Any

import jsonpatch

from ..core.document import Bench, bench_data
from ..core.edits.words import phrases
from ..core.findings import Severity
from ..core.record import GROUPS, Line, Trial, over_to, said_of, stale
from ..core.version import core_version
from ..store import Entry, NoEntry, Revision
from .answers import benches, record, runs
from .charts_trial import trial_chart
from .patches import patched
from .studies import studied

KINDS = {
    "change": "changes", "measurement": "measurements", "capture": "captures", "note": "notes", "picture": "pictures",
    "program": "programs", "card": "test cards", "trial": "trials",
}  # fmt: skip
OF_WORDS = (
    (re.compile(r"(measured|no longer measured|wired:|not wired:)"), "measurement"),
    (re.compile(r".*\bcapture\b|.*bounces as captured"), "capture"),
)
MOST_TOLD, FINDINGS_S = 60, 0.4  # revisions whose findings are told; s that a look may take for those not known yet


@dataclass(frozen=True)
class Row:
    """One line of the log: its kind, when, at which revision, in words; which entry it is, if it is one; whether it is
    where the bench stands now; whether it is of a way that was left; which findings came with it, and which went."""

    kind: str
    at: datetime
    revision_id: int
    words: str
    entry_id: int = 0
    is_now: bool = False
    left: bool = False
    data: Any = None
    came: tuple[str, ...] = ()
    went: tuple[str, ...] = ()


def _kind(words: str) -> str:
    return next((kind for pattern, kind in OF_WORDS if pattern.match(words)), "change")


def rows_of(revision: Revision) -> list[Row]:
    """The whole log, newest first."""
    tree = benches().tree(revision.bench_id)
    parents = {number: parent for number, parent, _, _ in tree}
    way: set[int] = set()
    at: int | None = revision.id
    while at is not None and at not in way:
        way.add(at)
        at = parents.get(at)
    found = [
        Row(_kind(words), at_, number, words, is_now=number == revision.id, left=number not in way)
        for number, _, at_, words in tree
    ]
    found = _with_findings(revision.bench_id, found, parents)
    for one in record().entries(revision.bench_id):
        found.append(Row(one.kind, one.at, one.revision_id, one.words, one.id, data=one.data))
    return sorted(found, key=lambda one: (one.at, one.revision_id, one.entry_id), reverse=True)


def _with_findings(bench_id: int, rows: list[Row], parents: dict[int, int | None]) -> list[Row]:
    """The rows of revisions with the findings that came and went by each: worked out once a revision, as many at one
    look as there is time for."""
    beginning = f"findings {core_version()} "
    kept = runs().notes(beginning)
    until_s = time.monotonic() + FINDINGS_S

    def of(number: int | None) -> dict[str, str] | None:
        if number is None:
            return None
        if (said := kept.get(str(number))) is not None:
            return dict(json.loads(said))
        found = benches().revision(bench_id, number) if time.monotonic() < until_s else None
        if found is None:
            return None
        done, _ = studied(found.bench, None, keep=False, mends=False)
        titles = {f"{one.code} {one.part}": one.title for one in done.findings if one.severity is not Severity.NOTE}
        kept[str(number)] = json.dumps(titles).encode()
        runs().note(f"{beginning}{number}", kept[str(number)])
        return titles

    told = []
    for row in rows[:MOST_TOLD]:
        now, before = of(row.revision_id), of(parents.get(row.revision_id))
        if now is not None and before is not None:
            came = tuple(title for key, title in now.items() if key not in before)
            went = tuple(title for key, title in before.items() if key not in now)
            row = replace(row, came=came, went=went)
        told.append(row)
    return told + rows[MOST_TOLD:]


def card_lines(entry: Entry) -> list[Line]:
    """The lines of a card as it was made."""
    names = {one.name for one in fields(Line)}
    return [Line(**{name: value for name, value in one.items() if name in names}) for one in entry.data["lines"]]


def card_words(data: dict[str, Any]) -> str:
    """How far a card has come: “12 of 37 done, 1 failed”."""
    done = [one for one in data["lines"] if one.get("state")]
    failed = sum(one["state"] == "fail" for one in done)
    return f"{len(done)} of {len(data['lines'])} done" + (f", {failed} failed" if failed else "")


def _card(revision: Revision, entry: Entry) -> dict[str, Any]:
    lines = card_lines(entry)
    old, new = stale(lines, revision.bench)
    since = benches().words_since(revision.bench_id, entry.revision_id)
    groups = []
    for group, title in GROUPS.items():
        mine = [(line, done) for line, done in zip(lines, entry.data["lines"], strict=True) if line.group == group]
        if mine:
            groups.append((title, mine))
    others = [one for one in record().entries(revision.bench_id) if one.kind == "card" and one.id != entry.id]
    return {
        "card": entry, "card_groups": groups, "card_said": card_words(entry.data), "card_old": old, "card_new": new,
        "card_since": since if entry.revision_id != revision.id else [], "other_cards": others,
    }  # fmt: skip


def _two_cards(one: Entry, other: Entry) -> dict[str, Any]:
    """Two cards side by side, line by line; what came out differently first."""
    done = [{line["id"]: line for line in entry.data["lines"]} for entry in (one, other)]
    ids = list(dict.fromkeys([*done[0], *done[1]]))
    rows = [(done[0].get(ident), done[1].get(ident)) for ident in ids]
    differ = [row for row in rows if (row[0] or {}).get("state") != (row[1] or {}).get("state")]
    return {
        "cards": (one, other),
        "card_rows": [*differ, *(row for row in rows if row not in differ)],
        "differ": len(differ),
    }


def _trial(revision: Revision, entry: Entry) -> dict[str, Any]:
    trial = Trial.model_validate(entry.data, strict=False)
    said = said_of(trial)
    taken = over_to(revision.bench, trial)
    return {
        "trial": trial, "trial_entry": entry, "trial_said": said, "trial_chart": trial_chart(trial, said),
        "trial_over": (taken[0], patched(taken[1])) if taken else None,
    }  # fmt: skip


def differences(before: Bench, after: Bench) -> list[str]:
    """What two revisions have different, in words."""
    patch = jsonpatch.make_patch(bench_data(before), bench_data(after)).patch
    return phrases(before, after, patch)


def two_of(picked: str | None) -> tuple[int, int] | None:
    """The two numbers of “compare-12-15” or “cards-3-4”."""
    found = re.fullmatch(r"(?:compare|cards)-(\d{1,15})-(\d{1,15})", picked or "")
    return (int(found[1]), int(found[2])) if found else None


def log_context(revision: Revision, picked: str | None) -> dict[str, Any]:
    """What the templates of Log are given."""
    rows = rows_of(revision)
    counts = {kind: sum(row.kind == kind for row in rows) for kind in KINDS}
    context: dict[str, Any] = {
        "log_rows": rows,
        "log_kinds": KINDS,
        "log_counts": counts,
        "log_shows": "",
        "card_words": card_words,
    }
    kind, _, number = (picked or "").partition("-")
    try:
        if kind in ("card", "trial") and number.isdigit():
            entry = record().entry(revision.bench_id, int(number))
            if entry.kind == kind:
                context |= {"log_shows": kind} | (_card if kind == "card" else _trial)(revision, entry)
        elif kind == "cards" and (pair := two_of(picked)):
            one, other = (record().entry(revision.bench_id, number) for number in pair)
            context |= {"log_shows": "cards"} | _two_cards(one, other)
        elif kind == "compare" and (pair := two_of(picked)):
            found = [benches().revision(revision.bench_id, number) for number in pair]
            if found[0] and found[1]:
                said = differences(found[0].bench, found[1].bench)
                context |= {"log_shows": "compare", "compared": found, "compared_said": said}
    except NoEntry:
        pass  # it was taken out meanwhile: the log says what is there
    return context
