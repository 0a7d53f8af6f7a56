"""Pages: all benches, the workspace, downloads."""

from __future__ import annotations

import json
from collections import Counter
from dataclasses import asdict, dataclass
from typing import Any

from flask import Blueprint, Response, abort, current_app, redirect, render_template, request, url_for
from markupsafe import Markup

from ..core.bundle import bundled
from ..core.cautions import CAUTIONS, HAZARD_NAMES
from ..core.debounce import METHODS
from ..core.document import Bench, bench_data, bench_text
from ..core.emit import TARGETS, kept
from ..core.emit.assembled import mark_of
from ..core.emit.files import slug
from ..core.engine import Kind, Trace
from ..core.findings import Severity, must_fix
from ..core.first_scenario import with_first
from ..core.formats import write_dot, write_edges, write_scxml, write_trace, write_vcd
from ..core.kinds import KINDS
from ..core.panel import cautions, laid_out
from ..core.study import to_be_fixed
from ..core.timing import Link, chain, entry_at, why
from ..core.version import core_version
from ..store import Glance, Revision, backups
from .answers import benches, record, runs
from .found import entries
from .location import Location
from .stations import STATIONS
from .studies import run_further, studied
from .view import FRAGMENTS, fragment, page_context, view

pages = Blueprint("pages", __name__)

MINI_W, MINI_LANE = 320, 15


def _mini(bench: Bench, trace: Trace) -> list[dict[str, str]]:
    """A bench's run as a miniature: a line for each contact, a bar for each output."""

    def x(at_us: int) -> float:
        return round(MINI_W * at_us / trace.length_us, 1)

    rows: list[dict[str, str]] = []
    signals = [(Kind.CONTACT, part.id, "contact") for part in bench.contacts]
    signals += [(Kind.OUTPUT, part.id, "output") for part in bench.channels]
    for number, (kind, of, role) in enumerate(signals[:6]):
        base, top = number * MINI_LANE + 12, number * MINI_LANE + 3
        signal = trace.signal(kind, of)
        # A drawing this small shows 400 changes at most; a sloshing float has more.
        step = max(1, len(signal.times_us) // 400)
        path = f"M0 {base}"
        for at_us, value in list(zip(signal.times_us, signal.values, strict=True))[::step]:
            path += f" H{x(at_us)} V{top if value == 1 else base}"
        rows.append({"role": role, "path": path + f" H{MINI_W}" + (f" V{base} Z" if role == "output" else "")})
    return rows


def _card(head: Revision) -> dict[str, Any]:
    done, _ = studied(head.bench, None, mends=False)
    must = sum(finding.severity is Severity.MUST for finding in done.findings)
    look = sum(finding.severity is Severity.LOOK for finding in done.findings)
    rows = _mini(head.bench, done.run.trace) if done.run else []
    first = next((f.station for f in done.findings if f.severity is Severity.MUST), "wire")
    grave = list(Severity)
    gravest = min(done.findings, key=lambda one: grave.index(one.severity), default=None)
    return {
        "must": must,
        "look": look,
        "first": gravest.title if gravest else "",
        "station": first if first in STATIONS else "wire",
        "rows": rows,
        "height": len(rows) * MINI_LANE + 2,
    }


@pages.get("/")
def home() -> str:
    """All benches as cards. What stands out on each, and the miniature of its strip, follow one by one: a page that
    waited for all of them would keep the first one waiting."""
    found = benches().glances(_shelved)
    cards = {}
    kept = runs().notes(_cards_key())
    for head in found:
        if isinstance(head, Glance) and (said := kept.get(str(head.id))):
            cards[head.bench_id] = {**json.loads(said), "bench": head.seen}
    kinds = Counter(kind for head in found if isinstance(head, Glance) for kind in head.seen.kinds)
    tags = [tag for tag, _ in kinds.most_common(12)]
    return render_template(
        "home.html",
        heads=found,
        cards=cards,
        tags=tags,
        mini_width=MINI_W,
        backups=backups(current_app.extensions["database"]),
    )


def _cards_key() -> str:
    """What the keys of kept cards begin with: worked out once for each revision, anew by another version."""
    return f"card {core_version()} "


@dataclass(frozen=True)
class _Shelved:
    """What the page of all benches says of one; `kinds` of its parts by name, `parts` whether it has any."""

    name: str
    note: str
    kinds: list[str]
    parts: bool


def _shelved(bench: Bench) -> _Shelved:
    kinds = dict.fromkeys(KINDS[str(getattr(part, "kind", ""))].name for part in bench.parts)
    return _Shelved(bench.name, bench.note, list(kinds), bool(bench.parts))


@pages.get("/benches/<int:bench_id>/card")
def card(bench_id: int) -> str:
    """The inside of one card."""
    head = benches().head(bench_id)
    found = _card(head)
    runs().note(f"{_cards_key()}{head.id}", json.dumps(found).encode())
    return render_template("fragments/card.html", card={**found, "bench": head.bench}, mini_width=MINI_W)


@pages.get("/benches/<int:bench_id>/drill")
def drill(bench_id: int) -> str:
    """The panel at its true size, to drill by."""
    bench = benches().head(bench_id).bench
    laid = laid_out(bench)
    ruler_mm = min(laid.wide_mm // 10 * 10, 100)
    return render_template(
        "drill.html", bench=bench, bench_id=bench_id, laid=laid, said=cautions(laid), ruler_mm=ruler_mm
    )


@pages.get("/help")
def help_page() -> str:
    """The schools, the words, the sources, the cautions."""
    return render_template("help.html", methods=list(METHODS.values()), cautions=CAUTIONS, hazard_names=HAZARD_NAMES)


@pages.get("/benches/<int:bench_id>")
def bench(bench_id: int) -> Any:
    """The workspace, at Wire."""
    return redirect(url_for("pages.workspace", bench_id=bench_id, station="wire"))


@pages.get("/benches/<int:bench_id>/<station>")
def workspace(bench_id: int, station: str) -> str:
    """The workspace at a station."""
    if station not in STATIONS:
        abort(404)
    head = benches().head(bench_id)
    place = Location.of({**request.args.to_dict(), "station": station})
    context = page_context(head, head.bench, place)
    drawn = {name: Markup(fragment(name, context)) for name in FRAGMENTS}  # noqa: S704  (our own templates' text)
    return render_template("workspace.html", strip_json=json.dumps(context["strip"]), drawn=drawn, **context)


@pages.get("/api/benches/<int:bench_id>/view")
def bench_view(bench_id: int) -> dict[str, Any]:
    """The same as data: fragments and strip, for a change of station, part or scenario; with `further` after a run that
    stopped early has been run on."""
    head = benches().head(bench_id)
    if request.args.get("further"):
        run_further(head.bench, request.args.get("scenario"))
    return view(head, head.bench, Location.of(request.args))


@pages.get("/api/benches/<int:bench_id>")
def bench_twin(bench_id: int) -> dict[str, Any]:
    """The bench for machines: its document, its revision, what stands out."""
    head = benches().head(bench_id)
    done, _ = studied(head.bench, request.args.get("scenario"))
    findings = [finding.data() for finding in done.findings]
    return {"revision": head.id, "document": bench_data(head.bench), "findings": findings}


@pages.get("/api/benches/<int:bench_id>/find")
def findable(bench_id: int) -> dict[str, Any]:
    """What the command finder knows of the bench."""
    bench = benches().head(bench_id).bench
    done, _ = studied(bench, request.args.get("scenario"))
    return {"found": list(entries(done.bench, tuple(done.findings)))}


@pages.get("/api/benches/<int:bench_id>/why")
def why_so(bench_id: int) -> Any:
    """Why a lane is as it is at an instant of a scenario's run (`scenario`, `lane`, `at` in µs): the chain of links,
    the latest first, and what of which machine to choose to see it."""
    done, _ = studied(benches().head(bench_id).bench, request.args.get("scenario"), mends=False)
    bench = done.bench
    kind, _, of = request.args.get("lane", "").partition(" ")
    at_us = request.args.get("at", 0, type=int)
    if done.run is None:
        abort(404, "There is no run to ask; add a scenario.")
    links: list[Link] = []
    if kind == "output" and of in {channel.id for channel in bench.channels}:
        links = why(bench, done.run, of, at_us)
    elif kind == "state":
        machine = next((one for one in bench.firmware.machines if one.id == of), None)
        entry = entry_at(done.run, machine, at_us) if machine else None
        links = chain(bench, done.run, entry) if entry else []
    transition = next((link for link in links if link.transition is not None), None)
    chosen = None
    if transition is not None:
        chosen = (
            f"transition {transition.transition}"
            if transition.transition is not None and transition.transition >= 0
            else f"state {transition.state}"
        )
    return {"at_us": at_us, "links": [asdict(link) for link in links], "chosen": chosen}


@pages.get("/api/benches/<int:bench_id>/history")
def history(bench_id: int) -> dict[str, Any]:
    """What was changed, newest first."""
    rows = benches().history(bench_id)
    return {"history": [{"revision": number, "at": at.isoformat() + "Z", "words": words} for number, at, words in rows]}


def _download(text: str | bytes, name: str, kind: str) -> Response:
    answer = Response(text, mimetype=kind)
    answer.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer


@pages.get("/benches/<int:bench_id>/export.json")
def export(bench_id: int) -> Response:
    """The bench as a file."""
    found = benches().head(bench_id).bench
    return _download(bench_text(found), f"{slug(found.name)}.json", "application/json")


@pages.get("/benches/<int:bench_id>/readable.txt")
def readable(bench_id: int) -> Response:
    """As much of a damaged bench as can be read."""
    return _download(benches().readable(bench_id), f"bench-{bench_id}.txt", "text/plain")


@pages.get("/benches/<int:bench_id>/<target>.code")
@pages.post("/benches/<int:bench_id>/<target>.code")
def code(bench_id: int, target: str) -> Response:
    """The bench as code for the board; with an older program sent along, its own lines are kept."""
    if target not in TARGETS:
        abort(404)
    found = with_first(benches().head(bench_id).bench)
    if not TARGETS[target].can(found):
        abort(404)
    made = TARGETS[target].emit(found, must_fix(to_be_fixed(found)))
    if (old := request.files.get("file")) is not None:
        made, _ = kept(made, old.read().decode("utf-8", "replace"))
    head = benches().head(bench_id)
    words = f"program made: {TARGETS[target].name}, mark {mark_of(found)}"
    record().add(bench_id, head.id, "program", words, {"target": target, "mark": mark_of(found)})
    return _download(bundled(made, found).zipped(slug(found.name)), f"{slug(found.name)}.zip", "application/zip")


@pages.get("/benches/<int:bench_id>/machines/<machine_id>.<any(scxml, dot):kind>")
def machine_file(bench_id: int, machine_id: str, kind: str) -> Response:
    """A machine, for other programs."""
    bench = benches().head(bench_id).bench
    machine = next((one for one in bench.firmware.machines if one.id == machine_id), None)
    if machine is None:
        abort(404)
    text = write_scxml(machine, bench.firmware.variables) if kind == "scxml" else write_dot(machine)
    return _download(text, f"{machine_id}.{kind}", "application/scxml+xml" if kind == "scxml" else "text/vnd.graphviz")


@pages.get("/benches/<int:bench_id>/captures/<capture_id>.csv")
def capture_file(bench_id: int, capture_id: str) -> Response:
    """A capture, as it can be imported again."""
    try:
        capture = benches().head(bench_id).bench.capture(capture_id)
    except KeyError:
        abort(404)
    return _download(write_edges(capture.edges), f"{capture_id}.csv", "text/csv")


@pages.get("/benches/<int:bench_id>/run.<any(vcd, csv):kind>")
def run_file(bench_id: int, kind: str) -> Response:
    """The run of a scenario, for other programs."""
    done, _ = studied(benches().head(bench_id).bench, request.args.get("scenario"), mends=False)
    bench = done.bench
    if done.run is None:
        abort(404)
    text = write_vcd(bench, done.run.trace) if kind == "vcd" else write_trace(done.run.trace)
    return _download(text, f"{slug(bench.name)}.{kind}", "text/csv" if kind == "csv" else "text/plain")
