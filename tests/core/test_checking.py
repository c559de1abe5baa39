"""The one door for values: hostile ones are refused with a problem,
whatever record they stand in; good ones pass.
"""

import unittest
from dataclasses import fields, replace
from datetime import UTC, date, datetime, timedelta
from functools import partial
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from tests.properties import examples
from wise_ledger.core.records import checking, kinds
from wise_ledger.core.records.figures import Figures
from wise_ledger.core.records.records import (
    AttributeRecord,
    FactRecord,
    IdentifierRecord,
    ListingRecord,
    MemberRecord,
    RateRecord,
    SplitRecord,
)

NOW = datetime(2026, 1, 1, tzinfo=UTC)
DAY = date(2022, 12, 31)
GOOD: list[tuple[Any, Any]] = [
    (FactRecord("revenue", date(2022, 1, 1), DAY, 5.0, "5", 0, "EUR", datetime(2023, 2, 1, tzinfo=UTC), "/a"),
     checking.of_fact),
    (AttributeRecord("fiscal_year_end", "12", DAY, datetime(2023, 2, 1, tzinfo=UTC)), kinds.ATTRIBUTES.problems),
    (IdentifierRecord("isin", "XA0000000001", DAY, date(2023, 1, 1)), kinds.IDENTIFIERS.problems),
    (ListingRecord("AGK", "ZALD", "USD", DAY, date(2023, 1, 1), True), kinds.LISTINGS.problems),
    (MemberRecord("A", DAY, date(2023, 1, 1), 0.5), kinds.MEMBERS.problems),
    (RateRecord("EUR", "USD", DAY, 1.1), kinds.RATES.problems),
    (SplitRecord(DAY, 4.0, datetime(2022, 12, 1, tzinfo=UTC)), kinds.SPLITS.problems),
]  # fmt: skip
NUMBERS = st.sampled_from([float("nan"), float("inf"), -float("inf"), 1e300, -1e21])
DAYS = st.one_of(
    st.dates(date(1, 1, 1), date(1899, 12, 31)), st.dates(date(2201, 1, 1), date(9999, 12, 31))
)
INSTANTS = st.one_of(
    st.integers(3, 60_000).map(lambda days: NOW + timedelta(days)),
    st.sampled_from(
        [
            datetime(9999, 12, 31, tzinfo=UTC),
            datetime(1, 1, 1, tzinfo=UTC),
            NOW.replace(tzinfo=None),
        ]
    ),
)
TEXTS = st.sampled_from(["a\x00b", "\ud800", "x" * 5000, "\x1b[31m", None, 5, ["a"]])


class Door(unittest.TestCase):
    def test_good_records_pass(self) -> None:
        for record, problems in GOOD:
            self.assertEqual(list(problems(record, NOW)), [], record)

    @given(st.sampled_from(GOOD), st.data())
    @examples(400)
    def test_one_hostile_value_anywhere_is_refused_with_place_and_mend(
        self, good: Any, data: Any
    ) -> None:
        record, problems = good
        names = (
            record._fields if isinstance(record, FactRecord) else [f.name for f in fields(record)]
        )
        name = data.draw(st.sampled_from([n for n in names if getattr(record, n) is not None]))
        kind = type(getattr(record, name))
        hostile = {float: NUMBERS, date: DAYS, datetime: INSTANTS, str: TEXTS}.get(kind)
        if hostile is None or name in ("item", "company_key", "name"):
            return
        made = record._replace if isinstance(record, FactRecord) else partial(replace, record)
        spoilt = made(**{name: data.draw(hostile)})
        found, wrong = checking.passing([record, spoilt], problems, NOW)
        self.assertEqual((found, len(wrong)), ([record], 1), name)
        if isinstance(record, FactRecord):
            self.assertEqual(
                [checking.all_pass(Figures.of([record, r]), NOW) for r in (record, spoilt)],
                [True, False],
            )
        self.assertTrue(wrong[0].at and wrong[0].problem and wrong[0].mend)
        self.assertIn("1 value refused", checking.in_words(wrong))

    def test_codes_that_do_not_exist_are_refused(self) -> None:
        wrong = {
            "fiscal_year_end": ["March", "13", "0", "", "²"], "template": ["fund"], "currency": ["eur", "EURO"],
            "active": ["true"], "industry": ["Glass", "00"], "country": ["Aldmoor"], "fiscal_year_named_by": ["1"],
        }  # fmt: skip
        for name, values in wrong.items():
            for value in values:
                found = list(kinds.ATTRIBUTES.problems(AttributeRecord(name, value, DAY), NOW))
                self.assertTrue(found and found[0].mend, (name, value))
