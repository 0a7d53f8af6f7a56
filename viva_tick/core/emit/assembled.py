"""The bench as a program in our notation (`tree`): the same blocks in the same order as the firmware model. Writers
make of it what each target runs.

Nothing blocks unless the bench asks for it; every time comparison is an unsigned subtraction, right across the
wrap of the millisecond counter.
"""

from __future__ import annotations

import json
import textwrap
from collections.abc import Callable
from dataclasses import dataclass
from typing import ClassVar
from zlib import crc32

from ... import __version__
from ..boards import Board, SketchWords
from ..debounce import METHODS
from ..document import BOARD_EVENTS, Bench, Claim, ContactLine, Gestures, Style, bench_data
from ..drives import DriveModel, Follow, FollowVariable, PickedPlace
from ..gestures import CHORD_SKETCH, GESTURES_SKETCH
from ..machines import DICE_SKETCH, DICE_TYPE_SKETCH, DICE_VALUE_SKETCH
from ..pieces import piece
from ..program import Block, Program, Stage, program_of, under
from .guard import GuardTexts, fed_in_waits, guarded
from .keeping import KeepTexts
from .kernel import KernelTexts
from .layout import Layout
from .machine_names import chord_name, counts_wanted, looked_at, rolls, variable_name
from .machines import MachineTexts
from .names import comment, snake, upper
from .readers import reader_texts
from .tasks import task_constant, task_loop, task_setup, task_text, task_values
from .tracing import TraceTexts
from .warnings import Warnings, chosen_mistakes, talks, warning_lines, without_serial
from .wires import wires

EDGE = piece(__file__, "edge")


SHORTER = piece(__file__, "shorter")


def _notes(
    bench: Bench, board: Board, words: SketchWords, keeps: KeepTexts, with_kernel: bool = False
) -> tuple[str, ...]:
    """What the bench does and the sketch does not, or does wrong on purpose."""
    notes = []
    if bench.firmware.guards and not guarded(bench, words):
        notes.append("The bench has a watchdog; this program does not switch it on: look up this board's own calls.")
    if words.layered and guarded(bench, words) and not bench.firmware.watchdog.off_at_start:
        notes.append("The bench leaves the watchdog on when it has reset the board; this program's layer turns it off.")
    notes += [*keeps.notes(), *chosen_mistakes(bench)]
    if board.uart is None and talks(bench):
        notes.append("This board has no serial line: what the bench prints or hears there is left out.")
    if bench.firmware.school == "kernel" and not with_kernel:
        notes.append("The bench runs its tasks under a kernel; this program has them in one loop.")
        between = bench.firmware.kernel.between
        if left := [one.name for one in (*between.bodies, *between.timers)]:
            notes.append(
                f"It leaves out what waits for the kernel: {', '.join(left)}; signals to them and from them, too."
            )
    return tuple(notes)


def _head(bench: Bench, said: Warnings, notes: tuple[str, ...]) -> list[str]:
    """What the program is, for which board; cautions, what must be fixed, the bench's own note, what it does not do."""
    lines = [
        comment(bench.name),
        f"For: {bench.the_board.name}.",
        f"Made by Viva Tick {__version__} from the bench {mark_of(bench)}; again on Build, or by viva-tick emit.",
    ]
    for line in warning_lines(bench, said):
        lines += textwrap.wrap(comment(line), 84, subsequent_indent="  ") or [""]
    if bench.note:
        lines += [comment(line) for given in bench.note.splitlines() for line in textwrap.wrap(given, 84)]
    lines += [line for note in notes for line in ("", comment(note))]
    rows = [(wire.from_end, wire.to_end, ", ".join(filter(None, (wire.colour, wire.note)))) for wire in wires(bench)]
    wide = [max((len(row[column]) for row in rows), default=0) for column in (0, 1)]
    if rows:
        lines += ["", "Wires:"]
    for one, other, note in rows:
        lines.append(comment(f"  {one:{wide[0]}}  {other:{wide[1]}}  {note}").rstrip())
    return lines


def mark_of(bench: Bench) -> str:
    """Tells a bench from every other: the same bench makes the same program."""
    data = bench_data(bench)
    del data["built"], data["panel"]  # how far it is built, and how it looks, make no other program
    return f"{crc32(json.dumps(data, sort_keys=True).encode()):08x}"


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
        used = claim.part in read or any(claim.part in one.driven for one in bench.firmware.machines)
        note = comment(claim.name) + ("" if used else ": wired, not used by this program yet")
        lines.append(f"const uint8_t {_unread_name(claim)} = {pin.code if pin else claim.pin};  // {note}")
    waits = []
    for source in bench.contacts:
        debounce = bench.debounce(source.id)
        method = METHODS[debounce.method]
        interval_ms = debounce.interval_us // 1000 if method.has_interval else 0
        note = f"{comment(source.name)}: {method.title.lower()}"
        waits.append(f"const uint32_t {upper(source.id)}_WAIT_MS = {interval_ms}UL;  // {note}")
    return "\n".join([*lines, "", *waits, ""])


def _times(bench: Bench, texts: MachineTexts, with_kernel: bool) -> list[str]:
    """Thresholds and times by their names."""
    tasks = () if with_kernel else bench.firmware.tasks
    read = "".join(reader.constants for reader in reader_texts(bench).values())
    return [read, texts.times + "".join(task_constant(bench, task) for task in tasks)]


def _setup(
    bench: Bench,
    board: Board,
    words: SketchWords,
    texts: MachineTexts,
    keeps: KeepTexts,
    guard: GuardTexts,
    kernel: KernelTexts | None = None,
) -> str:
    lines = ["void setup() {", *guard.setup()]
    lines += texts.outputs.setup()
    lines += texts.turns.setup()
    modes = {"internal-up": words.pull_up_mode, "internal-down": words.pull_down_mode}
    for part in bench.contacts:
        lines.append(f"  pinMode({upper(part.id)}_PIN, {modes.get(part.wiring.pull) or 'INPUT'});")
        if METHODS[bench.debounce(part.id).method].by == "interrupt":
            way = "FALLING" if part.active_level == "low" else "RISING"
            pin = f"{upper(part.id)}_PIN"
            if METHODS[bench.debounce(part.id).method].sketch.takes == "join":
                lines.append(f"  {snake(part.id)}_clean.join({upper(part.id)}_WAIT_MS);")
            method = METHODS[bench.debounce(part.id).method]
            handler = f"{method.sketch.struct}::edge" if method.one_handler else f"{snake(part.id)}_called"
            lines.append(f"  attachInterrupt(digitalPinToInterrupt({pin}), {handler}, {way});")
    for claim in _unread(bench):
        # The bus, the serial line and a servo are set up by what will use them; a row of keys floats until scanned.
        if claim.part not in bench.firmware.readings and (claim.pull != "none" or "analogue" in claim.needs):
            lines.append(f"  pinMode({_unread_name(claim)}, {modes.get(claim.pull) or 'INPUT'});")
    read = [line for reader in reader_texts(bench).values() for line in reader.setup]
    lines += [f"  {line}" for line in read]
    talks = any(task.talks for task in bench.firmware.tasks) or bench.firmware.serial.traces
    if talks and bench.the_board.uart is not None and not any("Serial.begin" in line for line in read):
        lines.append(f"  Serial.begin({bench.firmware.serial.baud}UL);")
    if bench.firmware.machines or bench.firmware.tasks or keeps.keeps:
        lines.append("  const uint32_t now = millis();")
    lines += keeps.restore()
    kept = {keep.of: (keeps.known(keep), keeps.place(keep)) for keep in keeps.keeps}
    for machine in bench.firmware.machines:
        lines += texts.setup(machine, kept.get(machine.id))
    lines += keeps.begun()
    lines += [task_setup(bench, task) for task in bench.firmware.tasks if not kernel]
    lines += texts.shows.setup(any("Serial.begin" in line for line in lines))
    lines += guard.on()
    lines += kernel.setup() if kernel else []
    return "\n".join([*lines, "}", ""])


def owned_by(block: Block, owner: str) -> bool:
    """Whether a block is of the pass of that owner: the loop has none, and what belongs to nobody."""
    return block.owner == owner


COUNTER = "  const uint32_t now = millis();  // read once: the whole pass agrees on the time\n"


class LoopText:
    """The loop, block by block of the program, in its order."""

    HEADINGS: ClassVar = {
        Stage.READ: "Read and clean the inputs.",
        Stage.MACHINE: "Step the machines.",
        Stage.KEEP: "Keep what outlives a reset.",
        Stage.DRIVE: "Drive the outputs.",
        Stage.SHOW: "Write the lines of text.",
        Stage.TRACE: "Say what has changed.",
    }

    def __init__(self, program: Program, texts: MachineTexts, keeps: KeepTexts, guard: GuardTexts) -> None:
        self.program, self.texts, self.keeps, self.guard = program, texts, keeps, guard
        self.kernel: KernelTexts | None = None  # without one, no signals: the head says so
        bench = self.bench = program.bench
        self.readers = reader_texts(bench)
        self.looked, self.mixed = looked_at(bench), rolls(bench)
        self.heard = {name for names in texts.names.values() for name in names.inputs} | self.looked
        self.seen = _seen(bench, texts)
        traces = TraceTexts(program)
        self.pieces: dict[Stage, Callable[[Block], str]] = {
            Stage.FEED: lambda block: guard.feed() if guard.fed_at("start") else "",
            Stage.BASE: lambda block: COUNTER,
            Stage.READ: self._read,
            Stage.CHORD: self._chord,
            Stage.SIGNAL: self._signal,
            Stage.YIELD: lambda block: "",
            Stage.MACHINE: lambda block: texts.call(block.subject),
            Stage.TASK: self._task,
            Stage.KEEP: lambda block: keeps.loop(block.subject),
            Stage.DRIVE: lambda block: texts.outputs.update(block.subject, self.seen),
            Stage.TURN: lambda block: texts.turns.loop(block.subject),
            Stage.SHOW: lambda block: texts.shows.loop(block.subject),
            Stage.TRACE: lambda block: traces.loop(),
            Stage.WAIT: self._wait,
            Stage.STAND: lambda block: texts.stands_out(),
            Stage.TAIL: lambda block: f"\n  delay({block.takes_us // 1000}UL);  // everything stops\n",
            Stage.GUARD: lambda block: guard.reports() or ("\n" + guard.feed() if guard.fed_at("end") else ""),
            Stage.RESTART: lambda block: guard.restart.loop(),
            Stage.SLEEP: lambda block: guard.rest(),
        }

    def text(self) -> str:
        """The function."""
        return "".join(["void loop() {\n", self.body(), "}\n"])

    def body(self, owner: str = "") -> str:
        """What is in it, or in the pass of what a task of a kernel owns."""
        found = [COUNTER] if owner else []
        for stage in self.program.stages:
            rows = "".join(self.pieces[stage](block) for block in self.program.of(stage) if owned_by(block, owner))
            if rows and stage in self.HEADINGS:
                found.append(f"\n  // {self.HEADINGS[stage]}\n")
            if stage is Stage.MACHINE:
                found.append(self.guard.heard(self.texts.raises(("watchdog-bark", "", ""))))
            found.append(rows)
        return "".join(found)

    def _read(self, block: Block) -> str:
        part = block.subject
        if not isinstance(part, ContactLine):
            return self.readers[part.id].loop
        level = "LOW" if part.active_level == "low" else "HIGH"
        name, const = snake(part.id), upper(part.id)
        reading = f"digitalRead({const}_PIN) == {level}"
        text = f"  const Edge {name}_edge = {name}_clean.step(now, {reading}, {const}_WAIT_MS);\n"
        if part.id in self.looked:
            text += f"  if ({name}_edge != NO_EDGE) {name}_down = {name}_edge == PRESS;\n"
        if self.mixed:
            text += f"  if ({name}_edge == PRESS) mix_dice();\n"
        if part.id in self.program.gestures:
            text += f"  {name}_gestures.step(now, {name}_edge);\n"
        return text if part.id in self.heard else text + f"  (void){name}_edge;  // no machine listens\n"

    def _signal(self, block: Block) -> str:
        return self.kernel.taken(block.of, self.texts.raises(("taken", block.of, ""))) if self.kernel else ""

    def _chord(self, block: Block) -> str:
        one, other = block.subject
        chord, first, second = chord_name(one, other), snake(one), snake(other)
        spent = "".join(
            f"    {snake(ident)}_gestures.spend();\n" for ident in block.subject if ident in self.program.gestures
        )
        text = f"  {chord}_now = {chord}.step(now, {first}_edge, {second}_edge);\n"
        return text + (f"  if ({chord}_now) {{  // and no click of either\n{spent}  }}\n" if spent else "")

    def _task(self, block: Block) -> str:
        fed = self.guard.fed_at("task") and self.bench.firmware.watchdog.feed_task == block.of
        feed = self.guard.feed() if fed else ""
        if self.guard.fed_at("reports"):
            feed += f"  {snake(block.of)}_reported = true;\n"
        return task_loop(self.bench, block.subject, feed)

    def _wait(self, block: Block) -> str:
        debounce = self.bench.debounce(block.of)
        name, const = snake(block.of), upper(block.of)
        if METHODS[debounce.method].by == "looking":
            return f"\n  {name}_clean.finish({const}_WAIT_MS);  // holds the loop until it is released\n"
        if not debounce.interval_us:
            return ""
        return f"\n  if ({name}_edge != NO_EDGE) delay({const}_WAIT_MS);  // everything stops\n"


def _cleaner(bench: Bench, line: ContactLine) -> tuple[str, str]:
    """The variable that cleans a contact, and the handler of one that interrupts."""
    debounce = bench.debounce(line.id)
    part = METHODS[debounce.method].sketch
    name, const = snake(line.id), upper(line.id)
    level = "LOW" if line.active_level == "low" else "HIGH"
    made = {
        "sample": f"({max(debounce.sample_us // 1000, 1)}UL)",
        "pin": f"({const}_PIN, {level})",
    }.get(part.takes, "")
    handler = f"void {name}_called() {{ {name}_clean.handle({const}_WAIT_MS); }}\n" if part.takes == "handler" else ""
    return f"{part.struct} {name}_clean{made};\n", handler


def _gestures(program: Program) -> tuple[list[str], str]:
    """What tells the buttons' gestures and chords apart, where a machine listens for any: types, variables."""
    bench, wanted, chords = program.bench, program.gestures, program.chords
    made = [
        f"Gestures {snake(ident)}_gestures({w.most}, {w.window_ms}UL, {w.hold_ms}UL, {w.repeat_ms}UL, "
        f"{'true' if w.quicken else 'false'});\n"
        for ident, w in wanted.items()
    ]
    for one, other in chords:
        together_ms = bench.firmware.gestures.get(one, Gestures()).together_us // 1000
        made.append(f"Chord {chord_name(one, other)}({together_ms}UL);\nbool {chord_name(one, other)}_now = false;\n")
    return [GESTURES_SKETCH if wanted else "", CHORD_SKETCH if chords else ""], "".join(made)


def _seen(bench: Bench, texts: MachineTexts) -> dict[DriveModel, str]:
    """The level of everything that an output follows, as an expression."""
    seen: dict[DriveModel, str] = {}
    counted, contacts = counts_wanted(bench), {line.id for line in bench.contacts}
    for drive in texts.outputs.followed:
        if isinstance(drive, Follow):
            if drive.input in contacts:
                level = f"{snake(drive.input)}_down ? 100 : 0"
            else:
                count = f"{snake(drive.input)}_count" if drive.input in counted else "0"
                level = f"100UL * {count} / {texts.full}"
        elif isinstance(drive, PickedPlace):
            value, place = variable_name(drive.variable), drive.place
            asked = {
                "one": f"{value} == {place}",
                "bar": f"{value} > {place}",
                "bits": f"(uint32_t({value}) >> {place}) & 1",
            }
            seen[drive] = f"uint8_t({asked[drive.shows]} ? 100 : 0)"
            continue
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
    # The bus and the serial line, where a machine shows text, are the board's own.
    shown = {line.part.id for line in bench.text_lines for one in bench.firmware.machines if line.id in one.driven}
    rest = [claim for claim in bench.claims if claim.where not in known and claim.part not in shown]
    return [claim for claim in rest if (claim.part, claim.pin) not in driven]


def _unread_name(claim: Claim) -> str:
    place = claim.where.split("/", 3)[3]
    return (
        f"{upper(claim.part)}_PIN" if place == "pin" else f"{upper(claim.part)}_{place.replace('/', '_').upper()}_PIN"
    )


def _passes(loop: LoopText) -> dict[str, str]:
    """The text of each owner's pass; "" is the loop."""
    owners = dict.fromkeys(block.owner for block in loop.program.blocks)
    return {owner: loop.body(owner) for owner in sorted(owners)}


def _fed_by_the_loop(bench: Bench) -> Bench:
    """The same, with the watchdog fed at the end of the loop where a task of the kernel should that is left out."""
    watchdog = bench.firmware.watchdog
    if watchdog.feed_task is None or watchdog.feed_task in {task.id for task in bench.firmware.tasks}:
        return bench
    watchdog = watchdog.model_copy(update={"feed": "end", "feed_task": None, "also": ()})
    return bench.model_copy(update={"firmware": bench.firmware.model_copy(update={"watchdog": watchdog})})


def in_one_loop(whole: Bench) -> Bench:
    """The bench as a program runs it that has no kernel, for a board that may have no serial line."""
    return without_serial(_fed_by_the_loop(under(whole, "counter")) if whole.firmware.school == "kernel" else whole)


def under_a_kernel(whole: Bench) -> Bench:
    """The bench as a program of tasks runs it."""
    return _fed_by_the_loop(whole)


@dataclass
class Assembled:
    """A program in our notation, in its places; `head` are the lines that say what it is, `headers` what of the board's
    it needs, `notes` what it does not do."""

    layout: Layout
    head: list[str]
    headers: list[str]
    notes: tuple[str, ...]
    style: Style


def assembled(
    whole: Bench, bench: Bench, words: SketchWords, said: Warnings = (), kernel: KernelTexts | None = None
) -> Assembled:
    """The program of a bench: `whole` as it stands, `bench` as it is run; `words` are what the board's calls are."""
    board = bench.the_board
    program = program_of(bench)
    texts = MachineTexts(program)
    machines = bench.firmware.machines
    keeps = KeepTexts(bench, words)
    guard = GuardTexts(bench, board, words, keeps, {kind: texts.raises((kind, "", "")) for kind in BOARD_EVENTS})
    texts.feeds = guard.by_action
    own = kernel.notes() if kernel else ()
    notes = tuple(filter(None, (*_notes(whole, board, words, keeps, kernel is not None), guard.restart.note, *own)))
    loop = LoopText(program, texts, keeps, guard)
    if kernel:
        loop.kernel = kernel
        texts.signals = {ident: kernel.signal(ident) for ident in kernel.between.signals}
    headers = [
        *([str(words.store_header)] if keeps.stores else []),
        *guard.headers,
        *texts.turns.headers,
        *texts.shows.headers,
    ]
    made = Layout(early=guard.early())
    made.add(helpers=guard.types())
    made.add(types=[_constants(bench, board), *_times(bench, texts, kernel is not None), *keeps.types()])
    _add_inputs(made, program)
    outs, shows, turns = texts.outputs, texts.shows, texts.turns
    if bench.channels:
        made.add(helpers=outs.struct(), types=[outs.tables()], values=[outs.variables()], functions=[outs.functions()])
    made.add(helping=guard.helping())
    made.add(helpers=turns.types(), values=turns.values())
    made.add(helpers=shows.types(), helping=shows.saying(), values=shows.values(), functions=shows.functions())
    made.add(values=[f"bool {snake(ident)}_down = false;\n" for ident in sorted(looked_at(bench))])
    traces = TraceTexts(program)
    made.add(helping=traces.helping(), values=traces.values())
    if rolls(bench):
        made.add(helpers=[DICE_TYPE_SKETCH, DICE_VALUE_SKETCH], helping=[DICE_SKETCH])
    if any(map(texts.stands, machines)):
        made.add(helping=[SHORTER])
    made.add(
        types=[texts.type_of(one) for one in machines],
        values=[
            *map(texts.declarations, machines),
            *map(texts.variable, bench.firmware.variables),
            *(task_values(bench, task) for task in bench.firmware.tasks if not kernel),
            *guard.values(),
            *keeps.values(),
            *(kernel.values() if kernel else ()),
        ],
        functions=[
            *guard.functions(),
            *map(texts.setter, bench.firmware.variables),
            *(() if kernel else map(task_text, bench.firmware.tasks)),
            keeps.functions(),
            *map(texts.functions, machines),
            *(texts.stand_out(one) for one in machines if texts.stands(one)),
            *(kernel.functions(_passes(loop)) if kernel else ()),
            _setup(bench, board, words, texts, keeps, guard, kernel),
            loop.text() if kernel is None else "void loop() { vTaskDelete(nullptr); }  // everything is a task\n",
        ],
    )
    if guard.early():
        feed = guard.feed_text
        made.helpers = [fed_in_waits(one, feed) for one in made.helpers]
        made.helping = [fed_in_waits(one, feed) for one in made.helping]
        made.types = [fed_in_waits(one, feed) for one in made.types]
        made.functions = [fed_in_waits(one, feed) for one in made.functions]
    return Assembled(made, _head(bench, said, notes), headers, notes, whole.style)


def _add_inputs(made: Layout, program: Program) -> None:
    """What cleans contacts, tells gestures apart, and reads the other inputs."""
    bench = program.bench
    if bench.contacts:
        methods = dict.fromkeys(bench.debounce(part.id).method for part in bench.contacts)
        made.add(helpers=[EDGE, *(METHODS[method].sketch.text for method in methods)])
        cleaners = [_cleaner(bench, line) for line in bench.contacts]
        made.add(values=[one for one, _ in cleaners], functions=[handler for _, handler in cleaners])
    types, values = _gestures(program)
    made.add(helpers=types, values=[values])
    readers = list(reader_texts(bench).values())
    made.add(
        helpers=[text for reader in readers for text in reader.types],
        values=[reader.variables for reader in readers],
        functions=[reader.functions for reader in readers],
    )
