"""YAML of people: whatever a text is, it is read as plain values or refused in words, at once."""

import json
import time
import unittest
from contextlib import suppress

from hypothesis import given
from hypothesis import strategies as st

from tests.properties import examples
from wise_ledger.core.catalogue.measures import Measure, read_measures
from wise_ledger.core.errors import BadInput
from wise_ledger.core.yamltext import NotYaml, read_yaml

PIECES = st.sampled_from(
    ["- ", "a: ", "[", "]", "{", "}", "&x ", "*x", "\n", "  ", "'", '"', "|", "? ", "!!int ", "#", "1", "<<: "]
)  # fmt: skip
EVIL = (
    "[" * 100_000, "{" * 100_000, "- " * 100_000, "a: &a [1]\nb: *a", "a: &a [*a]", "a: 2024-02-31", "a: " + "9" * 5000,
    "? [a]\n: b", "\x00", "a: !!python/object:os.system x", "---\na\n---\nb", "- !!int x", "x" * 1_000_001, "\t",
    "a: !!timestamp 2024-13-01",
)  # fmt: skip
VALUES = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.sampled_from(["revenue", "bank", "x", ""]),
    lambda inner: st.lists(inner, max_size=2) | st.dictionaries(st.sampled_from("ab"), inner, max_size=2),
    max_leaves=4,
)  # fmt: skip
FIELDS = "name subject title meaning formula templates source synonyms example strange".split()
ROWS = st.lists(VALUES | st.dictionaries(st.sampled_from(FIELDS), VALUES, max_size=6), max_size=3)


class Yaml(unittest.TestCase):
    @given(st.lists(PIECES, max_size=12).map("".join) | st.text(max_size=20))
    @examples(300)
    def test_any_text_is_read_or_refused(self, text: str) -> None:
        with suppress(NotYaml):
            read_yaml(text)

    def test_what_is_meant_to_break_a_reader_is_refused_at_once_and_in_words(self) -> None:
        for text in EVIL:
            began = time.monotonic()
            with self.subTest(text[:30]), self.assertRaises(NotYaml) as raised:
                read_yaml(text)
            self.assertLess(time.monotonic() - began, 2)
            self.assertTrue(raised.exception.problem)

    @given(ROWS)
    @examples(300)
    def test_a_file_of_definitions_is_measures_or_refused_at_the_places(self, rows: object) -> None:
        try:
            found = read_measures(json.dumps(rows), "ada")
        except BadInput as error:
            self.assertTrue(all(p.mend for p in error.problems))
        else:
            self.assertTrue(all(isinstance(m, Measure) for m in found))


if __name__ == "__main__":
    unittest.main()
