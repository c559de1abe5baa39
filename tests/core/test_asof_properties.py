"""General rules of the as-of engine, over random histories of one and more companies."""

import unittest
from datetime import date, timedelta
from typing import Any, ClassVar

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.core.small_ledger import LONG_AGO, SmallLedger, at_end_of
from tests.properties import examples
from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.evaluate import Evaluation
from wise_ledger.core.records.facts import FactColumns
from wise_ledger.core.time.periods import NO_END, as_date, nominal_end, shift_months
from wise_ledger.core.timelines.asof import newest
from wise_ledger.core.timelines.keys import State, key_company, key_end
from wise_ledger.core.timelines.merge import coalesce

EXPRESSIONS = (
    "revenue.q",
    "revenue.ttm",
    "operating_income / revenue",
    "growth(revenue, 1y)",
    "first_reported(revenue.fy)",
    "coalesce(net_income / total_assets, operating_income / total_assets)",
    "revenue.ytd - revenue.h",
)
_MONTH_ENDS = [date(y, m, 1) - timedelta(1) for y in range(2020, 2024) for m in (1, 4, 7, 10)][1:]


@st.composite
def histories(draw: st.DrawFn) -> list[dict[str, Any]]:
    """Facts of two companies: quarters, cumulative figures, years and balances,
    some restated, some withdrawn.
    """
    facts = []
    for _ in range(draw(st.integers(1, 40))):
        end = draw(st.sampled_from(_MONTH_ENDS))
        item = draw(st.sampled_from(["revenue", "operating_income", "net_income", "total_assets"]))
        months = draw(st.sampled_from([3, 6, 9, 12]))
        start = as_date(
            int(shift_months(np.array([(end - date(1970, 1, 1)).days], np.int32), -months)[0]) + 1
        )
        facts.append(
            {
                "company": draw(st.integers(0, 1)),
                "item": item,
                "period_start": None if item == "total_assets" else start.isoformat(),
                "period_end": end.isoformat(),
                "value": draw(st.one_of(st.none(), st.integers(-50, 500))),
                "unit": "USD",
                "published_at": (end + timedelta(draw(st.integers(1, 500)))).isoformat(),
                "batch": draw(st.integers(1, 3)),
                "source": draw(st.sampled_from(["one", "two"])),
            }
        )
    return facts


def ledger(facts: list[dict[str, Any]]) -> SmallLedger:
    return SmallLedger(facts, [(c, LONG_AGO, 12) for c in (0, 1)], ("one", "two"), companies=2)


def answers(made: SmallLedger, cutoffs: list[int], **how: Any) -> list[bytes]:
    """Every expression's values, reasons, marks and period ends, as bytes."""
    view, out = made.view(**how), []
    for text in EXPRESSIONS:
        values, ends = Evaluation(view, np.arange(2), np.array(cutoffs)).run(plan(text))
        shown = np.where(values.there, values.value, 0.0)
        out += [
            shown.tobytes(),
            values.reason.tobytes(),
            np.where(values.there, values.marks, 0).tobytes(),
        ]
        out.append(ends.tobytes())
    return out


class AsOfProperties(unittest.TestCase):
    @examples(40)
    @given(histories(), st.dates(date(2020, 6, 1), date(2025, 1, 1)))
    def test_nothing_published_after_the_cutoff_changes_an_answer_t9(
        self, facts: Any, day: date
    ) -> None:
        known = [f for f in facts if f["published_at"] <= day.isoformat()]
        cutoff = [at_end_of(day)]
        self.assertEqual(answers(ledger(facts), cutoff), answers(ledger(known), cutoff))

    @examples(26)
    @given(histories(), st.randoms(use_true_random=False))
    def test_the_order_of_loading_changes_nothing_t5(self, facts: Any, random: Any) -> None:
        # Ties of publication instant and batch are settled by position, so
        # those must not be shuffled apart.
        distinct = list(
            {(f["published_at"], f["item"], f["company"], f["batch"]): f for f in facts}.values()
        )
        shuffled = random.sample(distinct, len(distinct))
        cutoffs = [at_end_of(date(y, 6, 30)) for y in range(2021, 2026)]
        self.assertEqual(answers(ledger(distinct), cutoffs), answers(ledger(shuffled), cutoffs))

    @examples(26)
    @given(histories(), st.integers(0, 3))
    def test_later_batches_do_not_exist_for_recorded_by_t7(self, facts: Any, batch: int) -> None:
        cutoffs = [at_end_of(date(2024, 6, 30))]
        before = [f for f in facts if f["batch"] <= batch]
        self.assertEqual(
            answers(ledger(facts), cutoffs, recorded_by=batch), answers(ledger(before), cutoffs)
        )

    @examples(24)
    @given(histories())
    def test_many_dates_at_once_are_the_dates_one_by_one(self, facts: Any) -> None:
        made = ledger(facts)
        cutoffs = [at_end_of(date(2020 + i // 4, 3 * (i % 4) + 2, 15)) for i in range(18)]
        view = made.view()
        for text in EXPRESSIONS:
            together, ends = Evaluation(view, np.arange(2), np.array(cutoffs)).run(plan(text))
            for i, cutoff in enumerate(cutoffs):
                alone, end = Evaluation(view, np.arange(2), np.array([cutoff])).run(plan(text))
                np.testing.assert_array_equal(together.reason[:, i], alone.reason[:, 0], text)
                np.testing.assert_array_equal(ends[:, i], end[:, 0], text)
                shown = [
                    np.where(v.there, v.value, 0)[:, j] for v, j in ((together, i), (alone, 0))
                ]
                np.testing.assert_array_equal(*shown, text)

    @examples(40)
    @given(histories(), st.dates(date(2020, 6, 1), date(2025, 1, 1)))
    def test_the_newest_row_is_that_of_a_plain_search_f11(self, facts: Any, day: date) -> None:
        view, cutoff = ledger(facts).view(), at_end_of(day)
        timeline = view.timeline(ITEMS["revenue"], "ttm", False)
        rows = newest(timeline, 2, np.array([cutoff]))[:, 0]
        for company in (0, 1):
            standing: dict[int, int] = {}
            for row in range(len(timeline)):
                if key_company(timeline.key)[row] == company and timeline.at[row] <= cutoff:
                    standing[int(key_end(timeline.key)[row])] = row
            there = [e for e, r in standing.items() if timeline.state[r] != State.ABSENT]
            self.assertEqual(rows[company], standing[max(there)] if there else -1)

    @examples(50)
    @given(st.lists(st.integers(1, 1000), min_size=4, max_size=4), st.permutations(range(4)))
    def test_quarters_sum_to_the_year_f7(self, quarters: list[int], order: list[int]) -> None:
        ends = [date(2022, 3, 31), date(2022, 6, 30), date(2022, 9, 30), date(2022, 12, 31)]
        cumulative = np.cumsum(quarters)
        facts = [
            {
                "item": "revenue",
                "period_start": "2022-01-01",
                "period_end": str(ends[i]),
                "value": int(cumulative[i]),
                "unit": "USD",
                "published_at": "2023-03-01",
            }
            for i in order
        ]
        view = SmallLedger(facts).view()
        timeline = view.timeline(ITEMS["revenue"], "q", False)
        np.testing.assert_array_equal(timeline.value, quarters)
        values, ends_ = Evaluation(view, np.arange(1), np.array([at_end_of(date(2023, 3, 1))])).run(
            plan("revenue.fy")
        )
        self.assertEqual(
            (values.value[0, 0], str(as_date(ends_[0, 0]))), (cumulative[-1], "2022-12-31")
        )


class AssumedAndMissing(unittest.TestCase):
    FACT: ClassVar[dict[str, str]] = {
        "item": "revenue",
        "period_start": "2022-01-01",
        "period_end": "2022-12-31",
        "unit": "USD",
    }

    def ask(self, made: SmallLedger, text: str, **how: Any) -> tuple[Any, str]:
        values, _ = Evaluation(
            made.view(**how), np.arange(1), np.array([at_end_of(date(2023, 6, 30))])
        ).run(plan(text))
        return values.value[0, 0], Reason(values.reason[0, 0]).code

    def test_assumed_facts_can_be_left_out_t4(self) -> None:
        made = SmallLedger(
            [{**self.FACT, "value": 5, "published_at": "2023-03-31", "assumed": True}]
        )
        self.assertEqual(self.ask(made, "revenue")[0], 5)
        self.assertEqual(self.ask(made, "revenue", with_assumed=False)[1], "not_known")

    def test_amounts_in_two_currencies_need_a_rate_m2(self) -> None:
        cost = {**self.FACT, "item": "cost_of_revenue", "unit": "EUR"}
        made = SmallLedger(
            [
                {**self.FACT, "value": 5, "published_at": "2023-03-31"},
                {**cost, "value": 2, "published_at": "2023-03-31"},
            ]
        )
        self.assertEqual(self.ask(made, "revenue - cost_of_revenue")[1], "no_rate")
        self.assertEqual(self.ask(made, "cost_of_revenue > 1 EUR")[0], 1.0)
        self.assertEqual(self.ask(made, "revenue > 1 EUR")[1], "no_rate")

    def test_the_first_missing_input_in_the_order_written_gives_the_reason_n(self) -> None:
        made = SmallLedger([{**self.FACT, "value": 5, "published_at": "2023-03-31"}])
        self.assertEqual(self.ask(made, "revenue / operating_income")[1], "not_reported")
        self.assertEqual(self.ask(made, "revenue / total_assets")[1], "not_known")
        self.assertEqual(self.ask(made, "revenue / (revenue - revenue)")[1], "zero_denominator")
        self.assertEqual(self.ask(made, "ago(revenue, 1y)")[1], "not_known")
        self.assertEqual(self.ask(made, "revenue.q")[1], "incomplete")

    def test_of_two_ends_near_one_month_end_the_nearest_that_stands_counts_t5(self) -> None:
        near = {
            "item": "total_assets",
            "period_start": None,
            "unit": "USD",
            "published_at": "2023-01-10",
        }
        facts = [
            {**near, "period_end": "2022-12-28", "value": 1, "published_at": "2023-01-20"},
            {**near, "period_end": "2022-12-31", "value": 2},
            {**near, "period_end": "2022-12-31", "value": None, "published_at": "2023-07-01"},
        ]
        self.assertEqual(self.ask(SmallLedger(facts), "total_assets")[0], 2)
        timeline = SmallLedger(facts).view().timeline(ITEMS["total_assets"], "balance", False)
        self.assertEqual((timeline.value[-1], timeline.state[-1]), (1, State.VALUE))

    def test_nothing_at_all_is_no_error(self) -> None:
        view = SmallLedger([]).view()
        self.assertEqual(len(view.columns("revenue")), len(FactColumns.empty()))
        self.assertEqual(len(coalesce([])), 0)
        self.assertEqual(self.ask(SmallLedger([]), "growth(revenue, 1y)")[1], "not_known")

    @given(st.integers(-30_000, 60_000))
    def test_a_nominal_end_is_a_month_end_within_ten_days_or_the_end_itself_f2(
        self, days: int
    ) -> None:
        end = int(nominal_end(np.array([days], np.int32))[0])
        self.assertTrue(end == days or (abs(end - days) <= 10 and as_date(end + 1).day == 1))
        self.assertNotEqual(end, NO_END)
