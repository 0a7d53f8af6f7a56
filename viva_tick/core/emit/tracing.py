"""What has changed in a pass, said on the serial line by the program."""

from __future__ import annotations

from ..document import Bench
from ..pieces import piece
from ..program import Program, Stage
from .machine_names import machine_names
from .names import snake

TRACING = piece(__file__)


class TraceTexts:
    """The rows of a bench's trace, where it is wanted."""

    def __init__(self, program: Program) -> None:
        bench: Bench = program.bench
        self.wanted = bool(program.of(Stage.TRACE))
        names = machine_names(bench)
        contacts = [(f"{snake(line.id)}_down", snake(line.id), f"cleaned,{line.id}") for line in bench.contacts]
        machines = [(names[one.id].var, names[one.id].base, f"state,{one.id}") for one in bench.firmware.machines]
        outputs = [(f"{snake(one.id)}_out.level", f"{snake(one.id)}_out", f"output,{one.id}") for one in bench.channels]
        self.rows = [*contacts, *machines, *outputs] if self.wanted else []

    def values(self) -> list[str]:
        """What was said last; nothing after a boot."""
        return [f"uint8_t {name}_told = 255;\n" for _, name, _ in self.rows]

    def helping(self) -> list[str]:
        """What says it."""
        return [TRACING] if self.wanted else []

    def loop(self) -> str:
        """Its place in the pass."""
        text = ""
        for value, name, what in self.rows:
            text += (
                f"  if (uint8_t({value}) != {name}_told) {{\n    {name}_told = uint8_t({value});\n"
                f'    tell(now, "000,{what},", {name}_told);\n  }}\n'
            )
        return text
