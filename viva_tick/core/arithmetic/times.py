"""Sums of time: the serial line, counters, dimming, the watchdog, hands, trials; and of what is measured."""

from __future__ import annotations

import math

from ..boards import boards
from ..guard.sleeping import life_days
from ..hand import PEOPLE
from ..pace.serial import GOOD_PERCENT, MOST_PERCENT, divider
from ..rates import wilson
from .base import Ask, Give, Sum, Values

Answer = dict[str, float | str]
TIME, MEASURE = "Times", "Measured and counted"
PRACTICE = "common practice"
HALF_NORMAL = math.sqrt(2)


def _baud(v: Values) -> Answer:
    ways = [divider(round(v["f"]), round(v["baud"]), double) for double in (False, True)]
    best = min(ways, key=lambda one: abs(one.error_percent))
    off = abs(best.error_percent)
    note = "The other end understands it." if off <= GOOD_PERCENT else "There is no room for what else is off."
    if off > MOST_PERCENT:
        note = "Nothing is understood: take another baud, or another clock."
    speed = " at double speed" if best.double else ""
    return {
        "D": best.divider,
        "real": best.baud,
        "off": best.error_percent,
        "t": 10 / v["baud"],
        "note": f"Divider {best.divider}{speed}. {note}",
    }


def _counter(v: Values) -> Answer:
    wraps = 2 ** round(v["n"]) * v["tick"]
    bits = math.ceil(math.log2(max(v["wait"] / v["tick"], 1) + 1))
    note = "The wait fits." if v["wait"] < wraps else "The wait is longer than the counter: it comes out wrong."
    return {"t": wraps, "half": wraps / 2, "bits": float(bits), "note": note}


def _pwm(v: Values) -> Answer:
    frequency = v["f"] / (v["N"] * (v["top"] + 1))
    steps = v["top"] + 1
    duty = min(v["value"] / v["top"], 1.0) if v["top"] else 0.0
    note = (
        "Below 100 Hz an eye sees it flicker."
        if frequency < 100
        else "An ear hears it in a motor."
        if frequency < 20_000
        else ""
    )
    return {"F": frequency, "bits": math.log2(steps), "duty": 100 * duty, "on": duty / frequency, "note": note}


def _watchdog(v: Values) -> Answer:
    steps = sorted(one / 1e6 for one in boards()["mid-8bit-5v"].watchdog_steps_us)
    least = v["t_pass"] * (1 + v["margin"] / 100)
    slow = v["off"] / 100
    fits = next((step for step in steps if step * (1 - slow) >= least), math.inf)
    note = (
        "No step is so long."
        if math.isinf(fits)
        else f"It may come {v['off']:.0f} % sooner or later: its own clock is no quartz."
    )
    return {"least": least, "step": fits, "sooner": fits * (1 - slow), "later": fits * (1 + slow), "note": note}


def _converter(v: Values) -> Answer:
    step = v["U"] / 2 ** round(v["n"])
    noisy = v["U_n"] / step
    effective = v["n"] - max(math.log2(max(noisy, 1.0)), 0.0)
    return {
        "step": step,
        "most": v["U"] - step,
        "counts": noisy,
        "effective": effective,
        "note": "The last bits are noise." if noisy > 1 else "",
    }


def crossings_a_s(band: float, sigma: float, bandwidth: float) -> float:
    """How often noise of a standard deviation crosses a band that it stands in the middle of, at one side (S. O. Rice
    1945): bandwidth / √3 · e^(−x²/2)."""
    return bandwidth / math.sqrt(3) * math.exp(-((band / 2 / sigma) ** 2) / 2) if sigma else 0.0


def _hysteresis(v: Values) -> Answer:
    wanted = 2 * v["U_pp"]
    sigma = v["U_pp"] / 6
    rate = crossings_a_s(v["band"], sigma, v["b"])
    every = 1 / rate if rate > 0 else math.inf
    note = "Wide enough." if v["band"] >= wanted else "Narrower than twice the noise."
    return {"band_2": wanted, "sigma": sigma, "every": every, "note": note}


def _battery(v: Values) -> Answer:
    average = v["I_on"] * v["on"] / 100 + v["I_off"] * (1 - v["on"] / 100)
    days = life_days(v["Q"] * 1000, v["usable"], v["lost"], average * 1e6)
    return {"I": average, "days": days, "note": ""}


def _hands(v: Values) -> Answer:
    hand = PEOPLE["practised"]
    hold, rest = (max(one.mean_ms - 2 * one.sd_ms, one.least_ms) / 1000 for one in (hand.press, hand.pause))
    share = 0.5 * (1 + math.erf((v["t"] * 1000 - hand.press.mean_ms) / hand.press.sd_ms / HALF_NORMAL))
    note = (
        "Two standard deviations below the mean; the interval must be shorter than both."
        if v["t"] < min(hold, rest)
        else "Quick presses are missed."
    )
    return {"hold": hold, "rest": rest, "rate": 1 / (hold + rest), "missed": 100 * share, "react": 0.231, "note": note}


def _doubled(v: Values) -> Answer:
    so, of = round(v["so"]), round(v["of"])
    if so > of:
        return {"p": math.nan, "low": math.nan, "high": math.nan, "n": math.nan, "note": "More doubled than pressed."}
    low, high = wilson(so, of)
    rate = so / of if of else 0.0
    n = math.log(0.05) / math.log(1 - high) if 0 < high < 1 else math.inf
    note = "None was seen: with 95 % certainty it is below the upper end." if not so else ""
    return {"p": 100 * rate, "low": 100 * low, "high": 100 * high, "n": n, "note": note}


SUMS = (
    Sum(
        "baud",
        "Baud and its error",
        TIME,
        "What a divider makes of a baud.",
        (Ask("f", "clock", "Hz", 16e6, 0.005, 1e4, 1e9), Ask("baud", "wanted", "Bd", 115_200, 0, 50, 5e6)),
        (
            Give("D", "divider", ""),
            Give("real", "comes out", "Bd"),
            Give("off", "off by", "%"),
            Give("t", "a letter takes", "s"),
        ),
        ("b = f / (16 * (D + 1))",),
        _baud,
        "data sheet DS40002061B, USART chapter, from memory",
        ({"f": 16e6, "baud": 115_200}, {"D": 16, "real": 117_647.06, "off": 2.12418}),
        "bits",
        "baud",
    ),
    Sum(
        "counter",
        "Counter, when it wraps",
        TIME,
        "After how long a counter begins anew, and how many bits a wait needs.",
        (
            Ask("n", "its bits", "bits", 32, 0, 1, 64),
            Ask("tick", "one count", "s", 1e-3, 0, 1e-9, 10),
            Ask("wait", "a wait", "s", 3600, 0, 0, 1e12),
        ),
        (Give("t", "wraps after", "s"), Give("half", "signed, after", "s"), Give("bits", "the wait needs", "bits")),
        ("t = 2**n * t_1",),
        _counter,
        "C11 §6.2.5",
        ({"n": 32, "tick": 1e-3, "wait": 65.535}, {"t": 4_294_967.296, "half": 2_147_483.648, "bits": 16}),
        "counter",
    ),
    Sum(
        "pwm",
        "Dimming, its frequency",
        TIME,
        "What a timer makes of a clock.",
        (
            Ask("f", "clock", "Hz", 16e6, 0, 1e3, 1e9),
            Ask("N", "divided by", "", 64, 0, 1, 65_536),
            Ask("top", "counts to", "", 255, 0, 1, 16_777_215),
            Ask("value", "on until", "", 64, 0, 0, 16_777_215),
        ),
        (
            Give("F", "frequency", "Hz"),
            Give("bits", "steps", "bits"),
            Give("duty", "on for", "%"),
            Give("on", "that is", "s"),
        ),
        ("F = f / (N * (top + 1))", "d = v / top"),
        _pwm,
        "data sheets: fast mode counts to the top and begins anew",
        ({"f": 16e6, "N": 64, "top": 255, "value": 127.5}, {"F": 976.5625, "bits": 8, "duty": 50, "on": 0.000512}),
        "pwm",
    ),
    Sum(
        "watchdog",
        "Watchdog, its window",
        TIME,
        "The step that no healthy pass reaches: the 8-bit 5 V board with 20 pins.",
        (
            Ask("t_pass", "longest pass", "s", 0.04, 0, 1e-6, 100),
            Ask("margin", "margin", "%", 50, 0, 0, 1000),
            Ask("off", "its clock is off by", "%", 10, 0, 0, 50),
        ),
        (
            Give("least", "no less than", "s"),
            Give("step", "next step", "s"),
            Give("sooner", "at the soonest", "s"),
            Give("later", "at the latest", "s"),
        ),
        ("t_least = t_pass * (1 + m)",),
        _watchdog,
        "data sheet of the 8-bit processor, not checked against its source",
        ({"t_pass": 0.2, "margin": 50, "off": 10}, {"least": 0.3, "step": 0.5, "sooner": 0.45, "later": 0.55}),
        "window",
        "watchdog",
    ),
    Sum(
        "hands",
        "Hands: presses and pauses",
        TIME,
        "How short presses are, and how many an interval misses.",
        (Ask("t", "interval", "s", 0.02, 0, 1e-4, 1),),
        (
            Give("hold", "held no shorter than", "s"),
            Give("rest", "apart no less than", "s"),
            Give("rate", "so many a second", "/s"),
            Give("missed", "held shorter than the interval", "%"),
            Give("react", "a simple reaction", "s"),
        ),
        ("p = Phi((t - mu) / sigma)",),
        _hands,
        "Dhakal et al. 2018, Woods et al. 2015, from memory",
        ({"t": 0.116}, {"hold": 0.068, "missed": 50, "react": 0.231}),
        "hands",
    ),
    Sum(
        "converter",
        "Converter: steps and noise",
        MEASURE,
        "What a count is worth, and how many of them noise is.",
        (
            Ask("U", "reference", "V", 5, 0.02, 0.1, 60),
            Ask("n", "bits", "bits", 10, 0, 1, 32),
            Ask("U_n", "noise, from end to end", "V", 0.02, 0, 0, 60),
        ),
        (
            Give("step", "one count", "V"),
            Give("most", "the highest count is", "V"),
            Give("counts", "noise is", ""),
            Give("effective", "bits that count", "bits"),
        ),
        ("q = U / 2**n",),
        _converter,
        "IEEE 1241, from memory",
        ({"U": 5.12, "n": 10, "U_n": 0.02}, {"step": 0.005, "most": 5.115, "counts": 4, "effective": 8}),
        "steps",
    ),
    Sum(
        "hysteresis",
        "Hysteresis from noise",
        MEASURE,
        "How far apart two thresholds stand, so that noise does not switch.",
        (
            Ask("U_pp", "noise, from end to end", "V", 0.02, 0, 1e-6, 60),
            Ask("band", "between the thresholds", "V", 0.04, 0, 0, 60),
            Ask("b", "how fast it is", "Hz", 1000, 0, 0.01, 1e9),
        ),
        (
            Give("band_2", "twice the noise", "V"),
            Give("sigma", "standard deviation", "V"),
            Give("every", "noise switches every", "s"),
        ),
        ("U_h = 2 * U_pp", "r = b / sqrt(3) * exp(-(U_h / (2 * sigma))**2 / 2)"),
        _hysteresis,
        "S. O. Rice, Mathematical Analysis of Random Noise, 1945",
        ({"U_pp": 0.06, "band": 0.12, "b": 1000}, {"band_2": 0.12, "sigma": 0.01}),
        "band",
    ),
    Sum(
        "battery",
        "Battery, how long",
        MEASURE,
        "What can be used of it over what is taken, with what it loses of itself.",
        (
            Ask("Q", "capacity", "Ah", 2.5, 0.1, 1e-4, 1000),
            Ask("usable", "of that usable", "%", 80, 0, 1, 100),
            Ask("lost", "lost a year", "%", 3, 0, 0, 100),
            Ask("I_on", "awake", "A", 0.015, 0.2, 0, 100),
            Ask("I_off", "asleep", "A", 10e-6, 0.2, 0, 100),
            Ask("on", "awake for", "%", 1, 0, 0, 100),
        ),
        (Give("I", "on average", "A"), Give("days", "it lasts", "d")),
        ("I = d * I_on + (1 - d) * I_off", "t = u * Q / (I + I_own)"),
        _battery,
        PRACTICE,
        ({"Q": 2.4, "usable": 100, "lost": 0, "I_on": 0.1, "I_off": 0.1, "on": 50}, {"I": 0.1, "days": 1}),
        "battery",
    ),
    Sum(
        "doubled",
        "Doubled presses, from a trial",
        MEASURE,
        "What so many of so many say, and how many more it takes to see one.",
        (Ask("so", "doubled", "", 1, 0, 0, 1e6), Ask("of", "of presses", "", 50, 0, 1, 1e6)),
        (
            Give("p", "seen", "%"),
            Give("low", "from", "%"),
            Give("high", "to", "%"),
            Give("n", "presses, to see one at the worst", ""),
        ),
        ("p = x / n", "N = ln(0.05) / ln(1 - p_high)"),
        _doubled,
        "E. B. Wilson 1927",
        ({"so": 1, "of": 10}, {"p": 10, "low": 1.7876, "high": 40.415}),
        "trial",
    ),
)
