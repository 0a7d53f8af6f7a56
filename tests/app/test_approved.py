"""Nothing on the screens, in findings' words, or in what leaves the bench has changed unseen."""

from __future__ import annotations

import json
import unittest

from tests.approve import APPROVED, LOOKED_AT, mark


class Approved(unittest.TestCase):
    def assert_as_it_was(self, group: str) -> None:
        approved = json.loads(APPROVED.read_text())[group]
        found = {name: mark(text) for name, text in LOOKED_AT[group]().items()}
        changed = sorted(name for name in {*approved, *found} if approved.get(name) != found.get(name))
        self.assertEqual(changed, [], "Look at these, then `make approve`; `python -m tests.approve NAME` prints one.")

    def test_what_leaves_the_demos(self) -> None:
        self.assert_as_it_was("files")

    def test_what_is_found_in_words_and_numbers(self) -> None:
        self.assert_as_it_was("findings")

    def test_what_every_view_shows(self) -> None:
        self.assert_as_it_was("views")


if __name__ == "__main__":
    unittest.main()
