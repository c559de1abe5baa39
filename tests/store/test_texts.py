"""Several names in one column come back as they were, whatever they hold."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from tests.properties import examples
from wise_ledger.store.texts import in_one_text, out_of_one_text

NAME = st.sampled_from(["files", "Kestrel pages", "[x", '["a"]', "a\u00a0b", "\u2028", "é"])


class Texts(unittest.TestCase):
    @given(st.lists(NAME | st.text(min_size=1, max_size=6), max_size=4))
    @examples(200)
    def test_names_come_back(self, names: list[str]) -> None:
        self.assertEqual(out_of_one_text(in_one_text(names)), names)

    def test_what_was_written_before_is_read_t7(self) -> None:
        self.assertEqual(out_of_one_text("files fernmark"), ["files", "fernmark"])
        self.assertEqual(out_of_one_text("[old files"), ["[old", "files"])


if __name__ == "__main__":
    unittest.main()
