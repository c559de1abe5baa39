"""What docstrings show is what the code does: every example of every room."""

import doctest
import unittest
from importlib import import_module
from pathlib import Path

import wise_ledger


class Docstrings(unittest.TestCase):
    def test_every_example_answers_as_it_shows(self) -> None:
        root, tried = Path(wise_ledger.__file__).parent, 0
        for path in sorted(root.rglob("*.py")):
            if ">>> " not in path.read_text("utf-8"):
                continue
            name = ".".join(path.relative_to(root.parent).with_suffix("").parts)
            found = doctest.testmod(import_module(name))
            with self.subTest(name):
                self.assertEqual(found.failed, 0)
            tried += found.attempted
        self.assertGreater(tried, 30)


if __name__ == "__main__":
    unittest.main()
