"""Currency (M2): the mean over a flow, the day of a balance, what meets in one currency,
nothing from later (T9).
"""

import math
import unittest
from datetime import date, timedelta
from typing import Any, ClassVar

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.core.small_ledger import SmallLedger, at_end_of
from tests.properties import examples
from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.evaluate import Evaluation
from wise_ledger.core.language.explain import explain
from wise_ledger.core.money.currencies import currency_code, currency_name
from wise_ledger.core.money.rates import rate_table

FIRST = date(2022, 1, 1)
EUR, USD, JPY = (np.array([currency_code(c)], np.int16) for c in ("EUR", "USD", "JPY"))
Pair = tuple[str, str]


@st.composite
def rows_(draw: st.DrawFn) -> list[tuple[Pair, int, float]]:
    """Runs of rates, daily, every other day or about monthly,
    with what lies over another in its place.
    """
    pairs = st.sampled_from([("EUR", "USD"), ("EUR", "JPY")])
    run = st.tuples(
        pairs,
        st.integers(0, 700),
        st.sampled_from([1, 1, 2, 31]),
        st.integers(1, 300),
        st.floats(0.2, 9),
    )
    found: dict[tuple[Pair, int], float] = {}
    for pair, begin, step, count, rate in draw(st.lists(run, max_size=5)):
        found |= {
            (pair, n): rate + n / 900 for n in range(begin, min(begin + step * count, 701), step)
        }
    return [(pair, n, rate) for (pair, n), rate in found.items()]


ROWS = rows_()


def plain_mean(days: dict[int, float], begin: int, end: int) -> float:
    """M2 for a flow's period (days since FIRST), read off the rule."""
    dates = {n: FIRST + timedelta(n) for n in sorted(days) if n <= end}
    months = [(d.year, d.month) for d in dates.values()]
    inside = [n for n in dates if n >= begin]
    every = [FIRST + timedelta(n) for n in range(begin, end + 1)]
    if len(set(months)) == len(months):
        wanted, there = len({(d.year, d.month) for d in every}), len(inside)
    else:
        wanted, there = (
            sum(d.weekday() < 5 for d in every),
            sum(dates[n].weekday() < 5 for n in inside),
        )
    return (
        sum(days[n] for n in inside) / len(inside) if inside and there >= 0.8 * wanted else math.nan
    )


def rates(rows: list[tuple[tuple[str, str], int, float]]) -> list[dict[str, Any]]:
    return [
        {"base": b, "quote": q, "date": str(FIRST + timedelta(n)), "rate": r}
        for (b, q), n, r in rows
    ]


def daily(pair: Pair, rate: float, begin: int, count: int) -> list[dict[str, Any]]:
    return rates([(pair, n, rate) for n in range(begin, begin + count)])


def flow(
    item: str, start: str, end: str, value: float, unit: str, published: str, **more: Any
) -> dict[str, Any]:
    reported = {
        "item": item,
        "period_start": start,
        "period_end": end,
        "value": value,
        "unit": unit,
    }
    return {**reported, "published_at": published, **more}


def ask(made: SmallLedger, text: str, on: date = date(2023, 6, 30), **how: Any) -> Any:
    view = made.view()
    members = np.arange(made.companies)
    values, _ = Evaluation(view, members, np.array([at_end_of(on)]), **how).run(
        plan(text, view.vocabulary)
    )
    out = [
        Reason(r).code if r else v
        for v, r in zip(values.value[:, 0], values.reason[:, 0], strict=True)
    ]
    return out[0] if made.companies == 1 else out


FACTS = [
    flow("revenue", "2022-01-01", "2022-12-31", 120, "USD", "2023-03-01"),
    flow("revenue", "2021-01-01", "2021-12-31", 100, "USD", "2022-03-01"),
    flow("cost_of_revenue", "2022-01-01", "2022-12-31", 70, "EUR", "2023-03-01"),
    {
        "item": "total_assets",
        "period_end": "2022-12-31",
        "value": 400,
        "unit": "USD",
        "published_at": "2023-03-01",
    },
]


class Conversions(unittest.TestCase):
    @given(ROWS, st.integers(0, 700), st.integers(0, 400))
    @examples(60)
    def test_means_and_days_are_those_of_the_rows_inverse_and_cross_day_by_day_m2(
        self, rows: list[Any], begin: int, length: int
    ) -> None:
        start = (FIRST - date(1970, 1, 1)).days
        table = rate_table([(b, q, start + n, r) for (b, q), n, r in rows])
        reported = {
            pair: {n: r for p, n, r in rows if p == pair}
            for pair in (("EUR", "USD"), ("EUR", "JPY"))
        }
        dollars, yen = reported["EUR", "USD"], reported["EUR", "JPY"]
        expected = {
            "direct": (EUR, USD, dollars),
            "inverse": (USD, EUR, {n: 1 / r for n, r in dollars.items()}),
            "cross": (USD, JPY, {n: yen[n] / r for n, r in dollars.items() if n in yen}),
        }
        low, high = (np.array([start + n]) for n in (begin, begin + length))
        for name, (source, target, days) in expected.items():
            mean = plain_mean(days, begin, begin + length)
            np.testing.assert_allclose(
                table.mean(source, target, low, high, low), [mean], 1e-9, err_msg=name
            )
            fresh = max((n for n in days if begin - 7 <= n <= begin), default=None)
            day = math.nan if fresh is None else days[fresh]
            np.testing.assert_allclose(
                table.on(source, target, low, low), [day], 1e-12, err_msg=name
            )

    @given(
        st.lists(st.tuples(st.integers(0, 9), st.floats(0.5, 2)), min_size=1, max_size=12),
        st.integers(0, 12),
    )
    @examples(60)
    def test_what_replaces_a_rate_counts_from_when_it_is_known_t9(
        self, reported: list[Any], asked: int
    ) -> None:
        start, recorded = (FIRST - date(1970, 1, 1)).days, at_end_of(FIRST + timedelta(900))
        rows, known = [], []
        # the n-th in a batch of its own, a minute after the one before
        for n, (offset, rate) in enumerate(reported):
            first = offset not in [o for o, _ in reported[:n]]
            rows.append(("EUR", "USD", start + offset, rate))
            known.append(0 if first else recorded + n * 60_000_000)
        table = rate_table(rows[::-1], known[::-1])  # of one day the last given goes first
        at = recorded + asked * 60_000_000
        for offset in {o for o, _ in reported}:
            of_day = [(n, r) for n, (o, r) in enumerate(reported) if o == offset]
            expected = [r for n, r in of_day if n == of_day[0][0] or n <= asked][-1]
            found = table.on(EUR, USD, np.array([start + offset]), np.array([at]))
            self.assertAlmostEqual(float(found[0]), expected, 12)

    @given(ROWS, ROWS, st.integers(200, 640), st.sampled_from(["USD", "EUR", "JPY"]))
    @examples(40)
    def test_no_rate_from_after_the_cut_off_changes_an_answer_t9(
        self, before: list[Any], after: list[Any], cut: int, currency: str
    ) -> None:
        on = FIRST + timedelta(cut)
        early = [r for r in before if r[1] <= cut]
        both = early + [r for r in after if r[1] > cut]
        for text in (
            "revenue",
            "revenue - cost_of_revenue",
            "cost_of_revenue / revenue",
            "total_assets",
        ):
            found = [
                ask(SmallLedger(FACTS, rates=rates(r)), text, on, currency=currency)
                for r in (early, both)
            ]
            self.assertEqual(*found, text)

    def test_growth_and_ratios_are_the_same_in_every_currency_and_only_results_are_converted(
        self,
    ) -> None:
        reported = rates([(("EUR", "USD"), n, 1 + n / 700) for n in range(700)])
        made = SmallLedger(FACTS, rates=reported)
        for text in ("growth(revenue, 1y)", "revenue / total_assets"):
            self.assertEqual(ask(made, text), ask(made, text, currency="EUR"))
        year = [1 / r["rate"] for r in reported if r["date"] < "2023"]
        mean = sum(year) / len(year)
        self.assertAlmostEqual(ask(made, "revenue", currency="EUR"), 120 * mean, 9)
        # its flow's period
        self.assertAlmostEqual(ask(made, "change(revenue, 1y)", currency="EUR"), 20 * mean, 9)
        # Two currencies meet: each is converted first; beside a literal into that of the literal.
        self.assertAlmostEqual(ask(made, "cost_of_revenue / revenue"), 70 / (120 * mean), 9)
        self.assertEqual(ask(made, f"revenue > {120 * mean - 0.01:.2f} EUR"), 1.0)
        self.assertEqual(ask(made, f"revenue > {120 * mean + 0.01:.2f} EUR"), 0.0)
        # a choice brings nothing together
        self.assertEqual(ask(made, "coalesce(net_income, revenue)"), 120)
        self.assertEqual(ask(made, "revenue", currency="JPY"), "no_rate")

    def test_a_choice_is_converted_as_what_was_chosen_and_several_periods_as_their_first_flow_m2(
        self,
    ) -> None:
        before = {
            **FACTS[3],
            "period_end": "2021-12-31",
            "value": 300,
            "published_at": "2022-03-01",
        }
        reported = (
            daily(("EUR", "USD"), 2.0, -365, 365)
            + daily(("EUR", "USD"), 4.0, 0, 364)
            + daily(("EUR", "USD"), 5.0, 364, 1)
        )
        made = SmallLedger([*FACTS, before], rates=reported)
        year = 120 * sum(1 / r["rate"] for r in reported[365:]) / 365
        for text, value in {
            "coalesce(operating_income.fy, revenue.fy)": year,
            "where(total_assets > 0, revenue.fy, 0)": year,
            "coalesce(operating_income.fy, total_assets)": 80.0,
            "2 * where(total_assets < 0, revenue.fy, total_assets)": 160.0,
            "ago(revenue.fy, 1y)": 50.0,
            "ago(revenue.fy, 1y) - ago(revenue.fy, 1y) / 2": 25.0,
            "change(total_assets, 1y)": 20.0,
            # of two periods, none of an unshifted flow: that of E
            "ago(revenue.fy, 1y) + total_assets": 100.0,
        }.items():
            self.assertAlmostEqual(ask(made, text, currency="EUR"), value, 6, text)

    def test_zero_needs_no_rate_m2(self) -> None:
        """What has one, formed of others or beside them, reads the same with rates and without."""
        zero = [
            flow("revenue", "2021-01-01", "2021-12-31", 0, "JPY", "2022-03-01"),
            flow("net_income", "2022-01-01", "2022-12-31", 0, "EUR", "2023-03-01"),
            flow("operating_income", "2022-01-01", "2022-09-30", 0, "EUR", "2022-11-01"),
            flow("operating_income", "2022-01-01", "2022-12-31", 90, "USD", "2023-03-01"),
            {"item": "goodwill", "period_end": "2022-12-31", "value": 0, "unit": "EUR"}
            | {"published_at": "2023-03-01"},
        ]
        given = [r for pair in ("USD", "JPY") for r in daily(("EUR", pair), 2.0, -365, 730)]
        made, without = SmallLedger([*FACTS, *zero], rates=given), SmallLedger([*FACTS, *zero])
        for text, currency in (
            ("net_income", "USD"),
            ("revenue.fy + net_income.fy", None),
            ("goodwill", "GBP"),
            ("net_income / revenue", "USD"),
            ("goodwill / total_assets", "USD"),
            ("operating_income.q", None),
            ("net_income < 1 USD", None),
            ("goodwill < 1 GBP", None),
            ("revenue - net_income", "USD"),
            ("ago(revenue, 1y)", "USD"),
            ("max(net_income, goodwill)", "JPY"),
            ("growth(revenue, 1y)", None),
        ):
            now, then = (ask(m, text, currency=currency) for m in (without, made))
            self.assertEqual(now, then, (text, currency))
            self.assertNotEqual(now, "no_rate", text)
        self.assertEqual(ask(without, "net_income", currency="USD"), 0)
        self.assertEqual(ask(without, "operating_income.q"), 90)
        self.assertEqual(ask(without, "cost_of_revenue + net_income"), 70)
        self.assertEqual(ask(without, "cost_of_revenue + revenue"), "no_rate")

    def test_companies_are_ranked_in_one_currency(self) -> None:
        facts = [
            flow("revenue", "2022-01-01", "2022-12-31", value, unit, "2023-03-01", company=n)
            for n, (value, unit) in enumerate(
                [(100, "USD"), (90, "EUR"), (300, "JPY"), (80, "USD")]
            )
        ]
        reported = [
            r
            for pair in ((("EUR", "USD"), 1.25), (("EUR", "JPY"), 2.5))
            for r in daily(*pair, 0, 365)
        ]
        year_ends = [(n, -100_000, 12) for n in range(4)]
        made = SmallLedger(facts, year_ends, companies=4, rates=reported)
        self.assertEqual(ask(made, "rank(revenue)"), [3.0, 2.0, 1.0, 4.0])
        lacking = SmallLedger(facts, year_ends, companies=4, rates=reported[:365])
        self.assertEqual(ask(lacking, "rank(revenue)"), [2.0, 1.0, "no_rate", 3.0])
        np.testing.assert_allclose(
            ask(made, "winsor(revenue, 1%)", currency="EUR"), [80, 90, 119.1, 64.48]
        )

    def test_a_sum_across_a_change_of_currency_takes_the_newest_one_f8_m2(self) -> None:
        quarters = [
            ("2022-01-01", "2022-03-31"),
            ("2022-04-01", "2022-06-30"),
            ("2022-07-01", "2022-09-30"),
            ("2022-10-01", "2022-12-31"),
        ]
        facts = [
            flow(
                "revenue",
                start,
                end,
                1000 if n < 2 else 10,
                "JPY" if n < 2 else "USD",
                "2023-02-01",
            )
            for n, (start, end) in enumerate(quarters)
        ]
        reported = (
            daily(("EUR", "USD"), 1.0, 0, 365)
            + daily(("EUR", "JPY"), 100.0, 0, 90)
            + daily(("EUR", "JPY"), 200.0, 90, 275)
        )
        made = SmallLedger(facts, rates=reported)
        self.assertAlmostEqual(ask(made, "revenue.ttm"), 10 + 5 + 10 + 10)
        # Asked for in a third one each part is converted once, at its own
        # rate; explanations tell of each.
        pounds = SmallLedger(
            facts,
            rates=reported
            + daily(("EUR", "GBP"), 0.5, 0, 181)
            + daily(("EUR", "GBP"), 0.8, 181, 184),
        )
        self.assertAlmostEqual(ask(pounds, "revenue.ttm", currency="GBP"), 5 + 2.5 + 8 + 8)
        cutoff = at_end_of(date(2023, 6, 30))
        found = explain(pounds.view(), "revenue.ttm", 0, Viewpoint.at(cutoff, "GBP"))
        self.assertEqual(
            [(currency_name(c.source), round(c.rate, 6), c.rates) for c in found.conversions],
            [("USD", 0.8, 92), ("USD", 0.8, 92), ("JPY", 0.0025, 91), ("JPY", 0.005, 90)],
        )
        self.assertEqual(ask(SmallLedger(facts), "revenue.ttm"), "incomplete")


class Units(unittest.TestCase):
    YEAR: ClassVar[dict[str, str]] = {
        "period_start": "2022-01-01",
        "period_end": "2022-12-31",
        "unit": "USD",
        "published_at": "2023-02-01",
    }

    def company(self, *facts: dict[str, Any], companies: int = 1) -> SmallLedger:
        first = date(2021, 1, 1)
        days = [str(first + timedelta(n)) for n in range(900)]
        rates = [{"base": "EUR", "quote": "USD", "date": day, "rate": 2.0} for day in days]
        return SmallLedger(
            [{**self.YEAR, **f} for f in facts],
            [(n, -9999, 12) for n in range(companies)],
            companies=companies,
            rates=rates,
        )

    def ask(self, made: SmallLedger, text: str, members: int = 1, **how: Any) -> list[Any]:
        view = made.view()
        cutoff = np.array([at_end_of(date(2023, 3, 1))])
        values, _ = Evaluation(view, np.arange(members), cutoff, **how).run(
            plan(text, view.vocabulary)
        )
        return [
            Reason(int(r)).code if r else float(v)
            for v, r in zip(values.value[:, 0], values.reason[:, 0], strict=True)
        ]

    def test_the_currency_of_a_result_follows_its_unit_m2(self) -> None:
        made = self.company(
            {"item": "revenue", "value": 1000}, {"item": "net_income", "value": 100}
        )
        expected = {
            "log(revenue)": math.log(1000), "1 / revenue * net_income": 0.1, "revenue * net_income / revenue": 50.0,
            "revenue ^ 2 / net_income": 5000.0, "net_income / revenue": 0.1, "revenue": 500.0, "revenue * 2": 1000.0,
        }  # fmt: skip
        for text, value in expected.items():
            self.assertAlmostEqual(self.ask(made, text, currency="EUR")[0], value, 9, text)

    def test_one_company_without_a_base_takes_no_rank_from_the_others(self) -> None:
        before = {
            "period_start": "2021-01-01",
            "period_end": "2021-12-31",
            "item": "revenue",
            "published_at": "2022-02-01",
        }
        made = self.company(
            *({"item": "revenue", "company": n, "value": 10.0 * (n + 1)} for n in range(3)),
            *({**before, "company": n, "value": 10.0} for n in range(2)), companies=3,
        )  # fmt: skip
        for text in (
            "rank(growth(revenue, 1y))",
            "rank(revenue / ago(revenue, 1y) - 1)",
            "rank(change(revenue, 1y))",
        ):
            self.assertEqual(self.ask(made, text, 3), [2.0, 1.0, "not_known"], text)
