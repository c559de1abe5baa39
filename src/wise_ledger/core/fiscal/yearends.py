"""Fiscal year ends as they became known: declared by sources, or read out of 12-month periods (F3).

What is known of a company's year ends moves in stages, each a few regimes: from a day on, fiscal
years end in a month.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.records.facts import FactColumns
from wise_ledger.core.time.periods import ABSENT, NEAR, as_date, day, shift_months, span_months
from wise_ledger.core.timelines.versions import nominal_ends

ALWAYS = -(1 << 20)  # a day before all others
_ZERO = 1 << 20


@dataclass(frozen=True)
class YearEnd:
    """A source declares that from `valid_from` (days) on years end in
    `month`; public from `at` on.
    """

    company: int
    valid_from: int
    month: int
    at: int


@dataclass(frozen=True)
class Regime:
    """From the day `since` on, fiscal years end in `month`."""

    since: int
    month: int


@dataclass(frozen=True)
class Stage:
    """From the instant `at` on, these regimes are what is known of a company."""

    company: int
    at: int
    regimes: tuple[Regime, ...]


@dataclass(frozen=True, eq=False)
class Periods:
    """Periods of flows that companies published, each once,
    with the first instant at which a figure of it was known.

    `year` marks those of 12 months; `end` is nominal, `start` as reported.
    """

    company: NDArray[np.int64]
    start: NDArray[np.int64]
    end: NDArray[np.int64]
    year: NDArray[np.bool_]
    at: NDArray[np.int64]

    @classmethod
    def of(cls, facts: FactColumns, companies: NDArray[np.int64] | None = None) -> "Periods":
        """The 12-month periods of some facts; with `companies` all periods of theirs.

        Balances have none.
        """
        keep = facts.start != ABSENT
        if companies is None:
            keep &= span_months(facts.start, facts.end) == 12
        else:
            keep &= np.isin(facts.company, companies)
        flows = facts.where(keep)
        years = span_months(flows.start, flows.end) == 12
        return cls(
            flows.company.astype(np.int64),
            flows.start.astype(np.int64),
            nominal_ends(flows).astype(np.int64),
            years,
            flows.at,
        )._once()

    @classmethod
    def union(cls, parts: Sequence["Periods"]) -> "Periods":
        """The periods of any of the parts."""
        if not parts:
            return cls.of(FactColumns.empty())
        columns = (
            np.concatenate([getattr(p, n) for p in parts])
            for n in ("company", "start", "end", "year", "at")
        )
        return cls(*columns)._once()

    def of_company(self, company: int) -> "Periods":
        """Those of one company."""
        low, high = np.searchsorted(self.company, [company, company + 1])
        return self._take(slice(low, high))

    def _once(self) -> "Periods":
        # Company, start and end in one number, as long as they are days of some centuries.
        start, end = (np.clip(days, -_ZERO, _ZERO - 1) + _ZERO for days in (self.start, self.end))
        code = (self.company << 42) | (start << 21) | end
        order = np.argsort(code, kind="stable")
        code = code[order]
        begins = np.flatnonzero(np.append(True, code[1:] != code[:-1])) if len(code) else order
        once = self._take(order[begins])
        return replace(once, at=np.minimum.reduceat(self.at[order], begins)) if len(code) else once

    def _take(self, rows: NDArray[np.int64] | slice) -> "Periods":
        return Periods(
            self.company[rows], self.start[rows], self.end[rows], self.year[rows], self.at[rows]
        )


@dataclass(frozen=True)
class _Period:
    start: int
    end: int
    month: int
    year: bool
    at: int


def learn(
    declared: Iterable[YearEnd],
    years: Periods,
    all_of: Callable[[NDArray[np.int64]], Periods] | None = None,
) -> list[Stage]:
    """The stages of all companies of which anything is known, by company and instant.

    `years` are 12-month periods; `all_of` gives all periods of the companies whose year ends are in
    question.
    """
    by_company: dict[int, list[YearEnd]] = {}
    for row in declared:
        by_company.setdefault(row.company, []).append(row)
    months = _months_of_years(years)
    out, moving = [], []
    for company in sorted({*by_company, *months}):
        rows, (seen, first) = by_company.get(company, []), months.get(company, (frozenset(), None))
        plain = seen | {y.month for y in rows}
        if len(plain) == 1:  # nothing ever contradicts: one stage
            at = min([*(y.at for y in rows), *([first] if first is not None else [])])
            out.append(Stage(company, at, (Regime(ALWAYS, next(iter(plain))),)))
        else:
            moving.append(company)
    if moving:
        periods = all_of(np.array(moving, np.int64)) if all_of else years
        for company in moving:
            out += _of_company(
                company, by_company.get(company, []), _listed(periods.of_company(company))
            )
    return sorted(out, key=lambda s: (s.company, s.at))


def _months_of_years(periods: Periods) -> dict[int, tuple[frozenset[int], int | None]]:
    """The months in which the 12-month periods of each company end,
    and when the first of them was published.
    """
    company, at = periods.company[periods.year], periods.at[periods.year]
    month = periods.end[periods.year].astype("M8[D]").astype("M8[M]").astype(np.int64) % 12 + 1
    pairs = np.unique(company * 16 + month)
    out: dict[int, tuple[frozenset[int], int | None]] = {}
    for pair in pairs.tolist():
        owner = pair // 16
        out[owner] = (out.get(owner, (frozenset(), None))[0] | {pair % 16}, None)
    if len(company):
        order = np.argsort(company, kind="stable")
        begins = np.flatnonzero(np.append(True, company[order][1:] != company[order][:-1]))
        firsts = np.minimum.reduceat(at[order], begins)
        for owner, first in zip(company[order][begins].tolist(), firsts.tolist(), strict=True):
            out[owner] = (out[owner][0], first)
    return out


def _listed(periods: Periods) -> list[_Period]:
    month = periods.end.astype("M8[D]").astype("M8[M]").astype(np.int64) % 12 + 1
    columns = (periods.start, periods.end, month, periods.year, periods.at)
    found = [_Period(*row) for row in zip(*(c.tolist() for c in columns), strict=True)]
    return sorted(found, key=lambda p: (p.at, p.end))


def _of_company(
    company: int, declared: Sequence[YearEnd], periods: Sequence[_Period]
) -> list[Stage]:
    """What was known at each instant at which anything was published, as far as it moved."""
    out: list[Stage] = []
    for at in sorted({*(y.at for y in declared), *(p.at for p in periods)}):
        known = [p for p in periods if p.at <= at]
        stated = [y for y in declared if y.at <= at]
        regimes = _declared(stated, known) if stated else _inferred(known)
        if regimes and (not out or out[-1].regimes != regimes):
            out.append(Stage(company, at, regimes))
    return out


def _declared(stated: Sequence[YearEnd], known: Sequence[_Period]) -> tuple[Regime, ...]:
    """As declared, unless 12-month periods decide otherwise."""
    # of one date the last word
    by_date = {y.valid_from: y for y in sorted(stated, key=lambda y: y.at)}
    rows = [by_date[d] for d in sorted(by_date)]
    newest = rows[-1]
    month = _decided(newest, known) or newest.month
    regimes: list[Regime] = []
    for row, ends_in in zip(rows, [*(y.month for y in rows[:-1]), month], strict=True):
        if not regimes or regimes[-1].month != ends_in:
            regimes.append(Regime(row.valid_from if regimes else ALWAYS, ends_in))
    return tuple(regimes)


def _decided(declared: YearEnd, known: Sequence[_Period]) -> int | None:
    """The month in which two 12-month periods a year apart end that were published since,
    against the declared one.
    """
    years = [p for p in known if p.year and p.at >= declared.at]
    last_declared = max((p.at for p in years if p.month == declared.month), default=declared.at - 1)
    # A pair counts where nothing of the declared month was published after the first of the two.
    others = [p for p in years if p.month != declared.month and p.at >= last_declared]
    by_end = {(p.month, p.end): p for p in others}
    for p in reversed(others):
        before = int(shift_months(np.array([p.end], np.int32), -12)[0])
        after = int(shift_months(np.array([p.end], np.int32), 12)[0])
        if (p.month, before) in by_end or (p.month, after) in by_end:
            return p.month
    return None


def _inferred(known: Sequence[_Period]) -> tuple[Regime, ...]:
    """The month of the first 12-month period published;
    another one counts where a year follows the last old one.
    """
    regimes: list[Regime] = []
    last = 0
    for period in known:
        if not period.year:
            continue
        if not regimes:
            regimes.append(Regime(ALWAYS, period.month))
            last = period.end
        elif period.month == regimes[-1].month:
            last = max(last, period.end)
        elif period.end > last and _follows(period, last, regimes[-1].month, known):
            regimes.append(Regime(last + 1, period.month))
            last = period.end
    return tuple(regimes)


def _follows(year: _Period, last: int, old_month: int, known: Sequence[_Period]) -> bool:
    """Whether a year begins where the last old one ended,
    or where a transition ended of which a figure is known.
    """
    if abs(year.start - last - 1) <= NEAR:
        return True
    transitions = (p for p in known if not p.year and abs(p.start - last - 1) <= NEAR)
    if not any(abs(year.start - p.end - 1) <= NEAR for p in transitions):
        return False
    # Rolling 12-month figures move no year end: an old year that ends within this
    # one says that it still stands.
    return not any(
        p.year and p.month == old_month and year.start <= p.end <= year.end for p in known
    )


@dataclass(frozen=True)
class Transition:
    """The time between the last old fiscal year and the first new full one (F3):
    days after `last`, until `end`.
    """

    last: int
    end: int


def transitions(regimes: Sequence[Regime]) -> list[Transition]:
    """The transition between each regime and the next."""
    out = []
    for old, new in pairwise(regimes):
        last = _month_end_before(new.since, old.month)
        months = (new.month - as_date(last).month - 1) % 12 + 1
        out.append(Transition(last, int(shift_months(np.array([last], np.int32), months)[0])))
    return out


def _month_end_before(days: int, month: int) -> int:
    """The last end of a calendar month before a day."""
    at = as_date(days)
    year = at.year if at.month > month else at.year - 1
    following = date(year + month // 12, month % 12 + 1, 1)
    return day(following) - 1
