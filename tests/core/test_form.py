"""The code's form: linted, formatted, typed, layered; nothing loaded from outside; the documentation complete."""

from __future__ import annotations

import ast
import hashlib
import re
import subprocess
import sys
import unittest
from pathlib import Path

from viva_tick.core.boards import boards
from viva_tick.core.debounce import METHODS
from viva_tick.core.emit import TARGETS
from viva_tick.core.kinds import INPUT_KINDS, OUTPUT_KINDS
from viva_tick.core.recipes import RECIPES
from viva_tick.core.switches import SWITCH_CLASSES

ROOT = Path(__file__).parents[2]
CORE = ROOT / "viva_tick" / "core"
CODE = ("viva_tick", "tests", "scripts")


def imports(path: Path) -> set[str]:
    """Absolute names of the modules that a file imports."""
    package = path.relative_to(ROOT).with_suffix("").parts[:-1]
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            base = package[: len(package) - node.level + 1] if node.level else ()
            found.add(".".join([*base, *([node.module] if node.module else [])]))
    return found


class Form(unittest.TestCase):
    def check(self, *command: str) -> None:
        done = subprocess.run([sys.executable, "-m", *command], cwd=ROOT, capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stdout + done.stderr)

    def test_ruff_finds_nothing(self) -> None:
        self.check("ruff", "check", *CODE)

    def test_the_code_is_formatted(self) -> None:
        self.check("ruff", "format", "--check", *CODE)

    def test_the_types_agree(self) -> None:
        self.check("mypy")


class Layers(unittest.TestCase):
    def test_the_core_knows_no_screen_and_no_database(self) -> None:
        for path in CORE.rglob("*.py"):
            for name in imports(path):
                self.assertNotRegex(name, r"^(flask|sqlalchemy|werkzeug|jinja2|viva_tick\.(web|store))", path)

    def test_folders_of_the_core_depend_on_each_other_without_a_circle(self) -> None:
        edges: dict[str, set[str]] = {}
        for path in CORE.rglob("*.py"):
            mine = path.relative_to(CORE).parts[0].removesuffix(".py")
            for name in imports(path):
                if name.startswith("viva_tick.core.") and (other := name.split(".")[2]) != mine:
                    edges.setdefault(mine, set()).add(other)
        done: set[str] = set()
        while ready := {
            folder for folder in edges if folder not in done and edges[folder] <= done | (edges[folder] - set(edges))
        }:
            done |= ready
        self.assertEqual(set(edges) - done, set(), edges)

    def test_pages_load_nothing_from_outside_and_hold_no_script_or_style(self) -> None:
        for path in (ROOT / "viva_tick" / "web").rglob("*"):
            if path.suffix in (".html", ".css", ".js", ".svg") and "vendor" not in path.parts:
                text = path.read_text().replace("http://www.w3.org/2000/svg", "")
                self.assertNotRegex(text, r"https?://", path)
                self.assertNotRegex(text, r"""<script(?![^>]*src=)|\sstyle=["']|\son[a-z]+=["']""", path)


class Documentation(unittest.TestCase):
    def test_what_can_be_chosen_is_described(self) -> None:
        text = (ROOT / "docs" / "bench.md").read_text()
        for names in (METHODS, SWITCH_CLASSES, boards(), RECIPES, TARGETS, INPUT_KINDS, OUTPUT_KINDS):
            for name in names:
                self.assertIn(f"`{name}`", text)

    def test_pins_are_exact_and_agree_with_the_constraints(self) -> None:
        project = (ROOT / "pyproject.toml").read_text()
        pins = re.findall(r'^    "([A-Za-z0-9_-]+)([^"]*)",$', project, re.MULTILINE)
        fixed = (ROOT / "constraints.txt").read_text().lower().splitlines()
        self.assertGreater(len(pins), 12)
        for name, version in pins:
            self.assertIn(f"{name}{version}".lower(), fixed)

    def test_every_picture_in_the_readme_is_there_and_every_vendored_package_has_its_licence(self) -> None:
        readme = (ROOT / "README.md").read_text()
        pictures = {path.name for path in (ROOT / "docs" / "screenshots").glob("*.png")}
        self.assertEqual(set(re.findall(r"screenshots/([\w-]+\.png)", readme)), pictures)
        licences = ROOT / "viva_tick" / "web" / "static" / "vendor" / "licences"
        for line in (licences.parent / "SHA256SUMS").read_text().splitlines():
            digest, name = line.split(maxsplit=1)
            self.assertEqual(hashlib.sha256((licences.parent / name).read_bytes()).hexdigest(), digest, name)
        for name in (
            "alpine-csp",
            "alpine-morph",
            "bootstrap",
            "bricolage-grotesque",
            "spline-sans",
            "spline-sans-mono",
        ):
            self.assertIn("ermission", (licences / f"{name}.txt").read_text())


if __name__ == "__main__":
    unittest.main()
