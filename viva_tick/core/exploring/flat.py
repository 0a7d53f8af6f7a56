"""Machines that look at nothing but themselves, explored as tables and a frontier of whole numbers."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from ..document import Machine
from ..machines import CompiledMachine, RunningMachine
from .abstract import Abstract, Cause, Explored, Report, Wish


def waits_of(machine: Machine, leaf: int, compiled: CompiledMachine) -> list[tuple[Cause, Any]]:
    return [(("timeout", machine.id, str(wait.transition.place)), wait.transition) for wait in compiled.waits[leaf]]


class Flat:
    """Machines that look at nothing but themselves: tables, and a frontier of whole numbers."""

    def __init__(self, wish: Wish) -> None:
        machines, compiled, watch = wish.machines, wish.tables, wish.watch
        self.machines, self.compiled, self.watch = machines, compiled, watch
        self.program = program = wish.program
        keys = program.keys
        waits = [
            cause
            for machine, table in zip(machines, compiled, strict=True)
            for cause in dict.fromkeys(
                c for leaf in range(len(machine.states)) for c, _ in waits_of(machine, leaf, table)
            )
        ]
        self.causes = [*wish.causes, *waits]
        self.sizes = [len(machine.states) for machine in machines]
        # next[m][cause][leaf], and what that does to each watched output: −1 nothing, 0 off, 1 on.
        self.next, self.effects = [], []
        self.draws = 1
        host = Abstract(program.bench, watch)
        begins = dict(host.held)
        for machine, table in zip(machines, compiled, strict=True):
            rows = np.tile(np.arange(len(machine.states)), (len(self.causes), 1))
            effects = np.full((len(watch), len(self.causes), len(machine.states)), -1, dtype=np.int8)
            for number, cause in enumerate(self.causes):
                for leaf in range(len(machine.states)):
                    if leaf in table.around:
                        continue
                    host.effect, host.held = {}, dict(begins)
                    running = RunningMachine(table, host)
                    running.state = leaf
                    if cause[0] != "timeout":
                        running.fire(keys[cause], 0)
                    elif cause[1] == machine.id:
                        for mine, transition in waits_of(machine, leaf, table):
                            if mine == cause:
                                running.take(transition, 0)
                                running.settle(0)
                    rows[number, leaf] = running.state
                    for place, on in host.effect.items():
                        effects[place, number, leaf] = on
            self.next.append(rows)
            self.effects.append(effects)

    def _first(self) -> tuple[list[int], list[bool]]:
        host = Abstract(self.program.bench, self.watch)
        leaves = []
        for table in self.compiled:
            running = RunningMachine(table, host)
            running.begin(0)
            leaves.append(running.state)
        return leaves, host.on

    def explore(self, pairs: Sequence[tuple[str, str]], bound: int, report: Report | None) -> Explored:
        """See `explore`."""
        radix = []
        total = 1
        for size in self.sizes:
            radix.append(total)
            total *= size
        leaves, on = self._first()
        bits = [total << place for place in range(len(self.watch))]
        start = sum(leaf * step for leaf, step in zip(leaves, radix, strict=True))
        start += sum(bit for bit, is_on in zip(bits, on, strict=True) if is_on)
        came_from = np.full(total << len(self.watch), -1, dtype=np.int64)
        came_by = np.zeros(total << len(self.watch), dtype=np.int32)
        came_from[start] = start
        frontier = np.array([start])
        found, whole = 1, True
        first: dict[tuple[str, str], int] = {}
        both: dict[tuple[str, str], int] = {}
        while frontier.size:
            self._note(frontier, radix, bits, first, pairs, both)
            if found >= bound or (report and not report(found)):
                whole = False
                break
            digits = [frontier // step % size for step, size in zip(radix, self.sizes, strict=True)]
            were = [frontier // bit % 2 for bit in bits]
            fresh = []
            for cause in range(len(self.causes)):
                codes = np.zeros_like(frontier)
                lit = list(were)
                for place, digit in enumerate(digits):
                    codes += self.next[place][cause][digit] * radix[place]
                    for output in range(len(bits)):
                        effect = self.effects[place][output][cause][digit]
                        lit[output] = np.where(effect >= 0, effect, lit[output])
                for bit, is_on in zip(bits, lit, strict=True):
                    codes += bit * is_on.astype(np.int64)
                new = came_from[codes] < 0
                if new.any():
                    codes, origin = codes[new], frontier[new]
                    codes, where = np.unique(codes, return_index=True)
                    came_from[codes] = origin[where]
                    came_by[codes] = cause
                    fresh.append(codes)
                    found += codes.size
            frontier = np.concatenate(fresh) if fresh else np.array([], dtype=np.int64)

        def path(code: int) -> tuple[Cause, ...]:
            row = []
            while came_from[code] != code:
                row.append(self.causes[came_by[code]])
                code = int(came_from[code])
            return tuple(reversed(row))

        paths = {key: path(code) for key, code in first.items()}
        together = {
            pair: (
                path(code),
                tuple(
                    machine.states[code // step % size].id
                    for machine, step, size in zip(self.machines, radix, self.sizes, strict=True)
                ),
            )
            for pair, code in both.items()
        }
        return Explored(found, whole, paths, together)

    def _note(
        self,
        frontier: Any,
        radix: list[int],
        bits: list[int],
        first: dict[tuple[str, str], int],
        pairs: Sequence[tuple[str, str]],
        both: dict[tuple[str, str], int],
    ) -> None:
        """Remember what is stood in for the first time."""
        for machine, step, size in zip(self.machines, radix, self.sizes, strict=True):
            digits, where = np.unique(frontier // step % size, return_index=True)
            for digit, index in zip(digits.tolist(), where.tolist(), strict=True):
                state = machine.states[digit]
                for name in (state.id, state.parent):
                    if name is not None:
                        first.setdefault((machine.id, name), int(frontier[index]))
        for pair in pairs:
            if pair not in both:
                one, other = (bits[self.watch.index(output)] for output in pair)
                lit = np.flatnonzero((frontier // one % 2) & (frontier // other % 2))
                if lit.size:
                    both[pair] = int(frontier[lit[0]])
