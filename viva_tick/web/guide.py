"""Help where it is needed: a page for each station, each finding, each question on which schools differ; and a search
over all of it. Made of the catalogues that run."""

from __future__ import annotations

import json
import re
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

from flask import Blueprint, abort, jsonify, redirect, render_template, request, url_for

from ..core.arithmetic import SUMS
from ..core.debounce import METHODS
from ..core.document import Bench, bench_from_data
from ..core.electrics import pull_window
from ..core.findings import SEVERITY_WORDS, Finding
from ..core.guard import choose
from ..core.program import idle_pass_us, under
from ..core.program.schools import SCHOOLS
from ..core.study import study
from ..core.sweep import decide
from ..core.units import ms, ohms
from ..store import DamagedBench, NoBench
from .answers import benches
from .guide_texts import SOURCES, STATIONS, WORDS
from .stations import STATIONS as PLACES
from .studies import studied

guide = Blueprint("guide", __name__)

DOCS = Path(__file__).parents[1] / "docs"
CODE = re.compile(r"`([a-z]+\.[a-z-]+)`")
PULLS = (
    (
        "the board's own pull-up",
        "internal-up",
        "A contact to ground, on a wire up to half a metre.",
        "It is weak: 20 to 50 kΩ.",
    ),
    (
        "a resistor up",
        "up",
        "A long wire, a noisy place, a silver contact that wants current.",
        "A part more; 10 kΩ is usual.",
    ),
    (
        "a resistor down",
        "down",
        "A contact to the supply: pressed reads high.",
        "Once the resistor comes off, an open contact reads at random.",
    ),
    ("the board's own pull-down", "internal-down", "The same, on boards that have one.", "Few have; it is weak."),
    ("nothing", "none", "A module or a signal that drives both levels.", "An open wire reads 0 or 1 at random."),
)
WATCHDOGS = (
    ("none", "off", "Nothing that can hurt, and somebody who sees that it hangs.", "It hangs until somebody comes."),
    (
        "resets the board",
        "reset",
        "Most: outputs are off a moment later, and it begins anew.",
        "What it knew is lost, unless it is kept.",
    ),
    ("calls its interrupt", "interrupt", "To switch outputs off and note why.", "The loop hangs on afterwards."),
    ("interrupt, then reset", "interrupt-reset", "Both: note why, then begin anew.", "Two steps until it begins anew."),
)
TOPICS = {
    "methods": "How a contact is debounced",
    "pulls": "What holds a pin",
    "loops": "Loop styles",
    "watchdogs": "Watchdogs",
}


@dataclass(frozen=True)
class Row:
    """One school's view: what it is called, when it is right, what it costs; on the reader's bench, if there is one."""

    title: str
    right: str
    costs: str
    here: str = ""
    now: bool = False


@dataclass(frozen=True)
class Page:
    """A page of the help: where it is, its title, what kind of page it is, and what stands on it, for the search."""

    url: str
    title: str
    kind: str
    text: str


@cache
def said() -> dict[str, tuple[str, str]]:
    """(what a finding says, its mend) by code, as docs/findings.md has it."""
    found = {}
    for line in (DOCS / "findings.md").read_text(encoding="utf-8").split("\n"):
        cells = [cell.strip() for cell in line.strip("|").split("|")]
        if line.startswith("| `") and len(cells) >= 2:
            for code in CODE.findall(cells[0]):
                found[code] = (cells[1], cells[2] if len(cells) > 2 else "")
    return found


@cache
def _examples() -> dict[str, Any]:
    found: dict[str, Any] = json.loads((DOCS / "finding-benches.json").read_text(encoding="utf-8"))
    return found


@cache
def example(code: str) -> tuple[Bench, Finding] | None:
    """A bench that shows a finding, and the finding there; None for the few that no bench shows."""
    data = _examples().get(code)
    if data is None:
        return None
    bench = bench_from_data(data)
    for scenario in bench.scenarios or (None,):
        for finding in study(bench, scenario).findings:
            for one in (finding, *finding.lines):
                if one.code == code:
                    return bench, one
    return None


def _bench() -> tuple[int, Bench] | None:
    """The reader's own bench, if the address names one."""
    number = request.args.get("bench", type=int)
    if not number:
        return None
    try:
        return number, benches().head(number).bench
    except (NoBench, DamagedBench):
        return None


def rows_of(topic: str, bench: Bench | None) -> list[Row]:
    """What each school says on a topic, and what that is on a bench."""
    if topic == "methods":
        return _methods(bench)
    if topic == "loops":
        return [_loop(ident, bench) for ident in SCHOOLS]
    if topic == "pulls":
        return [_pull(row, bench) for row in PULLS]
    return [_watchdog(row, bench) for row in WATCHDOGS]


def _methods(bench: Bench | None) -> list[Row]:
    line = bench.contacts[0] if bench and bench.contacts else None
    decision = decide(bench, line.id, idle_pass_us(bench)) if bench and line else None
    rows = []
    for method in METHODS.values():
        here = ""
        if decision and line:
            choice = decision.choices.get(method.id)
            if choice and choice.advice:
                wait = ms(choice.wait_us[0])
                here = f"{line.name}: {ms(choice.advice.advised_us)} are advised, a press counts after {wait}"
            elif method.has_interval:
                here = f"{line.name}: no interval is safe"
        now = bool(bench and line and bench.debounce(line.id).method == method.id)
        rows.append(Row(method.title, method.right_when, method.costs, here, now))
    return rows


def _loop(ident: Any, bench: Bench | None) -> Row:
    title, sentence = SCHOOLS[ident]
    right = {
        "delays": "A lamp that blinks alone, a first try.",
        "counter": "Nearly everything with a button in it.",
        "kernel": "Many tasks with times of their own, on a board with memory for their stacks.",
    }[ident]
    here = ""
    if bench and bench.scenarios:
        done, _ = studied(under(bench, ident), bench.scenarios[0].name, keep=False, mends=False)
        if done.answers:
            here = f"{bench.scenarios[0].name}: a pass of {ms(done.answers.longest_pass_us)} at most"
    return Row(title, right, sentence, here, bool(bench and bench.firmware.school == ident))


def _pull(row: tuple[str, str, str, str], bench: Bench | None) -> Row:
    title, pull, right, costs = row
    line = bench.contacts[0] if bench and bench.contacts else None
    here = ""
    if bench and line and pull in ("up", "down"):
        rail = "supply" if pull == "up" else "ground"
        window = pull_window(rail, line.wiring.pull_ohm, line.wiring.wire_cm, bench.the_board)
        here = f"{line.name}: from {ohms(window.least_ohm)} to {ohms(window.most_ohm)}, bounded by {window.most_by}"
    elif bench and line and pull == "internal-up":
        low, high = bench.the_board.pull_up_ohm
        here = f"{bench.the_board.name}: {ohms(low)} to {ohms(high)}"
    return Row(title, right, costs, here, bool(line and line.wiring.pull == pull))


def _watchdog(row: tuple[str, str, str, str], bench: Bench | None) -> Row:
    title, mode, right, costs = row
    here = ""
    if bench and mode == "reset" and bench.the_board.watchdog_steps_us:
        found = choose(bench)
        here = f"the longest healthy pass is {ms(found.healthy_us)}"
        if found.best:
            here += f": {ms(found.best.step_us)} is the step to take"
    return Row(title, right, costs, here, bool(bench and bench.firmware.watchdog.mode == mode))


@cache
def pages() -> tuple[Page, ...]:
    """Every page that the search knows."""
    found = [
        Page(
            f"/help/station/{ident}", PLACES[ident].title, "station", " ".join((one.question, *one.steps, *one.numbers))
        )
        for ident, one in STATIONS.items()
    ]
    found += [Page(f"/help/finding/{code}", code, "finding", f"{says} {mend}") for code, (says, mend) in said().items()]
    found += [
        Page(
            f"/help/schools/{topic}",
            title,
            "schools",
            " ".join(f"{row.title} {row.right} {row.costs}" for row in rows_of(topic, None)),
        )
        for topic, title in TOPICS.items()
    ]
    found += [Page(f"/help/words#{word.replace(' ', '-')}", word, "word", text) for word, text in WORDS.items()]
    found += [Page(f"/sums/{one.id}", one.title, "sum", f"{one.says} {one.source}") for one in SUMS.values()]
    return tuple(found)


def _stem(word: str) -> str:
    return re.sub(r"(ing|ed|es|s)$", "", word) if len(word) > 4 else word


def search(text: str, most: int = 30) -> list[tuple[Page, str]]:
    """(page, the piece of it that has the words) of every page that has all words, those in titles first."""
    words = [_stem(word) for word in re.findall(r"[a-z0-9]+", text.lower())][:8]
    rows = []
    for page in pages():
        title, body = page.title.lower(), page.text.lower()
        if not words or not all(word in title or word in body for word in words):
            continue
        score = sum(
            3 * (word in title) + 2 * bool(re.search(rf"\b{word}", title)) + bool(re.search(rf"\b{word}", body))
            for word in words
        )
        at = min((body.find(word) for word in words if word in body), default=0)
        begin = max(page.text.rfind(" ", 0, max(at - 40, 0)), 0)
        rows.append((score, page, page.text[begin : begin + 140].strip()))
    rows.sort(key=lambda row: (-row[0], row[1].kind, row[1].title))
    return [(page, piece) for _, page, piece in rows[:most]]


def _station(ident: str) -> dict[str, Any]:
    one = STATIONS[ident]
    here: list[Finding] = []
    own = _bench()
    if own:
        done, _ = studied(own[1], request.args.get("scenario"), keep=False, mends=False)
        here = [finding for finding in done.findings if finding.station == ident]
    known = [(code, says) for code, (says, _) in said().items() if code.startswith(one.codes)]
    return {
        "ident": ident, "place": PLACES[ident], "guide": one, "here": here, "known": known, "topics": TOPICS,
        "sums": SUMS, "bench_id": own[0] if own else None,
    }  # fmt: skip


@guide.app_template_global()
def help_links() -> dict[str, list[tuple[str, str]]]:
    """The help's pages, each with what its link says: stations, and where schools differ."""
    return {"stations": [(ident, PLACES[ident].title) for ident in STATIONS], "topics": list(TOPICS.items())}


@guide.get("/help/station/<ident>")
def station(ident: str) -> Any:
    """A station's page; with `piece`, what of it stands beside the work."""
    if ident not in STATIONS:
        abort(404)
    context = _station(ident)
    if request.args.get("piece"):
        return jsonify(html=render_template("guide/station-body.html", piece=True, **context))
    return render_template("guide/station.html", **context)


def _title(code: str, shown: tuple[Bench, Finding] | None) -> str:
    """What a finding is called, without the name of the example's part."""
    words = re.sub(r"^(P\d+|Button|Lamp)(?:'s)?:? ", "", shown[1].title) if shown else code
    return words[:1].upper() + words[1:]


@guide.get("/help/finding/<code>")
def finding(code: str) -> str:
    """A finding's page: what happens, why, a bench that shows it, the mends."""
    if code not in said():
        abort(404)
    shown = example(code)
    own = _bench()
    here: list[Finding] = []
    if own:
        for scenario in own[1].scenarios or (None,):
            known = {one.title for one in here}
            found = [one for one in study(own[1], scenario, mends=False).findings if one.code == code]
            here += [one for one in found if one.title not in known]
    says, mend = said()[code]
    return render_template(
        "guide/finding.html",
        code=code,
        title=_title(code, shown),
        says=says,
        mend=mend,
        shown=shown,
        severities=SEVERITY_WORDS,
        here=here[:4],
        source=next(text for pattern, text in SOURCES if re.match(pattern, code)),
        place=PLACES.get(shown[1].station) if shown else None,
        bench_id=own[0] if own else None,
    )


@guide.post("/help/finding/<code>/bench")
def open_example(code: str) -> Any:
    """The bench that shows a finding, as one of the reader's own."""
    shown = example(code)
    if shown is None:
        abort(404)
    bench, one = shown
    head = benches().create(bench.model_copy(update={"name": f"It shows: {one.title}"[:60]}), f"shows {code}")
    return redirect(url_for("pages.workspace", bench_id=head.bench_id, station=one.station))


@guide.get("/help/schools/<topic>")
def schools(topic: str) -> str:
    """What each school says on a topic, and what that is on the reader's own bench."""
    if topic not in TOPICS:
        abort(404)
    own = _bench()
    return render_template(
        "guide/schools.html", topic=topic, topics=TOPICS, rows=rows_of(topic, own[1] if own else None),
        bench=own[1] if own else None, bench_id=own[0] if own else None,
    )  # fmt: skip


@guide.get("/help/words")
def words() -> str:
    """The words that this program uses."""
    return render_template("guide/words.html", words=WORDS)


@guide.get("/help/search")
def find() -> Any:
    """`q`: what the help, the findings, the words and the sums say of it; with `piece` as JSON."""
    text = request.args.get("q", "")[:120]
    found = search(text)
    if request.args.get("piece"):
        return jsonify(html=render_template("guide/found.html", found=found, text=text))
    return render_template("guide/search.html", found=found, text=text)
