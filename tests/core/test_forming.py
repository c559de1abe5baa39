"""Forms of flow items, one by one, and where they end (F3, F7 to F11, T5, T6)."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.core.small_ledger import SmallLedger
from tests.properties import examples
from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.evaluate import Evaluation
from wise_ledger.core.time.instants import micros, read_cutoff
from wise_ledger.core.time.periods import as_date
from wise_ledger.core.timelines.keys import Mark, key_end, make_keys
from wise_ledger.core.timelines.lineage import facts_under, story, trace
from wise_ledger.core.timelines.merge import merge
from wise_ledger.core.timelines.timeline import Timeline

Q1, Q2, Q3, Q4 = "2022-03-31", "2022-06-30", "2022-09-30", "2022-12-31"
YEAR, HALF, SECOND, THIRD, FOURTH = (
    "2022-01-01",
    "2022-01-01",
    "2022-04-01",
    "2022-07-01",
    "2022-10-01",
)


def fact(
    start: str | None, end: str, value: float | None, published: str = "2023-03-01", **other: Any
) -> dict[str, Any]:
    plain = {
        "item": "revenue",
        "unit": "USD",
        "period_start": start,
        "period_end": end,
        "value": value,
    }
    return {**plain, "published_at": published, **other}


def ask(facts: list[dict[str, Any]], text: str, on: str = "2023-06-30", **how: Any) -> Any:
    """(value or reason, period end, marks) of one company."""
    made = SmallLedger(facts, **how)
    cutoffs = np.array([micros(read_cutoff(on, ""))])
    values, ends = Evaluation(made.view(), np.arange(1), cutoffs).run(plan(text))
    reason = Reason(values.reason[0, 0])
    end = str(as_date(ends[0, 0])) if ends[0, 0] > -1_000_000 else None
    return (reason.code if reason else values.value[0, 0], end, Mark(int(values.marks[0, 0])))


class Forms(unittest.TestCase):
    def test_half_from_year_or_from_two_quarters_f7(self) -> None:
        half, year = fact(HALF, Q2, 40), fact(YEAR, Q4, 100)
        self.assertEqual(ask([half, year], "revenue.h")[:2], (60, Q4))
        quarters = [fact(YEAR, Q1, 10), fact(SECOND, Q2, 12)]
        self.assertEqual(ask(quarters, "revenue.h")[:2], (22, Q2))
        # Halves end at the year end and six months from it, nowhere else.
        self.assertEqual(
            ask([fact(SECOND, Q2, 12), fact(THIRD, Q3, 13)], "revenue.h")[0], "incomplete"
        )

    def test_year_from_its_parts_f7(self) -> None:
        self.assertEqual(ask([fact(HALF, Q2, 40), fact(THIRD, Q4, 55)], "revenue.fy")[:2], (95, Q4))
        self.assertEqual(
            ask([fact(YEAR, Q3, 70), fact(FOURTH, Q4, 30)], "revenue.fy")[:2], (100, Q4)
        )
        four = [fact(YEAR, Q1, 1), fact(SECOND, Q2, 2), fact(THIRD, Q3, 3), fact(FOURTH, Q4, 4)]
        self.assertEqual(ask(four, "revenue.fy")[:2], (10, Q4))
        self.assertEqual(ask(four, "revenue.fy", year_ends=((0, -9999, 9),))[0], "incomplete")
        self.assertEqual(ask(four, "revenue.ttm", year_ends=((0, -9999, 9),))[:2], (10, Q4))

    def test_cumulative_from_the_start_of_the_fiscal_year_f7(self) -> None:
        quarters = [fact(YEAR, Q1, 1), fact(SECOND, Q2, 2), fact(THIRD, Q3, 3)]
        self.assertEqual(ask(quarters, "revenue.ytd")[:2], (6, Q3))
        self.assertEqual(ask(quarters, "revenue.ytd", year_ends=((0, -9999, 6),))[:2], (3, Q3))
        self.assertEqual(ask([fact(YEAR, Q3, 7)], "revenue.ytd")[:2], (7, Q3))

    def test_trailing_from_the_year_before_f8(self) -> None:
        facts = [
            fact("2021-01-01", "2021-12-31", 100, "2022-03-01"), fact("2021-01-01", "2021-09-30", 70, "2021-11-01"),
            fact(YEAR, Q3, 80, "2022-11-01"),
        ]  # fmt: skip
        self.assertEqual(ask(facts, "revenue.ttm", "2022-12-01"), (110, Q3, Mark.NONE))
        facts.append(fact("2021-01-01", "2021-12-31", 90, "2022-11-15"))
        self.assertEqual(ask(facts, "revenue.ttm", "2022-12-01"), (100, Q3, Mark.MIXED_BASIS))

    def test_a_difference_needs_one_start_f7(self) -> None:
        shifted = [fact(YEAR, Q2, 40), fact("2022-01-14", Q1, 15)]
        self.assertEqual(ask(shifted, "revenue.q")[:2], (15, Q1))
        near = [fact(YEAR, Q2, 40), fact("2022-01-09", Q1, 15)]
        self.assertEqual(ask(near, "revenue.q")[:2], (25, Q2))

    def test_a_withdrawn_period_may_be_formed_otherwise_f7(self) -> None:
        facts = [
            fact(YEAR, Q1, 10),
            fact(SECOND, Q2, 12),
            fact(YEAR, Q2, 23),
            fact(SECOND, Q2, None, "2023-04-01"),
        ]
        self.assertEqual(ask(facts, "revenue.q", "2023-03-15")[:2], (12, Q2))
        self.assertEqual(ask(facts, "revenue.q", "2023-04-15")[:2], (13, Q2))

    def test_a_withdrawn_end_stops_but_a_withdrawn_earlier_part_only_lacks_f11(self) -> None:
        facts = [fact(YEAR, Q1, 10, "2022-05-01"), fact(YEAR, Q2, 23, "2022-08-01")]
        self.assertEqual(ask([*facts, fact(YEAR, Q2, None)], "revenue.q")[:2], ("withdrawn", Q2))
        # Q2 can no longer be formed without Q1, which does not end there: an older end
        # answers, here withdrawn too.
        self.assertEqual(ask([*facts, fact(YEAR, Q1, None)], "revenue.q")[:2], ("withdrawn", Q1))
        older = fact("2021-10-01", "2021-12-31", 7, "2022-02-01")
        lost = [
            older,
            fact(YEAR, Q1, 10, "2022-05-01", period_end=Q1),
            fact(YEAR, Q2, 23, "2022-08-01"),
        ]
        self.assertEqual(ask(lost, "revenue.q")[:2], (13, Q2))

    def test_per_share_figures_are_formed_approximately_f9(self) -> None:
        eps = {"item": "diluted_eps", "unit": "USD/shares"}
        facts = [fact(YEAR, Q1, 1.0, **eps), fact(YEAR, Q2, 2.5, **eps)]
        self.assertEqual(ask(facts, "diluted_eps.q"), (1.5, Q2, Mark.APPROXIMATE))

    def test_figures_of_two_currencies_are_not_added_m2(self) -> None:
        facts = [fact(YEAR, Q1, 10), fact(YEAR, Q2, 23, unit="EUR")]
        self.assertEqual(ask(facts, "revenue.q")[:2], (10, Q1))

    def test_parts_come_from_one_source_t5(self) -> None:
        how = {"sources": ("first", "second")}
        split = [fact(YEAR, Q1, 10, source="first"), fact(YEAR, Q2, 23, source="second")]
        self.assertEqual(ask(split, "revenue.q", **how)[:2], (10, Q1))
        both = [*split, fact(YEAR, Q1, 11, source="second")]
        self.assertEqual(ask(both, "revenue.q", **how)[:2], (12, Q2))

    def test_a_withdrawal_by_the_preferred_source_counts_as_having_t5(self) -> None:
        how = {"sources": ("first", "second")}
        facts = [
            fact(None, Q4, 5, item="total_assets", source="second"),
            fact(None, Q4, 6, item="total_assets", source="first"),
            fact(None, Q4, None, "2023-04-01", item="total_assets", source="first"),
        ]
        self.assertEqual(ask(facts, "total_assets", "2023-03-10", **how)[0], 6)
        self.assertEqual(ask(facts, "total_assets", **how)[0], "withdrawn")

    def test_first_reported_of_a_formed_figure_is_its_value_when_first_formed_f10(self) -> None:
        facts = [
            fact(YEAR, Q1, 10, "2022-05-01"), fact(YEAR, Q1, 12, "2022-06-01"), fact(YEAR, Q2, 30, "2022-08-01"),
            fact(YEAR, Q2, 40, "2022-11-01"),
        ]  # fmt: skip
        self.assertEqual(ask(facts, "first_reported(revenue.q)")[:2], (18, Q2))
        self.assertEqual(ask(facts, "revenue.q")[:2], (28, Q2))

    def test_a_declared_period_end_goes_before_the_near_month_end_f2(self) -> None:
        made = SmallLedger([fact("2022-01-01", "2022-12-18", 9)])
        made.rows["revenue"]["declared_end"] = [int(np.datetime64("2022-12-31").astype(int))]
        timeline = made.view().timeline(ITEMS["revenue"], "fy", False)
        self.assertEqual([str(as_date(e)) for e in key_end(timeline.key)], [Q4])


class Lineage(unittest.TestCase):
    FACTS = (
        fact(YEAR, Q3, 390, "2022-11-01"),
        fact(YEAR, Q4, 600, "2023-02-20"),
        fact(YEAR, Q4, 590, "2023-06-15"),
    )

    def test_a_formed_figure_is_traced_to_its_facts_with_signs(self) -> None:
        timeline = SmallLedger(self.FACTS).view().timeline(ITEMS["revenue"], "q", False)
        tree = trace(timeline, len(timeline) - 1)
        self.assertEqual((tree.value, tree.form), (200, "12 months less 9 months"))
        self.assertEqual(list(facts_under(tree)), [(2, 1), (0, -1)])

    def test_restated_by_then_and_later(self) -> None:
        timeline = SmallLedger(self.FACTS).view().timeline(ITEMS["revenue"], "fy", False)
        told = story(timeline, np.array([0, 1, -1]))
        by_then, later = told.restated, told.restated_later
        self.assertEqual(
            (by_then.tolist(), later.tolist()), ([False, True, False], [True, False, False])
        )


ROWS = st.sets(
    st.tuples(st.integers(0, 2), st.integers(0, 3), st.integers(-2 * 86_400, 3 * 86_400)),
    max_size=30,
)


class SideBySide(unittest.TestCase):
    @given(st.lists(ROWS, min_size=1, max_size=4))
    @examples(150)
    def test_every_instant_has_the_rows_that_stand_then_also_several_in_a_day_f10(
        self, given_: list[Any]
    ) -> None:
        timelines = []
        for rows in given_:
            reported = sorted(rows)
            key = make_keys(
                np.array([r[0] for r in reported], np.int64),
                np.array([r[1] * 90 for r in reported], np.int64),
            )
            at = np.array([r[2] for r in reported], np.int64) * 1_000_000
            kinds = {
                "value": float,
                "state": np.int8,
                "marks": np.uint8,
                "currency": np.int16,
                "start": np.int32,
                "published": np.int64,
            }
            timelines.append(
                Timeline(key, at, **{n: np.zeros(len(reported), kind) for n, kind in kinds.items()})
            )
        merged = merge(timelines)
        pairs = sorted(
            {(int(k), int(a)) for t in timelines for k, a in zip(t.key, t.at, strict=True)}
        )
        self.assertEqual(list(zip(merged.key.tolist(), merged.at.tolist(), strict=True)), pairs)
        for timeline, rows_ in zip(timelines, merged.rows, strict=True):
            for (key_, at_), row in zip(pairs, rows_.tolist(), strict=True):
                before = np.flatnonzero((timeline.key == key_) & (timeline.at <= at_))
                self.assertEqual(row, before[-1] if len(before) else -1)
