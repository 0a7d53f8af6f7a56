"""What outlives a reset, in the sketch: memory that start-up leaves alone, the store, and when each is written."""

from __future__ import annotations

from zlib import crc32

from ..boards import SketchWords
from ..document import Bench, Keep
from .machine_names import machine_names, variable_name
from .names import comment

TYPES = {1: "uint8_t", 2: "int16_t", 4: "int32_t"}
WRITE = """\
void write_store(const void *field, uint8_t bytes) {{  // only what differs: each write wears
  const uint8_t *from = static_cast<const uint8_t *>(field);
  const int at = int(from - reinterpret_cast<const uint8_t *>(&stored));
  for (uint8_t n = bytes; n; --n) {put}  // from its end: the mark comes last
}}
"""
RAM = "// What outlives a reset, in memory kept through a reset. After power-on it holds anything; the mark tells.\n"
PLACED = """\
#ifndef KEPT
#define KEPT __attribute__((section("{section}")))
#endif
"""
STORE = "// What outlives the supply, too, as it was last written; the mark is that of this program.\n"


class KeepTexts:
    """The bench's keeps in C++, those that the board's compiler has a place for. `unplaced` are the others."""

    def __init__(self, bench: Bench, words: SketchWords) -> None:
        self.bench, self.words = bench, words
        can = {"ram": words.kept_section, "store": words.store_header and words.store}
        self.keeps = [keep for keep in bench.firmware.keeps if can[keep.where]]
        self.unplaced = [keep for keep in bench.firmware.keeps if not can[keep.where]]
        names = machine_names(bench)
        self.field = {
            keep.of: names[keep.of].var if keep.of in names else variable_name(keep.of) for keep in self.keeps
        }
        self.states = {keep.of: names[keep.of].enum for keep in self.keeps if keep.of in names}
        stored = bench.firmware.guards and bench.firmware.watchdog.cause == "stored"
        self.causes = bool(can["store"] and words.watchdog_header and words.watchdog and stored)

    def of(self, where: str) -> list[Keep]:
        """What is kept there."""
        return [keep for keep in self.keeps if keep.where == where]

    @property
    def stores(self) -> bool:
        """Whether anything stands in the store."""
        return bool(self.of("store")) or self.causes

    @property
    def is_called(self) -> bool:
        """Whether the watchdog's handler writes."""
        return any(keep.when == "interrupt" for keep in self.keeps)

    def place(self, keep: Keep) -> str:
        """Where it is kept."""
        return f"{'kept' if keep.where == 'ram' else 'stored'}.{self.field[keep.of]}"

    def now(self, keep: Keep) -> str:
        """What is kept of it."""
        name = self.field[keep.of]
        return f"uint8_t({name})" if keep.of in self.states else name

    def known(self, keep: Keep) -> str:
        """Whether there is anything to go on with."""
        return f"is_{'kept' if keep.where == 'ram' else 'stored'}"

    def _type(self, keep: Keep) -> str:
        return TYPES[self.bench.kept_bytes(keep.of)]

    def _mark(self, rows: list[str]) -> int:
        """Tells this layout from every other, and from memory that holds nothing."""
        names = [state.name for machine in self.bench.firmware.machines for state in machine.states]
        bounds = [f"{one.least} {one.most}" for one in self.bench.firmware.variables]
        return 1 + crc32("\n".join([*rows, *names, *bounds]).encode()) % 0xFFFE

    def _struct(self, kind: str, rows: list[str]) -> str:
        body = "".join(f"  {row};\n" for row in ("uint16_t mark", *rows))
        return f"struct {kind} {{\n{body}}};\nconst uint16_t {kind.upper()}_MARK = 0x{self._mark(rows):04X};\n"

    def types(self) -> list[str]:
        """What is kept, and how memory is placed that start-up leaves alone."""
        found = []
        if ram := self.of("ram"):
            rows = [f"{self._type(one)} {self.field[one.of]}" for one in ram]
            placed = "" if self.words.layered else PLACED.format(section=self.words.kept_section)
            found.append(RAM + placed + self._struct("Kept", rows))
        if self.stores:
            rows = [f"{self._type(one)} {self.field[one.of]}" for one in self.of("store")]
            found.append(STORE + self._struct("Stored", [*rows, *(["uint8_t cause"] if self.causes else [])]))
        return found

    def values(self) -> list[str]:
        """Where it is kept, and when it last was."""
        found = ["Kept kept KEPT;\n"] if self.of("ram") else []
        found += ["Stored stored;\n"] if self.stores else []
        return found + [f"uint32_t {self.field[one.of]}_kept_at = 0;\n" for one in self.keeps if one.when == "every"]

    def functions(self) -> str:
        """What writes each of them."""
        text = ""
        if self.stores and self.words.store:
            text += WRITE.format(put=self.words.store.put.format(at="at + n - 1", value="from[n - 1]"))
        for keep in self.keeps:
            name, place = self.field[keep.of], self.place(keep)
            text += f"void keep_{name}() {{\n  {place} = {self._type(keep)}({name});\n"
            text += f"  write_store(&{place}, sizeof {place});\n" if keep.where == "store" else ""
            text += "}\n"
        if self.is_called:
            calls = "".join(f"  keep_{self.field[keep.of]}();\n" for keep in self.keeps if keep.when == "interrupt")
            text += f"void keep_called() {{\n{calls}}}\n"
        return text

    def restore(self) -> list[str]:
        """The lines of `setup` before the machines begin."""
        lines = []
        if self.of("ram"):
            lines.append("  const bool is_kept = kept.mark == KEPT_MARK;")
        if self.stores and self.words.store:
            got = self.words.store.get.format(at="0", field="stored")
            lines += [f"  {got}", "  const bool is_stored = stored.mark == STORED_MARK;"]
        for keep in self.keeps:
            if keep.of not in self.states:
                lines.append(f"  if ({self.known(keep)}) {self.field[keep.of]} = {self.place(keep)};")
        return lines

    def begun(self) -> list[str]:
        """The lines of `setup` after it: what the first run of this program keeps, and the cause of the reset."""
        lines = [f"  {self.field[keep.of]}_kept_at = now;" for keep in self.keeps if keep.when == "every"]
        if ram := self.of("ram"):
            rows = ["kept.mark = KEPT_MARK;", *(f"keep_{self.field[one.of]}();" for one in ram)]
            lines += ["  if (!is_kept) {", *(f"    {row}" for row in rows), "  }"]
        if self.stores:
            rows = [f"{self.place(one)} = {self._type(one)}({self.field[one.of]});" for one in self.of("store")]
            rows = ["stored.mark = STORED_MARK;", *rows, "write_store(&stored, sizeof stored);"]
            lines += ["  if (!is_stored) {  // the first run of this program", *(f"    {row}" for row in rows), "  }"]
        if self.causes:
            lines += [
                "  if (reset_cause && reset_cause != stored.cause) {",
                "    stored.cause = reset_cause;",
                "    write_store(&stored.cause, 1);",
                "  }",
            ]
        return lines

    def loop(self, keep: Keep) -> str:
        """Its place in a pass; nothing for one that this board has no place for."""
        if keep not in self.keeps:
            return ""
        name = self.field[keep.of]
        if keep.when == "change":
            return f"  if ({self.place(keep)} != {self.now(keep)}) keep_{name}();\n"
        if keep.when == "feed":
            return f"  keep_{name}();\n"
        return (
            f"  if (uint32_t(now - {name}_kept_at) >= {keep.every_us // 1000}UL) {{\n    {name}_kept_at = now;\n"
            f"    keep_{name}();\n  }}\n"
        )

    def notes(self) -> list[str]:
        """What the bench keeps and this program does not."""
        return [
            f"The bench keeps “{comment(keep.of)}” over a reset; this program does not: use your board's own calls."
            for keep in self.unplaced
        ]
