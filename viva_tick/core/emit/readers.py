"""The sketch's side of inputs that are more than a contact: pins, what they are made of, how a pass reads them, and the
conditions under which they move a machine."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ..boards import Board
from ..document import HEARD, Bench, Listen, Measure, Scan, Turns
from ..document.parts import Analogue, Commands, Encoder, KeyMatrix, Sensed
from ..electrics import threshold_counts
from ..findings.thresholds import unit_of
from ..machines import EventName
from ..readers import (
    BAND_SKETCH,
    CODE_SKETCH,
    KEYS_SKETCH,
    MOST_STEPS,
    PACE_SKETCH,
    THRESHOLD_SKETCH,
    listener_sketch,
    quadrature_sketch,
    smoother_sketch,
)
from ..units import short
from .machine_names import variable_name
from .names import comment, snake, upper


@dataclass(frozen=True)
class ReaderText:
    """What one input gives to the sketch: definitions of types (each once), variables, lines of `setup`, of the loop.
    `when(event)` is the head of the statement that runs when the event comes."""

    types: tuple[str, ...]
    variables: str
    setup: tuple[str, ...]
    loop: str
    when: Callable[[EventName], str]
    functions: str = ""
    constants: str = ""


def _mode(pull: str, board: Board) -> str:
    words = board.program
    modes = {"internal-up": words and words.pull_up_mode, "internal-down": words and words.pull_down_mode}
    return modes.get(pull) or "INPUT"


def _encoder(part: Encoder, reading: Turns, board: Board, heard: set[EventName], any_least: bool) -> ReaderText:
    name, const = snake(part.id), upper(part.id)
    a, b = f"digitalRead({const}_A_PIN) == LOW", f"digitalRead({const}_B_PIN) == LOW"
    sign = -1 if reading.reversed else 1
    least = ", now" if any_least else ""
    variables = f"Quadrature {name}_turns({reading.counts_a_step}, {sign});\nint16_t {name}_steps = 0;\n"
    functions = ""
    mode = _mode(part.pull, board)
    setup = [f"pinMode({const}_{end}_PIN, {mode});" for end in "AB"]
    if reading.least_us:
        setup.append(f"{name}_turns.least = {reading.least_us // 1000}UL;")
    if part.read_by == "polling":
        # In two statements: C++ does not say which argument of a call it works out first.
        loop = f"  const bool {name}_a = {a};\n  {name}_steps = {name}_turns.see({name}_a, {b}{least});\n"
        loop += f"  {name}_turns.rest(now);\n" if reading.least_us else ""
    else:
        variables += f"volatile int16_t {name}_turned = 0;  // since the loop last took it\n"
        more = f"step > 0 ? so_far < {MOST_STEPS} : so_far > -{MOST_STEPS}"
        clock = "  const uint32_t now = millis();\n" if any_least else ""
        functions = (
            f"void {name}_called() {{\n{clock}  const bool a = {a};\n"
            f"  const int8_t step = {name}_turns.see(a, {b}{least});\n"
            f"  const int16_t so_far = {name}_turned;\n"
            f"  if ({more}) {name}_turned = int16_t(so_far + step);  // it stops at its end\n}}\n"
        )
        setup.append(f"{name}_called();  // where it stands")
        setup += [f"attachInterrupt(digitalPinToInterrupt({const}_{end}_PIN), {name}_called, CHANGE);" for end in "AB"]
        rest = f"  {name}_turns.rest(now);\n" if reading.least_us else ""
        loop = (
            f"  noInterrupts();  // the handler must not add while it is taken\n  {name}_steps = {name}_turned;\n"
            f"  {name}_turned = 0;\n{rest}  interrupts();\n"
        )

    types = [quadrature_sketch(any_least)]
    hears_fast = bool(heard & {("fast", part.id, ""), ("fast-back", part.id, "")})
    if hears_fast or reading.fast_steps > 1:
        types.append(PACE_SKETCH)
        variables += f"Pace {name}_pace({reading.fast_us // 1000}UL);\nint16_t {name}_quick = 0;\n"
        loop += f"  {name}_quick = {name}_pace.steps(now, {name}_steps);\n"
    if reading.fast_steps > 1:
        more = f"{name}_quick * {reading.fast_steps - 1}"
        loop += f"  {name}_steps = int16_t({name}_steps + {more});  // a fast step is {reading.fast_steps}\n"

    def when(event: EventName) -> str:
        right = event[0] in ("step", "fast")
        steps = f"{name}_quick" if event[0].startswith("fast") else f"{name}_steps"
        return f"for (int16_t n = {steps}; n {'>' if right else '<'} 0; {'--' if right else '++'}n)"

    return ReaderText(tuple(types), variables, tuple(setup), loop, when, functions)


def place_of(reading: Measure, of: str) -> str:
    """What the names of a mark's variables end in: nothing for the first pair of thresholds."""
    return f"_{[*reading.pairs].index(of) + 1}" if of else ""


def _measure(part: Analogue, reading: Measure, board: Board, heard: set[EventName]) -> ReaderText:
    name, const = snake(part.id), upper(part.id)
    counts = {of: threshold_counts(part, pair, board) for of, pair in reading.pairs.items()}
    smoother, text = smoother_sketch(reading.smooth, reading.over)
    dwell_ms, sample_ms = reading.dwell_us // 1000, reading.sample_us // 1000
    variables = f"{smoother} {name}_smooth;\nuint32_t {name}_sampled = 0;\nuint16_t {name}_count = 0;\n"
    clears = steps = ""
    constants = f"const uint32_t {const}_SAMPLE_MS = {sample_ms}UL;  // {comment(part.name)}: a sample so often\n"
    titles = {one.id: one.name for one in reading.marks}
    for of, (upper_count, lower_count, falling) in counts.items():
        crossing, sense = f"{name}_crossing{place_of(reading, of)}", "true" if falling else "false"
        at, pair = f"{const}{place_of(reading, of)}", reading.pairs[of]
        for word, count, value in (("ABOVE", upper_count, pair.above), ("BELOW", lower_count, pair.below)):
            said = f"{short(value)} {unit_of(part, reading)}".strip()
            constants += f"const int32_t {at}_{word}_AT = {count};  // {said}, in counts of the converter\n"
        level = f"{name}_level{place_of(reading, of)}"
        note = f"  // {comment(titles[of])}" if of else ""
        variables += f"Threshold {level}({at}_ABOVE_AT, {at}_BELOW_AT, {sense}, {dwell_ms}UL);{note}\n"
        variables += f"Crossing {crossing} = NO_CROSSING;\n"
        clears += f"  {crossing} = NO_CROSSING;\n"
        steps += f"    {crossing} = {level}.step(now, {name}_count);\n"
    stays = bool(reading.stays_us) and ("stays", part.id, "") in heard
    stay = ""
    if stays:
        low, high = sorted(counts[""][:2])
        variables += (
            f"Band {name}_band({low}, {high}, {(reading.stays_us or 0) // 1000}UL);\nbool {name}_stayed = false;\n"
        )
        stay = f"    {name}_stayed = {name}_band.step(now, {name}_count);\n"
    loop = (
        f"{clears}"
        f"  if (uint32_t(now - {name}_sampled) >= {const}_SAMPLE_MS) {{\n    {name}_sampled = now;\n"
        f"    {name}_count = {name}_smooth.take(uint16_t(analogRead({const}_PIN)));\n"
        f"{steps}"
        f"{stay}  }}\n"
    )

    def when(event: EventName) -> str:
        if event[0] == "stays":
            return f"if ({name}_stayed)" if stays else "if (false)"
        return f"if ({name}_crossing{place_of(reading, event[2])} == {event[0].upper()})"

    return ReaderText(
        (text, THRESHOLD_SKETCH, *((BAND_SKETCH,) if stays else ())),
        variables,
        (f"pinMode({const}_PIN, INPUT);", f"{name}_sampled = millis();"),
        f"  {name}_stayed = false;\n" + loop if stays else loop,
        when,
        constants=constants,
    )


def _scan(part: KeyMatrix, reading: Scan, board: Board, heard: set[EventName]) -> ReaderText:
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
        f"  if (uint32_t(now - {name}_scanned) >= {const}_SCAN_MS) {{\n    {name}_scanned = now;\n"
        f"    {name}_keys.scan(now, {const}_WAIT_MS);\n  }}\n"
    )

    types = [KEYS_SKETCH]
    if reading.code and heard & {("code", part.id, ""), ("wrong", part.id, "")}:
        types.append(CODE_SKETCH)
        places = ", ".join(str(part.names.index(key)) for key in reading.code)
        passed = " && ".join(f"n != {part.names.index(key)}" for key in reading.ignored)
        variables += (
            f"const uint8_t {name}_code[] = {{{places}}};\n"
            f"CodeLock {name}_lock({name}_code, {len(reading.code)}, {reading.forget_us // 1000}UL);\n"
            f"bool {name}_right = false, {name}_wrong = false;\n"
        )
        loop += (
            f"  {name}_right = {name}_wrong = false;\n  for (uint8_t n = 0; n < {rows * columns}; ++n) {{\n"
            f"    if (!{name}_keys.pressed[n]{' || !(' + passed + ')' if passed else ''}) continue;\n"
            f"    const CodeSays said = {name}_lock.key(now, n);\n"
            f"    if (said == CODE) {name}_right = true;\n    if (said == WRONG) {name}_wrong = true;\n  }}\n"
        )

    def when(event: EventName) -> str:
        if event[0] in ("code", "wrong"):
            says = f"{name}_{'right' if event[0] == 'code' else 'wrong'}"
            return f"if ({says})" if reading.code else "if (false)"
        known = event[2] in part.names and event[2] not in reading.ignored
        return f"if ({name}_keys.pressed[{part.names.index(event[2])}])" if known else "if (false)"

    constants = (
        f"const uint32_t {const}_SCAN_MS = {reading.scan_us // 1000}UL;  // {comment(part.name)}: a scan so often\n"
    )
    constants += f"const uint32_t {const}_WAIT_MS = {reading.interval_us // 1000}UL;  // a key must stand so long\n"
    setup.append(f"{name}_scanned = millis();")
    return ReaderText(tuple(types), variables, tuple(setup), loop, when, constants=constants)


def _listen(part: Commands, reading: Listen, lines: bool, baud: int, any_ends: bool) -> ReaderText:
    name = snake(part.id)
    flags = ", ".join("true" if flag else "false" for flag in (part.source == "typed", lines))
    variables = f"Listener {name}_said({flags}, {reading.repeat_us // 1000}UL);\nint32_t {name}_number = -1;\n"
    inside = f"{name}_number >= {reading.least} && {name}_number <= {reading.most}"
    nearest = f"{name}_number < {reading.least} ? {reading.least} : {reading.most}"
    loop = f"  {name}_number = {name}_said.hear(now);\n"
    if reading.into:
        put = f"set_{variable_name(reading.into)}"
        loop += f"  if ({name}_number >= 0) {{\n    if ({inside}) {put}({name}_number);\n"
        loop += f"    else {put}({nearest});\n  }}\n" if reading.outside == "nearest" else "  }\n"

    def when(event: EventName) -> str:
        if event[0] == "number":
            return f"if ({f'{name}_number >= 0' if reading.outside == 'nearest' else inside})"
        if event[0] == "outside":
            told = reading.outside == "told"
            return f"if ({name}_number >= 0 && !({inside}))" if told else "if (false)"
        numbers = [number for number, meant in reading.by_number.items() if meant == event[2]]
        return f"if ({' || '.join(f'{name}_number == {n}' for n in numbers) or 'false'})"

    setup = [f"Serial.begin({baud}UL);"]
    if ends := reading.ends_us // 1000 if part.source == "typed" else 0:
        setup.append(f"{name}_said.ends = {ends}UL;")
    return ReaderText((listener_sketch(any_ends),), variables, tuple(setup), loop, when)


def reader_text(bench: Bench, part: Sensed) -> ReaderText | None:
    """What an input gives to the sketch; None where the firmware does not read it."""
    board = bench.the_board
    machines = bench.firmware.machines
    heard = {one.on.name for machine in machines for one in machine.transitions if isinstance(one.on, HEARD)}
    match part, bench.firmware.readings.get(part.id):
        case Encoder(), Turns() as turns:
            readings = bench.firmware.readings.values()
            any_least = any(isinstance(one, Turns) and one.least_us for one in readings)
            return _encoder(part, turns, board, heard, any_least)
        case Analogue(), Measure() as measure:
            return _measure(part, measure, board, heard)
        case KeyMatrix(), Scan() as scan:
            return _scan(part, scan, board, heard)
        case Commands(), Listen() as listen:
            any_ends = any(isinstance(one, Listen) and one.ends_us for one in bench.firmware.readings.values())
            return _listen(part, listen, bench.firmware.serial.reads == "line", bench.line_baud, any_ends)
    return None


def reader_texts(bench: Bench) -> dict[str, ReaderText]:
    """By the id of the part, in the order in which a pass reads them."""
    return {part.id: text for _, part in bench.sensed if (text := reader_text(bench, part))}
