"""Reckoned as on paper: a sum of decimals is the decimal, so that a rule at its edge holds; of equal
values the mean is that value and nothing spreads: a surprise in deviations has nothing to divide by
(E4), nor has a price that did not move.
"""

import unittest
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.core import test_estimates, test_market_language, test_windows
from tests.core.small_ledger import SmallLedger
from tests.core.test_series import monthly
from tests.properties import examples
from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.arithmetic import added, mean, multiplied, quotient
from wise_ledger.core.estimates.consensus import consensus
from wise_ledger.core.estimates.contributions import YEAR
from wise_ledger.core.estimates.estimates import Estimates, Measure
from wise_ledger.core.language.parse import parse
from wise_ledger.core.money.currencies import currency_code
from wise_ledger.core.money.rates import rate_table
from wise_ledger.core.series.comparing import compare
from wise_ledger.core.series.steps import read_steps, transformed
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import day

# Hundredths of which few are a sum of halves: three tenths over three are more than one.
VALUES = st.integers(-99_999, 99_999).filter(bool).map(lambda n: n / 100)
COUNTS = st.integers(2, 40)


PRICES = st.decimals("0.01", "900", places=2)


class OnPaper(unittest.TestCase):
    @examples(300)
    @given(
        st.lists(st.decimals("-99999", "99999", places=4), min_size=2, max_size=5),
        st.sampled_from([1, 1000, 10**6]),
    )
    def test_a_sum_of_decimals_is_the_decimal(self, given: list[Decimal], scale: int) -> None:
        total = np.zeros(1)
        for n, term in enumerate(given):
            total = added(total, float(term * scale))
            self.assertEqual(total.item(), float(sum(given[: n + 1]) * scale))

    @examples(200)
    @given(st.decimals("-999", "999", places=3), st.decimals("0.01", "99", places=2))
    def test_products_quotients_and_means_of_decimals(self, a: Decimal, b: Decimal) -> None:
        product = a * b
        self.assertEqual(multiplied(float(a), float(b)).item(), float(product))
        self.assertEqual(quotient(float(product), float(b)).item(), float(a))
        self.assertEqual(mean(np.array([float(a), float(b)])).item(), float((a + b) / 2))

    @examples(60)
    @given(st.floats(-1e6, 1e6), st.floats(-1e6, 1e6))
    def test_what_is_no_decimal_is_what_it_was_within_rounding(self, a: float, b: float) -> None:
        slack = 9 * np.finfo(float).eps * (abs(a) + abs(b))
        self.assertLessEqual(abs(added(a, b).item() - (a + b)), slack)

    @examples(60)
    @given(st.tuples(PRICES, PRICES, PRICES, PRICES))
    def test_formed_figures_and_changes(self, given: tuple[Decimal, ...]) -> None:
        """F7, F8: a quarter out of cumulative figures, trailing months out of quarters."""
        starts = [f"2022-{month:02d}-01" for month in (1, 4, 7, 10)]
        ends = ["2022-03-31", "2022-06-30", "2022-09-30", "2022-12-31"]
        about = {"item": "diluted_eps", "unit": "USD/shares"}
        rows = [
            about | {"period_start": "2022-01-01", "period_end": end, "published_at": end}
            for end in ends
        ]
        running = [sum(given[: n + 1], Decimal(0)) for n in range(4)]
        cumulative = SmallLedger(
            [r | {"value": float(v)} for r, v in zip(rows, running, strict=True)]
        )
        discrete = SmallLedger(
            [
                r | {"value": float(v), "period_start": start}
                for r, v, start in zip(rows, given, starts, strict=True)
            ]
        )
        on = "2023-01-31"
        asked = lambda made, text: test_market_language.ask(made, text, on)  # noqa: E731
        self.assertEqual(asked(cumulative, "diluted_eps.q"), float(given[3]))
        self.assertEqual(asked(discrete, "diluted_eps.ttm"), float(running[3]))
        self.assertEqual(asked(discrete, "diluted_eps.h"), float(given[2] + given[3]))
        self.assertEqual(asked(discrete, "change(diluted_eps.q, 1q)"), float(given[3] - given[2]))
        edge = f"diluted_eps.q >= {given[3]} USD and diluted_eps.q <= {given[3]} USD"
        self.assertEqual(asked(cumulative, edge), 1.0)

    @examples(60)
    @given(st.integers(1, 400), st.integers(1, 90))
    def test_growth_by_a_whole_percent_is_that_percent(self, percent: int, base: int) -> None:
        values: list[float | None] = [base * (100 + percent) * 10.0, *[base * 1000.0] * 5]
        flat = test_windows.company(values)
        for text in ("growth(revenue.q, 1y)", "revenue.q / ago(revenue.q, 1y) - 1"):
            self.assertEqual(test_windows.ask(flat, text), percent / 100)
            self.assertEqual(test_windows.ask(flat, f"{text} >= {percent}%"), 1.0)
        changed = transformed(
            monthly([100.0, 100.0 + percent]), read_steps(["growth over 1 period"])
        )
        self.assertEqual(changed.value[1], percent / 100)

    @examples(100)
    @given(st.decimals("0", "99999", places=5), st.sampled_from(["", "%", "k", "mn", "bn", "tn"]))
    def test_a_number_is_what_is_written(self, number: Decimal, suffix: str) -> None:
        power = {"": 0, "%": -2, "k": 3, "mn": 6, "bn": 9, "tn": 12}[suffix]
        self.assertEqual(parse(f"{number}{suffix}").value, float(number.scaleb(power)))


class Equal(unittest.TestCase):
    @examples(80)
    @given(VALUES, COUNTS)
    def test_their_mean_is_each_of_them_whatever_is_missing(self, value: float, many: int) -> None:
        column = np.full((many, 2), value)
        column[1:, 1] = np.nan
        self.assertEqual(mean(column).tolist(), [value, value])
        self.assertTrue(np.isnan(mean(np.full((many, 1), np.nan)))[0])
        drawn = np.random.default_rng(many).normal(value, 1, (many, 3))
        np.testing.assert_allclose(mean(drawn), drawn.mean(axis=0), rtol=1e-12)

    @examples(40)
    @given(VALUES)
    def test_over_fiscal_periods_and_days(self, value: float) -> None:
        flat = test_windows.company([value] * 8)
        prices = test_market_language.weekdays("2023-01-02", [abs(value)] * 60)
        traded = SmallLedger(test_market_language.facts(), prices=prices)

        def asked(text: str) -> list[Any]:
            of_prices = test_market_language.ask(traded, text.format("close", "60d"), "2023-03-22")
            return [test_windows.ask(flat, text.format("revenue.q", "2y")), of_prices]

        self.assertEqual(asked("mean({}, {})"), [value, abs(value)])
        self.assertEqual(asked("stdev({}, {})"), [0, 0])
        self.assertEqual(asked("slope({}, {})"), [0, 0])
        self.assertEqual(asked("{0} / stdev({0}, {1})"), ["zero_denominator"] * 2)

    @examples(40)
    @given(VALUES, st.integers(2, 9))
    def test_of_houses_that_agree_no_surprise_is_reckoned_in_deviations_e4(
        self, value: float, houses: int
    ) -> None:
        at = (test_estimates.BEGIN + 260) * DAY
        rows = [(n, at, value, test_estimates.USD) for n in range(houses)]
        of, actuals, basis = test_estimates.engine(rows, at + 50 * DAY, None)
        into = np.array([test_estimates.USD])
        found = consensus(of, basis, of.key[:1], np.array([at + DAY]), into)
        self.assertEqual([found.values[n][0] for n in ("mean", "stdev")], [value, 0])
        december = lambda members, cutoffs: np.full((len(members), len(cutoffs)), 12)  # noqa: E731
        estimates = Estimates(
            {"eps": Measure({YEAR: of}, {YEAR: actuals})}, lambda _: basis, december
        )
        asked = np.zeros(1, int), np.array([at + 70 * DAY]), np.array([[test_estimates.USD]])
        self.assertEqual(
            estimates.surprise("eps", "deviations", *asked).reason[0, 0], Reason.ZERO_DENOMINATOR
        )

    @examples(40)
    @given(VALUES)
    def test_over_a_year_of_a_series_and_among_others(self, value: float) -> None:
        line = monthly([value] * 24)
        for words in ("yearly mean", "quarterly mean"):
            found = transformed(line, read_steps([words]))
            self.assertEqual(set(found.value[found.reason == 0]), {value})
        rng = np.random.default_rng(1)
        levels = np.stack([np.full(30, value), np.full(30, value)])
        changes = np.stack([np.full(30, value), rng.normal(size=30), rng.normal(size=30)])
        compared = compare(levels, levels, 2)
        self.assertEqual(compared.mean.tolist(), [value] * 30)
        found = compare(changes, changes, 2)
        self.assertTrue(np.isnan(found.correlation[0]).all())
        self.assertTrue(np.isnan(found.lead_correlation[0]))

    @examples(40)
    @given(VALUES.map(abs), st.dates(date(2020, 1, 1), date(2021, 1, 1)), st.integers(20, 300))
    def test_a_rate_that_stood_still_is_its_mean_m2(
        self, rate: float, start: date, many: int
    ) -> None:
        first = date(2019, 6, 3)
        rows = [("EUR", "USD", day(first + timedelta(n)), 1.37 + n % 7 / 31) for n in range(150)]
        rows += [("EUR", "USD", day(start) + n, rate) for n in range(many)]
        table = rate_table([r for r in rows if r[2] >= day(start) or r[2] < day(start)])
        begin, end = (np.array([day(start) + n], np.int64) for n in (0, many - 1))
        codes = (np.array([currency_code(c)], np.int16) for c in ("EUR", "USD"))
        self.assertEqual(table.mean(*codes, begin, end, (end + 1) * DAY).tolist(), [rate])


if __name__ == "__main__":
    unittest.main()
