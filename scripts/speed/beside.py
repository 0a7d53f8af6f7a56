"""The figures of another commit beside this one's, in turn and in the same minutes, so that what slows one slows both:
`python -m scripts.speed.beside COMMIT`. What that commit's own table had, times how this one compares with it, is what
this one would have had then: docs/beside.md."""

from __future__ import annotations

import os
import re
import shutil
import statistics
import subprocess
import sys
import time
from pathlib import Path
from tempfile import TemporaryDirectory

from scripts.compiled import ROOT

from .core import figures
from .table import SECONDS, number

OUT = ROOT / "docs" / "beside.md"
PARTS = ("engines", "repeats", "sweeps", "edits", "big_edits", "in_the_browser")
ROUNDS = 3


def _lay_out(folder: Path, commit: str) -> None:
    """That commit's program, with what measures it here."""
    folder.mkdir()
    archive = subprocess.run(["git", "archive", commit, "viva_tick"], cwd=ROOT, check=True, stdout=subprocess.PIPE)
    subprocess.run(["tar", "-x", "-C", str(folder)], input=archive.stdout, check=True)
    subprocess.run([sys.executable, "-m", "compileall", "-q", str(folder / "viva_tick")], check=True)  # as `make` does
    for name in ("scripts", "tests"):
        shutil.copytree(ROOT / name, folder / name, ignore=shutil.ignore_patterns("__pycache__"))


def _then(commit: str) -> dict[str, float]:
    """The figures in that commit's table, by what they are of, in seconds where they are times."""
    said = subprocess.run(
        ["git", "show", f"{commit}:docs/speed.md"], cwd=ROOT, check=True, capture_output=True, text=True
    )
    found = re.findall(r"^\| ([^|]+) \| ([\d.,]+) (s|ms) \|", said.stdout, re.MULTILINE)
    return {what: float(got.replace(",", "")) * SECONDS[unit] for what, got, unit in found}


def main(commit: str) -> None:
    """Measure both in turn, and write the table."""
    then = _then(commit)
    rows: dict[str, list[list[float]]] = {}
    budgets: dict[str, tuple[float, str]] = {}
    with TemporaryDirectory() as folder:
        trees = [Path(folder) / "then", Path(folder) / "now"]
        _lay_out(trees[0], commit)
        _lay_out(trees[1], "HEAD")
        for turn in range(ROUNDS):
            for place in (0, 1) if turn % 2 == 0 else (1, 0):
                env = {**os.environ, "PYTHONSAFEPATH": "1", "PYTHONPATH": str(trees[place])}
                for one in figures(trees[place], PARTS, env)[1]:
                    if one.unit in SECONDS:
                        rows.setdefault(one.what, [[], []])[place].append(one.got * SECONDS[one.unit])
                        budgets[one.what] = (one.budget * SECONDS[one.unit], one.unit)
            print(f"{turn + 1} of {ROUNDS}", flush=True)
    lines = [
        f"# Beside {commit}", "", f"As measured by `python -m scripts.speed.beside {commit}` on {time.strftime('%Y-%m-%d')}: "
        f"that commit and this one in turn, {ROUNDS} times each, in the same minutes of the same machine, by Python. *Then*: "
        "what that commit's own docs/speed.md had, in the hour it was made; times the ratio, the median of the turns', it is "
        "what this one would have had in that hour.", "",
        f"| What | {commit} | This | Ratio | Least and most | Then | Times the ratio | Budget | Kept |", "|" + "---|" * 9,
    ]  # fmt: skip
    for what, (before, after) in rows.items():
        ratios = [mine / theirs for mine, theirs in zip(after, before, strict=True)]
        ratio, (budget, unit) = statistics.median(ratios), budgets[what]
        was = then.get(what)
        shown = [number(statistics.median(one) / SECONDS[unit], unit) for one in (before, after)]
        would = (number(was / SECONDS[unit], unit), number(was * ratio / SECONDS[unit], unit)) if was else ("", "")
        kept = "" if was is None else "yes" if was * ratio <= budget else "**no**"
        cells = [what, *shown, f"{ratio:.2f}", f"{min(ratios):.2f} to {max(ratios):.2f}", *would]
        lines.append(f"| {' | '.join([*cells, number(budget / SECONDS[unit], unit), kept])} |")
    OUT.write_text("\n".join([*lines, ""]), encoding="utf-8")
    print(f"wrote {OUT.name}")


if __name__ == "__main__":
    main(sys.argv[1])
