"""Drawings of sums: circuits between two rails, and pictures of times and shares, with the numbers that were given."""

from __future__ import annotations

import math
from collections.abc import Callable

from markupsafe import Markup

from ...core.arithmetic import Sum, Worked, said
from .pen import GROUND_Y, NODE_Y, Pen

Texts = dict[str, str]


def drawn(one: Sum, values: dict[str, float], worked: Worked) -> Markup:
    """The drawing of a sum."""
    units = {ask.id: ask.unit for ask in one.asks} | {give.id: give.unit for give in one.gives}
    known = {**values, **worked.values}
    texts = {name: said(value, units.get(name, "")) for name, value in known.items()}
    pen = Pen(one.title, "is-sum")
    DRAWINGS[one.drawing](pen, texts, known)
    return pen.svg()


def _chain(pen: Pen, x: float, upper: str, lower: str, top: str = "resistor", bottom: str = "resistor") -> None:
    """Two things between the rails, one over the other, with what they are."""
    for kind, words, y in ((top, upper, 28), (bottom, lower, 98)):
        if kind == "resistor":
            pen.path(f"M{x} {y - 8} V{y}").resistor(x, y).path(f"M{x} {y + 54} V{y + 62}")
        elif kind == "lamp":
            pen.path(f"M{x} {y - 8} V{y + 10}").lamp(x, y + 27).path(f"M{x} {y + 44} V{y + 62}")
        elif kind == "coil":
            pen.path(f"M{x} {y - 8} v6 q10 5 0 10 q10 5 0 10 q10 5 0 10 q10 5 0 10 q10 5 0 10 v6 V{y + 62}")
        elif kind == "contact":
            pen.path(f"M{x} {y - 8} V{y + 10}").contact(x, y + 10, False).path(f"M{x} {y + 44} V{y + 62}")
        elif kind == "capacitor":
            pen.path(f"M{x} {y - 8} V{y + 22} M{x - 14} {y + 22} h28 M{x - 14} {y + 30} h28 M{x} {y + 30} V{y + 62}")
        elif kind == "switch":
            pen.path(f"M{x} {y - 8} V{y + 14} M{x - 16} {y + 10} V{y + 38} M{x - 16} {y + 17} L{x} {y + 10}")
            pen.path(f"M{x - 16} {y + 31} L{x} {y + 40} V{y + 62} M{x - 16} {y + 24} h-26")
        pen.text(x + (26 if kind == "lamp" else 16), y + 30, words, "value-text")


def _led(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    pen.rails(t["U_s"])
    _chain(pen, 120, t["R_E"], f"{t['U_f']} at {t['I_R']}", "resistor", "lamp")


def _divider(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    pen.rails(t["U_s"])
    _chain(pen, 110, t["R_1"], t["R_2"])
    pen.path(f"M110 {NODE_Y} H262").text(190, NODE_Y - 8, t["U"], "value-text is-middle").pin("out")


def _loaded(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    pen.rails(t["U_s"])
    _chain(pen, 80, t["R_1"], t["R_2"])
    pen.path(f"M80 {NODE_Y} H210 V98").resistor(210, 98).path(f"M210 152 V{GROUND_Y}")
    pen.text(226, 128, t["R_L"], "value-text").text(150, NODE_Y - 8, t["U"], "value-text is-middle")


def _pull(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    pen.rails("5 V")
    _chain(pen, 110, t["R"], t["length"], "resistor", "contact")
    pen.path(f"M110 {NODE_Y} H262").pin("pin")
    _window(pen, v["R_least"], v["R_most"], v["R"])


def _window(pen: Pen, least: float, most: float, value: float) -> None:
    """Where a value stands between two, on a scale of powers."""
    low, high = math.log10(least) - 1, math.log10(most) + 1

    def x(one: float) -> float:
        return 150 + 160 * min(max((math.log10(max(one, 1e-9)) - low) / (high - low), 0), 1)

    pen.path("M150 140 H310", "rail").box(x(least), 134, max(x(most) - x(least), 1), 12, "window", 3)
    pen.path(f"M{x(value):.1f} 126 V150", "mark-line")


def _rc(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    left, right, top, bottom = 40, 310, 20, 150
    span = 4 * v["tau"] or 1.0
    rows = [(left + (right - left) * n / 60, bottom - (bottom - top) * (1 - math.exp(-4 * n / 60))) for n in range(61)]
    pen.path(f"M{left} {top} V{bottom} H{right}", "rail")
    pen.path("M" + " L".join(f"{x:.1f} {y:.1f}" for x, y in rows), "curve")
    for lower, (name, share) in enumerate((("t_up", v["high"] / 100), ("t_down", 1 - v["low"] / 100))):
        if math.isfinite(v[name]) and v[name] <= span:
            x, y = left + (right - left) * v[name] / span, bottom - (bottom - top) * share
            pen.path(f"M{x:.1f} {bottom} V{y:.1f} H{left}", "mark-line").text(
                x + 4, y + 40 - 24 * lower, t[name], "value-text"
            )
    pen.text(left, 170, f"{t['R']}, {t['C']}: {t['tau']}")


def _base(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    pen.rails("of the load")
    _chain(pen, 190, t["I_L"], "", "coil", "switch")
    pen.path("M60 122 H70").lying_resistor(70, 122).path("M115 122 H148").text(
        92, 108, t["R_E"], "value-text is-middle"
    )
    pen.text(30, 126, t["U_p"], "value-text")


def _gate(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    pen.rails("of the load")
    _chain(pen, 200, t["I_L"], t["P"], "coil", "switch")
    pen.path("M50 122 H60").lying_resistor(60, 122).path("M105 122 H158 M130 122 V126").text(
        82, 108, t["R_s"], "value-text is-middle"
    )
    pen.path("M130 126 v4 h-5 v22 h10 v-22 h-5 M130 152 V160").text(64, 146, t["R_d"], "value-text").text(
        16, 126, t["U_p"], "value-text"
    )


def _relay(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    pen.rails(t["U"])
    _chain(pen, 110, "", "", "coil", "switch")
    pen.text(100, 58, t["R"], "value-text is-end")
    pen.path(f"M110 20 H200 V44 M188 66 h24 l-12 -20 z M188 46 h24 M200 66 V{NODE_Y} H110").text(
        216, 60, f"takes {t['I']}", "value-text"
    )


def _opto(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    pen.box(120, 50, 110, 80, "thing", 6).lamp(150, 90).path("M40 60 H60").lying_resistor(60, 60).path(
        "M105 60 H150 V73 M150 107 V130 H40"
    )
    pen.path("M170 84 l14 6 M170 94 l14 6 M200 76 V104 M200 82 L216 70 V30 M200 98 L216 112 V150", "thing-lines")
    pen.text(82, 48, t["R_E"], "value-text is-middle").text(20, 56, t["U_s"]).text(240, 34, t["U_o"]).text(
        240, 94, t["I_out"], "value-text"
    )


def _bar(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    x, scale = 20.0, 290 / max(v["I_most"], v["I"], 1e-9)
    for name, amps in (("first", v["I_1"] * v["n_1"]), ("second", v["I_2"] * v["n_2"]), ("board", v["I_b"])):
        wide = amps * scale
        if wide > 0:
            pen.box(round(x, 1), 70, round(max(wide - 1, 1), 1), 34, "bar", 2).text(round(x + 3, 1), 120, name)
        x += wide
    end = 20 + v["I_most"] * scale
    pen.path(f"M{end:.1f} 56 V118", "mark-line").text(end - 4, 50, t["I_most"], "value-text is-end").text(
        20, 150, f"{t['I']} of it: {t['share']}", "value-text"
    )


def _wire(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    thick = min(max(math.sqrt(v["A"]) * 4, 1.5), 14)
    pen.box(20, 60, 40, 60, "thing").box(270, 60, 40, 60, "thing")
    for y in (74, 106):
        pen.box(60, round(y - thick / 2, 1), 210, round(thick, 1), "bar", 1)
    pen.text(165, 56, f"{t['l']}, {t['A']}", "value-text is-middle").text(
        165, 140, f"loses {t['U_d']}, {t['share']}", "value-text is-middle"
    ).text(40, 94, t["U"], "pin-text").text(290, 94, t["I"], "pin-text")


def _fuse(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    pen.path("M20 90 H110 M220 90 H310").box(110, 76, 110, 28, "thing", 4).path(
        "M110 90 q27 -18 55 0 t55 0", "thing-lines"
    )
    pen.text(165, 66, t["I_E"], "value-text is-middle").text(60, 80, t["I"], "value-text is-middle").text(
        165, 130, f"at the start {t['I_in']}", "value-text is-middle"
    )


def _thermistor(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    pen.rails(t["U"])
    _chain(pen, 110, t["R"], f"{t['R_T']} at {t['T']}")
    pen.path("M92 146 L128 108 h8", "thing-lines").path(f"M110 {NODE_Y} H262").text(
        190, NODE_Y - 8, t["U_o"], "value-text is-middle"
    ).pin("pin")


def _bits(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    word, x = (1, 0, 1, 0, 0, 1, 0, 1, 1, 0, 1), 20.0
    d = f"M{x} 60"
    for level in word:
        y = 60 if level else 110
        d += f" V{y} H{x + 26}"
        x += 26
    pen.path(d, "curve").text(20, 140, f"ten bits: {t['t']}", "value-text").text(
        310, 140, f"{t['off']} off", "value-text is-end"
    )
    shift = max(min(v["off"], 10), -10) / 100
    for n in range(1, 11):
        at = 20 + 26 * (n + 0.5) * (1 + shift)
        if at < 318:
            pen.path(f"M{at:.1f} 48 V118", "mark-line")


def _counter(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    pen.path("M20 140 L120 40 V140 L220 40 V140 L310 50", "curve").path("M20 140 H310", "rail")
    pen.text(120, 160, t["t"], "value-text is-middle").text(20, 30, f"{v['n']:.0f} bits of {t['tick']}")


def _pwm(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    share, d = v["duty"] / 100, "M20 120"
    for n in range(4):
        x = 20 + 72 * n
        d += f" H{x} V50 H{x + 72 * share:.1f} V120 H{x + 72}"
    pen.path(d, "curve").text(20, 150, f"{t['F']}, on {t['duty']}: {t['on']}", "value-text")


def _safe(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    most = v["later"] if math.isfinite(v["later"]) else v["least"] * 2
    scale = 270 / max(most, v["least"], 1e-9)
    pen.path("M20 100 H310", "rail").box(20, 84, round(max(v["t_pass"] * scale, 1), 1), 16, "bar", 2).text(
        22, 78, f"longest pass {t['t_pass']}"
    )
    if math.isfinite(v["step"]):
        pen.box(20 + v["sooner"] * scale, 92, max((v["later"] - v["sooner"]) * scale, 2), 16, "window", 3)
        pen.path(f"M{20 + v['step'] * scale:.1f} 70 V124", "mark-line").text(
            20 + v["step"] * scale, 140, t["step"], "value-text is-middle"
        )


def _hands(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    rows = [(20 + n * 2.9, 130 - 90 * math.exp(-(((n * 2.5 - 116) / 24) ** 2) / 2)) for n in range(101)]
    pen.path("M20 130 H310", "rail").path("M" + " L".join(f"{x:.1f} {y:.1f}" for x, y in rows), "curve")
    x = 20 + min(v["t"] * 1000 / 2.5, 100) * 2.9
    pen.path(f"M{x:.1f} 30 V130", "mark-line").text(x + 4, 42, t["t"], "value-text").text(
        20, 150, "held for 0 to 250 ms"
    )


def _steps(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    d = "M20 150"
    for n in range(9):
        d += f" H{20 + 32 * (n + 1)} V{150 - 14 * (n + 1)}"
    pen.path(d, "curve").path("M20 150 L308 24", "rail").text(40, 40, f"a count is {t['step']}", "value-text").text(
        180, 150, f"noise: {t['counts']} of them", "value-text"
    )


def _band(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    sizes = max(v["band"], v["U_pp"], 1e-12)
    half, noise = 50 * v["band"] / sizes, 50 * v["U_pp"] / sizes
    pen.box(20, round(90 - half, 1), 290, round(2 * half, 1), "window", 3)
    rows = [(20 + n * 3.6, 90 + noise * math.sin(n * 1.7) * math.cos(n * 0.9 + 1)) for n in range(81)]
    pen.path("M" + " L".join(f"{x:.1f} {y:.1f}" for x, y in rows), "curve").text(
        20, 172, f"switches every {t['every']}", "value-text"
    )


def _battery(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    pen.box(60, 60, 190, 60, "thing", 8).box(250, 78, 12, 24, "thing", 3).box(
        66, 66, round(1.78 * v["usable"], 1), 48, "bar", 4
    )
    pen.text(155, 48, t["Q"], "value-text is-middle").text(
        155, 145, f"{t['I']} on average: {t['days']}", "value-text is-middle"
    )


def _trial(pen: Pen, t: Texts, v: dict[str, float]) -> None:
    pen.path("M30 100 H310", "rail").text(30, 122, "0").text(310, 122, "100 %", "rail-text is-end")
    if math.isfinite(v["p"]):
        low, mid, high = (30 + 2.8 * v[name] for name in ("low", "p", "high"))
        pen.path(f"M{low:.1f} 80 H{high:.1f} M{low:.1f} 72 V88 M{high:.1f} 72 V88", "curve").circle(
            round(mid, 1), 80, 5, "bar"
        )
        pen.text(high + 6, 84, f"{t['low']} to {t['high']}", "value-text")


DRAWINGS: dict[str, Callable[[Pen, Texts, dict[str, float]], None]] = {
    "led": _led, "divider": _divider, "loaded": _loaded, "pull": _pull, "rc": _rc, "base": _base, "gate": _gate,
    "relay": _relay, "opto": _opto, "bar": _bar, "wire": _wire, "fuse": _fuse, "thermistor": _thermistor, "bits": _bits,
    "counter": _counter, "pwm": _pwm, "window": _safe, "hands": _hands, "steps": _steps, "band": _band,
    "battery": _battery, "trial": _trial,
}  # fmt: skip
