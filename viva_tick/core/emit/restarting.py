"""Why the board started, told to the machines; and the board restarting itself, in the program."""

from __future__ import annotations

from ..boards import Board, LayerWords, SketchWords
from ..document import CAUSE_EVENTS, Bench

MARK = "0x50F7"
WORDS = {
    "power": "power came on",
    "dip": "the supply had dipped",
    "pin": "the reset pin was pulled",
    "watchdog": "the watchdog has reset the board",
    "software": "the program restarted the board",
}


class RestartTexts:
    """Causes and restarts of one bench in C++. `raises` are, by the name of an event, the statements that tell machines
    that listen; `by_mark`: the watchdog is told by a mark in memory."""

    def __init__(self, bench: Bench, board: Board, words: SketchWords, raises: dict[str, list[str]], by_mark: bool):
        self.words, self.by_mark = words, by_mark
        self.flags_live = not board.loader_clears_cause
        never = "" if bench.firmware.guards else "watchdog"
        self.raises = {c: rows for c, event in CAUSE_EVENTS.items() if c != never and (rows := raises[event])}
        self.calls = words.watchdog if words.watchdog_header else None
        self.restarts = bench.firmware.restarts
        self.by_layer = words.restart if isinstance(words, LayerWords) else ""
        self.by_watchdog = self.restarts and (bool(self.by_layer) or (self.calls is not None and board.restart_us > 0))
        self.marks = self.by_watchdog and bool(words.kept_section) and bool(self.raises)

    @property
    def by_flags(self) -> list[str]:
        """The causes that the board's own flags tell, where anybody listens to one."""
        if self.calls is None:
            return []
        flagged = {"power", "dip", "pin"} | (set() if self.by_mark else {"watchdog"})
        found = [cause for cause in self.raises if cause in flagged]
        # A mark stands after a pull of the reset pin, too: where the flags live, they tell it apart.
        asks = not found and self.by_mark and "watchdog" in self.raises and self.flags_live
        return ["pin"] if asks else found

    @property
    def note(self) -> str:
        """What the bench does and the program does not."""
        return "" if self.by_watchdog or not self.restarts else "The bench restarts its board; this program does not."

    def values(self) -> list[str]:
        """What outlives a restart, and who wants one."""
        lines = ["bool restart_wanted = false;  // at the end of the pass\n"] if self.restarts else []
        if self.marks:
            lines += [f"const uint16_t RESTART_MARK = {MARK};\n", "uint16_t restart_mark UNTOUCHED;\n"]
        return lines

    def functions(self) -> list[str]:
        """The restart itself."""
        if not self.restarts:
            return []
        if self.by_layer:
            rows = ["  restart_mark = RESTART_MARK;"] if self.marks else []
            return ["\n".join(["void restart_board() {", *rows, f"  {self.by_layer}", "}", ""])]
        if not self.by_watchdog or self.calls is None:
            return ["void restart_board() {\n  restart_wanted = false;  // look up this board's own call: here\n}\n"]
        rows = [
            "// This board has no call for it: its watchdog does it, after its shortest step.",
            "void restart_board() {",
        ]
        rows += ["  restart_mark = RESTART_MARK;"] if self.marks else []
        rows += ["  noInterrupts();", f"  {self.calls.on.format(step=self.words.watchdog_steps[0])}"]
        return ["\n".join([*rows, "  for (;;) delayMicroseconds(100);", "}", ""])]

    def loop(self) -> str:
        """At the end of a pass."""
        return "\n  if (restart_wanted) restart_board();\n"

    def setup(self) -> list[str]:
        """First thing in set-up: who listens is told why the board started."""
        if not self.raises:
            return []
        asked: list[tuple[str, str]] = []
        lines: list[str] = []
        if self.marks:
            lines += ["  const bool restarted = restart_mark == RESTART_MARK;", "  restart_mark = 0;"]
            asked.append(("software", "restarted"))
        if self.calls and (flags := self.by_flags):
            bits = {"power": self.calls.power_bit, "dip": self.calls.dip_bit, "pin": self.calls.pin_bit}
            if flags != ["watchdog"]:  # a weightier one comes first, whoever listens
                asked += [(cause, f"reset_cause & {bit}") for cause, bit in bits.items()]
            if "watchdog" in flags:
                asked.append(("watchdog", f"reset_cause & {self.calls.cause_bit}"))
        if self.by_mark and "watchdog" in self.raises:
            asked.append(("watchdog", "watchdog_was_it"))
        for number, (cause, question) in enumerate(asked):
            lines.append(f"  {'} else ' if number else ''}if ({question}) {{  // {WORDS[cause]}")
            lines += [f"    {row}" for row in self.raises.get(cause, ())]
        lines += ["  }"] if asked else []
        never = set(dict(asked)) | (set() if self.restarts else {"software"})
        for cause in [cause for cause in self.raises if cause not in never]:
            lines.append(f"  // Whether {WORDS[cause]}: look up this board's own call, and say so here.")
        return lines
