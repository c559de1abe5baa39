"""Year ends that nobody declared (F3): the month in which 12-month periods end,
once one is published (T9).
"""

import unittest
from datetime import date
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.core.small_ledger import LONG_AGO, SmallLedger, at_end_of
from tests.properties import examples
from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.evaluate import Evaluation

Told = tuple[str, str, float, str]
# quarters and years to June until 2021, a transition of six months, years to December
JUNE: list[Told] = [
    ("2019-07-01", "2020-06-30", 100, "2020-08-20"), ("2020-07-01", "2020-09-30", 30, "2020-11-10"),
    ("2020-07-01", "2020-12-31", 55, "2021-02-10"), ("2020-07-01", "2021-03-31", 80, "2021-05-10"),
    ("2020-07-01", "2021-06-30", 110, "2021-08-20"), ("2021-07-01", "2021-09-30", 32, "2021-11-10"),
    ("2021-07-01", "2021-12-31", 64, "2022-02-20"), ("2022-01-01", "2022-03-31", 33, "2022-05-10"),
    ("2022-01-01", "2022-06-30", 66, "2022-08-10"), ("2022-01-01", "2022-09-30", 99, "2022-11-10"),
    ("2022-01-01", "2022-12-31", 140, "2023-02-20"),
]  # fmt: skip
EXPRESSIONS = (
    "revenue.fy",
    "revenue.q",
    "revenue.h",
    "revenue.ytd",
    "revenue.ttm",
    "total_assets.fy",
    "growth(revenue.fy, 1y)",
)


def company(reported: list[Told], year_ends: tuple[tuple[int, int, int], ...] = ()) -> SmallLedger:
    facts: list[dict[str, Any]] = []
    for start, end, value, published in reported:
        plain = {"period_end": end, "published_at": published, "unit": "USD"}
        facts.append({**plain, "item": "revenue", "period_start": start, "value": value})
        facts.append({**plain, "item": "total_assets", "value": value * 2})
    return SmallLedger(facts, year_ends)


def ask(made: SmallLedger, text: str, on: str) -> Any:
    cutoff = np.array([at_end_of(date.fromisoformat(on))])
    values, ends = Evaluation(made.view(), np.arange(1), cutoff).run(plan(text))
    reason = values.reason[0, 0]
    return (
        Reason(reason).code
        if reason
        else (values.value[0, 0], str(np.datetime64(int(ends[0, 0]), "D")))
    )


class Inferred(unittest.TestCase):
    def test_the_first_year_published_says_when_years_end(self) -> None:
        made = company(JUNE[:6])
        self.assertEqual(ask(made, "revenue.fy", "2020-08-20"), (100, "2020-06-30"))
        self.assertEqual(ask(made, "total_assets.fy", "2021-03-01"), (200, "2020-06-30"))
        self.assertEqual(ask(made, "revenue.q", "2021-08-20"), (30, "2021-06-30"))
        self.assertEqual(ask(made, "revenue.ytd", "2021-12-01"), (32, "2021-09-30"))
        end, now = int(np.datetime64("2021-09-30").astype(int)), at_end_of(date(2021, 12, 1))
        self.assertEqual(made.view().calendar.label(0, end, now, 3), "FY2022Q1")
        self.assertEqual(
            made.view().calendar.label(0, end, at_end_of(date(2020, 8, 19)), 3), "FY2021Q3"
        )  # not yet known

    def test_without_any_year_there_is_no_fiscal_year(self) -> None:
        quarters = [
            ("2020-01-01", "2020-03-31", 1, "2020-05-01"),
            ("2020-04-01", "2020-06-30", 2, "2020-08-01"),
            ("2020-07-01", "2020-09-30", 3, "2020-11-01"),
            ("2020-10-01", "2020-12-31", 4, "2021-02-01"),
        ]
        made = company(quarters)
        self.assertEqual(ask(made, "revenue.fy", "2021-03-01"), "incomplete")
        self.assertEqual(ask(made, "revenue.ttm", "2021-03-01"), (10, "2020-12-31"))
        # an older year, published late: from then on it is known
        year = ("2019-01-01", "2019-12-31", 8, "2021-04-01")
        self.assertEqual(ask(company([*quarters, year]), "revenue.fy", "2021-03-01"), "incomplete")
        self.assertEqual(
            ask(company([*quarters, year]), "revenue.fy", "2021-04-01"), (10, "2020-12-31")
        )

    def test_a_new_month_counts_once_a_year_is_published_that_follows_a_transition(self) -> None:
        made = company(JUNE)
        # as it seemed: 64 and 66
        self.assertEqual(ask(made, "revenue.fy", "2023-02-19"), (130, "2022-06-30"))
        self.assertEqual(ask(made, "revenue.fy", "2023-02-20"), (140, "2022-12-31"))
        declared = company(
            JUNE, ((0, LONG_AGO, 6), (0, int(np.datetime64("2021-10-01").astype(int)), 12))
        )
        for text in EXPRESSIONS:
            self.assertEqual(ask(made, text, "2023-03-01"), ask(declared, text, "2023-03-01"), text)

    def test_twelve_months_reported_with_every_quarter_move_no_year_end(self) -> None:
        trailing = [
            ("2020-04-01", "2021-03-31", 104, "2021-05-10"),
            ("2020-10-01", "2021-09-30", 112, "2021-11-10"),
        ]
        made, plain = company([*JUNE[:6], *trailing]), company(JUNE[:6])
        for text in ("revenue.fy", "revenue.q", "revenue.ytd"):
            self.assertEqual(ask(made, text, "2021-12-01"), ask(plain, text, "2021-12-01"), text)

    @given(
        st.sets(st.integers(0, len(JUNE) - 1), min_size=1),
        st.dates(date(2020, 8, 1), date(2023, 4, 1)),
    )
    @examples(50)
    def test_nothing_published_later_changes_an_answer_t9(self, rows: set[int], on: date) -> None:
        reported = [JUNE[n] for n in sorted(rows)]
        known = [t for t in reported if t[3] <= str(on)]
        for text in EXPRESSIONS:
            self.assertEqual(
                ask(company(reported), text, str(on)), ask(company(known), text, str(on)), text
            )
