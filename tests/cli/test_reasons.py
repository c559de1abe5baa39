"""One word for one thing: why a figure is missing is said alike in the terminal, in the console
and in the documentation.
"""

import re
import typing
import unittest
from pathlib import Path

from wise_ledger.cli.figures import REASONS, WHY
from wise_ledger.wire.figures import Reason

ROOT = Path(__file__).parents[2]


class Reasons(unittest.TestCase):
    def test_every_reason_is_said_in_the_same_words_everywhere(self) -> None:
        every = set(typing.get_args(Reason))
        self.assertEqual((set(REASONS), set(WHY)), (every, every))
        console = (ROOT / "console/src/figures/reasons.ts").read_text("utf-8")
        said = re.findall(r"""^  (\w+): \[\s*'([^']*)',\s*(['"])(.*?)\3,?\s*\],$""", console, re.M)
        self.assertEqual({name: full for name, _, _, full in said}, WHY)
        self.assertEqual({name: short for name, short, _, _ in said}, REASONS)
        explained = (ROOT / "docs/language.md").read_text("utf-8")
        self.assertEqual({name for name in every if f"`{name}`" not in explained}, set())
