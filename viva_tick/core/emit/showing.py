"""Lines of text in C++: what puts a text together, what writes it on a display or over the serial line, and when."""

from __future__ import annotations

from ..document import Machine, TextLine
from ..document.parts import Display, SerialText
from ..drives import Text
from ..pieces import piece
from ..program import Program, Stage
from ..showing import CLEAR_MS, COMMANDS, HALVES, POWER_ON_MS, WIDTH_MS, row_start
from ..texts import Place, pieces, plain
from .machine_names import machine_names, variable_name
from .names import comment, snake
from .yours import place


def quoted(text: str) -> str:
    """The text as C++ has it."""
    said = plain(text)
    for letter in ("\\", '"', "?"):
        said = said.replace(letter, f"\\{letter}")
    return f'"{said}"'


class ShowTexts:
    """What the bench's lines of text give to the program, and the calls that start what they show. A line over a
    serial line that the board has not is left out."""

    def __init__(self, program: Program) -> None:
        bench = self.bench = program.bench
        lines: list[TextLine] = [block.subject for block in program.of(Stage.SHOW)]
        self.left_out = {one.id for one in lines if isinstance(one.part, SerialText) and not bench.the_board.uart}
        self.lines = [line for line in lines if line.id not in self.left_out]
        self.displays = program.displays
        self.texts: dict[str, list[Text]] = {line.id: [] for line in self.lines}
        for machine in bench.firmware.machines:
            for _, output, drive in machine.drives:
                if isinstance(drive, Text) and output in self.texts and drive not in self.texts[output]:
                    self.texts[output].append(drive)
        self.names = machine_names(bench)
        self.variables = {one.id: one for one in bench.firmware.variables}
        self.machines = {one.id: one for one in bench.firmware.machines}
        every = [text for rows in self.texts.values() for text in rows]
        self.places = [one for text in every for one in pieces(text.text) if isinstance(one, Place)]
        self.said = any(isinstance(one, str) for text in every for one in pieces(text.text))

    @property
    def prints(self) -> bool:
        """Whether anything goes out over the serial line."""
        return any(not isinstance(line.part, Display) for line in self.lines)

    @property
    def headers(self) -> list[str]:
        """What the program includes."""
        return ["Wire.h"] if self.displays else []

    def call(self, line: str, drive: Text) -> str:
        """The statement that starts a text."""
        if line in self.left_out:
            return "{}  // no serial line"
        name = snake(line)
        return f"{name}_text = {self.texts[line].index(drive) + 1}; {name}_fresh = true;"

    def _pieces(self, part: str) -> list[str]:
        """What every line needs: "TYPES", or the functions for "SAYING" a text."""
        if not self.lines:
            return []
        named = [one for one in self.places if one.of in self.machines]
        asked = {
            "SAY": self.said or bool(named),
            "NUMBERS": any(one.of in self.variables and not one.bar for one in self.places),
            "BARS": any(one.of in self.variables and one.bar for one in self.places),
            "DISPLAYS": bool(self.displays),
            "PRINTS": self.prints,
            part: True,
        }
        words = {
            "TEXT_MOST": str(max(line.columns for line in self.lines)),
            "TEXT_COLUMNS": str(max((one.columns for one in self.displays), default=0)),
            "HALVES": ", ".join(f"0x{one:02X}" for one in HALVES),
            "COMMANDS": ", ".join(f"0x{one:02X}" for one in COMMANDS),
            "POWER_ON_MS": str(POWER_ON_MS),
            "WIDTH_MS": str(WIDTH_MS),
            "CLEAR_MS": str(CLEAR_MS),
        }
        return [piece(__file__, "showing", {f"USE_{name}" for name, wanted in asked.items() if wanted}, words)]

    def types(self) -> list[str]:
        """The line that is put together, and the displays."""
        return self._pieces("TYPES")

    def values(self) -> list[str]:
        """The variables of the displays and of each line."""
        found = [f"Display {snake(one.id)}_display({one.address:#04x});\n" for one in self.displays]
        for line in self.lines:
            name = snake(line.id)
            if isinstance(line.part, Display):
                start = row_start(line.row, line.columns)
                found.append(f"DisplayLine {name}_line({snake(line.part.id)}_display, {start}, {line.columns});\n")
            seen = max((len(self._places(text)) for text in self.texts[line.id]), default=0)
            text = f"uint8_t {name}_text = 0;  // {comment(line.name)}: which text it shows\n"
            text += f"bool {name}_fresh = false;\nuint32_t {name}_since = 0;\n"
            if seen:
                text += f"int32_t {name}_seen[{seen}] = {{}};\n"
            found.append(text)
        return found

    def setup(self, has_serial: bool) -> list[str]:
        """Lines of `setup`, its last; `has_serial`: the serial line has begun."""
        lines = []
        if self.prints and not has_serial:
            lines.append(f"  Serial.begin({self.bench.line_baud}UL);")
        if self.displays:
            slowest = min(one.bus_hz for one in self.displays)
            lines += ["  Wire.begin();", f"  Wire.setClock({slowest}UL);"]
            lines += [f"  {snake(one.id)}_display.begin();" for one in self.displays]
            lines += [f"  {snake(one.id)}_line.begin();" for one in self.lines if isinstance(one.part, Display)]
        return lines

    def _places(self, text: Text) -> list[Place]:
        return [one for one in pieces(text.text) if isinstance(one, Place)]

    def _value(self, place: Place) -> str:
        if place.of in self.variables:
            return variable_name(place.of)
        return f"int32_t({self.names[place.of].var})"

    def _statement(self, one: str | Place) -> str:
        if isinstance(one, str):
            return f"say({quoted(one)}, 0);"
        if one.of in self.machines:
            return f"say({self._named(one.of)}(), {one.width});"
        name, variable = variable_name(one.of), self.variables[one.of]
        if one.bar:
            return f"say_bar({name}, {variable.least}, {variable.most}, {one.bar});"
        return f"say_number({name}, {one.width});"

    def _named(self, machine: str) -> str:
        return f"{self.names[machine].base}_name"

    def _state_names(self, machine: Machine) -> str:
        names = self.names[machine.id]
        rows = "".join(f"    case {names.states[state.id]}: return {quoted(state.name)};\n" for state in machine.leaves)
        return (
            f"const char *{self._named(machine.id)}() {{\n  switch ({names.var}) {{\n{rows}"
            '    default: return "";\n  }\n}\n'
        )

    def saying(self) -> list[str]:
        """What puts a text together."""
        return self._pieces("SAYING")

    def functions(self) -> list[str]:
        """What writes each line."""
        named = dict.fromkeys(one.of for one in self.places if one.of in self.machines)
        return [
            *(self._state_names(self.machines[ident]) for ident in named),
            *map(self._line, self.lines),
        ]

    def _line(self, line: TextLine) -> str:
        name = snake(line.id)
        when, builds = [], []
        for number, text in enumerate(self.texts[line.id], 1):
            places = self._places(text)
            if every_ms := text.every_us // 1000:
                when.append(
                    f"      case {number}:\n        writes = uint32_t(now - {name}_since) >= {every_ms}UL;\n"
                    f"        if (writes) {name}_since += {every_ms}UL;\n        break;\n"
                )
            elif places:
                asked = " || ".join(f"{self._value(one)} != {name}_seen[{n}]" for n, one in enumerate(places))
                when.append(f"      case {number}: writes = {asked}; break;\n")
            rows = [self._statement(one) for one in pieces(text.text)]
            rows += [f"{name}_seen[{n}] = {self._value(one)};" for n, one in enumerate(places)]
            if rows:
                builds.append(f"    case {number}:\n" + "".join(f"      {row}\n" for row in rows) + "      break;\n")
        body = f"  bool writes = {name}_fresh;\n  if ({name}_fresh) {{\n"
        body += f"    {name}_fresh = false;\n    {name}_since = now;\n  }}"
        if when:
            body += f" else {{\n    switch ({name}_text) {{\n{''.join(when)}      default: break;\n    }}\n  }}"
        body += f"\n  if (!writes) return;\n  begin_text({line.columns});\n"
        if builds:
            body += f"  switch ({name}_text) {{\n{''.join(builds)}    default: break;\n  }}\n"
        body += "".join(f"{row}\n" for row in place(f"text-{line.id}", (), "  "))
        if isinstance(line.part, Display):
            body += f"  {name}_line.write();\n"
        else:
            body += "  print_text();  // where the buffer is full this waits\n"
        return f"// {comment(line.name)}\nvoid show_{name}(uint32_t now) {{\n{body}}}\n"

    def loop(self, line: TextLine) -> str:
        """Its place in the loop."""
        return "" if line.id in self.left_out else f"  show_{snake(line.id)}(now);\n"
