"""A few hundred inputs of the fuzzer; `make fuzz` tries 100,000."""

from __future__ import annotations

import unittest

from tests.depth import DEPTH
from tests.fuzz import Fuzz


class Fuzzed(unittest.TestCase):
    def test_no_input_ends_in_a_fault_of_ours(self) -> None:
        found = Fuzz(5).run(270 * DEPTH)
        self.assertEqual(found.faults, [])
        self.assertEqual(found.answers.total(), 270 * DEPTH)
        kinds = {kind for kind, _ in found.answers}
        self.assertEqual(len(kinds), 11)
        accepted = sum(count for (_, status), count in found.answers.items() if status in (200, 302))
        self.assertGreater(accepted, 30 * DEPTH, found.answers)


if __name__ == "__main__":
    unittest.main()
