"""Market fields, returns and other dates in expressions: one period, one currency,
one share basis (M3 to M5).
"""

import unittest
from datetime import date, timedelta
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.core.small_ledger import SmallLedger
from tests.properties import examples
from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.dated.series import DatedSeries
from wise_ledger.core.errors import BadInput
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.evaluate import Evaluation
from wise_ledger.core.market.value import ShareCounts
from wise_ledger.core.time.instants import DAY, micros, read_cutoff
from wise_ledger.core.time.periods import day


def facts(*extra: dict[str, Any]) -> list[dict[str, Any]]:
    year = {"period_start": "2022-01-01", "period_end": "2022-12-31", "published_at": "2023-02-20"}
    balance = {
        "period_start": None,
        "period_end": "2022-12-31",
        "unit": "USD",
        "published_at": "2023-02-20",
    }
    return [
        {"item": "diluted_eps", "value": 2.0, "unit": "USD/shares", **year},
        {"item": "operating_income", "value": 50.0, "unit": "USD", **year},
        {"item": "shareholders_equity", "value": 500.0, **balance},
        {"item": "total_assets", "value": 900.0, **balance},
        {"item": "cash_and_equivalents", "value": 100.0, **balance},
        {"item": "long_term_debt", "value": 60.0, **balance},
        *extra,
    ]


def weekdays(first: str, prices: list[float]) -> list[dict[str, Any]]:
    """Prices of weekdays one after the other."""
    out, on = [], date.fromisoformat(first)
    while prices:
        if on.weekday() < 5:
            out.append({"date": str(on), "close": prices[0]})
            prices = prices[1:]
        on += timedelta(1)
    return out


def ask(
    ledger: SmallLedger, expression: str, known_on: str, shares: float | None = None, **how: Any
) -> Any:
    view = ledger.view()
    if shares is not None:
        counts = ShareCounts(DatedSeries.of([(0, day(date(2022, 12, 31)), 0)]), np.array([shares]))
        view.given_market = lambda: (ledger.market(), counts)
    at = np.array([micros(read_cutoff(known_on, ""))])
    values, _ = Evaluation(view, np.array([0]), at, **how).run(plan(expression, view.vocabulary))
    return Reason(values.reason[0, 0]).code if values.reason[0, 0] else float(values.value[0, 0])


class InExpressions(unittest.TestCase):
    def test_a_price_beside_figures_keeps_their_one_period_f11(self) -> None:
        ledger = SmallLedger(facts(), prices=weekdays("2023-03-01", [20.0, 21.0, 22.0]))
        self.assertEqual(ask(ledger, "close / diluted_eps.fy", "2023-03-03"), 11.0)
        self.assertEqual(ask(ledger, "close / diluted_eps.fy", "2023-02-28"), "not_known")
        # older than ten days
        self.assertEqual(ask(ledger, "close / diluted_eps.fy", "2023-04-03"), "stale")

    def test_a_price_is_converted_at_the_rate_of_its_own_date_m2(self) -> None:
        """Friday's on Sunday, when another rate is known, and what stands beside it with it."""
        rate = {"base": "EUR", "quote": "USD"}
        days = [("2023-03-03", 1.0), ("2023-03-05", 2.0), ("2023-03-10", 4.0)]
        rates = [{**rate, "date": on, "rate": value} for on, value in days]
        eps = {
            "item": "diluted_eps",
            "value": 2.5,
            "unit": "EUR/shares",
            "period_start": "2022-01-01",
        }
        eps |= {"period_end": "2022-12-31", "published_at": "2023-02-21"}
        ledger = SmallLedger(
            facts(eps), prices=weekdays("2023-03-01", [30.0, 31.0, 20.0]), rates=rates
        )
        for text, value in (
            ("close", 20.0),
            ("2 * close", 40.0),
            ("market_value", 300.0),
        ):
            found = ask(ledger, text, "2023-03-05", 30.0, currency="EUR")
            self.assertEqual(found, value, text)
        self.assertEqual(ask(ledger, "close / diluted_eps.fy", "2023-03-05"), 20 / 2.5)
        self.assertEqual(ask(ledger, "diluted_eps.fy / close", "2023-03-05"), 2.5 / 20)
        self.assertEqual(ask(ledger, "close > 15 EUR", "2023-03-05"), 1.0)
        self.assertEqual(ask(ledger, "ago(close, 5d)", "2023-03-10", currency="EUR"), 20.0)

    def test_market_and_enterprise_value_m5(self) -> None:
        ledger = SmallLedger(facts(), prices=weekdays("2022-12-28", [20.0] * 60))
        self.assertEqual(ask(ledger, "market_value", "2023-03-01", 30.0), 600.0)
        self.assertEqual(ask(ledger, "enterprise_value", "2023-03-01", 30.0), 600 + 60 - 100)
        self.assertEqual(
            ask(ledger, "enterprise_value / operating_income.fy", "2023-03-01", 30.0), 560 / 50
        )
        self.assertEqual(ask(ledger, "market_value", "2024-07-15", 30.0), "stale")
        # The balance beside the market value of its own last day, not of today.
        risen = SmallLedger(facts(), prices=weekdays("2022-12-28", [20.0] * 5 + [40.0] * 50))
        self.assertEqual(
            ask(risen, "shareholders_equity / market_value", "2023-03-01", 30.0), 500 / 1200
        )
        self.assertEqual(
            ask(risen, "shareholders_equity / at_period_end(market_value)", "2023-03-01", 30.0),
            500 / 600,
        )

    def test_other_dates_stand_on_the_share_basis_of_the_cut_off_m3(self) -> None:
        split = [{"ex_date": "2023-03-08", "ratio": 4}]
        prices = weekdays("2023-03-01", [80.0] * 5 + [20.0, 22.0, 24.0])
        ledger = SmallLedger(facts(), prices=prices, splits=split)
        self.assertEqual(ask(ledger, "ago(close, 5d)", "2023-03-10"), 20.0)
        self.assertAlmostEqual(ask(ledger, "close / ago(close, 5d) - 1", "2023-03-10"), 0.2)
        self.assertAlmostEqual(ask(ledger, "price_return(5d)", "2023-03-10"), 0.2)
        self.assertAlmostEqual(ask(ledger, "growth(close, 5d)", "2023-03-10"), 0.2)
        self.assertAlmostEqual(
            ask(ledger, "mean(close, 7d)", "2023-03-10"), np.mean([20, 20, 20, 22, 24])
        )
        self.assertEqual(ask(ledger, "highest(close, 10d)", "2023-03-10"), 24.0)
        self.assertEqual(ask(ledger, "high_52w", "2023-03-07"), 80.0)
        self.assertEqual(ask(ledger, "mean(close, 30d)", "2023-03-10"), "incomplete")

    @given(
        st.sampled_from(["2023-02-21", "2023-03-01", "2023-03-10", "2023-05-01"]),
        st.sampled_from([2.0, 0.0, -1.0]),
    )
    @examples(20)
    def test_a_ratio_and_its_inverse_multiply_to_one_value_or_reason(
        self, known_on: str, eps: float
    ) -> None:
        more = {
            "item": "diluted_eps",
            "period_start": "2023-01-01",
            "period_end": "2023-03-31",
            "value": eps,
            "unit": "USD/shares",
            "published_at": "2023-04-20",
        }
        ledger = SmallLedger(facts(more), prices=weekdays("2023-02-27", [20.0] * 8))
        ratio, inverse = (
            ask(ledger, e, known_on) for e in ("close / diluted_eps.fy", "diluted_eps.fy / close")
        )
        if isinstance(ratio, str):
            self.assertEqual(ratio, inverse)
        else:
            self.assertAlmostEqual(ratio * inverse, 1.0)

    def test_mistakes_are_refused_with_the_mend(self) -> None:
        view = SmallLedger(facts()).view()
        for text, problem, mend in (
            ("at_period_end(close)", "no figure here", "beside a figure"),
            ("revenue / at_period_end(revenue)", "lives on dates", "at_period_end(market_value)"),
            ("close > 20", "money_per_share", "20 EUR"),
            ("close.fy", "no item", "write close"),
            ("price_return(1)", "span is needed", "price_return"),
            ("price_return(1y, over=index)", "in quotes", 'over="'),
            ("mean(close, 20y)", "3,660 days", "shorten"),
            ("ago(rank(close), 1y)", "cross-section", "inside"),
            ("estimate(eps, fy9)", "no horizon", "fy1"),
            ("estimate(epps, fy1)", "no measure", "eps"),
            ("estimate(eps, ntm, stdev)", "blend", "mean"),
            ("surprise(eps, much)", "no way to state", "amount"),
            ("surprise(eps, period=y)", "no kind of period", "fy"),
        ):
            with self.subTest(text), self.assertRaises(BadInput) as caught:
                plan(text, view.vocabulary)
            found = caught.exception.problems[0]
            self.assertIn(problem, found.problem)
            self.assertIn(mend, found.mend)

    def test_the_day_of_a_cut_off_within_it_has_no_close_yet_t9(self) -> None:
        ledger = SmallLedger(facts(), prices=weekdays("2023-03-01", [20.0, 30.0]))
        self.assertEqual(ask(ledger, "close", "2023-03-02T12:00:00Z"), 20.0)
        self.assertEqual(ask(ledger, "close", "2023-03-02"), 30.0)
        self.assertEqual(DAY, 86_400_000_000)
