"""Sums of the circuit: resistors, dividers, pulls, filters, transistors, relays, wires, fuses."""

from __future__ import annotations

from .. import laws
from ..boards import boards
from ..electrics import E12, E24, at_least, at_most, pull_window
from ..electrics.lamp import BASE_MV
from .base import Ask, Give, Sum, Values

Answer = dict[str, float | str]
GROUP = "Circuits"
RESISTOR = 0.05
FUSES = (0.1, 0.16, 0.2, 0.25, 0.315, 0.4, 0.5, 0.63, 0.8, 1, 1.25, 1.6, 2, 2.5, 3.15, 4, 5, 6.3, 8, 10, 12.5, 16)
WIRES = (0.14, 0.25, 0.34, 0.5, 0.75, 1.0, 1.5, 2.5, 4.0)  # mm² (IEC 60228, from memory)
PRACTICE = "common practice"
OHM = "Ohm’s law; E series IEC 60063"


def _led(v: Values) -> Answer:
    ohm = laws.series_ohm(v["U_s"], v["U_f"], v["I"])
    real = v.get("R_E") or (float(at_least(ohm, E12)) if ohm else 0.0)
    through = laws.current(max(v["U_s"] - v["U_f"], 0.0), real) if real else 0.0
    note = "The supply is below the drop: it stays dark." if not ohm else ""
    if through > 0.02:
        note = "More than a small one stands, and than most pins give: 20 mA."
    return {"R": ohm, "R_E": real, "I_R": through, "P": through**2 * real, "note": note}


def _divider(v: Values) -> Answer:
    return {"U": laws.divided(v["U_s"], v["R_1"], v["R_2"]), "I": laws.current(v["U_s"], v["R_1"] + v["R_2"])}


def _loaded(v: Values) -> Answer:
    free = laws.divided(v["U_s"], v["R_1"], v["R_2"])
    loaded = laws.divided(v["U_s"], v["R_1"], laws.beside(v["R_2"], v["R_L"]))
    lost = 100 * (1 - loaded / free)
    note = "The load takes more than a tenth: a smaller divider, or a follower behind it." if lost > 10 else ""
    return {"U_0": free, "U": loaded, "lost": lost, "R_i": laws.beside(v["R_1"], v["R_2"]), "note": note}


def _pull(v: Values) -> Answer:
    board = boards()["mid-8bit-5v"]
    found = pull_window("supply", v["R"], max(round(v["length"] * 100), 1), board)
    fits = found.least_ohm <= v["R"] <= found.most_ohm
    why = f"bounded above by {found.most_by}"
    note = f"It fits; {why}." if fits else f"It does not fit; {why}."
    return {"R_least": found.least_ohm, "R_most": found.most_ohm, "t": found.settle_us * 1e-6, "note": note}


def _rc(v: Values) -> Answer:
    up = laws.charge_s(v["R"], v["C"], 0.0, 1.0, v["high"] / 100)
    down = laws.charge_s(v["R"], v["C"], 1.0, 0.0, v["low"] / 100)
    settled = min(up, down)
    note = "Shorter than most contacts bounce: 20 ms or more." if settled < 0.02 else ""
    return {"tau": v["R"] * v["C"], "t_up": up, "t_down": down, "note": note}


def _base(v: Values) -> Answer:
    wanted = v["I_L"] / v["gain"] * v["over"]
    ohm = laws.series_ohm(v["U_p"], BASE_MV / 1000, wanted)
    real = v.get("R_E") or (float(at_most(ohm, E24)) if ohm >= 1 else 0.0)
    through = laws.current(v["U_p"] - BASE_MV / 1000, real) if real else 0.0
    note = "More than a pin is made for: another transistor before it, or a field-effect one." if through > 0.02 else ""
    return {"I_B": wanted, "R_B": ohm, "R_E": real, "I_pin": through, "note": note}


def _gate(v: Values) -> Answer:
    held = laws.divided(v["U_p"], v["R_s"], v["R_d"])
    heat = v["I_L"] ** 2 * v["R_on"]
    note = ""
    if held < v["U_th"] * 2:
        note = "Twice its threshold is wanted to switch it through: take one that is made for so little."
    elif heat > 0.5:
        note = "More than half a watt: it wants cooling, or one with less resistance."
    return {"U_g": held, "P": heat, "I_p": laws.current(v["U_p"], v["R_s"]), "note": note}


def _relay(v: Values) -> Answer:
    through = laws.current(v["U"], v["R"])
    return {
        "I": through,
        "P": v["U"] * through,
        "W": v["L"] * through**2 / 2,
        "t": 2.3 * v["L"] / v["R"],
        "note": f"The diode takes {through * 1000:.0f} mA for a moment, and stands {v['U']:.0f} V the other way.",
    }


def _opto(v: Values) -> Answer:
    ohm = laws.series_ohm(v["U_s"], v["U_f"], v["I_f"])
    out = v["I_f"] * v["ratio"] / 100 * 0.5
    return {
        "R_in": ohm,
        "R_E": float(at_most(ohm, E12)) if ohm >= 1 else 0.0,
        "I_out": out,
        "R_pull": laws.current(v["U_o"], out),
        "note": "Half the ratio is reckoned with: it falls with age.",
    }


def _budget(v: Values) -> Answer:
    total = v["I_1"] * v["n_1"] + v["I_2"] * v["n_2"] + v["I_b"]
    share = 100 * total / v["I_most"]
    note = (
        "More than there is."
        if share > 100
        else "Little is left: starting and warm days take it."
        if share > 80
        else ""
    )
    return {"I": total, "left": v["I_most"] - total, "share": share, "note": note}


def _wire(v: Values) -> Answer:
    ohm = laws.wire_ohm(v["l"], v["A"], v["T"])
    drop = ohm * v["I"]
    least = laws.wire_ohm(v["l"], 1.0, v["T"]) * v["I"] / (0.03 * v["U"])
    real = next((one for one in WIRES if one >= least), WIRES[-1])
    return {"R": ohm, "U_d": drop, "share": 100 * drop / v["U"], "A_3": least, "A_E": real, "P": drop * v["I"]}


def _fuse(v: Values) -> Answer:
    wanted = v["I"] / 0.75
    real = next((one for one in FUSES if one >= wanted), FUSES[-1])
    slow = v["I_in"] > 4 * real
    note = "Slow: a quick one would not stand the start." if slow else "A quick one stands the start."
    if real > v["I_w"]:
        note = "The wire is the weakest: it must stand more than the fuse."
    return {"I_f": wanted, "I_E": float(real), "ratio": v["I_in"] / real, "note": note}


def _thermistor(v: Values) -> Answer:
    ohm = laws.thermistor_ohm(v["R_25"], v["B"], v["T"])
    out = laws.divided(v["U"], v["R"], ohm)
    one = laws.divided(v["U"], v["R"], laws.thermistor_ohm(v["R_25"], v["B"], v["T"] + 1))
    return {"R_T": ohm, "U_o": out, "slope": abs(one - out), "note": ""}


SUMS = (
    Sum(
        "led",
        "Lamp and its resistor",
        GROUP,
        "The resistor that leaves a lamp its current, and what it burns.",
        (
            Ask("U_s", "supply", "V", 5, 0.05, 0.5, 400),
            Ask("U_f", "its drop", "V", 2, 0.1, 0, 100),
            Ask("I", "wanted", "A", 0.008, 0, 1e-5, 5),
        ),
        (
            Give("R", "resistor", "Ω"),
            Give("R_E", "next in E12", "Ω"),
            Give("I_R", "then", "A"),
            Give("P", "it burns", "W"),
        ),
        ("R = (U_s - U_f) / I", "P = I**2 * R"),
        _led,
        OHM,
        ({"U_s": 5, "U_f": 2, "I": 0.02}, {"R": 150, "R_E": 150, "I_R": 0.02, "P": 0.06}),
        "led",
        "resistor",
    ),
    Sum(
        "divider",
        "Divider",
        GROUP,
        "The voltage between two resistors.",
        (
            Ask("U_s", "supply", "V", 5, 0.05, 0.01, 1000),
            Ask("R_1", "upper", "Ω", 10_000, RESISTOR, 1),
            Ask("R_2", "lower", "Ω", 10_000, RESISTOR, 1),
        ),
        (Give("U", "between them", "V"), Give("I", "through both", "A")),
        ("U = U_s * R_2 / (R_1 + R_2)",),
        _divider,
        "Kirchhoff’s laws",
        ({"U_s": 12, "R_1": 20_000, "R_2": 10_000}, {"U": 4, "I": 0.0004}),
        "divider",
    ),
    Sum(
        "loaded",
        "Divider, loaded",
        GROUP,
        "The same with something that takes current from it.",
        (
            Ask("U_s", "supply", "V", 5, 0.05, 0.01, 1000),
            Ask("R_1", "upper", "Ω", 10_000, RESISTOR, 1),
            Ask("R_2", "lower", "Ω", 10_000, RESISTOR, 1),
            Ask("R_L", "load", "Ω", 47_000, 0.2, 1),
        ),
        (
            Give("U_0", "unloaded", "V"),
            Give("U", "loaded", "V"),
            Give("lost", "lost", "%"),
            Give("R_i", "as if through", "Ω"),
        ),
        ("R_i = R_1 * R_2 / (R_1 + R_2)", "U = U_0 * R_L / (R_L + R_i)"),
        _loaded,
        "H. von Helmholtz 1853, L. C. Thévenin 1883",
        ({"U_s": 10, "R_1": 10_000, "R_2": 10_000, "R_L": 5_000}, {"U_0": 5, "U": 2.5, "lost": 50, "R_i": 5_000}),
        "loaded",
    ),
    Sum(
        "pull",
        "Pull, its window",
        GROUP,
        "No less than wastes, no more than leakage, noise and the wire allow: the 8-bit 5 V board with 20 pins.",
        (Ask("R", "pull", "Ω", 10_000, RESISTOR, 1, 1e8), Ask("length", "wire", "m", 0.3, 0, 0.01, 200)),
        (Give("R_least", "no less than", "Ω"), Give("R_most", "no more than", "Ω"), Give("t", "settles in", "s")),
        ("R_least = U / I_waste", "t = R * C * ln(1 / s)"),
        _pull,
        f"{PRACTICE}; the board's data sheet, not checked against its source",
        ({"R": 10_000, "length": 0.3}, {"R_least": 2_500, "R_most": 47_000}),
        "pull",
        "pull",
    ),
    Sum(
        "rc",
        "Filter before a pin",
        GROUP,
        "How long a capacitor takes through its resistor to the pin's thresholds.",
        (
            Ask("R", "resistor", "Ω", 10_000, RESISTOR, 1, 1e8),
            Ask("C", "capacitor", "F", 1e-6, 0.2, 1e-12, 1),
            Ask("high", "high from", "%", 60, 0, 1, 99),
            Ask("low", "low up to", "%", 30, 0, 1, 99),
        ),
        (Give("tau", "time constant", "s"), Give("t_up", "until high", "s"), Give("t_down", "until low", "s")),
        ("tau = R * C", "t_up = tau * ln(1 / (1 - s_h))", "t_down = tau * ln(1 / s_l)"),
        _rc,
        "Any textbook: v = V (1 − e^(−t/RC))",
        (
            {"R": 10_000, "C": 1e-6, "high": 63.2120558829, "low": 36.7879441171},
            {"tau": 0.01, "t_up": 0.01, "t_down": 0.01},
        ),
        "rc",
        "filter",
    ),
    Sum(
        "base",
        "Transistor at a pin",
        GROUP,
        "The resistor before its base, so that it switches through.",
        (
            Ask("U_p", "pin", "V", 5, 0.05, 1, 24),
            Ask("I_L", "load", "A", 0.1, 0, 1e-4, 20),
            Ask("gain", "its gain", "", 100, 0, 2, 50_000),
            Ask("over", "over-driven", "", 3, 0, 1, 50),
        ),
        (
            Give("I_B", "base", "A"),
            Give("R_B", "resistor", "Ω"),
            Give("R_E", "next below in E24", "Ω"),
            Give("I_pin", "the pin gives", "A"),
        ),
        ("I_B = k * I_L / B", "R_B = (U_p - U_be) / I_B"),
        _base,
        f"{PRACTICE}: 0.7 V at the base, three times what the gain asks",
        ({"U_p": 5, "I_L": 0.1, "gain": 100, "over": 3}, {"I_B": 0.003, "R_B": 1433.3333, "R_E": 1300}),
        "base",
        "base",
    ),
    Sum(
        "gate",
        "Field-effect transistor",
        GROUP,
        "What its gate gets, and what it burns.",
        (
            Ask("U_p", "pin", "V", 5, 0.05, 1, 24),
            Ask("U_th", "its threshold", "V", 2, 0, 0.3, 10),
            Ask("R_on", "when on", "Ω", 0.05, 0.3, 1e-4, 100),
            Ask("I_L", "load", "A", 2, 0, 1e-3, 200),
            Ask("R_s", "before the gate", "Ω", 150, 0, 1, 1e5),
            Ask("R_d", "to ground", "Ω", 100_000, 0, 100, 1e8),
        ),
        (Give("U_g", "at the gate", "V"), Give("P", "it burns", "W"), Give("I_p", "at once, from the pin", "A")),
        ("U_g = U_p * R_d / (R_s + R_d)", "P = I_L**2 * R_on"),
        _gate,
        PRACTICE,
        (
            {"U_p": 5, "U_th": 2, "R_on": 0.05, "I_L": 2, "R_s": 150, "R_d": 100_000},
            {"U_g": 4.99251, "P": 0.2, "I_p": 0.033333},
        ),
        "gate",
    ),
    Sum(
        "relay",
        "Relay coil and its diode",
        GROUP,
        "What the coil takes, and what the diode must stand.",
        (
            Ask("U", "coil", "V", 5, 0.1, 1, 240),
            Ask("R", "its resistance", "Ω", 70, 0.1, 1, 1e5),
            Ask("L", "its inductance", "H", 0.1, 0, 1e-6, 100),
        ),
        (
            Give("I", "current", "A"),
            Give("P", "it burns", "W"),
            Give("W", "stored", "J"),
            Give("t", "the diode holds it for", "s"),
        ),
        ("I = U / R", "W = L * I**2 / 2", "t = 2.3 * L / R"),
        _relay,
        "Any textbook; until a tenth is left",
        ({"U": 12, "R": 240, "L": 0.5}, {"I": 0.05, "P": 0.6, "W": 0.000625, "t": 0.00479167}),
        "relay",
    ),
    Sum(
        "opto",
        "Optocoupler",
        GROUP,
        "The resistor before its lamp, and the least pull behind it.",
        (
            Ask("U_s", "comes in", "V", 24, 0.1, 1, 400),
            Ask("U_f", "its drop", "V", 1.2, 0.1, 0, 3),
            Ask("I_f", "its lamp", "A", 0.005, 0, 1e-4, 0.1),
            Ask("ratio", "transfer ratio", "%", 100, 0, 1, 5000),
            Ask("U_o", "on the other side", "V", 5, 0, 1, 60),
        ),
        (
            Give("R_in", "before it", "Ω"),
            Give("R_E", "next below in E12", "Ω"),
            Give("I_out", "it switches", "A"),
            Give("R_pull", "pull, no less than", "Ω"),
        ),
        ("R_in = (U_s - U_f) / I_f", "R_pull = U_o / (I_f * r / 2)"),
        _opto,
        PRACTICE,
        (
            {"U_s": 24, "U_f": 1.2, "I_f": 0.005, "ratio": 100, "U_o": 5},
            {"R_in": 4560, "R_E": 3900, "I_out": 0.0025, "R_pull": 2000},
        ),
        "opto",
    ),
    Sum(
        "budget",
        "Current, all together",
        GROUP,
        "What everything takes, of what there is.",
        (
            Ask("I_1", "each of the first", "A", 0.01, 0, 0, 100),
            Ask("n_1", "of which there are", "", 6, 0, 0, 1000),
            Ask("I_2", "each of the second", "A", 0.02, 0, 0, 100),
            Ask("n_2", "of which there are", "", 2, 0, 0, 1000),
            Ask("I_b", "the board", "A", 0.045, 0, 0, 10),
            Ask("I_most", "there is", "A", 0.2, 0, 1e-4, 1000),
        ),
        (Give("I", "in all", "A"), Give("left", "left", "A"), Give("share", "of what there is", "%")),
        ("I = n_1 * I_1 + n_2 * I_2 + I_b",),
        _budget,
        "Kirchhoff’s laws",
        (
            {"I_1": 0.01, "n_1": 6, "I_2": 0.02, "n_2": 2, "I_b": 0.05, "I_most": 0.2},
            {"I": 0.15, "left": 0.05, "share": 75},
        ),
        "bar",
    ),
    Sum(
        "wire",
        "Wire, its drop",
        GROUP,
        "What copper loses there and back, and how thick it must be to lose 3 %.",
        (
            Ask("l", "one way", "m", 5, 0, 0.01, 1000),
            Ask("A", "cross-section", "mm²", 0.5, 0, 0.01, 100),
            Ask("I", "current", "A", 1, 0, 1e-4, 100),
            Ask("U", "supply", "V", 12, 0, 0.5, 400),
            Ask("T", "warm", "°C", 20, 0, -40, 120),
        ),
        (
            Give("R", "resistance", "Ω"),
            Give("U_d", "lost", "V"),
            Give("share", "of the supply", "%"),
            Give("A_3", "for 3 %", "mm²"),
            Give("A_E", "next thicker", "mm²"),
            Give("P", "it burns", "W"),
        ),
        ("R = 2 * rho * l / A", "U_d = R * I"),
        _wire,
        "IEC 60028, IEC 60228, from memory",
        (
            {"l": 10, "A": 1.0, "I": 1, "U": 12, "T": 20},
            {"R": 0.3448, "U_d": 0.3448, "share": 2.87333, "A_3": 0.957778, "A_E": 1.0, "P": 0.3448},
        ),
        "wire",
    ),
    Sum(
        "fuse",
        "Fuse",
        GROUP,
        "Three quarters of its rating, all the time; quick or slow by the start.",
        (
            Ask("I", "all the time", "A", 1.2, 0, 1e-3, 12),
            Ask("I_in", "at the start", "A", 6, 0, 1e-3, 1000),
            Ask("I_w", "the wire stands", "A", 5, 0, 1e-3, 1000),
        ),
        (Give("I_f", "no less than", "A"), Give("I_E", "next rating", "A"), Give("ratio", "start over rating", "")),
        ("I_f = I / 0.75",),
        _fuse,
        f"{PRACTICE}: 75 % of the rating; ratings of IEC 60127, from memory",
        ({"I": 1.2, "I_in": 6, "I_w": 5}, {"I_f": 1.6, "I_E": 1.6, "ratio": 3.75}),
        "fuse",
    ),
    Sum(
        "thermistor",
        "Thermistor",
        GROUP,
        "Its resistance at a temperature, and the voltage of its divider.",
        (
            Ask("R_25", "at 25 °C", "Ω", 10_000, 0.05, 1, 1e8),
            Ask("B", "its B", "K", 3950, 0.01, 100, 20_000),
            Ask("T", "temperature", "°C", 40, 0, -60, 300),
            Ask("R", "beside it, to supply", "Ω", 10_000, 0.01, 1, 1e8),
            Ask("U", "supply", "V", 5, 0, 0.5, 60),
        ),
        (Give("R_T", "resistance", "Ω"), Give("U_o", "between them", "V"), Give("slope", "a degree more", "V")),
        ("R_T = R_25 * exp(B * (1 / T - 1 / T_25))", "U_o = U * R_T / (R + R_T)"),
        _thermistor,
        "data sheets of thermistors: B between 25 and 85 °C",
        ({"R_25": 10_000, "B": 3950, "T": 25, "R": 10_000, "U": 5}, {"R_T": 10_000, "U_o": 2.5}),
        "thermistor",
    ),
)
