"""Of several rows about one thing one counts at each instant (T5, T9, M3),
by the rule and in the arrays of prices alike.
"""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.properties import examples
from wise_ledger.core.dated.versions import Version, standing
from wise_ledger.core.market.prices import Prices
from wise_ledger.core.records.columnkinds import PRICES
from wise_ledger.core.records.columns import UNSAID, RecordColumns

INSTANTS = range(9)
SAID = st.builds(lambda source, at: Version(source, at, at), st.integers(0, 2), st.integers(1, 7))
UNSAID_ = st.builds(
    lambda source, at: Version(source, at, None), st.integers(0, 2), st.integers(1, 7)
)
SEVERAL = st.lists(SAID | UNSAID_, min_size=1, max_size=6)


def counts(versions: list[Version], at: int) -> Version | None:
    """What counts at an instant."""
    found = [s for s in standing(versions) if s.since <= at < s.until]
    assert len(found) <= 1
    return versions[found[0].row] if found else None


class Versions(unittest.TestCase):
    @given(SEVERAL, st.integers(1, 7))
    @examples(200)
    def test_what_is_known_later_matters_to_no_earlier_instant_t9(
        self, versions: list[Version], at: int
    ) -> None:
        by_then = [v for v in versions if v.since <= at]
        self.assertEqual(counts(versions, at), counts(by_then, at) if by_then else None)

    @given(st.lists(SAID, min_size=1, max_size=6, unique_by=lambda v: v.since), st.data())
    @examples(100)
    def test_the_first_source_that_has_it_counts_and_its_last_published_in_any_order_t5(
        self, versions: list[Version], data: st.DataObject
    ) -> None:
        mixed = data.draw(st.permutations(versions))
        for at in INSTANTS:
            known = [v for v in versions if v.since <= at]
            expected = min(known, key=lambda v: (v.source, -v.since), default=None)
            self.assertEqual((counts(versions, at), counts(mixed, at)), (expected, expected))

    @given(st.lists(SAID, max_size=3), st.lists(SAID, max_size=3), st.integers(1, 7))
    @examples(100)
    def test_one_without_an_instant_replaces_all_before_it_and_is_replaced_by_any_after_m3(
        self, before: list[Version], after: list[Version], since: int
    ) -> None:
        own = Version(0, since, None)
        before, after = ([v._replace(source=0) for v in some] for some in (before, after))
        for at in range(since, 9):
            later = [v for v in after if v.since <= at]
            expected = max(reversed(later), key=lambda v: v.since) if later else own
            self.assertEqual(counts([*before, own, *after], at), expected)

    @given(st.lists(SEVERAL, min_size=1, max_size=4))
    @examples(200)
    def test_prices_say_the_same_of_every_day_at_once(self, days: list[list[Version]]) -> None:
        each = [(day, v) for day, versions in enumerate(days) for v in versions]
        rows = RecordColumns.of(
            PRICES,
            listing=[0] * len(each),
            date=[day for day, _ in each],
            close=np.arange(1.0, len(each) + 1),
            published_at=[UNSAID if v.said is None else v.said for _, v in each],
            known_at=[v.since for _, v in each],
            source=[v.source for _, v in each],
        )
        prices = Prices.of(rows, np.array([v.source for _, v in each], np.int16))
        slots = np.arange(len(days))
        for at in INSTANTS:
            found = prices.standing(slots, np.full(len(days), at))
            shown = [None if row < 0 else each[row][1] for row in found.tolist()]
            self.assertEqual(shown, [counts(versions, at) for versions in days])


if __name__ == "__main__":
    unittest.main()
