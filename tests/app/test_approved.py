"""Nothing on the screens, in findings' words, or in what leaves the bench has changed unseen."""

from __future__ import annotations

import json
import unittest
from pathlib import Path

from tests import retired
from tests.approve import APPROVED, LOOKED_AT, mark


class Approved(unittest.TestCase):
    def assert_as_it_was(self, group: str) -> None:
        approved = json.loads(APPROVED.read_text())[group]
        texts = LOOKED_AT[group]()
        found = {name: mark(text) for name, text in texts.items()}
        changed = sorted(name for name in {*approved, *found} if approved.get(name) != found.get(name))
        self.assertEqual(self.retired(group, texts), [], "words that nobody should read any more")
        self.assertEqual(changed, [], "Look at these, then `make approve`; `python -m tests.approve NAME` prints one.")

    def retired(self, group: str, texts: dict[str, str]) -> list[str]:
        """Retired words in what was looked at: of a view what is seen, of a program its comments."""
        read = {"views": retired.of_page, "findings": retired.of_text, "files": retired.of_program}[group]
        return sorted({found for text in texts.values() for found in read(text)})[:40]

    def test_no_retired_word_in_help_documents_and_templates(self) -> None:
        root = Path(__file__).parents[2]
        found = {}
        for path in [
            *(root / "viva_tick/web/templates").rglob("*.html"),
            root / "README.md",
            *(root / "docs").glob("*.md"),
        ]:
            text = path.read_text(encoding="utf-8")
            if words := (retired.of_page if path.suffix == ".html" else retired.of_text)(text):
                found[path.name] = words
        self.assertEqual(found, {})

    def test_what_leaves_the_demos(self) -> None:
        self.assert_as_it_was("files")

    def test_what_is_found_in_words_and_numbers(self) -> None:
        self.assert_as_it_was("findings")

    def test_what_every_view_shows(self) -> None:
        self.assert_as_it_was("views")


if __name__ == "__main__":
    unittest.main()
