"""Functions over samples and spans, held against plain reckoning (document of the language:
sampled functions).
"""

import statistics
import unittest
from calendar import monthrange
from datetime import date
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.core.small_ledger import SmallLedger, at_end_of
from tests.properties import examples
from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.errors import BadInput
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.evaluate import Evaluation
from wise_ledger.core.language.functions import FUNCTIONS
from wise_ledger.core.time.periods import as_date, day, shift_months

LAST = date(2023, 12, 31)


def ends(count: int) -> list[date]:
    """So many ends of quarters, the newest first."""
    last = np.array([day(LAST)], np.int32)
    return [as_date(int(shift_months(last, -3 * n)[0])) for n in range(count)]


def company(values: list[float | None], item: str = "revenue") -> SmallLedger:
    """Quarterly figures, the newest first; None was never reported."""
    facts = []
    for end, value in zip(ends(len(values)), values, strict=True):
        start = as_date(int(shift_months(np.array([day(end)], np.int32), -3)[0]) + 1)
        if value is not None:
            facts.append(
                {
                    "item": item,
                    "period_start": str(start),
                    "period_end": str(end),
                    "value": value,
                    "unit": "USD",
                    "published_at": str(end),
                }
            )
    return SmallLedger(facts)


def ask(made: SmallLedger, text: str) -> Any:
    values, _ = Evaluation(made.view(), np.arange(1), np.array([at_end_of(LAST)])).run(plan(text))
    return Reason(values.reason[0, 0]).code if values.reason[0, 0] else float(values.value[0, 0])


class Shifted(unittest.TestCase):
    @examples(60)
    @given(
        st.lists(st.dates(date(1600, 1, 1), date(2500, 12, 31)), min_size=1, max_size=40),
        st.integers(-1300, 1300),
        st.sampled_from([np.int32, np.int64]),
    )
    def test_by_months_as_a_calendar_does_however_many_days_there_are(
        self, given: list[date], months: int, kind: Any
    ) -> None:
        def plainly(one: date) -> date:
            year, month = divmod(one.year * 12 + one.month - 1 + months, 12)
            last = monthrange(year, month + 1)[1]
            at_end = one.day == monthrange(one.year, one.month)[1]
            return date(year, month + 1, last if at_end else min(one.day, last))

        few = np.array([day(d) for d in given], kind)
        for days in (few, np.tile(few, 4_000 // len(few) + 1)):
            found = shift_months(days, months)
            self.assertEqual((found.dtype, len(found)), (np.int32, len(days)))
            self.assertEqual([as_date(d) for d in found[: len(few)]], [plainly(d) for d in given])


def slope(samples: list[tuple[float, float]]) -> float:
    times, values = zip(*samples, strict=True)
    return float(statistics.linear_regression(times, values).slope)


PLAIN = {
    "mean": lambda s: statistics.fmean(v for _, v in s), "median": lambda s: statistics.median(v for _, v in s),
    "stdev": lambda s: statistics.stdev(v for _, v in s), "lowest": lambda s: min(v for _, v in s),
    "highest": lambda s: max(v for _, v in s), "slope": slope,
}  # fmt: skip
NUMBERS = st.lists(st.one_of(st.none(), st.integers(-500, 500).map(float)), min_size=7, max_size=11)


class Windows(unittest.TestCase):
    @given(
        st.integers(1, 500).map(float),
        NUMBERS,
        st.sampled_from([1, 2]),
        st.sampled_from(sorted(PLAIN)),
    )
    @examples(150)
    def test_samples_are_those_below_the_span_and_half_of_them_must_be_there(
        self, now: float, before: list[float | None], years: int, name: str
    ) -> None:
        series = [now, *before]
        window = series[: 4 * years]
        samples = [(-n / 4, v) for n, v in enumerate(window) if v is not None]
        found = ask(company(series), f"{name}(revenue.q, {years}y)")
        least = 2 if name in ("stdev", "slope") else 1
        if 2 * len(samples) < len(window) or len(samples) < least:
            self.assertEqual(found, "incomplete")
        else:
            self.assertAlmostEqual(found, PLAIN[name](samples), 6)

    def test_spans_of_two_dates(self) -> None:
        made = company([120.0, 1.0, 1.0, 1.0, 90.0, 1.0, 1.0, 1.0, 30.0])
        self.assertAlmostEqual(ask(made, "cagr(revenue.q, 2y)"), 1.0)
        self.assertAlmostEqual(ask(made, "growth(revenue.q, 1y)"), 1 / 3)
        self.assertAlmostEqual(ask(made, "average_balance(revenue.q)"), 105.0)
        self.assertEqual(
            ask(company([5.0, 1, 1, 1, -2.0]), "cagr(revenue.q, 1y)"), "not_meaningful"
        )
        self.assertEqual(
            ask(company([-5.0, 1, 1, 1, 2.0]), "cagr(revenue.q, 1y)"), "not_meaningful"
        )
        self.assertEqual(ask(company([0.0, 1, 1, 1, 2.0]), "cagr(revenue.q, 1y)"), -1.0)

    def test_the_step_follows_the_selector_and_errors_name_the_mend(self) -> None:
        made = company([4.0, 3.0, 2.0, 1.0, 1.0, 1.0, 1.0, 1.0])
        # trailing sums, a year apart: 10 and 4
        self.assertEqual(ask(made, "highest(revenue, 2y)"), 10.0)
        self.assertEqual(ask(made, "lowest(revenue, 2y)"), 4.0)
        self.assertEqual(ask(made, "mean(revenue, 6mo)"), 8.5)  # a quarter apart: 10 and 7
        wrong = {
            "mean(revenue.q, 30d)": "3mo, 1q, 1y", "mean(revenue.fy, 6mo)": "12mo", "mean(revenue.q, 4mo)": "3mo",
            "mean(revenue.q)": "mean(x, span)", "stdev(industry, 1y)": "", "slope(revenue.q, 30y)": "shorten",
            "cagr(revenue, 2)": "cagr(x, span)", "average_balance(revenue, 1y)": "average_balance(x)",
        }  # fmt: skip
        for text, mend in wrong.items():
            with self.assertRaises(BadInput, msg=text) as caught:
                ask(made, text)
            problem = caught.exception.problems[0]
            self.assertIn(mend, problem.mend, text)
            self.assertTrue(problem.at and problem.problem)

    def test_every_function_says_how_it_is_called_and_what_it_does(self) -> None:
        for name, function in FUNCTIONS.items():
            self.assertTrue(function.call.startswith(f"{name}("), name)
            self.assertTrue(function.meaning and function.call.endswith(")"), name)
