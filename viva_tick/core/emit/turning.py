"""Servos in C++, with the board's own servo calls."""

from __future__ import annotations

from ..document.parts import Servo
from ..drives import Angle
from ..pieces import piece
from ..program import Program, Stage
from .machine_names import variable_name
from .names import snake, upper


class TurnTexts:
    """What the bench's servos give to the program, and the calls that start what they do. `ends` are, by servo, the
    statements that tell who listens that it is there."""

    def __init__(self, program: Program, ends: dict[str, list[str]]) -> None:
        self.ends = ends
        bench = self.bench = program.bench
        self.servos: list[Servo] = [block.subject for block in program.of(Stage.TURN)]
        drives = [drive for machine in bench.firmware.machines for _, _, drive in machine.drives]
        self.followed = list(dict.fromkeys(d.variable for d in drives if isinstance(d, Angle) and d.variable))

    @property
    def headers(self) -> list[str]:
        """What the program includes."""
        return ["Servo.h"] if self.servos else []

    def call(self, servo: str, drive: Angle) -> str:
        """The statement that starts it."""
        name = f"{snake(servo)}_aim"
        if drive.variable:
            return f"{name}.follow({self.followed.index(drive.variable) + 1});"
        return f"{name}.turn({drive.degrees}, {drive.time_us // 1000}UL);"

    def types(self) -> list[str]:
        """The struct."""
        return [piece(__file__)] if self.servos else []

    def values(self) -> list[str]:
        """One variable a servo."""
        return [f"Aim {snake(one.id)}_aim({upper(one.id)}_PIN, {one.rest_degrees});\n" for one in self.servos]

    def setup(self) -> list[str]:
        """Lines of `setup`."""
        return [f"  {snake(one.id)}_aim.begin();" for one in self.servos]

    def loop(self, servo: Servo) -> str:
        """Its place in the loop."""
        name, text = f"{snake(servo.id)}_aim", ""
        for number, variable in enumerate(self.followed, 1):
            value = variable_name(variable)
            held = f"uint8_t({value} < 0 ? 0 : {value} > 180 ? 180 : {value})"
            text += f"  if ({name}.follows == {number}) {name}.to = {held};\n"
        update = f"{name}.update(now)"
        told = " ".join(self.ends.get(servo.id, ()))
        return f"{text}  if ({update}) {{ {told} }}\n" if told else f"{text}  {update};\n"
