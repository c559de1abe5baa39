"""Figures as columns say what the same figures say one by one, however they are joined,
chosen from or sent.
"""

import pickle
import unittest
from datetime import UTC, date, datetime
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.properties import examples
from wise_ledger.core.records.coded import Coded
from wise_ledger.core.records.figures import Figures
from wise_ledger.core.records.records import FactRecord

ENTRIES: Any = st.lists(
    st.sampled_from(["EUR", "USD", "", None, date(2023, 12, 31), 3]), max_size=12
)
FIGURES: Any = st.lists(
    st.builds(
        FactRecord,
        item=st.sampled_from(["revenue", "net_income"]),
        period_start=st.sampled_from([None, date(2023, 1, 1), date(2023, 10, 1)]),
        period_end=st.sampled_from([date(2023, 12, 31), date(2024, 3, 31)]),
        value=st.sampled_from([None, 0.0, 5.5, -1e9]),
        reported=st.sampled_from(["", "5.5"]),
        scale=st.integers(0, 6),
        unit=st.sampled_from(["EUR", "shares"]),
        published_at=st.sampled_from(
            [datetime(2024, 2, 1, tzinfo=UTC), datetime(2024, 5, 1, tzinfo=UTC)]
        ),
        place=st.sampled_from(["/a", "/b"]),
        assumed=st.booleans(),
        fiscal_period=st.sampled_from([None, "FY2023"]),
    ),
    max_size=8,
)


class Columns(unittest.TestCase):
    @given(st.lists(ENTRIES, max_size=4), st.data())
    @examples(300)
    def test_a_coded_column_is_the_list_that_it_was_made_of(
        self, parts: list[list[Any]], data: Any
    ) -> None:
        entries = [entry for part in parts for entry in part]
        column: Coded[Any] = Coded.joined([Coded.of(part) for part in parts])
        keep = data.draw(st.lists(st.booleans(), min_size=len(entries), max_size=len(entries)))
        chosen = [entry for entry, kept in zip(entries, keep, strict=True) if kept]
        of_lists: list[tuple[Coded[Any], list[Any]]] = [
            (column, entries),
            (column.where(keep), chosen),
            (column[1:5], entries[1:5]),
            (pickle.loads(pickle.dumps(column)), entries),
        ]
        for found, wanted in of_lists:
            self.assertEqual((list(found), [found[n] for n in range(len(found))]), (wanted, wanted))
            # Every value stands somewhere, once: what is asked of the values is asked of no other.
            self.assertEqual(
                sorted(map(repr, found.values)), sorted({repr(entry) for entry in wanted})
            )
            self.assertEqual(
                found.numbers(lambda v: len(repr(v))).tolist(), [len(repr(v)) for v in wanted]
            )

    def test_values_that_cannot_be_looked_up_are_kept_for_the_check_to_refuse(self) -> None:
        self.assertEqual(list(Coded.of([["EUR"], "EUR", ["EUR"]])), [["EUR"], "EUR", ["EUR"]])

    @given(st.lists(FIGURES, max_size=3), st.data())
    @examples(150)
    def test_figures_are_the_records_that_they_were_made_of(
        self, parts: list[list[FactRecord]], data: Any
    ) -> None:
        records = [record for part in parts for record in part]
        figures = Figures.joined([Figures.of(part) for part in parts])
        keep = data.draw(st.lists(st.booleans(), min_size=len(records), max_size=len(records)))
        self.assertEqual((len(figures), list(figures)), (len(records), records))
        self.assertEqual(
            list(figures.where(keep)), [r for r, kept in zip(records, keep, strict=True) if kept]
        )
        self.assertEqual(list(figures[1:3]), records[1:3])
        self.assertEqual(list(pickle.loads(pickle.dumps(figures))), records)


if __name__ == "__main__":
    unittest.main()
