"""The shelf: contacts; boards, those that ship, to look at and copy; the user's own, to change, export and import."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response, abort, redirect, render_template, request, url_for

from ..core.boards import ABILITIES, boards
from ..core.document import DocumentError, Problem, board_from_data, board_from_text, board_text
from ..core.ids import free_id
from ..core.units import plain
from .answers import shelf
from .kept_contacts import shelf_page, taken

shelves = Blueprint("shelves", __name__)

# (name of the field, its label, unit, how many of the unit the document's number is).
FIGURES: tuple[tuple[str, str, str, int], ...] = (
    ("supply_mv", "Supply", "V", 1000),
    ("logic_mv", "Logic", "V", 1000),
    ("pin_most_mv", "A pin allows at most", "V", 1000),
    ("pin_ua.design", "A pin, to design for", "mA", 1000),
    ("pin_ua.absolute", "A pin, never over", "mA", 1000),
    ("port_ua", "A port (empty: no limit)", "mA", 1000),
    ("all_pins_ua", "All pins", "mA", 1000),
    ("supply_ua", "Its supply gives", "mA", 1000),
    ("pull_up_ohm.0", "Pull-up, least", "kΩ", 1000),
    ("pull_up_ohm.1", "Pull-up, most", "kΩ", 1000),
    ("pull_down_ohm.0", "Pull-down, least (empty: none)", "kΩ", 1000),
    ("pull_down_ohm.1", "Pull-down, most", "kΩ", 1000),
    ("leak_na", "An input leaks", "µA", 1000),
    ("analogue.bits", "Converter (empty: none)", "bits", 1),
    ("analogue.reference_mv", "Converter's reference", "V", 1000),
    ("analogue.convert_us", "A conversion takes", "µs", 1),
    ("start_up_us", "Starts in", "ms", 1000),
    ("set_up_us", "Set-up takes", "ms", 1000),
    ("interrupt_latency_us", "Interrupt after", "µs", 1),
    ("clock_hz", "Clock", "MHz", 1_000_000),
)
# What can be painted, by what it is about; and each in a word, as it stands on a drawn pin.
ABILITY_GROUPS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("Digital", ("digital", "input-only", "dimmable", "interrupt", "no-pull")),
    ("Analogue", ("analogue", "starts-analogue", "radio-shared")),
    ("Serial, bus", ("serial-in", "serial-out", "bus-data", "bus-clock")),
    ("At start-up", ("lamp", "boot-strapping", "boot-high", "reset")),
)
SHORTS = {
    "digital": "digital",
    "input-only": "reads only",
    "dimmable": "PWM",
    "analogue": "analogue",
    "interrupt": "interrupt",
    "serial-in": "serial in",
    "serial-out": "serial out",
    "bus-data": "bus data",
    "bus-clock": "bus clock",
    "lamp": "lamp",
    "no-pull": "no pull",
    "boot-strapping": "start-up",
    "reset": "reset",
    "starts-analogue": "starts analogue",
    "radio-shared": "radio",
    "boot-high": "high at start-up",
}
SHARES = (("low_below_share", "Low up to"), ("high_from_share", "High from"))


def _get(data: Any, path: str) -> Any:
    for step in path.split("."):
        if data is None:
            return None
        data = data[int(step)] if isinstance(data, list) else data[step]
    return data


def _shown(data: dict[str, Any]) -> list[dict[str, Any]]:
    rows = [
        {"name": name, "label": label, "unit": unit, "value": "" if (v := _get(data, name)) is None else plain(v / per)}
        for name, label, unit, per in FIGURES
    ]
    return [*rows, *({"name": n, "label": w, "unit": "of logic", "value": plain(data[n])} for n, w in SHARES)]


@shelves.get("/boards")
def all_boards() -> str:
    """Every board: those that ship, and the user's own."""
    return render_template(
        "boards.html", shipped=list(boards().values()), own=shelf().boards(), damaged=shelf().damaged(), problems=[],
        **shelf_page(),
    )  # fmt: skip


@shelves.post("/boards/<board_id>/copy")
def copy(board_id: str) -> Any:
    """A copy of a board, to be changed."""
    found = shelf().get(board_id) or boards().get(board_id)
    if found is None:
        abort(404)
    taken = set(boards()) | {board.id for board in shelf().boards()}
    name = f"{found.name[:68]}, my own"
    made = found.model_copy(update={"id": free_id(f"my-{found.id.removeprefix('my-')}", taken), "name": name})
    shelf().put(made)
    return redirect(url_for("shelves.board", board_id=made.id))


@shelves.post("/boards/import")
def import_board() -> Any:
    """A board from a file, or why not."""
    file = request.files.get("file")
    problems: list[Problem] = []
    try:
        if file is None or not file.filename:
            raise DocumentError([Problem("", "no file was chosen.")])
        text = file.read().decode("utf-8")
        if '"viva_tick_shelf"' in text[:2000]:
            taken(text)
            return redirect(url_for("shelves.all_boards", _anchor="things"))
        made = board_from_text(text)
        if made.id in boards():
            raise DocumentError([Problem("/id", f"“{made.id}” is a board that ships; give yours another id.")])
        shelf().put(made)
        return redirect(url_for("shelves.board", board_id=made.id))
    except UnicodeDecodeError as error:
        problems = [Problem("", f"the file is not text in UTF-8 (byte {error.start}).")]
    except DocumentError as error:
        problems = list(error.problems)
    own = shelf().boards()
    shipped = list(boards().values())
    return render_template("boards.html", shipped=shipped, own=own, problems=problems, **shelf_page()), 422


@shelves.get("/boards/<board_id>.json")
def export(board_id: str) -> Response:
    """A board as a file."""
    found = shelf().get(board_id) or boards().get(board_id)
    if found is None:
        abort(404)
    answer = Response(board_text(found), mimetype="application/json")
    answer.headers["Content-Disposition"] = f'attachment; filename="{found.id}.json"'
    return answer


@shelves.post("/boards/<board_id>/remove")
def remove(board_id: str) -> Any:
    """Take a board off the shelf."""
    shelf().remove(board_id)
    return redirect(url_for("shelves.all_boards"))


def _page(data: dict[str, Any], own: bool, problems: list[Problem], shown: list[dict[str, Any]] | None = None) -> str:
    return render_template(
        "board.html",
        board=data,
        own=own,
        figures=shown or _shown(data),
        abilities=ABILITIES,
        ability_groups=ABILITY_GROUPS,
        shorts=SHORTS,
        problems=problems,
        saved=request.args.get("saved") is not None,
    )


@shelves.get("/boards/<board_id>")
def board(board_id: str) -> str:
    """One board: its figures and its pins."""
    own = shelf().get(board_id)
    found = own or boards().get(board_id)
    if found is None:
        abort(404)
    return _page(found.model_dump(mode="json"), own is not None, [])


@shelves.post("/boards/<board_id>")
def change(board_id: str) -> Any:
    """Change one of the user's own boards: the whole form at once, refused whole."""
    own = shelf().get(board_id)
    if own is None:
        abort(404)
    data = own.model_dump(mode="json")
    problems: list[Problem] = []
    _take_figures(data, problems)
    _take_words(data, problems)
    _take_pins(data)
    try:
        if problems:
            raise DocumentError(problems)
        made = board_from_data(data)
    except DocumentError as error:
        typed = [{**row, "value": request.form.get(row["name"], "")} for row in _shown(own.model_dump(mode="json"))]
        return _page(data, own=True, problems=list(error.problems), shown=typed), 422
    shelf().put(made)
    return redirect(url_for("shelves.board", board_id=board_id, saved=1))


def _take_figures(data: dict[str, Any], problems: list[Problem]) -> None:
    data["name"] = " ".join(request.form.get("name", "").split()) or data["name"]
    data["source"] = " ".join(request.form.get("source", "").split()) or data["source"]
    values: dict[str, float | None] = {}
    for name, label, _, per in (*FIGURES, *((name, label, "", 0) for name, label in SHARES)):
        typed = request.form.get(name, "").strip().replace(",", ".")
        try:
            values[name] = None if not typed else float(typed) if not per else round(float(typed) * per)
        except (ValueError, OverflowError):
            problems.append(Problem(f"/{name.replace('.', '/')}", f"{label}: “{typed[:20]}” is not a number."))
            values[name] = None
    for name in (name for name in values if "." not in name):
        data[name] = values[name]
    data["pin_ua"] = {"design": values["pin_ua.design"], "absolute": values["pin_ua.absolute"]}
    data["pull_up_ohm"] = [values["pull_up_ohm.0"], values["pull_up_ohm.1"]]
    down = [values["pull_down_ohm.0"], values["pull_down_ohm.1"]]
    data["pull_down_ohm"] = down if any(value is not None for value in down) else None
    converter = {name: values[f"analogue.{name}"] for name in ("bits", "reference_mv", "convert_us")}
    data["analogue"] = converter if converter["bits"] is not None else None


def _take_words(data: dict[str, Any], problems: list[Problem]) -> None:
    """What is chosen rather than measured: integer width, the sense of a pull enable, the watchdog's steps."""
    data["int_bits"] = int(bits) if (bits := request.form.get("int_bits", "")).isdigit() else data["int_bits"]
    sense = request.form.get("pull_enable", "none")
    name = (data["pull_enable"] or {}).get("name", "the pull enable")
    data["pull_enable"] = {"name": name, "active": sense} if sense in ("low", "high") else None
    typed = request.form.get("watchdog_steps", "")
    try:
        steps = [round(float(word) * 1000) for word in typed.replace(";", " ").replace(",", " ").split()]
    except (ValueError, OverflowError):
        problems.append(Problem("/watchdog_steps_us", f"Watchdog steps: “{typed[:40]}” is not a list of milliseconds."))
        return
    if steps != data["watchdog_steps_us"] and data["program"]:
        # The compiler's names were for the steps that were; a program without them says so in its head.
        data["program"] |= {"watchdog_header": None, "watchdog_steps": []}
    data["watchdog_steps_us"] = steps


def _take_pins(data: dict[str, Any]) -> None:
    pins: list[dict[str, Any]] = []
    for index, pin in enumerate(data["pins"]):
        if request.form.get(f"pin.{index}.gone"):
            continue
        ident = request.form.get(f"pin.{index}.id", pin["id"]).strip()
        known = dict.fromkeys((*pin["can"], *ABILITIES))
        can = [ability for ability in known if request.form.get(f"pin.{index}.{ability}")]
        code = request.form.get(f"pin.{index}.code", pin["code"]).strip()
        port = request.form.get(f"pin.{index}.port", pin["port"] or "").strip()
        pins.append({**pin, "id": ident, "code": code, "can": can, "port": port or None})
    if more := request.form.get("pin.new", "").strip():
        pins.append({"id": more, "code": more, "can": ["digital"], "port": None})
    data["pins"] = pins
