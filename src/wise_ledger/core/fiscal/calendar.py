"""Fiscal calendars: which nominal ends are fiscal year ends of which company, as declared or as inferred (F3)."""

import itertools
from calendar import monthrange
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import date

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.facts.keys import Keys, State, group_ends, key_company, key_end
from wise_ledger.core.facts.timeline import Timeline, stack
from wise_ledger.core.fiscal.inferring import Inferred
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
    """The year ends of all companies; one with neither a declared nor an inferred year end has no fiscal year.

    `by_start` are those whose fiscal years are named after the year in which they begin (F4). What was `inferred` of
    others counts from the instant at which it became known.
    """

    def __init__(
        self, declared: Iterable[YearEnd], by_start: Iterable[int] = (), inferred: Iterable[Inferred] = ()
    ) -> None:
        self._inferred: dict[int, list[Inferred]] = {}
        for found in inferred:
            self._inferred.setdefault(found.company, []).append(found)
        taken = [YearEnd(i.company, i.since + 1, i.month) for of in self._inferred.values() for i in of]
        rows = sorted([*declared, *taken], key=lambda y: (y.company, y.valid_from))
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
        own = self._inferred.get(company, ())
        every = [replace(y, company=row) for row in range(rows) for y in mine if not own]
        inferred = [replace(i, company=row) for row in range(rows) for i in own]
        return FiscalCalendar(every, range(rows) if company in self._by_start else (), inferred)

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
        """Months from the start of the fiscal year to each nominal end: 1 to 12, 12 at the year end; -1 without any."""
        end = key_end(keys)
        company = key_company(keys)
        month = self.month(company, end)
        into = np.where(month == 0, -1, (month_of(end) - month - 1) % 12 + 1)
        for t in self.transitions:
            # What was told only after the transition had ended changes no answer from before (T9).
            if t.end >= t.told or t.company in self._inferred:
                inside = (company == t.company) & (end > t.last) & (end <= t.end)
                into = np.where(inside, months_between(np.full(end.shape, t.last, np.int32), end), into)
        return into

    def holds(self, keys: Keys, span: int) -> NDArray[np.bool_]:
        """Whether a year (`span` 12) or a half (6) of the company can end there (F7)."""
        held = np.asarray(self.months_into_year(keys) % span == 0)
        for t in self.transitions:
            known = t.end >= t.told or t.company in self._inferred
            held |= (key_company(keys) == t.company) & (key_end(keys) == t.end) & known
        return held

    def at_ends(self, timeline: Timeline, span: int) -> Timeline:
        """The figures of a timeline at ends where a year (12) or a half (6) can end, once that is known."""
        return self._known(timeline, lambda calendar, keys: calendar.holds(keys, span))

    def into_year(self, timeline: Timeline, span: int) -> Timeline:
        """The figures at ends so many months into the fiscal year, once that is known."""
        return self._known(timeline, lambda calendar, keys: calendar.months_into_year(keys) == span)

    def _known(self, timeline: Timeline, fits: "Fits") -> Timeline:
        if not len(timeline):
            return timeline
        keep = fits(self, timeline.key)
        if not self._inferred:
            return timeline.take(keep)
        company = key_company(timeline.key)
        moved = [n for n, stages in self._inferred.items() if len(stages) > 1]
        plain = timeline.take(keep & ~np.isin(company, moved))
        told = np.zeros(int(company.max()) + 1, np.int64) + _EVER
        for number, (first, *_) in self._inferred.items():
            if number < len(told):
                told[number] = first.told
        at = np.maximum(plain.at, told[key_company(plain.key)])
        parts = [replace(plain, at=at).take(group_ends(plain.key, at))]
        for number in moved:
            low, high = np.searchsorted(company, [number, number + 1])
            if low < high:
                parts.append(_as_learned(timeline.take(np.arange(low, high)), self._inferred[number], fits))
        return stack(parts)

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


Fits = Callable[[FiscalCalendar, Keys], NDArray[np.bool_]]


def _as_learned(timeline: Timeline, stages: Sequence[Inferred], fits: Fits) -> Timeline:
    """The figures of one company that fit its calendar as far as that was known at each instant (T9)."""
    every = np.arange(len(timeline))
    following = np.append(np.where(timeline.key[1:] == timeline.key[:-1], timeline.at[1:], _NEVER), _NEVER)
    rows, at, gone = [], [], []
    before = np.zeros(len(timeline), np.bool_)
    for n, stage in enumerate(stages):
        until = stages[n + 1].told if n + 1 < len(stages) else _NEVER
        held = fits(FiscalCalendar((), (), stages[: n + 1]), timeline.key)
        # What stands when the stage begins counts from then on; what comes during it counts as it comes.
        stands = (timeline.at <= stage.told) & (following > stage.told)
        for chosen, instants, lost in (
            (held & stands, np.full(len(timeline), stage.told), False),
            (held & (timeline.at > stage.told) & (timeline.at < until), timeline.at, False),
            (~held & before & stands, np.full(len(timeline), stage.told), True),
        ):
            rows.append(every[chosen])
            at.append(instants[chosen])
            gone.append(np.full(int(chosen.sum()), lost))
        before = held
    source, instants, absent = np.concatenate(rows), np.concatenate(at), np.concatenate(gone)
    order = np.lexsort((instants, timeline.key[source]))
    out, absent = timeline.take(source[order]), absent[order]
    return replace(
        out, at=instants[order], value=np.where(absent, np.nan, out.value),
        state=np.where(absent, State.ABSENT, out.state).astype(np.int8),
    )  # fmt: skip


_NEVER, _EVER = np.iinfo(np.int64).max, np.iinfo(np.int64).min


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
