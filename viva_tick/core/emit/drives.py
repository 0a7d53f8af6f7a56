"""The outputs' side of the sketch: one struct that knows the drives the bench uses, and no others."""

from __future__ import annotations

from typing import assert_never

from ..document import Bench, Channel
from ..document.parts import Sounder
from ..drives import Blink, Blockable, Burst, Dimmed, Drive, Follow, FollowVariable, Pulse, Ramp, Sequence, Steady, Tone
from .drive_pieces import CALLS, COURSES, CURVES, FIELDS, GUARD, NO_GUARD, RAMP_AT, STARTS, STAY, STEP, STRUCT, WAITS
from .names import snake


def _form(drive: Drive) -> str:
    """Which of the struct's forms a drive needs; empty for one that is steady."""
    match drive:
        case Blink(times=0, for_us=0):
            return "blink"
        case Blink() | Burst():
            return "beat"
        case Pulse():
            return "pulse"
        case Tone(length_us=length):
            return "pulse" if length else ""
        case Ramp():
            return "ramp"
        case Sequence():
            return "sequence"
        case Follow() | FollowVariable():
            return "follow"
        case _:
            return ""


def repeats(drive: Drive) -> bool:
    """Whether a drive holds each pass anew."""
    return isinstance(drive, Blockable) and drive.blocking and drive.endless


class OutputTexts:
    """What the bench's outputs give to the sketch, and the calls that start their drives."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self.drives = [(output, drive) for machine in bench.firmware.machines for _, output, drive in machine.drives]
        self.followed: list[Follow | FollowVariable] = list(
            dict.fromkeys(d for _, d in self.drives if isinstance(d, Follow | FollowVariable))
        )
        self.sequences = list(dict.fromkeys(d for _, d in self.drives if isinstance(d, Sequence)))
        self.guarded = bool(bench.firmware.limits or bench.firmware.interlocks)
        self.notes = any(isinstance(d, Tone) for _, d in self.drives) or any(
            isinstance(channel.part, Sounder) for channel in bench.channels
        )

    def call(self, output: str, drive: Drive) -> str:
        """The statement that starts a drive."""
        out = f"{snake(output)}_out"
        match drive:
            case Steady():
                said = f"steady({100 if drive.on else 0})"
            case Dimmed(percent=percent):
                said = f"steady({percent})"
            case Blink(times=0, for_us=0):
                said = f"blink({drive.on_us // 1000}UL, {drive.off_us // 1000}UL)"
            case Blink():
                on, off = drive.on_us // 1000, drive.off_us // 1000
                rounds = drive.times or (-(-drive.for_us // (drive.on_us + drive.off_us)) if drive.blocking else 0)
                said = f"beat({on}UL, {off}UL, {off}UL, 1, {rounds}, {drive.for_us // 1000}UL)"
            case Burst():
                on, off, rest = drive.on_us // 1000, drive.off_us // 1000, drive.rest_us // 1000
                said = f"beat({on}UL, {off}UL, {rest}UL, {drive.times}, {drive.rounds}, 0)"
            case Pulse():
                said = f"pulse({drive.length_us // 1000}UL)"
            case Tone():
                said = f"pulse({drive.length_us // 1000}UL)" if drive.length_us else "steady(100)"
                said += f"; {out}.hz = {drive.hz}"
            case Ramp():
                said = f"ramp({drive.start}, {drive.end}, {drive.time_us // 1000}UL, {CURVES[drive.curve]})"
            case Sequence():
                said = f"sequence(steps_{self.sequences.index(drive) + 1}, {len(drive.steps)}, {drive.rounds})"
            case Follow() | FollowVariable():
                said = f"follow({self.followed.index(drive) + 1})"
            case _:
                assert_never(drive)
        waits = f"; {out}.waits = true" if drive.blocks_us else ""
        waits += f"; {out}.again = true" if repeats(drive) else ""
        return f"{out}.{said}{waits};"

    @property
    def dims(self) -> bool:
        """Whether a level between off and full can come to a pin."""
        return any(
            drive.needs_level or (isinstance(drive, Sequence) and drive.dims) or isinstance(drive, Follow)
            for _, drive in self.drives
        )

    def struct(self) -> str:
        """The `Output` struct with the drives that occur."""
        forms = {form for _, drive in self.drives if (form := _form(drive))}
        waits = any(drive.blocks_us for _, drive in self.drives)
        again = any(repeats(drive) for _, drive in self.drives)
        waiting = {_form(drive) for _, drive in self.drives if drive.blocks_us}
        uses = {
            "beats": bool(forms & {"blink", "beat"}),
            "pulses": "pulse" in forms and not forms & {"blink", "beat"},
            "counted": "beat" in forms,
            "ends": bool(forms & {"beat", "ramp", "sequence"}),
            "ramps": "ramp" in forms,
            "sequences": "sequence" in forms,
            "follows": "follow" in forms,
            "notes": self.notes,
            "waits": waits,
            "again": again,
            "guards": self.guarded,
        }
        put = ""
        if self.notes:
            put += "    if (value && hz) {\n      tone(pin, hz);\n      return;\n    }\n    if (hz) noTone(pin);\n"
        if self.dims:
            put += (
                "    if (value > 0 && value < 100) {\n      const uint8_t duty = uint8_t(value * 255UL / 100);\n"
                "      analogWrite(pin, on_level == HIGH ? duty : 255 - duty);\n      return;\n    }\n"
            )
        wait_text = ""
        if waits:
            held = "        if (held && !level && held(now)) return;  // not yet\n" if self.guarded else ""
            after = "        changed = millis();\n        ever = true;\n" if self.guarded else ""
            more = (
                "        if (again) {\n          fresh = waits = true;\n          return;\n        }\n" if again else ""
            )
            wait_text = (
                f"      if (waits) {{  // the whole loop stands still\n{held}        fresh = waits = false;\n"
                f"        switch (kind) {{\n{''.join(WAITS[form] for form in WAITS if form in waiting)}"
                f"          default: break;\n        }}\n{after}{more}        kind = STEADY;\n        want = level;\n"
                "        return;\n      }\n"
            )
        begun = "      begun = now;\n" if "beat" in forms else ""
        begun += "      begins_at = kind == FOLLOW ? seen : begins_at;\n" if "follow" in forms else ""
        begun += "      spent = false;\n" if self.guarded else ""
        parts = {
            "@FIELDS@": "".join(FIELDS[name] for name in FIELDS if uses[name]),
            "@PUT@": put,
            "@START@": "".join(STARTS[name] for name in STARTS if uses[name]),
            "@CALLS@": "".join(CALLS[form] for form in CALLS if form in forms),
            "@COURSES@": "".join(COURSES[form] for form in COURSES if form in forms),
            "@HOLD@": (STAY if "beat" in waiting else ""),
            "@REST@": "    changed = millis();\n    if (held && held(changed)) rest = 0;\n    ever = rest > 0;\n"
            if self.guarded
            else "",
            "@WAITING@": wait_text,
            "@RAMP@": RAMP_AT if "ramp" in forms else "",
            "@BEGUN@": begun,
            "@GUARD@": GUARD if self.guarded else NO_GUARD,
        }
        text = STRUCT
        for mark, with_text in parts.items():
            text = text.replace(mark, with_text)
        kinds = ["STEADY", *(form.upper() for form in CALLS if form in forms)]
        enum = f"enum DriveKind : uint8_t {{ {', '.join(kinds)} }};\n\n"
        rows = [
            f"const Step steps_{number}[] = {{{', '.join(f'{{{s.percent}, {s.us // 1000}UL}}' for s in one.steps)}}};\n"
            for number, one in enumerate(self.sequences, 1)
        ]
        return enum + (STEP + "".join(rows) + "\n" if rows else "") + text

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
        level = "LOW" if channel.active_level == "low" else "HIGH"
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

    def update(self, channel: Channel, seen: dict[Drive, str]) -> str:
        """Its place in the loop; `seen` are the expressions of what is followed."""
        out = f"{snake(channel.id)}_out"
        mine = dict.fromkeys(
            d for output, d in self.drives if output == channel.id and isinstance(d, Follow | FollowVariable)
        )
        looks = [f"  if ({out}.follows == {self.followed.index(d) + 1}) {out}.seen = {seen[d]};\n" for d in mine]
        return f"{''.join(looks)}  {out}.update(now);\n"
