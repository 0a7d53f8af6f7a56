"""The outputs' side of the sketch: one struct that knows the drives the bench uses, and no others."""

from __future__ import annotations

import re
from pathlib import Path

from .. import drives as drives_module
from ..document import Bench, Channel
from ..document.parts import Sounder
from ..drives import BlinkRate, Blockable, Drive, DriveModel, Ramp
from ..pieces import piece, spliced
from .machine_names import variable_name
from .names import snake

FORMS = ("blink", "beat", "pulse", "ramp", "sequence", "rate", "follow")  # in the order of `drives.h`
PIECES = Path(str(drives_module.__file__)).parent


def repeats(drive: Drive) -> bool:
    """Whether a drive holds each pass anew."""
    return isinstance(drive, Blockable) and drive.blocking and drive.endless


class OutputTexts:
    """What the bench's outputs give to the sketch, and the calls that start their drives. `ends` are, by output, the
    statements that tell the machines that listen for its drive's end."""

    def __init__(self, bench: Bench, ends: dict[str, list[str]]) -> None:
        self.bench, self.ends = bench, ends
        self.drives = [
            (output, drive) for machine in bench.firmware.machines for _, output, drive in bench.drives_of(machine)
        ]
        every = [drive for _, drive in self.drives]
        self.followed: list[DriveModel] = list(dict.fromkeys(drive for drive in every if drive.form == "follow"))
        self.rates = list(dict.fromkeys(drive.variable for drive in every if isinstance(drive, BlinkRate)))
        self.tables_of: list[DriveModel] = list(dict.fromkeys(drive for drive in every if drive.table))
        self.guarded = bool(bench.firmware.limits or bench.firmware.interlocks)
        self.notes = any(drive.plays for drive in every) or any(
            isinstance(channel.part, Sounder) for channel in bench.channels
        )

    def call(self, output: str, drive: Drive) -> str:
        """The statement that starts a drive."""
        out = f"{snake(output)}_out"
        started = drive.started()
        places = {"@table": self._table, "@followed": self._follows, "@rated": self._rated}
        given = [places[one](drive) if one in places else one for one in started.given]
        fields = list(started.fields)
        fields += [("waits", "true")] if drive.blocks_us else []
        fields += [("again", "true")] if repeats(drive) else []
        return f"{out}.{started.method}({', '.join(given)});" + "".join(f" {out}.{name} = {to};" for name, to in fields)

    def _table(self, drive: DriveModel) -> str:
        return f"steps_{self.tables_of.index(drive) + 1}"

    def _follows(self, drive: DriveModel) -> str:
        return str(self.followed.index(drive) + 1)

    def _rated(self, drive: DriveModel) -> str:
        return str(self.rates.index(drive.variable) + 1) if isinstance(drive, BlinkRate) else "0"

    def _wanted(self) -> set[str]:
        """What of the struct the bench needs."""
        every = [drive for _, drive in self.drives]
        found = {f"USE_{drive.form.upper()}" for drive in every if drive.form}
        found |= {f"USE_HELD_{drive.form.upper()}" for drive in every if drive.form and drive.blocks_us}
        asked = {
            "TABLES": bool(self.tables_of),
            "NOTES": self.notes,
            "LEVELS": any(drive.dims for drive in every),
            "WAITS": any(drive.blocks_us for drive in every),
            "AGAIN": any(map(repeats, every)),
            "GUARDS": self.guarded,
            "ENDS": bool(self.ends),
            "RAMP_ON": any(isinstance(drive, Ramp) and drive.start is None for drive in every),
        }
        return found | {f"USE_{name}" for name, is_asked in asked.items() if is_asked}

    def tables(self) -> str:
        """The rows of steps of those that have any."""
        rows = []
        for one in self.tables_of:
            levels = ", ".join(f"{{{percent}, {ms}UL}}" for percent, ms in one.table)
            rows.append(f"const Step {self._table(one)}[] = {{{levels}}};\n")
        return "".join(rows)

    def struct(self) -> list[str]:
        """The `Output` struct with the drives that occur, and what it needs."""
        wanted = self._wanted()
        kinds = ["STEADY", *(form.upper() for form in FORMS if f"USE_{form.upper()}" in wanted)]
        text = spliced(piece(__file__, "output", wanted), wanted, PIECES)
        text = re.sub(r"\n\n\n+", "\n\n", text)
        step, head, rest = text.partition("// An output:")
        return [f"enum DriveKind : uint8_t {{ {', '.join(kinds)} }};\n", step, head + rest]

    def variables(self) -> str:
        """One variable an output."""
        return "".join(map(self._output, self.bench.channels))

    def functions(self) -> str:
        """What keeps one off while another is on."""
        text = ""
        rivals: dict[str, list[str]] = {}
        for lock in self.bench.firmware.interlocks:
            for one, other in ((lock.one, lock.other), (lock.other, lock.one)):
                out = f"{snake(other)}_out"
                rivals.setdefault(one, []).append(
                    f"{out}.level || ({out}.ever && uint32_t(now - {out}.changed) < {lock.dead_us // 1000}UL)"
                )
        for ident, rows in rivals.items():
            text += f"bool {snake(ident)}_held(uint32_t now) {{ return {' || '.join(rows)}; }}\n"
        return text

    def _output(self, channel: Channel) -> str:
        level = "LOW" if self.bench.on_level(channel) == "low" else "HIGH"
        return f"Output {snake(channel.id)}_out({snake(channel.id).upper()}_PIN, {level});\n"

    def setup(self) -> list[str]:
        """Lines of `setup`."""
        lines = []
        for channel in self.bench.channels:
            out = f"{snake(channel.id)}_out"
            if isinstance(channel.part, Sounder):
                lines.append(f"  {out}.own_hz = {channel.part.tone_hz};")
            if limit := self.bench.firmware.limits.get(channel.id):
                lines.append(f"  {out}.longest = {limit.longest_us // 1000}UL;")
            if any(channel.id in (lock.one, lock.other) for lock in self.bench.firmware.interlocks):
                lines.append(f"  {out}.held = {snake(channel.id)}_held;")
            lines.append(f"  {out}.begin({100 if channel.at_rest == 'on' else 0});")
        return lines

    def update(self, channel: Channel, seen: dict[DriveModel, str]) -> str:
        """Its place in the loop; `seen` are the expressions of what is followed."""
        out = f"{snake(channel.id)}_out"
        mine = dict.fromkeys(drive for output, drive in self.drives if output == channel.id and drive in seen)
        looks = [f"  if ({out}.follows == {self._follows(drive)}) {out}.seen = {seen[drive]};\n" for drive in mine]
        for number, variable in enumerate(self.rates, 1):
            if any(one == channel.id and getattr(drive, "variable", "") == variable for one, drive in self.drives):
                value = f"uint32_t({variable_name(variable)} > 1 ? {variable_name(variable)} : 1)"
                looks.append(f"  if ({out}.rated == {number}) {out}.rate_ms = {value} * {out}.rate_unit;\n")
        text = f"{''.join(looks)}  {out}.update(now);\n"
        if channel.id in self.ends:
            told = " ".join(self.ends[channel.id])
            text += f"  if ({out}.ends()) {{ {told} }}\n"
        return text
