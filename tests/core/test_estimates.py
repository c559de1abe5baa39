"""E1 to E4, T9: consensus and surprise against the same reckoned contribution by contributor in
plain Python.
"""

import math
import statistics
import unittest
from datetime import date, timedelta
from operator import itemgetter
from types import SimpleNamespace
from typing import Any

import numpy as np
from hypothesis import example, given
from hypothesis import strategies as st

from tests.properties import examples
from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.estimates.consensus import STATISTICS, Basis, consensus
from wise_ledger.core.estimates.contributions import (
    YEAR,
    Actuals,
    Contributions,
    taken_over,
    target,
)
from wise_ledger.core.estimates.estimates import NOTHING, Estimates, Measure
from wise_ledger.core.estimates.known import ALWAYS, EstimateRows, measures_of
from wise_ledger.core.estimates.ofcompany import opinions
from wise_ledger.core.estimates.onesource import of_first_source
from wise_ledger.core.market.factors import Factor, Factors
from wise_ledger.core.records.columnkinds import ACTUALS, ESTIMATES
from wise_ledger.core.records.columns import RecordColumns
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import day
from wise_ledger.core.timelines.keys import State

USD, EUR, JPY = 1, 2, 3
BEGIN = 17_992
END = BEGIN + 300  # of the period, the end of January 2020
RATES = {EUR: 1.1}  # dollars for one; of JPY there are none
Row = tuple[int, int, float, int]  # house, instant, value, currency

VALUE = st.sampled_from([1.0, 1.2, 1.5, -0.4, 0.0, math.nan])
ROWS = st.lists(
    st.tuples(
        st.integers(0, 4), st.integers(0, 400).map(lambda d: (BEGIN + d) * DAY + DAY // 2), VALUE,
        st.sampled_from([USD, USD, USD, EUR, JPY]),
    ),
    max_size=25,
    unique_by=lambda r: r[:2],
)  # fmt: skip
ANNOUNCED = st.one_of(
    st.none(),
    st.integers(250, 380).flatmap(
        lambda d: st.sampled_from([(BEGIN + d) * DAY + 5, (BEGIN + d + 1) * DAY - 1])
    ),
)
SPLIT = st.one_of(
    st.none(), st.tuples(st.integers(0, 420), st.integers(-20, 40), st.sampled_from([2.0, 4.0]))
)


def rate_on(source: Any, into: Any, day: Any, at: Any) -> Any:
    return np.array([RATES.get(s, 1.0 if s == USD else math.nan) for s in source.tolist()])


def engine(
    rows: list[Row], announced: int | None, split: Any
) -> tuple[Contributions, Actuals, Basis]:
    house, at, value, currency = zip(*rows, strict=True) if rows else ((), (), (), ())
    key = target(np.zeros(1, int), np.array([END]))
    actuals = Actuals.none()
    if announced is not None:
        actuals = Actuals.of(key, np.array([announced]), np.array([1.3]), np.array([USD], np.int16))
    of = Contributions.of(
        np.repeat(key, len(rows)),
        np.array(house, np.int64),
        np.array(at, np.int64),
        np.array(value, np.float64),
        np.array(currency, np.int16),
        actuals,
    )
    factors = (
        []
        if split is None
        else [Factor(0, BEGIN + split[0], split[2], (BEGIN + split[0] + split[1]) * DAY)]
    )
    return of, actuals, Basis(Factors.of(factors), np.array([0]), -1, rate_on)


# ---- the same, one by one


def moved(split: Any, since: int, cutoff: int) -> float:
    """What a share of one instant is of a share of a cut-off."""
    if split is None:
        return 1.0
    day, known = BEGIN + split[0], (BEGIN + split[0] + split[1]) * DAY
    return 1 / split[2] if since // DAY < day <= cutoff // DAY and known <= cutoff else 1.0


def counted(
    rows: list[Row], announced: int | None, split: Any, at: int, cutoff: int
) -> dict[int, tuple[float, Row]]:
    """The contributors that stand at an instant,
    with their values on the basis of a cut-off; NaN without a rate.
    """
    before = announced
    if announced is not None and announced % DAY == DAY - 1:
        before = announced - (DAY - 1)
    last: dict[int, Row] = {}
    for row in sorted(rows, key=lambda r: r[1]):
        if row[1] <= at and (before is None or row[1] < before):
            last[row[0]] = row
    looked = at if announced is None else min(at, announced)
    return {
        house: (
            row[2]
            and row[2]  # zero needs no rate (M2)
            * RATES.get(row[3], 1.0 if row[3] == USD else math.nan)
            * moved(split, row[1], cutoff),
            row,
        )
        for house, row in last.items()
        if not math.isnan(row[2]) and looked // DAY - row[1] // DAY <= 120
    }


def plain(
    rows: list[Row], announced: int | None, split: Any, cutoff: int
) -> dict[str, float | str]:
    now = counted(rows, announced, split, cutoff, cutoff)
    values = [v for v, _ in now.values() if not math.isnan(v)]
    if not values:
        return dict.fromkeys(STATISTICS, "no_rate" if now else "no_estimates")
    then = counted(rows, announced, split, cutoff - 30 * DAY, cutoff)
    up = down = 0
    for house, (value, row) in now.items():
        if house not in then or math.isnan(value) or math.isnan(then[house][0]):
            continue
        a, b = value, then[house][0]
        if row[3] == then[house][1][3]:  # in their own currency where that is unchanged
            a = row[2] * moved(split, row[1], cutoff)
            b = then[house][1][2] * moved(split, then[house][1][1], cutoff)
        if abs(a - b) > 1e-9 * max(abs(a), abs(b)):
            up, down = up + (a > b), down + (a < b)
    return {
        "mean": statistics.fmean(values),
        "median": statistics.median(values),
        "high": max(values),
        "low": min(values),
        "stdev": statistics.stdev(values) if len(values) > 1 else "incomplete",
        "count": len(values),
        "raised": up,
        "cut": down,
    }


CUTOFFS = np.array([(BEGIN + d + 1) * DAY - 1 for d in range(0, 430, 13)])


class AsPlain(unittest.TestCase):
    @given(ROWS, ANNOUNCED, SPLIT)
    @examples(150)
    def test_the_consensus_of_random_contributions_e2_m3(
        self, rows: list[Row], announced: int | None, split: Any
    ) -> None:
        of, _, basis = engine(rows, announced, split)
        keys = np.repeat(target(np.zeros(1, int), np.array([END])), len(CUTOFFS))
        found = consensus(of, basis, keys, CUTOFFS, np.full(len(keys), USD))
        for n, cutoff in enumerate(CUTOFFS.tolist()):
            expected = plain(rows, announced, split, cutoff)
            for name in STATISTICS:
                value, why = found.of(name)
                got = Reason(why[n]).code if why[n] else float(value[n])
                where = f"{name} on {cutoff // DAY - BEGIN}"
                if isinstance(expected[name], str) or isinstance(got, str):
                    self.assertEqual(got, expected[name], where)
                else:
                    self.assertAlmostEqual(got, expected[name], 9, where)

    @given(ROWS, ANNOUNCED, SPLIT)
    @examples(60)
    def test_who_is_in_it_and_who_is_not_e2(
        self, rows: list[Row], announced: int | None, split: Any
    ) -> None:
        of, actuals, basis = engine(rows, announced, split)
        house, at, value, currency = zip(*rows, strict=True) if rows else ((), (), (), ())
        words = RecordColumns.of(
            ESTIMATES,
            company=[0] * len(rows),
            measure=0,
            contributor=house,
            period_end=END,
            period_kind=YEAR,
            value=value,
            currency=currency,
            published_at=at,
            known_at=at,
            batch=[1] * len(rows),
        )
        whole = Estimates(
            {"eps": Measure({YEAR: of}, {YEAR: actuals}, -1)}, lambda _: basis, lambda m, c: m
        )
        known = EstimateRows(words, codes={0: "eps"})
        for cutoff in CUTOFFS[::5].tolist():
            agreed = opinions(whole, known, "eps", YEAR, 0, END, cutoff, USD)
            self.assertEqual(len(agreed), sum(r[1] <= cutoff for r in rows))
            by = announced if announced is not None and announced <= cutoff else None
            counts = counted(rows, by, split, cutoff, cutoff)
            rated = {h: v for h, (v, _) in counts.items() if not math.isnan(v)}
            inside = {o.contributor: o.value for o in agreed if o.state == "in"}
            self.assertEqual(inside.keys(), rated.keys())
            np.testing.assert_allclose([inside[h] for h in rated], list(rated.values()))
            self.assertEqual(
                {o.contributor for o in agreed if o.state == "no rate"},
                counts.keys() - rated.keys(),
            )
            late = {(o.contributor, o.at) for o in agreed if o.state == "after the actual"}
            until = cutoff + 1 if by is None else by - (DAY - 1) * (by % DAY == DAY - 1)
            self.assertEqual(late, {r[:2] for r in rows if until <= r[1] <= cutoff})

    @given(ROWS, ANNOUNCED, st.integers(0, 420))
    @examples(60)
    def test_nothing_published_later_changes_a_consensus_t9(
        self, rows: list[Row], announced: int | None, day: int
    ) -> None:
        cutoff = np.array([(BEGIN + day + 1) * DAY - 1])
        key = target(np.zeros(1, int), np.array([END]))
        known = announced if announced is not None and announced <= cutoff[0] else None
        answers = []
        for some, at in ((rows, announced), ([r for r in rows if r[1] <= cutoff[0]], known)):
            of, _, basis = engine(some, at, None)
            found = consensus(of, basis, key, cutoff, np.array([USD]))
            answers.append(
                [(v[0] if not w[0] else w[0]) for v, w in (found.of(n) for n in STATISTICS)]
            )
        np.testing.assert_allclose(*answers, equal_nan=True)


CODES = {0: "diluted_eps", 1: "revenue", 2: "gross_profit"}
YEAR_ENDS = [day(date(year, 12, 31)) for year in (2018, 2019, 2020)]
# measure, company, period end, instant
SAID = st.lists(
    st.tuples(
        st.sampled_from(list(CODES)), st.integers(0, 1), st.sampled_from(YEAR_ENDS),
        st.integers(0, 400).map(lambda d: (BEGIN + d) * DAY + DAY // 2),
    ),
    max_size=8,
)  # fmt: skip
OVER = SAID.map(lambda rows: [r for r in rows if r[3] > (r[2] + 1) * DAY])  # what is announced is


def withdrawn(at: int) -> bool:
    """Whether what was said at an instant takes back what was said before."""
    return at // DAY % 5 == 0


def known_of(estimates: list[Any], actuals: list[Any], figures: list[Any]) -> Estimates:
    """All that was said of two companies whose years end in December."""

    def columns(kind: Any, rows: list[Any], **own: Any) -> RecordColumns:
        measure, company, end, at = zip(*rows, strict=True) if rows else ((), (), (), ())
        made = {"measure": measure, "company": company, "period_end": end, "known_at": at}
        value = [math.nan if kind is ESTIMATES and withdrawn(n) else 1.0 for n in at]
        same = {"period_kind": YEAR, "value": value, "currency": USD, "published_at": at}
        return RecordColumns.of(kind, **made, **same, **own, batch=[1] * len(rows))

    def timeline(code: str, form: str) -> Any:
        rows = [f for f in figures if CODES[f[0]] == code] if code in CODES.values() else []
        key = target(np.array([f[1] for f in rows], int), np.array([f[2] for f in rows], int))
        own = [key if form == "fy" else key[:0], np.array([f[3] for f in rows], np.int64)]
        many = len(own[0])
        return SimpleNamespace(
            key=own[0], at=own[1][:many], value=np.ones(many),
            currency=np.full(many, USD, np.int16), state=np.full(many, State.VALUE),
        )  # fmt: skip

    rows = EstimateRows(
        columns(ESTIMATES, estimates, contributor=[0] * len(estimates)),
        columns(ACTUALS, actuals),
        codes=CODES,
    )
    units = dict.fromkeys([*CODES.values(), *ALWAYS], "money")
    december = lambda members, cutoffs: np.full((len(members), len(cutoffs)), 12)  # noqa: E731
    basis = Basis(Factors.of(()), np.array([0, 1]), 0, rate_on)
    return Estimates(measures_of(rows, units, timeline), lambda _: basis, december)


class Horizons(unittest.TestCase):
    @given(SAID, OVER, OVER)
    @examples(80)
    def test_the_first_year_is_the_one_after_the_last_announced_e3(
        self, estimates: list[Any], actuals: list[Any], figures: list[Any]
    ) -> None:
        found = known_of(estimates, actuals, figures).period(YEAR, 1, np.arange(2), CUTOFFS)
        for company in (0, 1):
            for n, cutoff in enumerate(CUTOFFS.tolist()):
                said = [r[0] for r in (*estimates, *actuals) if r[3] <= cutoff]
                counts = {m for m, code in CODES.items() if code in ALWAYS or m in said}
                own = [r for r in (*actuals, *figures) if r[1] == company and r[3] <= cutoff]
                announced = [end for m, _, end, _ in own if m in counts]
                newest = {
                    e[:3]: e[3] for e in sorted(estimates, key=itemgetter(3)) if e[3] <= cutoff
                }
                standing = [
                    end
                    for (_, whose, end), at in newest.items()
                    if whose == company and not withdrawn(at) and (cutoff - at) // DAY <= 120
                ]
                expected = min(standing, default=NOTHING)
                if announced:
                    last = date(1970, 1, 1) + timedelta(max(announced))
                    expected = day(last.replace(year=last.year + 1))
                self.assertEqual(found[company, n], expected, cutoff)

    @given(SAID, OVER, OVER, st.sampled_from(CUTOFFS.tolist()))
    @examples(60)
    def test_what_is_said_later_changes_no_horizon_and_no_surprise_t9(
        self, estimates: list[Any], actuals: list[Any], figures: list[Any], cutoff: int
    ) -> None:
        every = estimates, actuals, figures
        known = [[r for r in rows if r[3] <= cutoff] for rows in every]
        at, into = np.array([cutoff]), np.full((2, 1), USD)
        answers = []
        for of in (known_of(*every), known_of(*known)):
            asked = [
                of.estimate(code, horizon, statistic, np.arange(2), at, into)
                for code in CODES.values()
                for horizon in ("fy1", "fy2", "ntm")
                for statistic in ("mean", "count")
                if (horizon, statistic) != ("ntm", "count")
            ]
            asked += [of.surprise(c, "amount", np.arange(2), at, into) for c in CODES.values()]
            answers.append([(v.value, v.reason, v.currency) for v in asked])
        for now, before in zip(*answers, strict=True):
            for a, b in zip(now, before, strict=True):
                np.testing.assert_array_equal(a, b)


class Announcing(unittest.TestCase):
    def surprise(self, actuals: Actuals, how: str, day: int, kind: int | None = None) -> Any:
        rows = [(n, (BEGIN + 250) * DAY, v, USD) for n, v in enumerate((1.0, 1.2))]
        of, _, basis = engine(rows, int(actuals.announced[0]), None)
        basis = Basis(basis.splits, basis.security, 0, rate_on)
        december = lambda members, cutoffs: np.full((len(members), len(cutoffs)), 12)  # noqa: E731
        estimates = Estimates(
            {"eps": Measure({YEAR: of}, {YEAR: actuals})}, lambda _: basis, december
        )
        at = np.array([(BEGIN + day + 1) * DAY - 1])
        found = estimates.surprise("eps", how, np.array([0]), at, np.full((1, 1), USD), kind)
        return Reason(found.reason[0, 0]).code if found.reason[0, 0] else float(found.value[0, 0])

    def actual(self, day: int, value: float) -> Actuals:
        key = target(np.zeros(1, int), np.array([END]))
        return Actuals.of(
            key, np.array([(BEGIN + day) * DAY + 5]), np.array([value]), np.array([USD], np.int16)
        )

    def test_a_surprise_is_shown_from_the_announcement_until_it_is_stale_e4_f12(self) -> None:
        reported = self.actual(310, 1.32)
        self.assertEqual(self.surprise(reported, "amount", 305), "no_estimates")
        self.assertAlmostEqual(self.surprise(reported, "amount", 320), 0.22)
        self.assertAlmostEqual(self.surprise(reported, "relative", 320), 0.2)
        self.assertAlmostEqual(
            self.surprise(reported, "deviations", 320), 0.22 / statistics.stdev([1.0, 1.2])
        )
        self.assertEqual(self.surprise(reported, "amount", 300 + 551), "stale")

    def test_the_figure_of_the_statement_serves_until_the_announced_row_is_known_e1(self) -> None:
        both = taken_over(self.actual(330, 1.5), self.actual(310, 1.3))
        # announced with the statement
        self.assertAlmostEqual(self.surprise(both, "amount", 320), 0.2)
        self.assertAlmostEqual(self.surprise(both, "amount", 340), 0.4)


class OneSource(unittest.TestCase):
    """T5: of each period the first source that has it by then; sources are never mixed."""

    @examples(120)
    @given(
        st.lists(
            st.tuples(
                st.integers(0, 2),
                st.integers(0, 2),
                st.integers(0, 60),
                st.sampled_from([1.0, 2.0, 4.0, math.nan]),
            ),
            max_size=18,
            unique_by=lambda r: r[:3],
        ),
        st.integers(0, 70),
    )
    # passed twice, by another each time
    @example([(0, 2, 0, 1.0), (0, 1, 1, 1.0), (1, 0, 2, 2.0)], 2)
    def test_the_first_source_that_has_a_period_is_read_alone(self, rows: Any, day: int) -> None:
        house, source, at, value = zip(*rows, strict=True) if rows else ((),) * 4
        known = (BEGIN + np.array(at, np.int64)) * DAY
        given_rows = RecordColumns.of(
            ESTIMATES, company=[0] * len(rows), measure=[0] * len(rows), contributor=house,
            period_end=[END] * len(rows), period_kind=[12] * len(rows), value=value,
            currency=[USD] * len(rows), published_at=known, known_at=known,
            source=np.array(source, np.int16), batch=np.ones(len(rows), np.int32),
        )  # fmt: skip
        found = of_first_source(given_rows, given_rows["source"].astype(np.int64), contributed=True)
        of = Contributions.of(
            target(np.zeros(len(found), int), np.full(len(found), END)),
            found["contributor"].astype(np.int64),
            found["known_at"],
            found["value"],
            found["currency"].astype(np.int16),
            Actuals.none(),
        )
        cutoff = (BEGIN + day) * DAY
        seen = [r for r in rows if r[2] <= day]
        standing: dict[int, float] = {}
        for row in sorted((r for r in seen if r[1] == min(x[1] for x in seen)), key=lambda r: r[2]):
            standing[row[0]] = row[3]
        expected = [v for v in standing.values() if not math.isnan(v)]
        plain = Basis(Factors.of(()), np.array([0]), 0, rate_on)
        key = target(np.zeros(1, int), np.array([END]))
        agreed = consensus(of, plain, key, np.array([cutoff]), np.array([USD]), ("mean", "count"))
        mean, why = agreed.of("mean")
        self.assertEqual(why[0] == 0, bool(expected))
        if expected:
            self.assertAlmostEqual(mean[0], sum(expected) / len(expected))
