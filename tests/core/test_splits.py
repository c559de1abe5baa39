"""Splits (M3): one share basis for whatever is formed, nothing from later (T9),
no restatement by a split alone.
"""

import unittest
from datetime import date, timedelta
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.core.small_ledger import SmallLedger, at_end_of
from tests.properties import examples
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.evaluate import Evaluation
from wise_ledger.core.language.explain import explain
from wise_ledger.core.money.splits import ShareBasis
from wise_ledger.core.statements.sheet import Sheet
from wise_ledger.core.timelines.lineage import story

FIRST = date(2021, 1, 1)
QUARTERS = [
    (date(y, 3 * n + 1, 1), date(y + n // 3, 3 * n % 12 + 4 if n < 3 else 1, 1) - timedelta(1))
    for y in (2021, 2022, 2023)
    for n in range(4)
]
EXPRESSIONS = (
    "diluted_eps.q",
    "diluted_eps.ttm",
    "growth(diluted_eps.q, 1q)",
    "shares_outstanding",
    "first_reported(diluted_eps.ttm)",
    "diluted_eps.q * shares_outstanding",
)


def company(
    splits: list[tuple[int, int]],
    published_after: int = 30,
    late: int | None = None,
    cumulative: bool = False,
) -> SmallLedger:
    """Earnings of 100 and 10 shares in each quarter,
    stated on the share basis of their publication.

    Splits become public when they are in force, or so many days later; with `cumulative` from the
    year's start on.
    """
    facts: list[dict[str, Any]] = []
    for start, end in QUARTERS:
        reported = end + timedelta(published_after)
        shares = 10.0
        for n, ratio in splits:
            shares *= ratio if FIRST + timedelta(n) <= reported else 1
        plain = {"period_end": str(end), "published_at": str(reported)}
        count = (end.month + 2) // 3 if cumulative else 1
        begin = date(start.year, 1, 1) if cumulative else start
        earned = {"period_start": str(begin), "value": 100 * count / shares, "unit": "USD/shares"}
        facts.append({**plain, "item": "diluted_eps", **earned})
        facts.append({**plain, "item": "shares_outstanding", "value": shares, "unit": "shares"})
    days = [(FIRST + timedelta(n), ratio) for n, ratio in splits]
    public = {} if late is None else {d: at_end_of(d + timedelta(late)) for d, _ in days}
    return SmallLedger(
        facts,
        splits=[{"ex_date": str(d), "ratio": r, "published_at": public.get(d)} for d, r in days],
    )


def ask(made: SmallLedger, text: str, on: date) -> Any:
    view = made.view()
    values, _ = Evaluation(view, np.arange(1), np.array([at_end_of(on)])).run(plan(text))
    return values.value[0, 0] if not values.reason[0, 0] else int(values.reason[0, 0])


SPLITS = st.lists(
    st.tuples(st.integers(200, 1000), st.sampled_from([2, 4, 5])),
    max_size=3,
    unique_by=lambda s: s[0],
)


class Splits(unittest.TestCase):
    @given(SPLITS, st.integers(0, 200), st.booleans())
    @examples(26)
    def test_a_split_learned_of_late_moves_all_from_before_it_first_reported_too(
        self, splits: list[Any], late: int, cumulative: bool
    ) -> None:
        made, on, shares = (
            company(sorted(splits), 30, late, cumulative),
            FIRST + timedelta(1300),
            10.0,
        )
        for _, ratio in splits:
            shares *= ratio
        for text, expected in (
            ("diluted_eps.q", 100),
            ("first_reported(diluted_eps.q)", 100),
            ("first_reported(diluted_eps.ttm)", 400),
            ("ago(diluted_eps.q, 1y)", 100),
            ("first_reported(ago(diluted_eps.q, 2q))", 100),
            ("first_reported(ago(diluted_eps.ttm, 1y))", 400),
        ):
            self.assertAlmostEqual(ask(made, text, on), expected / shares, 9, text)

    @given(SPLITS, st.integers(500, 1100))
    @examples(40)
    def test_all_that_is_formed_stands_on_the_basis_of_the_cut_off(
        self, splits: list[Any], cut: int
    ) -> None:
        made, on, shares = company(sorted(splits)), FIRST + timedelta(cut), 10.0
        for n, ratio in splits:
            shares *= ratio if n <= cut else 1
        expected = (100 / shares, 400 / shares, 0.0, shares, 400 / shares, 100.0)
        for text, value in zip(EXPRESSIONS, expected, strict=True):
            self.assertAlmostEqual(ask(made, text, on), value, 9, text)

    @given(SPLITS, st.integers(400, 900))
    @examples(26)
    def test_no_split_from_after_the_cut_off_changes_an_answer_t9(
        self, splits: list[Any], cut: int
    ) -> None:
        on = FIRST + timedelta(cut)
        known = company(sorted(s for s in splits if s[0] <= cut))
        for text in EXPRESSIONS:
            self.assertEqual(ask(company(sorted(splits)), text, on), ask(known, text, on), text)

    @given(SPLITS)
    @examples(30)
    def test_a_split_alone_is_no_restatement_and_sheets_agree(self, splits: list[Any]) -> None:
        made = company(sorted(splits))
        view = made.view()
        for item, form in (
            ("diluted_eps", "q"),
            ("diluted_eps", "ttm"),
            ("shares_outstanding", "balance"),
        ):
            timeline = view.timeline(ITEMS[item], form, False)
            self.assertFalse(timeline.changed().any())
            told = story(timeline, np.arange(len(timeline)))
            by_then, later = told.restated, told.restated_later
            self.assertFalse((by_then | later).any())
        items = [ITEMS["diluted_eps"], ITEMS["shares_outstanding"]]
        facts = [made.columns(i.code) for i in items]
        whole = type(facts[0]).of(
            {
                n: np.concatenate(
                    [
                        np.full(len(f), r) if n == "company" else getattr(f, n)
                        for r, f in enumerate(facts)
                    ]
                )
                for n in type(facts[0]).__dataclass_fields__
            }
        )
        basis = ShareBasis.of_rows(made.splits, 0, [i.unit for i in items])
        sheet = Sheet(items, whole, view.calendar.of_rows(0, 2), basis=basis)
        cutoff = at_end_of(date(2024, 1, 31))
        grid = sheet.grid("q", sheet.ends("q", cutoff), cutoff)
        shares = 10.0 * float(np.prod([r for _, r in splits] or [1]))
        np.testing.assert_allclose(grid.value[0], 100 / shares)
        np.testing.assert_allclose(grid.value[1], shares)
        self.assertFalse(grid.restated.any() or grid.restated_later.any())

    def test_rounded_figures_after_a_split_are_the_same_and_others_are_restated(self) -> None:
        year = {
            "item": "diluted_eps",
            "period_start": "2021-01-01",
            "period_end": "2021-12-31",
            "unit": "USD/shares",
        }
        for value, changed in ((2.0, False), (2.01, False), (1.9, True)):
            facts = [{**year, "value": 8.01, "published_at": "2022-03-01"},
                     {**year, "value": value, "published_at": "2023-03-01"}]  # fmt: skip
            made = SmallLedger(facts, splits=[{"ex_date": "2022-06-05", "ratio": 4}])
            timeline = made.view().timeline(ITEMS["diluted_eps"], "fy", False)
            self.assertEqual(timeline.changed().tolist(), [False, False, changed], value)
            found = explain(
                made.view(), "diluted_eps.fy", 0, Viewpoint.at(at_end_of(date(2022, 12, 31)))
            )
            self.assertEqual([v.value for v in found.versions], [8.01, 8.01 / 4])

    def test_a_source_may_state_on_whose_shares_it_states_a_figure(self) -> None:
        year = {
            "item": "diluted_eps",
            "period_start": "2021-01-01",
            "period_end": "2021-12-31",
            "unit": "USD/shares",
        }
        announced = {
            "ex_date": "2022-06-05",
            "ratio": 4,
            "published_at": at_end_of(date(2022, 2, 1)),
        }
        silent = {"ex_date": "2022-06-05", "ratio": 4}  # known when its ex-date begins (T9)
        late = {"ex_date": "2022-06-05", "ratio": 4, "published_at": at_end_of(date(2022, 7, 1))}
        cases = [  # published, stated, value: what is read before the split and after
            # reported ahead of it on the new shares
            (announced, "2022-03-01", "2022-06-05", 2.0, 8.0, 2.0),
            (silent, "2022-03-01", "2022-06-05", 2.0, 2.0, 2.0),
            (silent, "2022-05-01", "2022-05-01", 8.0, 8.0, 2.0),
            # reported after it on the old ones
            (silent, "2022-08-01", "2022-06-01", 8.0, None, 2.0),
            # the same, before the split was public
            (late, "2022-06-20", "2022-06-01", 8.0, None, 2.0),
        ]
        for split, published, stated, value, before, after in cases:
            fact = {**year, "value": value, "published_at": published, "share_basis_date": stated}
            made = SmallLedger([fact], splits=[split])
            if before is not None:
                self.assertEqual(ask(made, "diluted_eps.fy", date(2022, 6, 4)), before, published)
            self.assertEqual(ask(made, "diluted_eps.fy", date(2022, 8, 1)), after, published)
