"""A drive as a small drawing of its time course, with a handle wherever a time of it can be dragged."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.drives import (
    Blink,
    Burst,
    Dimmed,
    Drive,
    Follow,
    FollowVariable,
    Pulse,
    Ramp,
    Sequence,
    Steady,
    Tone,
    ramp_level,
)

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


def _steps(rows: list[tuple[int, int, str, str]], more: bool, rest: int = 0) -> Figure:
    """Levels one after another, to scale; (percent, µs, field, label), with a handle for each field seen first."""
    total = sum(us for _, us, _, _ in rows) * 1.12
    x, d, handles, seen = LEFT, f"M{LEFT} {LOW}", [], set()
    for percent, us, field, label in rows:
        end = x + (RIGHT - LEFT) * us / total
        d += f" V{_y(percent):.1f} H{end:.1f}"
        if field and field not in seen:
            seen.add(field)
            handles.append(Handle(round(end, 1), round(x, 1), field, us, label))
        x = end
    d += f" V{_y(rows[0][0] if more else rest):.1f} H{RIGHT}"
    return Figure(d, tuple(handles))


def drive_figure(drive: Drive) -> Figure:
    """The drawing of a drive."""
    match drive:
        case Steady():
            y = _y(100 if drive.on else 0)
            return Figure(f"M{LEFT} {y} H{RIGHT}", (), "on" if drive.on else "off")
        case Dimmed():
            return Figure(f"M{LEFT} {_y(drive.percent):.1f} H{RIGHT}", (), f"{drive.percent} %")
        case Blink():
            shown = min(drive.times or 3, 3)
            rows = [(100, drive.on_us, "on_us", "On for"), (0, drive.off_us, "off_us", "Off for")] * shown
            return _steps(rows, drive.lasting or drive.times > 3)
        case Burst():
            shown = min(drive.times, 4)
            rows = [(100, drive.on_us, "on_us", "On for"), (0, drive.off_us, "off_us", "Off for")] * shown
            return _steps([*rows[:-1], (0, drive.rest_us, "rest_us", "Rest")], drive.rounds != 1)
        case Pulse():
            return _steps([(0, drive.length_us // 6, "", ""), (100, drive.length_us, "length_us", "Length"),
                           (0, drive.length_us // 2, "", "")], False)  # fmt: skip
        case Ramp():
            x1 = RIGHT - 18
            points = [
                (LEFT + (x1 - LEFT) * n / 20, _y(ramp_level(drive.start, drive.end, drive.curve, 50 * n, 1000)))
                for n in range(21)
            ]
            d = "M" + " L".join(f"{x:.1f} {y:.1f}" for x, y in points) + f" H{RIGHT}"
            return Figure(d, (Handle(x1, LEFT, "time_us", drive.time_us, "Takes"),))
        case Sequence():
            rows = [(step.percent, step.us, f"steps/{n}/us", f"Step {n + 1}") for n, step in enumerate(drive.steps)]
            return _steps(rows, drive.rounds != 1, drive.rest)
        case Tone():
            end = 70.0 if drive.length_us else RIGHT
            d = f"M{LEFT} {LOW}" + "".join(
                f" H{x} V{HIGH if n % 2 == 0 else LOW}" for n, x in enumerate(range(8, int(end), 6))
            )
            handles = (Handle(end, 8.0, "length_us", drive.length_us, "Length"),) if drive.length_us else ()
            return Figure(f"{d} H{end} V{LOW} H{RIGHT}", handles, f"{drive.hz} Hz")
        case Follow() | FollowVariable():
            d = f"M{LEFT} {LOW} C30 {LOW} 30 {HIGH} 52 {HIGH} S76 {LOW - 4} {RIGHT} {LOW - 6}"
            return Figure(d, (), "follows")


KINDS: tuple[tuple[str, str, dict[str, object]], ...] = (
    ("on", "on", {"kind": "steady", "on": True}),
    ("off", "off", {"kind": "steady", "on": False}),
    ("level", "dimmed", {"kind": "level", "percent": 40}),
    ("blink", "blink", {"kind": "blink", "on_us": 250_000, "off_us": 250_000}),
    ("pulse", "pulse", {"kind": "pulse", "length_us": 200_000, "blocking": False}),
    ("pulse-wait", "pulse, waits", {"kind": "pulse", "length_us": 200_000, "blocking": True}),
    ("burst", "burst, rest", {"kind": "burst", "on_us": 80_000, "off_us": 120_000, "times": 3, "rest_us": 900_000}),
    ("ramp", "ramp", {"kind": "ramp", "start": 0, "end": 100, "time_us": 1_500_000}),
    ("sequence", "sequence", {"kind": "sequence", "rounds": 0, "steps": [
        {"percent": 100, "us": 300_000}, {"percent": 30, "us": 300_000}, {"percent": 0, "us": 400_000}]}),
    ("tone", "tone", {"kind": "tone", "hz": 880, "length_us": 300_000}),
)  # fmt: skip


def drive_word(drive: Drive | None) -> str:
    """What the drive is called in the grid."""
    if drive is None:
        return "as-it-was"
    if isinstance(drive, Steady):
        return "on" if drive.on else "off"
    if isinstance(drive, Pulse):
        return "pulse-wait" if drive.blocking else "pulse"
    if isinstance(drive, Follow | FollowVariable):
        return f"{drive.kind} {drive.input if isinstance(drive, Follow) else drive.variable}"
    return drive.kind
