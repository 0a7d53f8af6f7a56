"""The sketch's side of inputs that are more than a contact: pins, what they are made of, how a pass reads them, and the
conditions under which they move a machine."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..boards import Board
from ..document import Bench, Listen, Measure, Scan, Turns
from ..document.parts import Analogue, Commands, Encoder, KeyMatrix, Sensed
from ..electrics import threshold_counts
from ..machines import EventName
from ..readers import KEYS_SKETCH, LISTENER_SKETCH, QUADRATURE_SKETCH, THRESHOLD_SKETCH, smoother_sketch
from .names import snake, upper


@dataclass(frozen=True)
class ReaderText:
    """What one input gives to the sketch: definitions of types (each once), variables, lines of `setup`, of the loop.
    `when(event)` is the head of the statement that runs when the event comes."""

    types: tuple[str, ...]
    variables: str
    setup: tuple[str, ...]
    loop: str
    when: Callable[[EventName], str]


def _mode(pull: str, board: Board) -> str:
    words = board.sketch
    modes = {"internal-up": words and words.pull_up_mode, "internal-down": words and words.pull_down_mode}
    return modes.get(pull) or "INPUT"


def _encoder(part: Encoder, reading: Turns, board: Board) -> ReaderText:
    name, const = snake(part.id), upper(part.id)
    a, b = f"digitalRead({const}_A_PIN) == LOW", f"digitalRead({const}_B_PIN) == LOW"
    sign = -1 if reading.reversed else 1
    variables = f"Quadrature {name}_turns({reading.counts_a_step}, {sign});\nint8_t {name}_steps = 0;\n"
    mode = _mode(part.pull, board)
    setup = [f"pinMode({const}_{end}_PIN, {mode});" for end in "AB"]
    if part.read_by == "polling":
        # In two statements: C++ does not say which argument of a call it works out first.
        loop = f"  const bool {name}_a = {a};\n  {name}_steps = {name}_turns.see({name}_a, {b});\n"
    else:
        variables += (
            f"volatile int8_t {name}_turned = 0;  // since the loop last took it\n"
            f"void {name}_called() {{\n  const bool a = {a};\n"
            f"  {name}_turned = int8_t({name}_turned + {name}_turns.see(a, {b}));\n}}\n"
        )
        setup.append(f"{name}_called();  // where it stands")
        setup += [f"attachInterrupt(digitalPinToInterrupt({const}_{end}_PIN), {name}_called, CHANGE);" for end in "AB"]
        loop = (
            f"  noInterrupts();  // the handler must not add while it is taken\n  {name}_steps = {name}_turned;\n"
            f"  {name}_turned = 0;\n  interrupts();\n"
        )

    def when(event: EventName) -> str:
        right = event[0] == "step"
        return f"for (int8_t n = {name}_steps; n {'>' if right else '<'} 0; {'--' if right else '++'}n)"

    return ReaderText((QUADRATURE_SKETCH,), variables, tuple(setup), loop, when)


def _measure(part: Analogue, reading: Measure, board: Board) -> ReaderText:
    name, const = snake(part.id), upper(part.id)
    upper_count, lower_count, falling = threshold_counts(part, reading, board)
    smoother, text = smoother_sketch(reading.smooth, reading.over)
    dwell_ms, sample_ms = reading.dwell_us // 1000, reading.sample_us // 1000
    sense = "true" if falling else "false"
    variables = (
        f"{smoother} {name}_smooth;\n"
        f"Threshold {name}_level({upper_count}, {lower_count}, {sense}, {dwell_ms}UL);\n"
        f"Crossing {name}_crossing = NO_CROSSING;\nuint32_t {name}_sampled = 0;\n"
    )
    loop = (
        f"  {name}_crossing = NO_CROSSING;\n"
        f"  if (uint32_t(now - {name}_sampled) >= {sample_ms}UL) {{\n    {name}_sampled = now;\n"
        f"    {name}_crossing = {name}_level.step(now, {name}_smooth.take(uint16_t(analogRead({const}_PIN))));\n  }}\n"
    )
    return ReaderText(
        (text, THRESHOLD_SKETCH),
        variables,
        (f"pinMode({const}_PIN, INPUT);", f"{name}_sampled = millis();"),
        loop,
        lambda event: f"if ({name}_crossing == {event[0].upper()})",
    )


def _scan(part: KeyMatrix, reading: Scan, board: Board) -> ReaderText:
    name, const = snake(part.id), upper(part.id)
    rows, columns = len(part.rows), len(part.columns)
    pins = {
        word: ", ".join(f"{const}_{what}_{n}_PIN" for n in range(count))
        for word, what, count in (("rows", "ROWS", rows), ("columns", "COLUMNS", columns))
    }
    variables = (
        f"const uint8_t {name}_rows[] = {{{pins['rows']}}};\nconst uint8_t {name}_columns[] = {{{pins['columns']}}};\n"
        f"Keys<{rows}, {columns}> {name}_keys({name}_rows, {name}_columns);\nuint32_t {name}_scanned = 0;\n"
    )
    setup = [f"pinMode({const}_ROWS_{n}_PIN, INPUT);" for n in range(rows)]
    setup += [f"pinMode({const}_COLUMNS_{n}_PIN, {_mode(part.pull, board)});" for n in range(columns)]
    loop = (
        f"  {name}_keys.rest();\n"
        f"  if (uint32_t(now - {name}_scanned) >= {reading.scan_us // 1000}UL) {{\n    {name}_scanned = now;\n"
        f"    {name}_keys.scan(now, {reading.interval_us // 1000}UL);\n  }}\n"
    )

    def when(event: EventName) -> str:
        heard = event[2] in part.names and event[2] not in reading.ignored
        return f"if ({name}_keys.pressed[{part.names.index(event[2])}])" if heard else "if (false)"

    return ReaderText((KEYS_SKETCH,), variables, (*setup, f"{name}_scanned = millis();"), loop, when)


def _listen(part: Commands, reading: Listen, board: Board) -> ReaderText:
    name = snake(part.id)
    typed = "true" if part.source == "typed" else "false"
    variables = f"Listener {name}_said({typed}, {reading.repeat_us // 1000}UL);\nint32_t {name}_number = -1;\n"

    def when(event: EventName) -> str:
        numbers = [reading.numbers_from + n for n, meant in enumerate(reading.names) if meant == event[2]]
        return f"if ({' || '.join(f'{name}_number == {n}' for n in numbers) or 'false'})"

    setup = (f"Serial.begin({part.baud}UL);",)
    return ReaderText((LISTENER_SKETCH,), variables, setup, f"  {name}_number = {name}_said.hear(now);\n", when)


def reader_text(bench: Bench, part: Sensed) -> ReaderText | None:
    """What an input gives to the sketch; None where the firmware does not read it."""
    board = bench.the_board
    match part, bench.firmware.readings.get(part.id):
        case Encoder(), Turns() as turns:
            return _encoder(part, turns, board)
        case Analogue(), Measure() as measure:
            return _measure(part, measure, board)
        case KeyMatrix(), Scan() as scan:
            return _scan(part, scan, board)
        case Commands(), Listen() as listen:
            return _listen(part, listen, board)
    return None


def reader_texts(bench: Bench) -> dict[str, ReaderText]:
    """By the id of the part, in the order in which a pass reads them."""
    return {part.id: text for _, part in bench.sensed if (text := reader_text(bench, part))}
