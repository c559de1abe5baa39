"""Panels: a column at one date is the screen's, whatever stands beside it;
who counts when; periods (F4 to F11).
"""

import math
import unittest
from collections.abc import Sequence
from datetime import date
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.core.marketworlds import BEGIN, worlds
from tests.core.small_ledger import at_end_of
from tests.core.worlds import order_of_sources, world
from tests.properties import examples
from wise_ledger.core.answers.cells import mark_names
from wise_ledger.core.answers.reasons import CODES, Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.errors import BadInput
from wise_ledger.core.language.behind import UNKNOWN
from wise_ledger.core.language.counted import Counted
from wise_ledger.core.language.functions import FUNCTIONS
from wise_ledger.core.money.currencies import currency_name
from wise_ledger.core.panels.ahead import read_ahead
from wise_ledger.core.panels.panel import (
    Block,
    Question,
    block,
    blocks,
    plan_columns,
    plan_condition,
)
from wise_ledger.core.panels.periods import ends_of, read_periods
from wise_ledger.core.panels.summary import Summing
from wise_ledger.core.screening.figures import figures
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import NO_END, as_date, day

SEEDS = st.integers(0, 2**24)
COLUMNS = (
    "revenue.q", "revenue", "total_assets.fy", "margin: operating_income / revenue", "growth(revenue, 1y)",
    "twice: 2 * margin", "coalesce(inventory, goodwill) / total_assets", "net_margin", "industry",
    "ago(operating_income, 1y) / total_assets", "mean(revenue.q, 1y)", "first_reported(revenue.fy)",
    "operating_income / revenue > 5%", "diluted_eps.fy", "total_debt",
)  # fmt: skip
ACROSS = (
    "rank(revenue)",
    "zscore(operating_income / total_assets)",
    "percentile(revenue, within=industry)",
)


def question(
    view: Any, expressions: Sequence[str], cutoffs: Sequence[int], on: Any = None, **more: Any
) -> Question:
    members = np.arange(2)
    counted = Counted(np.ones((2, len(cutoffs)), np.bool_) if on is None else on)
    columns = plan_columns(expressions, view.vocabulary)
    return Question(columns, members, np.array(cutoffs), counted, known_at=True, **more)


def cells(found: Block, column: int, company: int, at: int) -> Any:
    """A cell of a panel as a screen's says it."""
    figure = found.columns[column]
    values, missing = figure.values, bool(figure.values.reason[company, at])
    value = None if missing else values.value[company, at]
    end = (
        None
        if figure.ends is None or figure.ends[company, at] == NO_END
        else as_date(int(figure.ends[company, at]))
    )
    known = (
        None
        if missing or figure.known_at[company, at] == UNKNOWN
        else int(figure.known_at[company, at])
    )  # type: ignore[index]
    return (
        value if value is None or isinstance(value, str) else float(value),
        CODES[values.reason[company, at]],
        currency_name(int(values.currency[company, at])),
        end,
        known,
        () if missing else mark_names(int(values.marks[company, at])),
    )


def plain(cell: Any) -> Any:
    value = {"yes": 1.0, "no": 0.0}.get(cell.value, cell.value)
    return value, cell.reason, cell.currency, cell.end, cell.known_at, cell.marks


class AsScreens(unittest.TestCase):
    @examples(26)
    @given(SEEDS, st.sampled_from([None, "USD", "EUR"]), st.booleans())
    def test_a_column_at_one_date_is_the_screens_cell_for_cell(
        self, seed: int, currency: str | None, alone: bool
    ) -> None:
        view = world(seed).ledger().view(preference=order_of_sources(seed))
        days = [date(2020 + n // 4, 3 * (n % 4) + 2, 15) for n in range(1, 17)]
        cutoffs = [at_end_of(d) for d in days]
        names = (
            [COLUMNS[seed % len(COLUMNS)]]
            if alone and seed % len(COLUMNS) != 5
            else [*COLUMNS, *ACROSS]
        )
        asked = question(view, names, cutoffs, currency=currency)
        whole = block(view, asked, 0, len(cutoffs))
        for at, cutoff in enumerate(cutoffs):
            table = figures(view, names, [0, 1], Viewpoint.at(cutoff, currency))
            for company in (0, 1):
                for n, name in enumerate(names):
                    self.assertEqual(
                        cells(whole, n, company, at),
                        plain(table.rows[company][n]),
                        (seed, name, days[at], company),
                    )

    @examples(20)
    @given(SEEDS, st.integers(0, 15))
    def test_nothing_published_after_a_date_changes_its_rows_t9(
        self, seed: int, place: int
    ) -> None:
        made = world(seed)
        days = [date(2020 + n // 4, 3 * (n % 4) + 2, 15) for n in range(1, 17)]
        cutoffs = [at_end_of(d) for d in days]
        names = [*COLUMNS, *ACROSS]
        found = [
            block(v := w.ledger().view(), question(v, names, cutoffs), place, place + 1)
            for w in (made, made.upto(days[place]))
        ]
        for n, name in enumerate(names):
            for company in (0, 1):
                a, b = (cells(f, n, company, 0) for f in found)
                self.assertEqual(a, b, (seed, name, days[place]))

    @examples(20)
    @given(SEEDS)
    def test_a_cross_section_is_of_those_who_are_on_the_list_that_day(self, seed: int) -> None:
        view = world(seed).ledger().view()
        cutoffs = [at_end_of(date(2021 + n // 2, 6 * (n % 2) + 3, 1)) for n in range(6)]
        on = np.array([[n % 2 == 0, n % 3 != 0] for n in range(6)]).T
        names = [*ACROSS, "revenue + 0 * rank(revenue) * revenue"]
        whole = block(view, question(view, names[:3], cutoffs, on), 0, 6)
        for at, cutoff in enumerate(cutoffs):
            members = np.flatnonzero(on[:, at]).tolist()
            if not members:
                continue
            table = figures(view, names[:3], members, Viewpoint.at(cutoff))
            for row, company in enumerate(members):
                for n in range(3):
                    self.assertEqual(
                        cells(whole, n, company, at)[:2],
                        plain(table.rows[row][n])[:2],
                        (seed, n, at),
                    )

    def test_blocks_are_the_whole_and_the_condition_keeps_rows_of_which_it_is_true(self) -> None:
        view = world(7).ledger().view()
        cutoffs = [at_end_of(date(2020 + n // 12, n % 12 + 1, 27)) for n in range(48)]
        condition = plan_condition("operating_income / revenue > 5%", view.vocabulary)
        asked = question(view, COLUMNS, cutoffs, condition=condition)
        whole, parts = (
            block(view, asked, 0, 48),
            [block(view, asked, n, n + 7) for n in range(0, 48, 7)],
        )
        np.testing.assert_array_equal(np.concatenate([p.rows for p in parts], axis=1), whole.rows)
        one = figures(
            view, ["operating_income / revenue > 5%"], [0, 1], Viewpoint.at(cutoffs[40])
        ).rows
        for company in (0, 1):
            self.assertEqual(bool(whole.rows[company, 40]), one[company][0].value == "yes")
            self.assertEqual(CODES[whole.unknown[company, 40]], one[company][0].reason)
        summing = Summing(asked.columns)
        for part in blocks(view, asked):
            summing.add(part)
        self.assertEqual(summing.rows, int(whole.rows.sum()))
        for summary, figure in zip(summing.columns(), whole.columns, strict=True):
            there = figure.values.there & whole.rows
            self.assertEqual((summary.cells, summary.filled), (whole.rows.sum(), there.sum()))
            self.assertEqual(sum(summary.reasons.values()), summary.cells - summary.filled)
            if summary.quantiles:
                self.assertEqual(
                    summary.quantiles[-1], figure.values.value[there].astype(float).max()
                )

    def test_companies_looked_at_at_their_own_cutoffs(self) -> None:
        view = world(11).ledger().view()
        days = [at_end_of(date(2021 + n // 4, 3 * (n % 4) + 2, 10)) for n in range(8)]
        early = [d - DAY // 2 for d in days]
        every = np.array(sorted([*days, *early]))
        own = np.array([np.searchsorted(every, early), np.searchsorted(every, days)])
        counted = Counted(np.ones((2, 8), np.bool_), own, np.arange(16) // 2)
        columns = plan_columns(["revenue", "rank(revenue)"], view.vocabulary)
        whole = block(view, Question(columns, np.arange(2), every, counted), 0, 8)
        part = block(view, Question(columns, np.arange(2), every, counted), 3, 6)
        for company, cutoffs in enumerate((early, days)):
            for at, cutoff in enumerate(cutoffs):
                cell = figures(view, ["revenue"], [company], Viewpoint.at(cutoff)).rows[0][0]
                values = whole.columns[0].values
                self.assertEqual(CODES[values.reason[company, at]], cell.reason)
                if cell.value is not None:
                    self.assertEqual(values.value[company, at], cell.value)
        for n in range(2):
            a, b = whole.columns[n].values, part.columns[n].values
            np.testing.assert_array_equal(a.reason[:, 3:6], b.reason)
        both = [
            whole.columns[0].values.there.all(axis=0),
            whole.columns[1].values.there.all(axis=0),
        ]
        np.testing.assert_array_equal(*both)


class Periods(unittest.TestCase):
    @examples(40)
    @given(SEEDS, st.dates(date(2021, 1, 1), date(2025, 1, 1)))
    def test_a_label_has_the_end_that_bears_it_f5(self, seed: int, on: date) -> None:
        view, cutoff = world(seed).ledger().view(), at_end_of(on)
        calendar = view.calendar
        for text, span in (("FY2019/FY2024", 12), ("FY2020Q1/FY2024Q4", 3)):
            periods = read_periods(text)
            found = ends_of(calendar, periods, np.arange(2), cutoff)
            for company in (0, 1):
                stage = np.array([calendar.known(company, cutoff)])
                for label, end in zip(periods.labels, found[company].tolist(), strict=True):
                    if end != NO_END:
                        self.assertEqual(
                            calendar.label(company, end, cutoff, span), label, (seed, on)
                        )
                months = [day(date(2019 + n // 12, n % 12 + 1, 1)) - 1 for n in range(24, 60)]
                for end in months:
                    ends = np.array([end], np.int32)
                    into = calendar.months_into_year(stage, ends)
                    if (
                        into[0] > 0
                        and into[0] % span == 0
                        and not calendar.in_transition(stage, ends)[0]
                    ):
                        label = calendar.label(company, end, cutoff, span)
                        self.assertGreaterEqual(
                            found[company, periods.labels.index(label)], end, (seed, label)
                        )

    def test_calendar_periods_hold_the_midpoint_f6(self) -> None:
        made = world(3).ledger()
        view = made.view(given_calendar=lambda: type(made.view().calendar).plain([(0, 3), (1, 9)]))
        found = ends_of(
            view.calendar, read_periods("2021/2022"), np.arange(2), at_end_of(date(2024, 1, 1))
        )
        self.assertEqual([[str(as_date(e)) for e in row] for row in found.tolist()],
                         [["2022-03-31", "2023-03-31"], ["2021-09-30", "2022-09-30"]])  # fmt: skip

    def test_periods_that_are_none_are_refused(self) -> None:
        for text in (
            "2020-01",
            "FY2020/2021",
            "FY2020/FY2021Q1",
            "FY2024/FY2020",
            "FY1800",
            "FY1900Q1/FY2100Q1",
            "",
        ):
            with self.assertRaises(BadInput, msg=text):
                read_periods(text)


def plainly(name: str, x: list[float], n: float) -> list[float | None]:
    """A cross-section reckoned by hand."""
    count = len(x)
    rank = [1 + sum(o > v for o in x) + (sum(o == v for o in x) - 1) / 2 for v in x]

    def quantile(share: float) -> float:
        place = share * (count - 1)
        low = math.floor(place)
        high = min(low + 1, count - 1)
        return sorted(x)[low] + (sorted(x)[high] - sorted(x)[low]) * (place - low)

    if name == "rank":
        return [*rank]
    if name == "bucket":
        return [1 + math.floor((r - 1) * n / count) for r in rank]
    if count < 2:
        return [None] * count
    if name == "percentile":
        return [(count - r) / (count - 1) for r in rank]
    if name == "winsor":
        return [min(max(v, quantile(n)), quantile(1 - n)) for v in x]
    if name == "rescale":
        low, high = quantile(0.05), quantile(0.95)
        return [
            None if low == high else min(1, max(-1, 2 * (v - low) / (high - low) - 1)) for v in x
        ]
    mean = sum(x) / count
    spread = math.sqrt(sum((v - mean) ** 2 for v in x) / (count - 1))
    return [None if min(x) == max(x) else (v - mean) / spread for v in x]


class Across(unittest.TestCase):
    @examples(200)
    @given(
        st.lists(
            st.tuples(st.sampled_from([0.1, 0.2, 1.5, -3.0, 7.25, None]), st.sampled_from("ab-")),
            max_size=12,
        ),
        st.sampled_from(["rank", "bucket", "percentile", "winsor", "rescale", "zscore"]),
        st.booleans(),
    )
    def test_each_function_is_that_of_a_plain_reckoning(
        self, rows: Any, name: str, grouped: bool
    ) -> None:
        value = np.array(
            [[math.nan if v is None else v] for v, _ in rows] or np.empty((0, 1)), np.float64
        )
        reason = np.where(np.isnan(value), np.uint8(Reason.STALE), np.uint8(0))
        group = np.array([[g] for _, g in rows] or np.empty((0, 1)), object)
        groups = Values.known(
            group, np.where(group == "-", np.uint8(Reason.NOT_KNOWN), np.uint8(0))
        )
        option = {"bucket": 3.0, "winsor": 0.1}.get(name, 0.0)
        parts = [Values.known(value, reason), *([groups] if grouped else [])]
        found = FUNCTIONS[name].numbers(parts, option)
        for label in sorted({g for _, g in rows}) if grouped else [None]:
            own = [
                n
                for n, (v, g) in enumerate(rows)
                if v is not None and (label is None or g == label)
            ]
            if label == "-":
                self.assertTrue((found.reason[own] == Reason.NOT_KNOWN).all())
                continue
            for n, expected in zip(
                own, plainly(name, [rows[i][0] for i in own], option), strict=True
            ):
                if expected is None:
                    self.assertIn(found.reason[n, 0], (Reason.INCOMPLETE, Reason.ZERO_DENOMINATOR))
                else:
                    self.assertAlmostEqual(found.value[n, 0], expected, 12)
                    self.assertEqual(found.reason[n, 0], 0)
        for n, (v, _) in enumerate(rows):
            if v is None:
                self.assertEqual(found.reason[n, 0], Reason.STALE)


class Ahead(unittest.TestCase):
    @examples(40)
    @given(worlds(), st.integers(1, 20), st.booleans())
    def test_a_return_ahead_is_the_return_up_to_the_later_day(
        self, made: Any, span: int, total: bool
    ) -> None:
        market = made.market()
        at = np.array([(BEGIN + n + 1) * DAY - 1 for n in (0, 3, 8)])
        ahead = read_ahead(f"{'total' if total else 'price'} {span}d", set())
        found = ahead.values(market, np.arange(2), at, (BEGIN + 400) * DAY)
        plain = market.returns(np.arange(2), at // DAY, at + span * DAY, total=total)
        listing = market.listed.of_companies.read(np.arange(2), at)
        same = listing == market.listed.of_companies.read(np.arange(2), at + span * DAY)
        np.testing.assert_array_equal(found.reason[same], plain.reason[same])
        there = same & found.there
        np.testing.assert_array_equal(found.value[there], plain.value[there])
        late = ahead.values(market, np.arange(2), at, int(at[0]))
        self.assertTrue((late.reason == Reason.NOT_KNOWN).all())
