"""Fiscal calendars: which nominal ends are fiscal year ends of which company (F3, as the source declares them)."""

import itertools
from calendar import monthrange
from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.facts.keys import Keys, key_company, key_end
from wise_ledger.core.fiscal.labels import fiscal_label
from wise_ledger.core.fiscal.periods import BALANCE, Days, as_date, day, month_of, months_between, shift_months


@dataclass(frozen=True)
class YearEnd:
    """From `valid_from` (days) on, the fiscal year of a company ends in `month`."""

    company: int
    valid_from: int
    month: int


@dataclass(frozen=True)
class Transition:
    """The time between the last old fiscal year and the first new full one (F3): days after `last`, until `end`."""

    company: int
    last: int
    end: int
    told: int  # the day from which on the new year end counts


class FiscalCalendar:
    """The declared year ends of all companies; a company that declared none has its year end at any month end.

    `by_start` are those whose fiscal years are named after the year in which they begin (F4).
    """

    def __init__(self, declared: Iterable[YearEnd], by_start: Iterable[int] = ()) -> None:
        rows = sorted(declared, key=lambda y: (y.company, y.valid_from))
        self._by_start = frozenset(by_start)
        self.transitions = [
            _transition(old, new)
            for old, new in itertools.pairwise(rows)
            if old.company == new.company and old.month != new.month
        ]
        self._company = np.array([y.company for y in rows], np.int64)
        self._from = np.array([y.valid_from for y in rows], np.int64)
        self._month = np.array([y.month for y in rows], np.int64)

    def of_rows(self, company: int, rows: int) -> "FiscalCalendar":
        """The calendar of one company for each of so many rows of a sheet, which stand in the place of companies."""
        mine = [
            YearEnd(0, since, month)
            for n, since, month in zip(self._company.tolist(), self._from.tolist(), self._month.tolist(), strict=True)
            if n == company
        ]
        every = [replace(y, company=row) for row in range(rows) for y in mine]
        return FiscalCalendar(every, range(rows) if company in self._by_start else ())

    def month(self, company: NDArray[np.int64], end: Days) -> NDArray[np.int64]:
        """The month in which the fiscal year of each company ended at the time of `end`; 0 where none is declared.

        Before its first declaration a company has the month of that one.
        """
        if not len(self._company):
            return np.zeros(len(company), np.int64)
        span = 1 << 32
        place = np.searchsorted(self._company * span + self._from, company * span + end, "right") - 1
        first = np.searchsorted(self._company, company, "left")
        place = np.maximum(place, np.minimum(first, len(self._company) - 1))
        return np.where(self._company[place] == company, self._month[place], 0)

    def months_into_year(self, keys: Keys) -> NDArray[np.int64]:
        """Months from the start of the fiscal year to each nominal end: 1 to 12, 12 at the year end."""
        end = key_end(keys)
        company = key_company(keys)
        month = self.month(company, end)
        into = np.where(month == 0, 12, (month_of(end) - month - 1) % 12 + 1)
        for t in self.transitions:
            # What was told only after the transition had ended changes no answer from before (T9).
            if t.end >= t.told:
                inside = (company == t.company) & (end > t.last) & (end <= t.end)
                into = np.where(inside, months_between(np.full(end.shape, t.last, np.int32), end), into)
        return into

    def holds(self, keys: Keys, span: int) -> NDArray[np.bool_]:
        """Whether a year (`span` 12) or a half (6) of the company can end there (F7)."""
        held = np.asarray(self.months_into_year(keys) % span == 0)
        for t in self.transitions:
            held |= (key_company(keys) == t.company) & (key_end(keys) == t.end) & (t.end >= t.told)
        return held

    def label(self, company: int, end: int, span: int = BALANCE) -> str:
        """The fiscal label of a period with this nominal end (F4, F5); in a transition `TP2018`, or a part of it."""
        for t in self.transitions:
            if t.company == company and t.last < end <= t.end and span != 12:
                year = as_date(t.end).year
                into = int(months_between(np.array([t.last], np.int32), np.array([end], np.int32))[0])
                whole = end == t.end and span in (BALANCE, into)
                months = span in (6, 9) and span == into
                return f"TP{year}" if whole else f"TP{year}-{into}M" if months else f"TP{year}Q{-(-into // 3)}"
        month = int(self.month(np.array([company]), np.array([end], np.int32))[0]) or 12
        named = "start" if company in self._by_start else "end"
        return fiscal_label(span, as_date(end), month, named)


def _transition(old: YearEnd, new: YearEnd) -> Transition:
    """From the last old year end before the change to the first new one after that."""
    last = _month_end_before(new.valid_from, old.month)
    end = as_date(last)
    months = (new.month - end.month - 1) % 12 + 1
    return Transition(new.company, last, int(shift_months(np.array([last], np.int32), months)[0]), new.valid_from)


def _month_end_before(days: int, month: int) -> int:
    """The last end of a calendar month before a day."""
    at = as_date(days)
    year = at.year if at.month > month else at.year - 1
    return day(date(year, month, monthrange(year, month)[1]))
