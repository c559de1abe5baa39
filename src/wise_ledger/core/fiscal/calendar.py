"""Fiscal calendars: which nominal ends are fiscal year ends of which company,
as far as that was known (F3, T9).
"""

from collections.abc import Callable, Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.dated.series import Steps
from wise_ledger.core.fiscal.labels import fiscal_label
from wise_ledger.core.fiscal.yearends import ALWAYS, Regime, Stage, transitions
from wise_ledger.core.time.periods import (
    BALANCE,
    Days,
    as_date,
    month_of,
    months_between,
    shift_months,
)
from wise_ledger.core.timelines.keys import Keys, Rows, key_company, key_end
from wise_ledger.core.timelines.stages import EVER, Stages, as_learned
from wise_ledger.core.timelines.timeline import Timeline
from wise_ledger.words import whole_number

_OFFSET = 1 << 31


class FiscalCalendar:
    """The year ends of all companies, stage by stage of what was known;
    before its first stage a company has none.

    `named_by_start` are the instants from which on a company's fiscal years are named after the
    year in which they begin (row 1), or end (row 0), F4.
    """

    def __init__(self, stages: Iterable[Stage], named_by_start: Steps | None = None) -> None:
        self._list = sorted(stages, key=lambda s: (s.company, s.at))
        self._named = named_by_start
        self.stages = Stages(
            np.array([s.company for s in self._list], np.int64),
            np.array([s.at for s in self._list], np.int64),
        )
        regimes = [(n, r.since, r.month) for n, s in enumerate(self._list) for r in s.regimes]
        self._regime_of = np.array(
            [n << 32 | (since + _OFFSET) for n, since, _ in regimes], np.int64
        )
        self._month = np.array([month for *_, month in regimes], np.int64)
        moved = [
            (n, t)
            for n, s in enumerate(self._list)
            if len(s.regimes) > 1
            for t in transitions(s.regimes)
        ]
        # year ends that move twice in a year leave them in another order
        moved.sort(key=lambda m: (m[0], m[1].last))
        self._transition_of = np.array([n << 32 | (t.last + _OFFSET) for n, t in moved], np.int64)
        self._last = np.array([t.last for _, t in moved], np.int32)
        self._end = np.array([t.end for _, t in moved], np.int32)

    @classmethod
    def plain(cls, months: Iterable[tuple[int, int]]) -> "FiscalCalendar":
        """From (company, month): years that have always ended so, and were always known to."""
        return cls(Stage(company, EVER, (Regime(ALWAYS, month),)) for company, month in months)

    def of_rows(self, company: int, rows: int) -> "FiscalCalendar":
        """The calendar of one company for each of so many rows of a sheet,
        which stand in the place of companies.
        """
        own = [s for s in self._list if s.company == company]
        made = FiscalCalendar(Stage(row, s.at, s.regimes) for row in range(rows) for s in own)
        if self._named is not None:
            low, high = (int(b[0]) for b in self._named.bounds(np.array([company])))
            width = high - low
            made._named = Steps(
                np.repeat(np.arange(rows), width),
                np.tile(self._named.at[low:high], rows),
                np.tile(self._named.row[low:high], rows),
            )
        return made

    @classmethod
    def together(cls, calendars: Sequence["FiscalCalendar"], rows: int) -> "FiscalCalendar":
        """Calendars of sheets of so many rows each,
        the rows of one sheet behind those of another.
        """
        made = cls(
            Stage(s.company + n * rows, s.at, s.regimes)
            for n, c in enumerate(calendars)
            for s in c._list
        )
        named = [(n * rows, c._named) for n, c in enumerate(calendars) if c._named is not None]
        if named:
            made._named = Steps(
                np.concatenate([s.entity + first for first, s in named]),
                np.concatenate([s.at for _, s in named]),
                np.concatenate([s.row for _, s in named]),
            )
        return made

    def known(self, company: int, cutoff: int) -> int:
        """The stage of a company at an instant; -1 where nothing was known of its year ends."""
        low, high = np.searchsorted(self.stages.company, [company, company + 1])
        place = low + np.searchsorted(self.stages.at[low:high], cutoff, "right") - 1
        return int(place) if place >= low else -1

    def moved_at(self, company: int) -> set[int]:
        """The instants at which something of a company's year ends became known."""
        return {int(at) for at in self.stages.at[self.stages.company == company]}

    def months_into_year(self, stage: Rows, end: Days) -> NDArray[np.int64]:
        """Months from the start of the fiscal year to each nominal end: 1 to
        12, 12 at the year end.

        In a transition they count from its start. -1 where the stage is -1.
        """
        if not len(self._regime_of):
            return np.full(len(end), -1, np.int64)
        stage = np.asarray(stage, np.int64)
        place = (
            np.searchsorted(
                self._regime_of, stage << 32 | (end.astype(np.int64) + _OFFSET), "right"
            )
            - 1
        )
        # Before the first regime of a stage that one holds.
        place = np.maximum(place, np.searchsorted(self._regime_of, stage << 32, "left"))
        month = self._month[np.clip(place, 0, len(self._month) - 1)]
        into = (month_of(end) - month - 1) % 12 + 1
        inside, at = self._in_transition(stage, end)
        if inside.any():
            into[inside] = months_between(self._last[at[inside]], end[inside])
        return np.where(stage < 0, -1, into)

    def holds(self, stage: Rows, end: Days, span: int) -> NDArray[np.bool_]:
        """Whether a fiscal year (`span` 12) or a half (6) of the company can end there (F7).

        A transition forms no year; halves do not span a change of year end.
        """
        into = self.months_into_year(stage, end)
        inside, at = self._in_transition(np.asarray(stage, np.int64), end)
        fits = into > 0
        fits &= into % span == 0
        if inside.any():
            if span == 12:
                fits[inside] = False
            else:
                whole = end[inside] == self._end[at[inside]]
                fits[inside] = (into[inside] == 6) | (whole & (into[inside] >= 6))
        return fits

    def closes_transition(self, stage: Rows, end: Days) -> NDArray[np.bool_]:
        """Whether a transition ends there: no year, but a period of its own."""
        inside, at = self._in_transition(np.asarray(stage, np.int64), end)
        return inside & (end == self._end[at]) if inside.any() else inside

    def closes_transition_at(self, company: int, end: int, cutoff: int) -> bool:
        """The same of one company and end, as known at an instant."""
        stage = np.array([self.known(company, cutoff)], np.int64)
        return bool(self.closes_transition(stage, np.array([end], np.int32))[0])

    def at_ends(self, timeline: Timeline, span: int) -> Timeline:
        """The figures of a timeline at ends where a year (12) or a half (6)
        can end, once that is known.
        """
        return as_learned(
            timeline, self.stages, lambda stage, keys: self.holds(stage, key_end(keys), span)
        )

    def ever_at_ends(self, timeline: Timeline, before: int, span: int) -> Timeline:
        """Rows that, so many months later, may stand at the end of a year or
        half, at whatever stage.
        """
        return self._ever(timeline, before, lambda stage, end: self.holds(stage, end, span))

    def ever_into_year(self, timeline: Timeline, before: int, span: int) -> Timeline:
        """Rows that, so many months later, may stand so many months into the
        year, at whatever stage.
        """
        return self._ever(
            timeline,
            before,
            lambda stage, end: np.asarray(self.months_into_year(stage, end) == span),
        )

    def _ever(
        self, timeline: Timeline, before: int, fits: Callable[[Rows, Days], NDArray[np.bool_]]
    ) -> Timeline:
        if not len(timeline):
            return timeline
        company, end = key_company(timeline.key), shift_months(key_end(timeline.key), before)
        low = np.searchsorted(self.stages.company, company, "left")
        count = np.searchsorted(self.stages.company, company, "right") - low
        fit = np.zeros(len(timeline), np.bool_)
        for n in range(int(count.max(initial=0))):
            rows = np.flatnonzero(count > n)
            fit[rows] |= fits(low[rows] + n, end[rows])
        return timeline.take(fit)

    def into_year(self, timeline: Timeline, span: int) -> Timeline:
        """The figures at ends so many months into the fiscal year, once that is known."""

        def fits(stage: Rows, keys: Keys) -> NDArray[np.bool_]:
            return np.asarray(self.months_into_year(stage, key_end(keys)) == span)

        return as_learned(timeline, self.stages, fits)

    def label(self, company: int, end: int, cutoff: int, span: int = BALANCE) -> str:
        """The fiscal label of a period with this nominal end, as known at an instant (F4, F5).

        In a transition it is `TP2018`, or a part of it. While no year end is known, years are taken
        to end in December.
        """
        stage, ends = np.array([self.known(company, cutoff)], np.int64), np.array([end], np.int32)
        inside, at = self._in_transition(stage, ends)
        into = int(self.months_into_year(stage, ends)[0])
        year = as_date(end)
        if inside[0] and span != 12:
            closes = int(self._end[at[0]])
            name, whole = f"TP{as_date(closes).year}", end == closes and span in (BALANCE, into)
            part = f"-{into}M" if span in (6, 9) and span == into else f"Q{-(-into // 3)}"
            return name if whole else name + part
        month = 12 if into < 0 else (year.month - into - 1) % 12 + 1
        if inside[0]:
            month = as_date(int(self._end[at[0]])).month
        return fiscal_label(
            span, year, month, "start" if self.named_by_start(company, cutoff) else "end"
        )

    def target_label(self, company: int, end: int, cutoff: int, months: int) -> str:
        """What a year or quarter that somebody expects figures of is called (E1, F5): a year that
        ends with no fiscal year known by then says when, as another may bear its name.
        """
        label = self.label(company, end, cutoff, months)
        stage = np.array([self.known(company, cutoff)], np.int64)
        into = int(self.months_into_year(stage, np.array([end], np.int32))[0])
        return f"{label} {as_date(end)}" if months == 12 and 0 <= into != 12 else label

    def cumulative_label(self, company: int, end: int, cutoff: int) -> str:
        """The label of the time from the start of the fiscal year to a
        nominal end, by its own span (F5).
        """
        stage = np.array([self.known(company, cutoff)], np.int64)
        into = int(self.months_into_year(stage, np.array([end], np.int32))[0])
        return self.label(company, end, cutoff, into if into in (3, 6, 9, 12) else BALANCE)

    def ends_year_at(self, company: int, end: int, cutoff: int) -> bool:
        """Whether a fiscal year ends there, as known at an instant."""
        stage = np.array([self.known(company, cutoff)], np.int64)
        return bool(self.holds(stage, np.array([end], np.int32), 12)[0])

    def named_by_start(self, company: int, cutoff: int) -> bool:
        """Whether the fiscal years of a company are named after the year in
        which they begin, as known then (F4).
        """
        if self._named is None:
            return False
        return int(self._named.read(np.array([company]), np.array([cutoff]))[0, 0]) == 1

    def in_transition(self, stage: Rows, end: Days) -> NDArray[np.bool_]:
        """Whether each end lies in the transition between two year ends."""
        return self._in_transition(np.asarray(stage, np.int64), end)[0]

    def _in_transition(self, stage: Rows, end: Days) -> tuple[NDArray[np.bool_], Rows]:
        """Whether each end lies in a transition, and which."""
        if not len(self._last):
            return np.zeros(len(end), np.bool_), np.zeros(len(end), np.int64)
        asked = stage << 32 | (end.astype(np.int64) - 1 + _OFFSET)
        place = np.searchsorted(self._transition_of, asked, "right") - 1
        found = np.maximum(place, 0)
        same = (place >= 0) & (self._transition_of[found] >> 32 == stage)
        return same & (end <= self._end[found]), found


def year_end_month(text: str) -> int | None:
    """The month of a declared fiscal year end;
    None where it is none (readers skip what they cannot read).
    """
    month = whole_number(text)
    return month if month is not None and 1 <= month <= 12 else None
