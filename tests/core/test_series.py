"""S1 to S4, T4, T5, T9: vintages, transforms and series in expressions,
against plain reckoning row by row.
"""

import calendar
import math
import unittest
from datetime import date
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.core.small_ledger import SmallLedger
from tests.properties import examples
from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.errors import BadInput
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.evaluate import Evaluation
from wise_ledger.core.records.columnkinds import SERIES
from wise_ledger.core.records.columns import UNSAID, RecordColumns
from wise_ledger.core.series.book import SeriesBook
from wise_ledger.core.series.comparing import compare, correlations
from wise_ledger.core.series.keys import matching
from wise_ledger.core.series.lines import Line
from wise_ledger.core.series.periods import (
    Frequency,
    assumed_release,
    code_of,
    decoded,
    label,
    last_day,
    period_of,
    read_period,
)
from wise_ledger.core.series.steps import in_words, read_step, read_steps, transformed
from wise_ledger.core.series.vintages import Vintages
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import as_date, day

Row = tuple[int, int, float, int, int]  # series, period, value, day of release, source
FIRST = 600  # January 2020, of months
VALUES = st.sampled_from([1.0, 2.0, 3.5, 100.0, -1.0, 0.0, math.nan])
ROWS = st.lists(
    st.tuples(
        st.integers(0, 1),
        st.integers(FIRST, FIRST + 14),
        VALUES,
        st.integers(18_300, 18_900),
        st.integers(0, 1),
    ),
    max_size=40,
    unique_by=lambda r: (r[0], r[1], r[3], r[4]),
)
ONE = st.integers(18_250, 18_950).map(lambda d: d * DAY + DAY // 2)


def book_of(rows: list[Row], frequency: Frequency = Frequency.M, bases: Any = None) -> SeriesBook:
    series, period, value, released, source = zip(*rows, strict=True) if rows else ((),) * 5
    known = np.array(released, np.int64) * DAY
    given_bases = {} if bases is None else {"base": bases}
    columns = RecordColumns.of(
        SERIES,
        series=series,
        period=[code_of(frequency, p) for p in period],
        value=value,
        released_at=known,
        known_at=known,
        source=np.array(source, np.int16),
        batch=np.ones(len(rows), np.int32),
        **given_bases,
    )
    return SeriesBook(("ONE", "TWO"), Vintages.of(columns), bases=("2015=100", "2020=100"))


def standing(
    rows: list[Row], series: int, cutoff: int, which: str = "known"
) -> dict[int, float | str]:
    """S1 and T5 as they are written: of the first source that has a period by
    the cut-off, the last release.
    """
    out: dict[int, float | str] = {}
    for period in {r[1] for r in rows if r[0] == series}:
        for source in (0, 1):
            own = sorted(
                (r[3] * DAY, r[2]) for r in rows if r[:2] == (series, period) and r[4] == source
            )
            seen = [v for at, v in own if at <= cutoff]
            if which == "first":
                seen = [v for v in seen if not math.isnan(v)][:1]
            if not seen:
                continue
            last = own[-1][1] if which == "last" else seen[-1]
            out[period] = "withdrawn" if math.isnan(last) else last
            break
    if out:
        out |= dict.fromkeys(set(range(min(out), max(out) + 1)) - set(out), "not_reported")
    return dict(sorted(out.items()))


def plain(line: Line) -> dict[int, float | str]:
    pairs = zip(line.period.tolist(), line.value.tolist(), line.reason.tolist(), strict=True)
    return {p: Reason(why).code if why else v for p, v, why in pairs}


class Knowledge(unittest.TestCase):
    @examples(150)
    @given(ROWS, ONE)
    def test_a_series_shows_the_last_value_released_by_the_day_s1_t5(
        self, rows: list[Row], cutoff: int
    ) -> None:
        book = book_of(rows)
        for series in (0, 1):
            for which in ("known", "first"):
                found = book.vintages.line(series, cutoff, which)  # type: ignore[arg-type]
                self.assertEqual(plain(found), standing(rows, series, cutoff, which), which)

    @examples(100)
    @given(ROWS, ROWS, ONE)
    def test_nothing_released_later_changes_an_answer_t9(
        self, rows: list[Row], later: list[Row], cutoff: int
    ) -> None:
        after = {r[:2] + r[3:] for r in rows}
        future = [r for r in later if r[3] * DAY > cutoff and r[:2] + r[3:] not in after]
        now, then = book_of(rows), book_of(rows + future)
        for which in ("known", "first"):
            lines = [b.vintages.line(0, cutoff, which) for b in (now, then)]  # type: ignore[arg-type]
            self.assertEqual(*map(plain, lines))
        ask = lambda b: b.at(0, np.array([cutoff]), back=(3, "mo"))  # noqa: E731
        for a, b in zip(ask(now), ask(then), strict=True):
            np.testing.assert_array_equal(a[:1], b[:1])

    @examples(60)
    @given(ROWS)
    def test_first_released_plus_revisions_is_the_last(self, rows: list[Row]) -> None:
        """S1: over the whole triangle, what each release changed adds up to
        the difference of last and first.
        """
        plain = [(s, p, 1.0 if math.isnan(v) else v, at, 0) for s, p, v, at, _ in rows]
        plain = list({(r[0], r[1], r[3]): r for r in plain}.values())
        book, end = book_of(plain), 20_000 * DAY
        periods, _, grid = book.vintages.triangle(0, end, 10_000)
        first, last = (book.vintages.line(0, end, which) for which in ("first", "last"))  # type: ignore[arg-type]
        for row, period in zip(grid, periods.tolist(), strict=True):
            released = row[~np.isnan(row)]
            place = first.places(np.array([period]))[0]
            self.assertAlmostEqual(first.value[place] + np.diff(released).sum(), last.value[place])

    @examples(100)
    @given(ROWS, ONE)
    def test_the_history_of_a_series_is_what_it_showed_on_every_day_s1_t5(
        self, rows: list[Row], cutoff: int
    ) -> None:
        vintages = book_of(rows).vintages
        found = vintages.history(0, cutoff)
        days = {r[3] * DAY for r in rows if r[3] * DAY <= cutoff}
        columns = [c[found].tolist() for c in (vintages.period, vintages.known, vintages.value)]
        releases = list(zip(*columns, strict=True))
        self.assertEqual(sorted({r[:2] for r in releases}), [r[:2] for r in releases])
        for at in days:
            shown = {p: "withdrawn" if math.isnan(v) else v for p, k, v in releases if k <= at}
            wanted = standing(rows, 0, at)
            self.assertEqual(shown, {p: v for p, v in wanted.items() if v != "not_reported"})

    def test_without_an_instant_a_release_is_assumed_t4(self) -> None:
        for text, lag in (
            ("2024-03-28", 1),
            ("2024-W05", 7),
            ("2024-03", 45),
            ("2024Q1", 90),
            ("2024", 180),
        ):
            frequency, period = read_period(text)
            end = int(last_day(frequency, np.array([period]))[0])
            at = assumed_release(*decoded(np.array([code_of(frequency, period)])))
            self.assertEqual(int(at[0]), (end + lag + 1) * DAY - 1, text)
        unsaid = RecordColumns.of(
            SERIES, series=[0], period=[code_of(Frequency.M, 650)], value=[1.0], known_at=[0]
        )
        self.assertEqual(unsaid["released_at"].tolist(), [UNSAID])
        self.assertEqual(len(Vintages.of(unsaid, with_assumed=False).series), 0)


class Periods(unittest.TestCase):
    def test_a_period_is_read_however_it_is_written(self) -> None:
        for spellings in (
            ("2024Q1", "2024-Q1", "2024 Q1", "Q1 2024"),
            ("2024-03", "2024M03", "2024-M03", "2024M3"),
            ("2024-W05", "2024W05", "2024-W5"),
            ("2024", "2024-A1", "2024A"),
            ("2024-03-28",),
        ):
            found = {read_period(s) for s in spellings}
            self.assertEqual(len(found), 1, spellings)
            self.assertEqual(label(*found.pop()), spellings[0])
        for bad in ("2024-13", "2024Q5", "2024-W60", "03/04/2024", "2024S1", "spring", "", "0001"):
            with self.assertRaises(BadInput, msg=bad) as caught:
                read_period(bad)
            self.assertTrue(caught.exception.problems[0].mend, bad)

    @given(st.sampled_from(list(Frequency)), st.integers(-30_000, 60_000))
    def test_a_period_is_what_holds_its_days(self, frequency: Frequency, days: int) -> None:
        period = period_of(frequency, np.array([days]))
        ends = last_day(frequency, np.append(period - 1, period))
        self.assertTrue(ends[0] < days <= ends[1])
        self.assertEqual(read_period(label(frequency, int(period[0]))), (frequency, int(period[0])))


def monthly(values: list[float], first: int = FIRST) -> Line:
    gone = np.isnan(np.array(values))
    reason = np.where(gone, np.uint8(Reason.WITHDRAWN), np.uint8(0)).astype(np.uint8)
    return Line.of(Frequency.M, np.arange(first, first + len(values)), np.array(values), reason)


def year_before(period: int) -> int:
    """The same date of the year before, of a leap day the last of its month."""
    on = as_date(period)
    last = calendar.monthrange(on.year - 1, on.month)[1]
    return day(date(on.year - 1, on.month, min(on.day, last)))


def changed(what: str, now: float | None, base: float | None, lift: float) -> float | Reason:
    """A change by hand (S3), or why there is none."""
    if now is None or base is None:
        return Reason.INCOMPLETE
    if what == "change":
        return (now - base) * lift
    if base <= 0 or (what == "log growth" and now <= 0):
        return Reason.NOT_MEANINGFUL
    if what == "log growth":
        return math.log(now / base) * lift
    if now < 0 and lift != round(lift):  # a loss has no rate a year
        return Reason.NOT_MEANINGFUL
    return (now / base) ** lift - 1


class Transforms(unittest.TestCase):
    @examples(120)
    @given(
        st.lists(st.one_of(st.floats(0.5, 200), st.just(math.nan)), min_size=1, max_size=60),
        st.integers(0, 11),
        st.sampled_from(["mean", "sum", "last", "first"]),
        st.sampled_from(["change", "growth", "log growth"]),
    )
    def test_aggregation_then_change_against_brute_force_s2_s3(
        self, values: list[float], begin: int, by: str, what: str
    ) -> None:
        line = monthly(values, FIRST + begin)
        found = transformed(line, read_steps([f"quarterly {by}, {what} on a year ago"]))
        months = dict(zip(line.period.tolist(), values, strict=True))
        first, last = min(months) // 3, max(months) // 3
        quarters: dict[int, float | None] = {}
        for quarter in range(first, last + 1):
            own = [months.get(m, math.nan) for m in range(quarter * 3, quarter * 3 + 3)]
            whole = not any(math.isnan(v) for v in own)
            made = {"mean": sum(own) / 3, "sum": sum(own), "last": own[-1], "first": own[0]}[by]
            quarters[quarter] = made if whole else None
        for place, quarter in enumerate(found.period.tolist()):
            now, then = quarters[quarter], quarters.get(quarter - 4)
            if now is None or then is None:
                self.assertEqual(found.reason[place], Reason.INCOMPLETE)
                continue
            expected = {
                "change": now - then,
                "growth": now / then - 1,
                "log growth": math.log(now / then),
            }[what]
            self.assertAlmostEqual(found.value[place], expected, 9)

    @examples(150)
    @given(
        st.sampled_from(Frequency),
        st.lists(st.tuples(st.integers(1, 9), st.integers(-50, 2000)), min_size=1, max_size=40),
        st.sampled_from([None, 1, 3]),
        st.sampled_from(["change", "growth", "log growth"]),
        st.booleans(),
    )
    def test_a_change_of_any_frequency_against_brute_force_s3(
        self,
        frequency: Frequency,
        rows: list[tuple[int, int]],
        over: int | None,
        what: str,
        annualised: bool,
    ) -> None:
        daily, lifted = frequency is Frequency.D, annualised and over is not None
        # Days are gone through in steps of weeks, so that there are years of them.
        apart = np.cumsum([gap * 13 if daily else gap for gap, _ in rows])
        line = Line.of(frequency, 18_000 + apart, np.array([v / 10 for _, v in rows]))
        before = {None: "on a year ago", 1: "on the period before"}.get(
            over, f"over {over} periods"
        )
        found = transformed(line, read_steps([f"{what} {before}{' annualised' * lifted}"]))
        have = dict(zip(line.period.tolist(), line.value.tolist(), strict=True))
        own = sorted(have)
        for place, period in enumerate(found.period.tolist()):
            then, lift = period - (over or frequency.in_a_year), frequency.in_a_year / (over or 1)
            if daily and over is None:
                same = year_before(period)
                then = max((d for d in own if same - 7 <= d <= same), default=-1)
            elif daily:
                then = own[own.index(period) - over] if own.index(period) >= over else -1
                lift = 365 / (period - then)
            expected = changed(what, have.get(period), have.get(then), lift if lifted else 1.0)
            if isinstance(expected, Reason):
                self.assertEqual(Reason(found.reason[place]), expected, (period, then))
            else:
                np.testing.assert_allclose(found.value[place], expected, 1e-9, 1e-9)

    def test_steps_are_shown_as_they_are_read(self) -> None:
        for words in (
            "quarterly mean",
            "yearly last incomplete too",
            "change on a year ago",
            "log",
            "growth over 3 periods annualised",
            "log growth on the period before",
            "rebased to 2015Q2",
        ):
            self.assertEqual(read_step(words).words, words)
        self.assertEqual(
            in_words(read_steps(["yearly mean", "growth on a year ago"])),
            "growth on a year ago, yearly mean",
        )
        for bad in ("weekly median", "growth", "rebased to spring", "change over 0 periods"):
            with self.assertRaises(BadInput, msg=bad):
                read_step(bad)
        with self.assertRaises(BadInput):  # to a higher frequency
            transformed(monthly([1.0]), read_steps(["weekly mean"]))

    def test_what_has_no_meaning_has_none_s3(self) -> None:
        below = transformed(monthly([-1.0, 2.0, 0.0]), read_steps(["growth on the period before"]))
        self.assertEqual(
            [Reason(r).code for r in below.reason], ["incomplete", "not_meaningful", "none"]
        )
        logs = transformed(monthly([-1.0, 1.0]), read_steps(["log"]))
        self.assertEqual([Reason(r) for r in logs.reason], [Reason.NOT_MEANINGFUL, Reason.NONE])
        rebased = transformed(monthly([50.0] * 12 + [60.0]), read_steps(["rebased to 2020"]))
        np.testing.assert_allclose(rebased.value, [100.0] * 12 + [120.0])
        lacking = transformed(monthly([50.0] * 11), read_steps(["rebased to 2020"]))
        self.assertEqual(set(lacking.reason.tolist()), {Reason.INCOMPLETE})

    def test_growth_spans_no_break_of_base_s1(self) -> None:
        rows = [(0, FIRST, 90.0, 18_400, 0), (0, FIRST + 1, 50.0, 18_430, 0)]
        book = book_of(rows, bases=[0, 1])
        line = book.vintages.line(0, 18_500 * DAY)
        grown = transformed(line, read_steps(["growth on the period before"]))
        self.assertEqual(Reason(grown.reason[1]), Reason.NOT_MEANINGFUL)
        self.assertEqual(
            Reason(book.at(0, np.array([18_500 * DAY]), back=(1, "mo"), one_base=True)[1][0]), 8
        )

    def test_days_make_a_month_when_its_last_weekday_or_a_later_day_is_there_s2(self) -> None:
        def days_upto(last: date) -> Line:
            days = [d for d in range(day(date(2024, 3, 1)), day(last) + 1) if (d + 3) % 7 < 5]
            return Line.of(Frequency.D, np.array(days), np.ones(len(days)))

        for last, complete in (
            (date(2024, 3, 28), [False]),
            (date(2024, 3, 29), [True]),
            (date(2024, 4, 2), [True, False]),
        ):
            found = transformed(days_upto(last), read_steps(["monthly mean"]))
            self.assertEqual(found.there.tolist(), complete, last)
        sundays = np.array([day(date(2024, 3, 3)) + 7 * n for n in range(5)])
        weeks = Line.of(Frequency.W, period_of(Frequency.W, sundays), np.arange(5.0))
        # five Sundays
        self.assertEqual(transformed(weeks, read_steps(["monthly sum"])).value.tolist(), [10.0])


class Keys(unittest.TestCase):
    KEYS = (
        *(f"HOUSES/M.R{n:02d}.{a}" for n in range(1, 41) for a in ("NSA", "SA")),
        "CPI/M.XA",
        "PLAIN",
    )

    def test_one_key_stands_for_forty_series(self) -> None:
        self.assertEqual(len(matching("HOUSES/M.*.SA", self.KEYS)), 40)
        self.assertEqual(matching("HOUSES/M..SA", self.KEYS), matching("HOUSES/M.*.SA", self.KEYS))
        self.assertEqual(
            matching("HOUSES/M.R01+R03.SA", self.KEYS), ["HOUSES/M.R01.SA", "HOUSES/M.R03.SA"]
        )
        self.assertEqual(matching("PLAIN", self.KEYS), ["PLAIN"])
        many = [f"F/{n}" for n in range(10_000)]
        for bad, mend in (
            ("HOUSE/M.*.SA", "HOUSES"),
            ("HOUSES/M.R99+R01.XX", "part 3"),
            ("HOUSES/M.*", "3 parts"),
            ("HOUSES/M.R01.S", "HOUSES/M.R01.SA"),
            ("F/*", "narrow"),
        ):
            with self.assertRaises(BadInput, msg=bad) as caught:
                matching(bad, many if bad == "F/*" else self.KEYS)
            self.assertIn(mend, caught.exception.problems[0].mend)


class Comparing(unittest.TestCase):
    @examples(50)
    @given(st.integers(0, 10_000))
    def test_correlations_against_numpy(self, seed: int) -> None:
        rng = np.random.default_rng(seed)
        grid = rng.normal(size=(4, 40)) + rng.normal(size=40)
        grid[rng.random(grid.shape) < 0.1] = np.nan
        found = correlations(grid, grid)
        for a in range(4):
            for b in range(4):
                both = ~np.isnan(grid[a]) & ~np.isnan(grid[b])
                self.assertAlmostEqual(
                    found[a, b], np.corrcoef(grid[a][both], grid[b][both])[0, 1], 9
                )

    def test_a_leader_leads_and_a_distance_is_halved(self) -> None:
        rng = np.random.default_rng(5)
        wave = np.cumsum(rng.normal(size=130))
        changes = np.stack(
            [wave[6:126], *(wave[3:123] + rng.normal(0, 0.05, 120) for _ in range(6)), wave[0:120]]
        )
        changes = np.diff(changes, axis=1)
        found = compare(changes, changes, 12)
        self.assertEqual((found.lead[0], found.lead[-1]), (3.0, -3.0))
        away = 0.5 ** (np.arange(60) / 4.0)  # halved every four periods
        levels = np.stack([away, -away]) + rng.normal(size=60).cumsum()
        np.testing.assert_allclose(compare(levels, levels, 2).half_life, [4.0, 4.0], rtol=1e-6)


class Expressions(unittest.TestCase):
    """S4, through the language."""

    ROWS: tuple[Row, ...] = tuple(
        (0, FIRST + n, 100.0 * 1.01**n, 18_290 + 30 * n + 45, 0) for n in range(24)
    )

    def ask(self, expression: str, cutoffs: list[int], rows: tuple[Row, ...] = ROWS) -> Any:
        view = SmallLedger([]).view()
        view.given_series = lambda: book_of(list(rows))
        values, _ = Evaluation(view, np.arange(1), np.array(cutoffs) * DAY).run(
            plan(expression, view.vocabulary)
        )
        return [
            Reason(r).code if r else v
            for v, r in zip(values.value[0].tolist(), values.reason[0].tolist(), strict=True)
        ]

    def test_functions_directly_on_a_series_step_in_its_periods(self) -> None:
        at = [18_200, 18_290 + 30 * 12 + 45]
        now = 100 * 1.01**12
        self.assertEqual(self.ask('series("ONE")', at)[0], "not_known")
        for expression, expected in {
            'series("ONE")': now,
            'ago(series("ONE"), 3mo)': 100 * 1.01**9,
            'growth(series("ONE"), 1y)': 1.01**12 - 1,
            'change(series("ONE"), 1mo)': now - now / 1.01,
            'highest(series("ONE"), 6mo)': now,
            'mean(series("ONE"), 1q)': (now + now / 1.01 + now / 1.01**2) / 3,
            'first_reported(series("ONE"))': now,
            'series("ONE") - ago(series("ONE"), 1mo)': now - now / 1.01,
        }.items():
            self.assertAlmostEqual(self.ask(expression, at)[1], expected, 9, expression)
        self.assertEqual(self.ask('ago(series("ONE"), 5y)', at)[1], "incomplete")
        self.assertEqual(self.ask('series("ONE")', [18_290 + 30 * 24 + 45 + 200])[0], "stale")
        revised = (*self.ROWS, (0, FIRST + 12, math.nan, 18_290 + 30 * 12 + 46, 0))
        self.assertEqual(
            self.ask('series("ONE")', [18_290 + 30 * 12 + 46], revised)[0], "withdrawn"
        )

    def test_what_cannot_be_is_refused_with_the_mend(self) -> None:
        view = SmallLedger([]).view()
        view.given_series = lambda: book_of(list(self.ROWS))
        for expression, mend in {
            'series("ONA")': "ONE",
            "series(close)": "FAMILY",
            'growth(series("ONE"), 10d)': "3mo",
            'growth(series("ONE"))': "1y",
            'ago(series("ONE"), 0y)': "1y",
        }.items():
            with self.assertRaises(BadInput, msg=expression) as caught:
                plan(expression, view.vocabulary)
            self.assertIn(mend, caught.exception.problems[0].mend, expression)
