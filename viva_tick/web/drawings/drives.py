"""A drive as a small drawing of its time course, with a handle wherever a time of it can be dragged."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.drives import Drawn, Drive

DRIVE_W, DRIVE_H = 104, 26
LEFT, RIGHT = 5.0, DRIVE_W - 5.0
LOW, HIGH = DRIVE_H - 4.0, 4.0


@dataclass(frozen=True)
class Handle:
    """A time: where its end is drawn, where it begins, where it stands below the drive, and how long it is."""

    x: float
    start: float
    field: str
    us: int
    label: str


@dataclass(frozen=True)
class Figure:
    """A line, and its handles; `words` say it."""

    d: str
    handles: tuple[Handle, ...] = ()
    words: str = ""


def _y(percent: int) -> float:
    return LOW - (LOW - HIGH) * percent / 100


def _steps(drawn: Drawn) -> Figure:
    """Levels one after another, to scale, with a handle for each field seen first."""
    rows = drawn.rows
    total = sum(us for _, us, _, _ in rows) * 1.12
    x, d, handles, seen = LEFT, f"M{LEFT} {LOW}", [], set()
    for percent, us, field, label in rows:
        end = x + (RIGHT - LEFT) * us / total
        d += f" V{_y(percent):.1f} H{end:.1f}"
        if field and field not in seen:
            seen.add(field)
            handles.append(Handle(round(end, 1), round(x, 1), field, us, label))
        x = end
    d += f" V{_y(rows[0][0] if drawn.goes_on else drawn.rest):.1f} H{RIGHT}"
    return Figure(d, tuple(handles))


def _slope(drawn: Drawn) -> Figure:
    """A line through levels, with one handle where it ends."""
    end, last = RIGHT - 18, len(drawn.slope) - 1
    points = [(LEFT + (end - LEFT) * n / last, _y(percent)) for n, percent in enumerate(drawn.slope)]
    _, us, field, label = drawn.rows[0]
    d = "M" + " L".join(f"{x:.1f} {y:.1f}" for x, y in points) + f" H{RIGHT}"
    return Figure(d, (Handle(end, LEFT, field, us, label),))


def _wave(drawn: Drawn) -> Figure:
    """A note, with a handle where it ends."""
    end = 70.0 if drawn.rows else RIGHT
    d = f"M{LEFT} {LOW}" + "".join(f" H{x} V{HIGH if n % 2 == 0 else LOW}" for n, x in enumerate(range(8, int(end), 6)))
    handles = tuple(Handle(end, 8.0, field, us, label) for _, us, field, label in drawn.rows)
    return Figure(f"{d} H{end} V{LOW} H{RIGHT}", handles, drawn.words)


def drive_figure(drive: Drive) -> Figure:
    """The drawing of a drive, as it says of itself."""
    drawn = drive.drawn()
    if drawn.slope:
        return _slope(drawn)
    if drawn.wave:
        return _wave(drawn)
    if drawn.picked:
        each = (RIGHT - LEFT) / len(drawn.picked)
        d = f"M{LEFT} {LOW}"
        for n, lit in enumerate(drawn.picked):
            x = LEFT + n * each
            d += f" H{x + 2:.1f} V{HIGH if lit else LOW - 3:.1f} H{x + each - 2:.1f} V{LOW}"
        return Figure(f"{d} H{RIGHT}", (), drawn.words)
    if drawn.follows:
        d = f"M{LEFT} {LOW} C30 {LOW} 30 {HIGH} 52 {HIGH} S76 {LOW - 4} {RIGHT} {LOW - 6}"
        return Figure(d, (), drawn.words)
    if drawn.rows:
        return _steps(drawn)
    return Figure(f"M{LEFT} {_y(drawn.rest):.1f} H{RIGHT}", (), drawn.words)


def drive_word(drive: Drive | None) -> str:
    """What the drive is called in the grid."""
    return "as-it-was" if drive is None else drive.word
