"""The bench as a `setup()` / `loop()` sketch in C++: the same blocks in the same order as the firmware model.

Nothing blocks unless the bench asks for it; every time comparison is an unsigned subtraction, right across the
wrap of the millisecond counter.
"""

from __future__ import annotations

import textwrap

from ..boards import Board, SketchWords
from ..debounce import METHODS
from ..document import Bench, Claim, ContactLine, Gestures
from ..drives import Drive, Follow, FollowVariable
from ..gestures import CHORD_SKETCH, GESTURES_SKETCH, chords_wanted, wanted_by
from ..machines import DICE_SKETCH, DICE_TYPE_SKETCH, DICE_VALUE_SKETCH
from ..pieces import piece
from ..program import in_its_school
from .guard import GuardTexts, fed_at, fed_in_waits, guarded
from .keeping import KeepTexts
from .layout import Layout
from .machine_names import chord_name, counts_wanted, looked_at, rolls, variable_name
from .machines import MachineTexts
from .names import comment, snake, upper
from .readers import reader_texts
from .tasks import in_order, task_loop, task_setup, task_text, task_values
from .warnings import Warnings, chosen_mistakes, talks, warning_lines, without_serial

EDGE = piece(__file__, "edge")


SHORTER = piece(__file__, "shorter")


def _head(bench: Bench, board: Board, words: SketchWords, keeps: KeepTexts, guard: GuardTexts, said: Warnings) -> str:
    lines = [f"// {comment(bench.name)}", f"// For: {board.name}."]
    for line in warning_lines(bench, said):
        rows = textwrap.wrap(comment(line), 84, initial_indent="// ", subsequent_indent="//   ")
        lines += rows or ["//"]
    if bench.note:
        lines += [f"// {comment(line)}" for given in bench.note.splitlines() for line in textwrap.wrap(given, 96)]
    headers = [*([str(words.store_header)] if keeps.stores else []), *guard.headers]
    if headers:
        lines += ["", *(f"#include <{header}>" for header in headers)]
    if bench.firmware.guards and not guarded(bench, words):
        lines += [
            "//",
            "// The bench has a watchdog; this sketch does not switch it on: look up this board's own calls.",
        ]
    notes = keeps.notes()
    notes += chosen_mistakes(bench)
    if board.uart is None and talks(bench):
        notes.append("This board has no serial line: what the bench prints or hears there is left out.")
    if bench.firmware.school == "kernel":
        notes.append("The bench runs its tasks under a kernel; this sketch has them in one loop.")
    lines += [line for note in notes for line in ("//", f"// {comment(note)}")]
    return "\n".join(lines) + "\n"


def _constants(bench: Bench, board: Board) -> str:
    lines = []
    for part in bench.lines:
        pin = board.pin(part.pin)
        lines.append(f"const uint8_t {upper(part.id)}_PIN = {pin.code if pin else part.pin};  // {comment(part.name)}")
    read = bench.firmware.readings
    for claim in _unread(bench):
        pin = board.pin(claim.pin)
        if claim.part in read and claim.needs == ("serial-in",):
            continue  # the serial line is the board's own
        note = comment(claim.name) + ("" if claim.part in read else ": wired, not used by this sketch yet")
        lines.append(f"const uint8_t {_unread_name(claim)} = {pin.code if pin else claim.pin};  // {note}")
    waits = []
    for source in bench.contacts:
        debounce = bench.debounce(source.id)
        method = METHODS[debounce.method]
        interval_ms = debounce.interval_us // 1000 if method.has_interval else 0
        note = f"{comment(source.name)}: {method.title.lower()}"
        waits.append(f"const uint32_t {upper(source.id)}_WAIT_MS = {interval_ms}UL;  // {note}")
    return "\n".join([*lines, "", *waits, ""])


def _setup(
    bench: Bench, board: Board, words: SketchWords, texts: MachineTexts, keeps: KeepTexts, guard: GuardTexts
) -> str:
    lines = ["void setup() {", *guard.setup()]
    lines += texts.outputs.setup()
    modes = {"internal-up": words.pull_up_mode, "internal-down": words.pull_down_mode}
    for part in bench.contacts:
        lines.append(f"  pinMode({upper(part.id)}_PIN, {modes.get(part.wiring.pull) or 'INPUT'});")
        if METHODS[bench.debounce(part.id).method].by == "interrupt":
            way = "FALLING" if part.active_level == "low" else "RISING"
            pin = f"{upper(part.id)}_PIN"
            lines.append(f"  attachInterrupt(digitalPinToInterrupt({pin}), {snake(part.id)}_called, {way});")
    for claim in _unread(bench):
        # The bus, the serial line and a servo are set up by what will use them; a row of keys floats until scanned.
        if claim.part not in bench.firmware.readings and (claim.pull != "none" or "analogue" in claim.needs):
            lines.append(f"  pinMode({_unread_name(claim)}, {modes.get(claim.pull) or 'INPUT'});")
    read = [line for reader in reader_texts(bench).values() for line in reader.setup]
    lines += [f"  {line}" for line in read]
    if any(task.talks for task in bench.firmware.tasks) and not any("Serial.begin" in line for line in read):
        lines.append(f"  Serial.begin({bench.firmware.serial.baud}UL);")
    if bench.firmware.machines or bench.firmware.tasks or keeps.keeps:
        lines.append("  const uint32_t now = millis();")
    lines += keeps.restore()
    kept = {keep.of: (keeps.known(keep), keeps.place(keep)) for keep in keeps.keeps}
    for machine in bench.firmware.machines:
        lines += texts.setup(machine, kept.get(machine.id))
    lines += keeps.begun()
    lines += [task_setup(bench, task) for task in bench.firmware.tasks]
    lines += guard.on()
    return "\n".join([*lines, "}", ""])


def _loop(bench: Bench, words: SketchWords, texts: MachineTexts, keeps: KeepTexts, guard: GuardTexts) -> str:
    firmware = bench.firmware
    looked, mixed = looked_at(bench), rolls(bench)
    text = "void loop() {\n"
    if fed_at(bench, words, "start"):
        text += guard.feed()
    text += "  const uint32_t now = millis();  // read once: the whole pass agrees on the time\n"
    if bench.readers:
        text += "\n  // Read and clean the inputs.\n"
    readers = reader_texts(bench)
    wanted = wanted_by(bench)
    for part in bench.readers:
        if not isinstance(part, ContactLine):
            text += readers[part.id].loop
            continue
        level = "LOW" if part.active_level == "low" else "HIGH"
        name, const = snake(part.id), upper(part.id)
        reading = f"digitalRead({const}_PIN) == {level}"
        text += f"  const Edge {name}_edge = {name}_clean.step(now, {reading}, {const}_WAIT_MS);\n"
        if part.id in looked:
            text += f"  if ({name}_edge != NO_EDGE) {name}_down = {name}_edge == PRESS;\n"
        if mixed:
            text += f"  if ({name}_edge == PRESS) MIX_DICE();\n"
        if part.id in wanted:
            text += f"  {name}_gestures.step(now, {name}_edge);\n"
    for one, other in chords_wanted(bench):
        chord, first, second = chord_name(one, other), snake(one), snake(other)
        text += f"  {chord}_now = {chord}.step(now, {first}_edge, {second}_edge);\n"
        spent = "".join(f"    {snake(ident)}_gestures.spend();\n" for ident in (one, other) if ident in wanted)
        text += f"  if ({chord}_now) {{  // and no click of either\n{spent}  }}\n" if spent else ""
    if firmware.machines:
        text += "\n  // Step the machines.\n"
        text += "".join(texts.call(machine) for machine in firmware.machines)
    for task in in_order(bench):
        fed = fed_at(bench, words, "task") and firmware.watchdog.feed_task == task.id
        text += task_loop(bench, task, guard.feed() if fed else "")
    text += keeps.loop()
    if bench.channels:
        text += "\n  // Drive the outputs.\n"
        seen = _seen(bench, texts)
        text += "".join(texts.outputs.update(part, seen) for part in bench.channels)
    for line in bench.contacts:
        debounce = bench.debounce(line.id)
        if METHODS[debounce.method].by == "looking":
            text += (
                f"\n  {snake(line.id)}_clean.finish({upper(line.id)}_WAIT_MS);  // stands still until it is let go\n"
            )
        elif METHODS[debounce.method].blocks and debounce.interval_us:
            text += f"\n  if ({snake(line.id)}_edge != NO_EDGE) delay({upper(line.id)}_WAIT_MS);  // everything stops\n"
    if firmware.school == "delays":
        text += texts.stands_out()
    if firmware.loop.tail_delay_us:
        text += f"\n  delay({firmware.loop.tail_delay_us // 1000}UL);  // everything stops\n"
    used = {name for names in texts.names.values() for name in names.inputs} | looked
    idle = [
        f"  (void){snake(line.id)}_edge;  // no machine listens\n" for line in bench.contacts if line.id not in used
    ]
    text += "".join(idle)
    if fed_at(bench, words, "end"):
        text += "\n" + guard.feed()
    return text + guard.rest() + "}\n"


def _cleaner(bench: Bench, line: ContactLine) -> tuple[str, str]:
    """The variable that cleans a contact, and the handler of one that interrupts."""
    debounce = bench.debounce(line.id)
    part = METHODS[debounce.method].sketch
    name, const = snake(line.id), upper(line.id)
    level = "LOW" if line.active_level == "low" else "HIGH"
    made = {"sample": f"({max(debounce.sample_us // 1000, 1)}UL)", "pin": f"({const}_PIN, {level})"}.get(part.takes, "")
    handler = f"void {name}_called() {{ {name}_clean.handle({const}_WAIT_MS); }}\n" if part.takes == "handler" else ""
    return f"{part.struct} {name}_clean{made};\n", handler


def _gestures(bench: Bench) -> tuple[list[str], str]:
    """What tells the buttons' gestures and chords apart, where a machine listens for any: types, variables."""
    wanted, chords = wanted_by(bench), chords_wanted(bench)
    made = [
        f"Gestures {snake(ident)}_gestures({w.most}, {w.window_ms}UL, {w.hold_ms}UL, {w.repeat_ms}UL, "
        f"{'true' if w.quicken else 'false'});\n"
        for ident, w in wanted.items()
    ]
    for one, other in chords:
        together_ms = bench.firmware.gestures.get(one, Gestures()).together_us // 1000
        made.append(f"Chord {chord_name(one, other)}({together_ms}UL);\nbool {chord_name(one, other)}_now = false;\n")
    return [GESTURES_SKETCH if wanted else "", CHORD_SKETCH if chords else ""], "".join(made)


def _seen(bench: Bench, texts: MachineTexts) -> dict[Drive, str]:
    """The level of everything that an output follows, as an expression."""
    seen: dict[Drive, str] = {}
    counted, contacts = counts_wanted(bench), {line.id for line in bench.contacts}
    for drive in texts.outputs.followed:
        if isinstance(drive, Follow):
            if drive.input in contacts:
                level = f"{snake(drive.input)}_down ? 100 : 0"
            else:
                count = f"{snake(drive.input)}_count" if drive.input in counted else "0"
                level = f"100UL * {count} / {texts.full}"
        elif isinstance(drive, FollowVariable):
            one = texts.variables[drive.variable]
            span = one.most - one.least
            level = f"100LL * ({variable_name(one.id)} - {one.least}LL) / {span}" if span else "100"
        else:
            continue
        seen[drive] = f"uint8_t(100 - ({level}))" if drive.inverted else f"uint8_t({level})"
    return seen


def _unread(bench: Bench) -> list[Claim]:
    """Claims that neither a contact nor a channel stands for: wired, and not read or driven by the sketch yet."""
    known = {f"{line.at}/pin" for line in bench.contacts}
    driven = {(channel.part.id, channel.pin) for channel in bench.channels}
    return [claim for claim in bench.claims if claim.where not in known and (claim.part, claim.pin) not in driven]


def _unread_name(claim: Claim) -> str:
    place = claim.where.split("/", 3)[3]
    return (
        f"{upper(claim.part)}_PIN" if place == "pin" else f"{upper(claim.part)}_{place.replace('/', '_').upper()}_PIN"
    )


def can_sketch(bench: Bench) -> bool:
    """Whether the bench's board is programmed with `setup()` and `loop()`."""
    return bench.the_board.sketch is not None


def sketch(bench: Bench, said: Warnings = ()) -> str:
    """The whole sketch, as text; `said` are the findings that must be fixed, for its head. ValueError for a board
    without such a compiler: see `can_sketch`."""
    bench = without_serial(in_its_school(bench))
    board = bench.the_board
    words = board.sketch
    if words is None:
        raise ValueError(f"There is no sketch for this board: {board.name}.")
    texts = MachineTexts(bench)
    machines = bench.firmware.machines
    keeps = KeepTexts(bench, words)
    guard = GuardTexts(bench, board, words, keeps, texts.raises(("watchdog-reset", "", "")))
    made = Layout(head=[_head(bench, board, words, keeps, guard, said)], early=guard.early())
    made.add(types=[_constants(bench, board), *guard.types(), *keeps.types()])
    if bench.contacts:
        methods = dict.fromkeys(bench.debounce(part.id).method for part in bench.contacts)
        made.add(types=[EDGE, *(METHODS[method].sketch.text for method in methods)])
        cleaners = [_cleaner(bench, line) for line in bench.contacts]
        made.add(values=[one for one, _ in cleaners], functions=[handler for _, handler in cleaners])
    types, values = _gestures(bench)
    made.add(types=types, values=[values])
    readers = list(reader_texts(bench).values())
    made.add(
        types=[text for reader in readers for text in reader.types],
        values=[reader.variables for reader in readers],
        functions=[reader.functions for reader in readers],
    )
    if bench.channels:
        outs = texts.outputs
        made.add(types=[outs.struct()], values=[outs.variables()], functions=[outs.functions()])
    made.add(values=[f"bool {snake(ident)}_down = false;\n" for ident in sorted(looked_at(bench))])
    if rolls(bench):
        made.add(types=[DICE_TYPE_SKETCH], values=[DICE_VALUE_SKETCH], functions=[DICE_SKETCH])
    made.add(
        types=[texts.type_of(one) for one in machines],
        values=[
            *map(texts.declarations, machines),
            *map(texts.variable, bench.firmware.variables),
            *map(task_values, bench.firmware.tasks),
            *guard.values(),
            *keeps.values(),
        ],
        functions=[
            *guard.functions(),
            *map(texts.setter, bench.firmware.variables),
            *map(task_text, bench.firmware.tasks),
            keeps.functions(),
            *map(texts.functions, machines),
            *(texts.stand_out(one) for one in machines if texts.stands(one)),
            _setup(bench, board, words, texts, keeps, guard),
            _loop(bench, words, texts, keeps, guard),
        ],
    )
    if any(map(texts.stands, machines)):
        made.add(functions=[SHORTER])
    if guard.early():
        feed = guard.feed_text
        made.types = [fed_in_waits(one, feed) for one in made.types]
        made.functions = [fed_in_waits(one, feed) for one in made.functions]
    return made.text()
