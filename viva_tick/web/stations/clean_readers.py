"""Clean for inputs that are more than a contact: what their editors show."""

from __future__ import annotations

from typing import Any

from ...core.document import Bench, Listen, Measure, Scan, TapTiming, Turns, scale_ends
from ...core.document.parts import Analogue, Commands, Encoder, KeyMatrix, Sensed
from ...core.electrics import counts_of, mv_in, pin_mv, range_of, said_in
from ...core.findings.thresholds import UNIT_WORDS, unit_of
from ...core.pins import first_reading
from ...core.program import idle_pass_us
from ...core.sweep import advise, counts_fit_us, noise_study, sweep_keys, turn_sweep
from ...core.switches import SWITCH_CLASSES
from ...core.units import ms, short
from ..charts import curves_chart
from ..drawings.readings import phase_figure
from ..slides import noise_slide, turn_slide
from .base import StationRequest
from .controls import Control

Figure = tuple[str, str, bool]  # value, words, whether it is wrong


def _tally(asked: StationRequest, part: Sensed, words: str) -> Figure:
    said = asked.study.answers.sensed.get(part.id) if asked.study.answers else None
    if said is None:
        return "—", words, False
    return f"{said.made} → {said.counted}", words, not said.agrees


def bounce_menu(where: str, current: str) -> list[tuple[str, bool, list[dict[str, Any]]]]:
    """The classes of switch as a menu: words, whether it is the present one, patch."""
    return [
        (f"{one.name}: {one.note}", one.id == current, [{"op": "replace", "path": where, "value": one.id}])
        for one in SWITCH_CLASSES.values()
    ]


FEW = ((1, "1"), (2, "2"), (4, "4"))
WAYS = ((False, "as it comes"), (True, "turned round"))
READ_BY = (("polling", "each pass"), ("interrupt", "at each edge"))


READ_NOTES = {
    "polling": "At each pass: right where the loop is quicker than the contacts change. Costs two readings a pass.",
    "interrupt": "At each edge: right in a loop that is held up. Costs two interrupt pins, and time at every bounce.",
}


def _encoder(asked: StationRequest, at: str, part: Encoder, reading: Turns, where: str) -> dict[str, Any]:
    bench = asked.bench
    pass_us = idle_pass_us(bench)
    longest_us = asked.study.answers.longest_pass_us if asked.study.answers else pass_us
    swept = turn_sweep(part, reading, pass_us)
    said = asked.study.answers.sensed.get(part.id) if asked.study.answers else None
    held = 1e6 / (longest_us * part.clicks_a_turn * part.counts_a_click)
    return {
        "question": "One detent, one step: how does it count, and how fast may it be turned?",
        "rows": [
            [
                Control("it gives", f"{at}/counts_a_click", part.counts_a_click, options=FEW),
                Control("a detent,", f"{at}/clicks_a_turn", part.clicks_a_turn, unit="detents a turn", reads="int"),
            ],
            [
                Control("wired", f"{at}/swapped", part.swapped, options=((False, "A first"), (True, "B first"))),
                Control("a step is", f"{where}/counts_a_step", reading.counts_a_step, options=FEW),
                Control("", "", "counts", reads="note"),
            ],
            [
                Control("counted", f"{where}/reversed", reading.reversed, options=WAYS),
                Control("read", f"{at}/read_by", part.read_by, options=READ_BY),
            ],
            [
                Control("a fast step follows within", f"{where}/fast_us", reading.fast_us, reads="time"),
                Control("and counts as", f"{where}/fast_steps", reading.fast_steps, unit="steps"),
                Control("edges at least", f"{where}/least_us", reading.least_us, reads="time"),
                Control("", "", "apart, sooner ones are not looked at", reads="note"),
            ],
            [],
        ],
        "bounces": bounce_menu(f"{at}/switch", part.switch),
        "read_note": READ_NOTES[part.read_by],
        "figure": phase_figure(part, reading),
        "slide_chart": None if asked.preview else turn_slide(part, at, swept),
        "sensed_figures": [
            _tally(asked, part, "detents → steps, here"),
            (str(said.errors) if said else "—", "without sense, here", bool(said and said.errors)),
            (
                ms(round(counts_fit_us(part, part.turns_a_second))),
                f"apart; a pass is {ms(pass_us)}",
                False,
            ),
            (
                f"{swept.fastest:.2g}{' +' if swept.open_ended else ''} /s" if swept.fastest else "none",
                "most" + (f"; {held:.2g} in the longest pass" if held < swept.fastest else ""),
                swept.fastest < part.turns_a_second,
            ),
        ],
    }


def _stays(now_us: int | None) -> tuple[tuple[int | None, str], ...]:
    """How long between the thresholds makes an event; None for no event."""
    offered = {1_000_000, 5_000_000, 30_000_000, 60_000_000, 600_000_000, *((now_us,) if now_us else ())}
    return ((None, "is no event"), *((us, f"{ms(us)} is an event") for us in sorted(offered)))


SMOOTHERS = (
    ("none", "as it is", "Right where the noise is far smaller than the hysteresis. No delay."),
    ("average", "average", "Right against even noise. Late by half of its samples."),
    ("median", "median", "Right against single spikes. Late by half of its samples."),
    ("slow", "low-pass", "Right for slow things, in two words of memory. Its tail is long."),
)


def _conversions(part: Analogue, bench: Bench, reading: Measure) -> list[tuple[str, list[str]]]:
    """The two thresholds in every unit."""
    board = bench.the_board
    rows = []
    for words, value in (("above from", reading.above), ("below under", reading.below)):
        at_mv = mv_in(part, board, reading.unit, value)
        own = said_in(part, board, "own", at_mv)
        shown = [
            f"{short(own, 4)} {getattr(part, 'unit', '')}",
            f"{counts_of(at_mv, board)} counts",
            f"{at_mv / 1000:.3f} V",
        ]
        rows.append((words, [*shown, f"{said_in(part, board, 'percent', at_mv):.1f} %"]))
    return rows


def _in_unit(part: Analogue, bench: Bench, reading: Measure, unit: str, where: str) -> list[dict[str, Any]]:
    """The same thresholds said in another unit."""
    board = bench.the_board
    least, most = scale_ends(unit, board)

    def converted(value: float) -> float:
        said = min(max(said_in(part, board, unit, mv_in(part, board, reading.unit, value)), least), most)
        return float(round(said)) if unit == "counts" else float(f"{said:.5g}")

    patch: list[dict[str, Any]] = [{"op": "replace", "path": f"{where}/unit", "value": unit}]
    for at, pair in zip(_places(reading, where), reading.pairs.values(), strict=True):
        low, high = sorted((converted(pair.above), converted(pair.below)))
        patch.append({"op": "replace", "path": f"{at}/above", "value": high})
        patch.append({"op": "replace", "path": f"{at}/below", "value": low})
    return patch


def _places(reading: Measure, where: str) -> list[str]:
    """Where each pair of thresholds stands in the document, the first one's first."""
    return [where, *(f"{where}/marks/{number}" for number in range(len(reading.marks)))]


def _marks(part: Analogue, bench: Bench, reading: Measure, where: str, of: str) -> dict[str, Any]:
    """The pairs of thresholds to choose among, another one, and what can be done with the one that is chosen."""
    board, number = bench.the_board, len(reading.marks) + 2
    taken = {one.id for one in reading.marks}
    ident = next(f"mark-{n}" for n in range(number, 99) if f"mark-{n}" not in taken)
    ends = [said_in(part, board, reading.unit, pin_mv(part, board, end)) for end in range_of(part)]
    above = float(f"{(max(pair.above for pair in reading.pairs.values()) + max(ends)) / 2:.4g}")
    apart = max(reading.above - reading.below, (max(ends) - min(ends)) / 50)
    below = float(f"{above - apart:.4g}")
    another = {"id": ident, "name": f"Threshold {number}", "above": above, "below": below}
    at = _places(reading, where)[[*reading.pairs].index(of)]
    named = next((one.name for one in reading.marks if one.id == of), "")
    name = Control("its name", f"{at}/name", named, reads="text", wide=True) if of else None
    return {
        "pairs": [("", "first", not of), *((one.id, one.name, one.id == of) for one in reading.marks)],
        "another": [{"op": "add", "path": f"{where}/marks/-", "value": another}] if number < 9 else [],
        "another_id": ident,
        "mark_name": name,
        "without_mark": [{"op": "remove", "path": at}] if of else [],
    }


def _measure(asked: StationRequest, at: str, part: Analogue, reading: Measure, where: str) -> dict[str, Any]:
    board = asked.bench.the_board
    unit = unit_of(part, reading)
    low, high = sorted(range_of(part))
    word, _, of = (asked.chosen or "").partition(" ")
    of = of if word == "mark" and of in reading.pairs else ""
    whole, at_pair = reading, _places(reading, where)[[*reading.pairs].index(of)]
    reading = whole.at(of)
    study = None if asked.preview or board.analogue is None else noise_study(part, reading, board)
    own = getattr(part, "unit", "")
    said = asked.study.answers.sensed.get(part.id) if asked.study.answers else None
    rows = [
        [
            Control("a sample every", f"{where}/sample_us", reading.sample_us, reads="time"),
            Control("over", f"{where}/over", reading.over, unit="samples", reads="int"),
            Control("and stays so for", f"{where}/dwell_us", reading.dwell_us, reads="time"),
            Control("noise", f"{at}/noise_mv", part.noise_mv, unit="mV", reads="milli"),
            Control("between the two for", f"{where}/stays_us", reading.stays_us, _stays(reading.stays_us), menu=True),
        ]
    ]
    return {
        "question": "From where on is it above, and how far must it come back before it is below?",
        "rows": rows,
        "units": [
            (word, name == reading.unit, _in_unit(part, asked.bench, whole, name, where))
            for name, word in (
                ("own", own or "own unit"),
                ("counts", "counts"),
                ("volts", "volts"),
                ("percent", "% of scale"),
            )
        ],
        "smoothers": [
            (name, words, note, name == reading.smooth, [{"op": "replace", "path": f"{where}/smooth", "value": name}])
            for name, words, note in SMOOTHERS
        ],
        "smoother_note": next(note for name, _, note in SMOOTHERS if name == reading.smooth),
        "stands": f"{at}/stands_at",
        "stands_now": part.stands_at if part.stands_at is not None else (low + high) / 2,
        "own_unit": own,
        "slide_chart": noise_slide(part, at_pair, reading, board, study, unit) if study else None,
        "conversions": _conversions(part, asked.bench, reading) if board.analogue else [],
        "advised": _advised(reading, study, at_pair) if study else [],
        "no_converter": board.analogue is None,
        "chosen": of or None,
        "chosen_word": asked.chosen,
        **(_marks(part, asked.bench, whole, where, of) if board.analogue else {}),
        "sensed_figures": [
            _tally(asked, part, "crossed → counted, here"),
            (
                f"{study.now_an_hour:,}" if study else f"{said.wrong}" if said else "—",
                "an hour, standing" if study else "too many here",
                bool(study and study.now_an_hour),
            ),
            (f"{short(reading.above - reading.below, 3)} {unit}", "hysteresis", False),
            (
                f"{short(study.peak, 2)} {unit}" if study else "…",
                f"noise, {study.peak_counts} counts" if study else "noise",
                False,
            ),
        ],
    }


def _advised(reading: Measure, study: Any, where: str) -> list[dict[str, Any]]:
    above, below = study.advised
    if (above, below) == (reading.above, reading.below) or reading.above - reading.below >= above - below:
        return []
    return [
        {"op": "replace", "path": f"{where}/{name}", "value": value}
        for name, value in (("above", above), ("below", below))
    ]


def _scan(asked: StationRequest, at: str, part: KeyMatrix, reading: Scan, where: str) -> dict[str, Any]:
    bench = asked.bench
    swept = sweep_keys(bench, part, reading)
    advice = advise(swept, bench.taps.get(part.id, TapTiming()).per_thousand)
    ignored = list(reading.ignored)
    keys = []
    for name in part.names:
        after = [one for one in ignored if one != name] if name in ignored else [*ignored, name]
        # One that the code needs cannot be let pass.
        patch = [] if name in reading.code else [{"op": "replace", "path": f"{where}/ignored", "value": after}]
        keys.append((name, name in ignored, patch))
    place = min(range(len(swept.interval_us)), key=lambda n: abs(int(swept.interval_us[n]) - reading.interval_us))
    median, _, worst = (int(value) for value in swept.wait_us[place])
    scan_us = len(part.rows) * len(part.columns) * bench.the_board.cost_us.read
    return {
        "question": "How often are the keys scanned, and how long must one be stable before it is accepted?",
        "rows": [
            [
                Control("the code", f"{where}/code", " ".join(reading.code), unit="keys, in order", reads="words"),
                Control("a rest begins it anew", f"{where}/forget_us", reading.forget_us, reads="time"),
            ],
            [Control("scan every", f"{where}/scan_us", reading.scan_us, reads="time")],
        ],
        "bounces": bounce_menu(f"{at}/switch", part.switch),
        "keys": keys,
        "key_columns": len(part.columns),
        "taps": bench.taps.get(part.id, TapTiming()),
        "tapped": part.id in bench.taps,
        "chart": curves_chart(swept, reading.interval_us, advice),
        "interval_path": f"{where}/interval_us",
        "limit_ms": 200,
        "wait_now": reading.interval_us,
        "sensed_figures": [
            _tally(asked, part, "pressed → counted, here"),
            (
                f"{ms(median)}" if median >= 0 else "—",
                f"accepted, {ms(worst)} worst" if worst >= 0 else "never accepted",
                median < 0,
            ),
            (ms(scan_us), "a scan takes", False),
            (str(len(part.names) - len(ignored)), f"of {len(part.names)} keys heard", False),
        ],
    }


def _into(bench: Bench, part: Commands, reading: Listen, where: str) -> list[Control]:
    """Where every number goes, and what is done with one that is out of range."""
    variables = [(one.id, one.name) for one in bench.firmware.variables]
    beyond = (("ignored", "ignored"), ("nearest", "set to the nearest"), ("told", "an event of its own"))
    row = [Control("each number goes into", f"{where}/into", reading.into, ((None, "nothing"), *variables), menu=True)]
    row += [
        Control("from", f"{where}/least", reading.least),
        Control("to", f"{where}/most", reading.most),
        Control("others are", f"{where}/outside", reading.outside, beyond, menu=True),
    ]
    if part.source == "typed":
        row.append(Control("a rest ends it (0: only its line)", f"{where}/ends_us", reading.ends_us, reads="time"))
    else:
        own = " ".join(map(str, reading.numbers))
        row.append(Control("numbers of its own", f"{where}/numbers", own, reads="numbers", wide=True))
    return row


def _listen(asked: StationRequest, at: str, part: Commands, reading: Listen, where: str) -> dict[str, Any]:
    many = max(len(reading.names), len(part.names))
    sends = {part.number(n): name for n, name in enumerate(part.names)}
    slots = []
    for place in range(many):
        name = reading.names[place] if place < len(reading.names) else ""
        after = [*reading.names, *[""] * (many - len(reading.names))]
        number = reading.number(place)
        idle = bool(part.active_most) and place >= part.active_most and not part.sets
        slots.append((number, name, sends.get(number, ""), f"{where}/names/{place}", after, idle))
    said = asked.study.answers.sensed.get(part.id) if asked.study.answers else None
    return {
        "question": "Which number means what?",
        "rows": [
            [
                Control("it counts from", f"{at}/first_number", part.first_number, options=((0, "0"), (1, "1"))),
                Control(
                    "the firmware from", f"{where}/numbers_from", reading.numbers_from, options=((0, "0"), (1, "1"))
                ),
            ],
            [
                Control(
                    "the same again within", f"{where}/repeat_us", reading.repeat_us, unit="ms is ignored", reads="ms"
                ),
                Control("recognised", f"{at}/hit_percent", part.hit_percent, unit="%", reads="int"),
                Control("active at once", f"{at}/active_most", part.active_most, unit="(0: all)", reads="int"),
            ],
            _into(asked.bench, part, reading, where),
        ],
        "slots": slots,
        "padded_from": len(reading.names),
        "padded": [*reading.names, *[""] * (many - len(reading.names))],
        "names_path": f"{where}/names",
        "sensed_figures": [
            _tally(asked, part, "sent → understood, here"),
            (str(said.wrong) if said else "—", "meant nothing, here", bool(said and said.wrong)),
            (f"{sum(map(bool, reading.names))}", f"of {len(part.names)} have a number", False),
            (f"{part.hit_percent} %", "is recognised", False),
        ],
    }


def reader_context(asked: StationRequest, at: str, part: Sensed) -> dict[str, Any]:
    """What the editor of an input that is more than a contact shows."""
    where = f"/firmware/readings/{part.id}"
    base: dict[str, Any] = {"sensed": part, "at": at, "where": where}
    stop = [{"op": "remove", "path": where}]
    match part, asked.bench.firmware.readings.get(part.id):
        case Encoder(), Turns() as turns:
            return base | {"editor": "encoder", "stop": stop} | _encoder(asked, at, part, turns, where)
        case Analogue(), Measure() as measure:
            return base | {"editor": "measure", "stop": stop} | _measure(asked, at, part, measure, where)
        case KeyMatrix(), Scan() as scan:
            return base | {"editor": "scan", "stop": stop} | _scan(asked, at, part, scan, where)
        case Commands(), Listen() as listen:
            return base | {"editor": "listen", "stop": stop} | _listen(asked, at, part, listen, where)
    begin = [{"op": "add", "path": where, "value": first_reading(part, asked.bench.the_board)}]
    return base | {"editor": "unread", "begin": begin, "unit_words": UNIT_WORDS, "reached": pin_mv}
