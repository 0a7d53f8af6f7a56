"""Mutants: single faults put into the core, one at a time. Does a test notice?

`make mutants` copies the project, runs every test that needs no browser once while it is recorded which test runs
which line, draws faults at random (always the same for the same seed), and for each runs the tests that come by its
line, the shortest first, until one fails. What no test noticed is listed, to be judged by a person: a fault that
changes nothing that anybody can see is not a hole in the tests. Judgements are kept in `tests/survivors.json`, each
by its file, its line as it reads, and its fault, so that they still hold when lines move.

A fault is a comparison, a sign, a whole number, a unit (a power of a thousand), a condition or a word of logic turned
into its neighbour, or one statement left out. Text is left alone. What holds all texts as they were approved is asked
last, so that it is known how many nothing else has noticed.
"""

from __future__ import annotations

import argparse
import ast
import copy
import io
import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
import unittest
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor, as_completed
from hashlib import sha256
from pathlib import Path
from typing import Any, NamedTuple

ROOT = Path(__file__).parents[1]
PRODUCT = ("viva_tick/core",)
JUDGED = ROOT / "tests/survivors.json"
SWAPS: dict[type, type] = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.Add: ast.Sub, ast.Sub: ast.Add,
    ast.Mult: ast.FloorDiv, ast.FloorDiv: ast.Mult, ast.Mod: ast.Mult, ast.BitAnd: ast.BitOr, ast.LShift: ast.RShift,
    ast.And: ast.Or, ast.Or: ast.And,
}  # fmt: skip
UNITS = (1_000, 1_000_000, 1_000_000_000)
LONGEST_S = 150  # of tests for one fault, as they were recorded: about three times what they take


# What holds all texts of a kind to how they were approved, and what of the core it looks at.
APPROVED = ("test_what_every_view_shows", "test_what_is_found_in_words_and_numbers", "test_what_leaves_the_demos")


def _is_text(node: ast.AST) -> bool:
    return isinstance(node, ast.JoinedStr) or (isinstance(node, ast.Constant) and isinstance(node.value, str))


def faults_of(node: ast.AST) -> Iterator[tuple[str, ast.AST]]:
    """(in words, the node in its place) for each fault that the node can have."""
    new: Any = copy.deepcopy(node)
    match node:
        case ast.Compare(ops=[op]) if type(op) in SWAPS:
            new.ops = [SWAPS[type(op)]()]
            yield f"{type(op).__name__} -> {SWAPS[type(op)].__name__}", new
        case ast.BinOp(left, op, right) if type(op) in SWAPS and not _is_text(left) and not _is_text(right):
            new.op = SWAPS[type(op)]()
            yield f"{type(op).__name__} -> {SWAPS[type(op)].__name__}", new
        case ast.BoolOp(op=op):
            new.op = SWAPS[type(op)]()
            yield f"{type(op).__name__} -> {SWAPS[type(op)].__name__}", new
        case ast.UnaryOp(op=ast.Not() | ast.USub(), operand=operand):
            yield f"without {type(node.op).__name__}", operand
        case ast.Constant(value=bool(value)):
            yield f"{value} -> {not value}", ast.Constant(not value)
        case ast.Constant(value=int(value)) if value in UNITS:
            yield f"{value:,} -> {value // 1_000:,}", ast.Constant(value // 1_000)
        case ast.Constant(value=int(value)):
            yield f"{value} -> {value + 1}", ast.Constant(value + 1)
        case ast.If() | ast.IfExp():
            new.test = ast.UnaryOp(ast.Not(), new.test)
            yield "the other way", new
        case ast.Expr(value=ast.Call()) | ast.AugAssign() | ast.Assign(targets=[ast.Attribute() | ast.Subscript()]):
            yield "left out", ast.Pass()
        case _:
            return


def _hidden(tree: ast.AST) -> set[int]:
    """What is not run, or says only how a class is made: types, decorators."""
    hidden: set[int] = set()
    for node in ast.walk(tree):
        for name in ("annotation", "returns"):
            part = getattr(node, name, None)
            if isinstance(part, ast.AST):
                hidden |= {id(one) for one in ast.walk(part)}
        if isinstance(node, ast.Call):  # how much is kept at hand, and that two rows are as long, nobody can see
            for word in node.keywords:
                if word.arg in ("strict", "maxsize"):
                    hidden |= {id(one) for one in ast.walk(word.value)}
        for decorator in getattr(node, "decorator_list", ()):
            hidden |= {id(one) for one in ast.walk(decorator)}
        if isinstance(node, ast.If) and "TYPE_CHECKING" in ast.unparse(node.test):
            hidden |= {id(one) for one in ast.walk(node)}
    return hidden


Key = tuple[str, str, int]  # the line as it reads, the fault in words, the how manyeth of these in its file


def points(path: Path, wanted: frozenset[Key] = frozenset()) -> dict[Key, tuple[int, str]]:
    """(line, the whole file with it) of each fault that a file can have; of those that are not `wanted` no file."""
    source = path.read_text()
    tree, rows_of_text = ast.parse(source), source.splitlines()
    hidden = _hidden(tree)
    found: dict[Key, tuple[int, str]] = {}
    same: Counter[tuple[str, str]] = Counter()
    for parent in list(ast.walk(tree)):
        for name, value in ast.iter_fields(parent):
            rows: list[Any] = value if isinstance(value, list) else [value]
            for place, node in enumerate(rows):
                if not isinstance(node, ast.AST) or id(node) in hidden:
                    continue
                for words, new in faults_of(node):
                    line, text = getattr(node, "lineno", 1), ""
                    like = rows_of_text[line - 1].strip(), words
                    same[like] += 1
                    key = (*like, same[like])
                    if key in wanted:
                        _set(parent, name, place, ast.copy_location(new, node))
                        text = ast.unparse(ast.fix_missing_locations(tree))
                        _set(parent, name, place, node)
                    found[key] = line, text
    return found


def _set(parent: ast.AST, name: str, place: int, node: ast.AST) -> None:
    if isinstance(value := getattr(parent, name), list):
        value[place] = node
    else:
        setattr(parent, name, node)


class Mutant(NamedTuple):
    """One fault: where, in words, and the whole file with it."""

    file: str
    line: int
    reads: str  # the line as it reads without the fault
    words: str
    text: str


def drawn(seed: int, count: int, folders: tuple[str, ...] = PRODUCT) -> list[Mutant]:
    """So many faults of all. Each is drawn by what it is, not by its place, so that a change elsewhere draws no others."""
    files = [path for folder in folders for path in sorted((ROOT / folder).rglob("*.py"))]
    files = [path for path in files if not {"migrations", "layers"} & set(path.parts)]
    every = [(str(path.relative_to(ROOT)), key) for path in files for key in points(path)]
    every.sort(key=lambda one: sha256(repr((seed, one)).encode()).digest())
    wanted: dict[str, set[Key]] = {}
    for file, key in every[:count]:
        wanted.setdefault(file, set()).add(key)
    made = {file: points(ROOT / file, frozenset(keys)) for file, keys in wanted.items()}
    return [Mutant(file, made[file][key][0], key[0], key[1], made[file][key][1]) for file, key in every[:count]]


class _Recorded(unittest.TextTestResult):
    """Tells the recorder which test runs, and how long it took."""

    recorder: Any = None
    seconds: dict[str, float]

    def startTest(self, test: unittest.TestCase) -> None:
        super().startTest(test)
        self.recorder.switch_context(test.id())
        self.began = time.monotonic()

    def stopTest(self, test: unittest.TestCase) -> None:
        self.seconds[test.id()] = time.monotonic() - self.began
        self.recorder.switch_context("")
        super().stopTest(test)


def record(to: Path, folders: tuple[str, ...]) -> None:
    """Run all tests without a browser; write which of them run which line, and how long each takes."""
    import coverage

    recorder = coverage.Coverage(data_file=str(to.with_suffix(".data")), source=list(folders))
    recorder.start()
    modules = [
        ".".join(path.relative_to(ROOT).with_suffix("").parts)
        for folder in ("core", "app")
        for path in sorted((ROOT / "tests" / folder).glob("test_*.py"))
        if path.stem not in ("test_form", "test_builder")  # these look at text, and at what emit's tests run
    ]
    seconds: dict[str, float] = {}
    kind = type("Recorded", (_Recorded,), {"recorder": recorder, "seconds": seconds})
    suite = unittest.TestLoader().loadTestsFromNames(modules)
    unittest.TextTestRunner(resultclass=kind, warnings="ignore", stream=io.StringIO()).run(suite)
    recorder.stop()
    data = recorder.get_data()
    lines: dict[str, dict[str, list[str]]] = {}
    for file in data.measured_files():
        by_line = data.contexts_by_lineno(file)
        lines[str(Path(file).relative_to(ROOT))] = {
            str(line): sorted(filter(None, tests)) for line, tests in by_line.items()
        }
    to.write_text(json.dumps({"lines": lines, "seconds": seconds}))


def check(names: list[str]) -> int:
    """Run the tests that are named until one fails."""
    result = unittest.TextTestRunner(failfast=True, warnings="ignore", stream=io.StringIO()).run(
        unittest.TestLoader().loadTestsFromNames(names)
    )
    if bad := [*result.failures, *result.errors]:
        print(str(getattr(bad[0][0], "id", lambda: bad[0][0])()))
    return 1 if bad else 0


def tests_for(file: str, line: int, known: dict[str, Any]) -> list[str]:
    """The tests that come by a line, the shortest first, as many as there is time for, and last what holds all texts as
    they were approved; for a line that is run as the file is read, any."""
    by_line, seconds = known["lines"].get(file, {}), known["seconds"]
    near = by_line.get(str(line)) or seconds  # what is read as the file is can be looked at without coming by it
    names = sorted(near, key=lambda test: seconds.get(test, 0))
    left_s, chosen = float(LONGEST_S), []
    for name in names:
        if name.endswith(APPROVED):
            continue
        left_s -= seconds.get(name, 0)
        if left_s < 0:
            break
        chosen.append(name)
    return chosen + [name for name in names if name.endswith(APPROVED)]


SOUND: set[str] = set()  # tests that noticed a fault and pass, each by itself, without one
UNSOUND: set[str] = set()  # and those that do not: what they say proves nothing


def _first_to_fail(names: list[str], folder: Path, limit_s: float) -> str:
    """Which of these tests fails first, in a copy of the project as it stands there; empty where none does."""
    try:
        done = subprocess.run(
            [sys.executable, "-W", "ignore", "-m", "scripts.mutants", "--check"],
            cwd=folder, env={**os.environ, "CI": "true", "PYTHONPATH": str(folder), "PYTHONDONTWRITEBYTECODE": "1"},
            input="\n".join(names), capture_output=True, text=True, timeout=limit_s,
        )  # fmt: skip
        return "" if done.returncode == 0 else done.stdout.strip() or "it does not start"
    except subprocess.TimeoutExpired:
        return "it does not end"


def noticed(mutant: Mutant, folder: Path, known: dict[str, Any]) -> str:
    """By which test, in a copy of the project; empty where none notices."""
    path = folder / mutant.file
    before = path.read_text()
    while True:
        names = [name for name in tests_for(mutant.file, mutant.line, known) if name not in UNSOUND]
        path.write_text(mutant.text)
        try:
            by = _first_to_fail(names, folder, 40 + 2 * sum(known["seconds"].get(name, 0) for name in names))
        finally:
            path.write_text(before)
        test = by.split(" ")[0]
        if test not in names or test in SOUND:
            return by
        if not _first_to_fail([test], folder, 400):
            SOUND.add(test)
            return by
        UNSOUND.add(test)


def judgements() -> dict[tuple[str, str, str], str]:
    """Of each survivor that a person has looked at, by file, line as it reads and fault: why no test need notice."""
    rows = json.loads(JUDGED.read_text()) if JUDGED.exists() else []
    return {(row["file"], row["line"], row["fault"]): row["why"] for row in rows}


def tried(
    sample: list[tuple[int, Mutant]], hands: list[Path], known: dict[str, Any]
) -> Iterator[tuple[int, Mutant, str]]:
    """Each with the test that noticed it, as they come."""
    free = list(hands)

    def one(place: int, mutant: Mutant) -> tuple[int, Mutant, str]:
        hand = free.pop()
        try:
            return place, mutant, noticed(mutant, hand, known)
        finally:
            free.append(hand)

    with ThreadPoolExecutor(len(hands)) as pool:
        for done in as_completed([pool.submit(one, *each) for each in sample]):
            yield done.result()


def report(rows: Iterator[tuple[int, Mutant, str]]) -> None:
    """Print each, then the survivors with what was judged of them, and how many there are of each kind."""
    why, survivors = judgements(), []
    killed = by_text = 0
    for place, mutant, by in rows:
        killed += bool(by)
        by_text += by.endswith(APPROVED)
        if not by:
            survivors.append((place, mutant))
        print(
            f"{place:3} {mutant.file}:{mutant.line} {mutant.words}: {'killed by ' + by if by else 'SURVIVED'}",
            flush=True,
        )
    print("\nSurvivors")
    unjudged = 0
    for place, mutant in sorted(survivors):
        judged = why.get((mutant.file, mutant.reads, mutant.words), "")
        unjudged += not judged
        print(f"{place:3} {mutant.file}:{mutant.line} {mutant.words}\n    {mutant.reads}\n    {judged or 'NOT JUDGED'}")
    for test in sorted(UNSOUND):
        print(f"{test} fails by itself without any fault: it was not asked")
    total = killed + len(survivors)
    print(f"\n{killed} of {total} killed ({killed / max(1, total):.1%}), {by_text} of them only by approved texts; "
          f"{len(survivors)} survived, {unjudged} of them not judged")  # fmt: skip


def main() -> None:
    """See above."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--count", type=int, default=300)
    parser.add_argument("--hands", type=int, default=2)
    parser.add_argument("--in", dest="folders", action="append", help="a folder of the product; the core, where none")
    parser.add_argument("--known", type=Path, help="what an earlier recording wrote, or where to write this one")
    parser.add_argument("--only", help="places of the sample, as 3,17,40")
    parser.add_argument("--record", type=Path, help=argparse.SUPPRESS)
    parser.add_argument("--check", action="store_true", help=argparse.SUPPRESS)
    given = parser.parse_args()
    folders = tuple(given.folders or PRODUCT)
    if given.record:
        record(given.record, folders)
        return
    if given.check:
        sys.exit(check(sys.stdin.read().split()))
    with tempfile.TemporaryDirectory() as temporary:
        hands = [Path(temporary) / f"hand-{number}" for number in range(given.hands)]
        for hand in hands:
            shutil.copytree(ROOT, hand, ignore=shutil.ignore_patterns(".git", ".venv", "data", "*.pyc"), symlinks=True)
        known_at = given.known or Path(temporary) / "known.json"
        if not known_at.exists():
            env = {**os.environ, "CI": "true", "PYTHONPATH": str(hands[0])}
            command = [sys.executable, "-W", "ignore", "-m", "scripts.mutants", "--record", str(known_at)]
            command += [word for folder in folders for word in ("--in", folder)]
            subprocess.run(command, cwd=hands[0], env=env, check=True)
        sample = list(enumerate(drawn(given.seed, given.count, folders)))
        if given.only:
            wanted = {int(place) for place in given.only.split(",")}
            sample = [one for one in sample if one[0] in wanted]
        report(tried(sample, hands, json.loads(known_at.read_text())))


if __name__ == "__main__":
    main()
