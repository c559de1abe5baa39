"""Vintages: all observations of all series, each with the instant it became known;
a series as it stood (S1).
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Literal, Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.records.columns import UNSAID, RecordColumns, missing
from wise_ledger.core.series.lines import NO_BASE, Line
from wise_ledger.core.series.periods import Frequency, decoded, period_of

Whole = NDArray[np.int64]
Which = Literal["known", "first", "last"]
FOR_EVER = np.iinfo(np.int64).max


@dataclass(frozen=True, eq=False)
class Vintages:
    """Observations, sorted by series, source in the order of preference, period,
    and when they became known.

    `value` is NaN where an observation is taken back; `assumed` marks those whose source does not
    say when they were released (T4).
    """

    series: Whole
    rank: Whole
    period: Whole
    known: Whole
    value: NDArray[np.float64]
    base: Whole
    assumed: NDArray[np.bool_]
    frequency: Mapping[int, Frequency]

    @classmethod
    def of(
        cls, rows: RecordColumns, rank: Whole | None = None, *, with_assumed: bool = True
    ) -> Self:
        """From the records; `rank` is the place of each row's source in the order of preference."""
        kinds, ends = decoded(rows["period"])
        assumed = rows["released_at"] == UNSAID
        ranks = rows["source"].astype(np.int64) if rank is None else rank.astype(np.int64)
        series, known = rows["series"].astype(np.int64), rows["known_at"]
        if not with_assumed:
            keep = ~assumed
            kinds, ends, ranks, series, known = (
                c[keep] for c in (kinds, ends, ranks, series, known)
            )
            rows, assumed = rows.where(keep), assumed[keep]
        frequency: dict[int, Frequency] = {}
        period = np.empty(len(series), np.int64)
        for kind in np.unique(kinds).tolist():
            own = kinds == kind
            period[own] = period_of(Frequency(kind), ends[own])
            frequency |= dict.fromkeys(np.unique(series[own]).tolist(), Frequency(kind))
        order = np.lexsort((rows["batch"], known, period, ranks, series))
        base = np.where(missing(rows["base"]), NO_BASE, rows["base"]).astype(np.int64)
        value = rows["value"][order]
        series, ranks, period, known, base = (
            c[order] for c in (series, ranks, period, known, base)
        )
        return cls(series, ranks, period, known, value, base, assumed[order], frequency)

    @classmethod
    def empty(cls) -> Self:
        """Of no series."""
        whole = np.empty(0, np.int64)
        return cls(whole, whole, whole, whole, np.empty(0), whole, np.empty(0, np.bool_), {})

    @cached_property
    def _bounds(self) -> tuple[Whole, Whole]:
        every = np.arange(1 + int(self.series.max(initial=-1)))
        return np.searchsorted(self.series, every, "left"), np.searchsorted(
            self.series, every, "right"
        )

    def rows_of(self, series: int) -> slice:
        """The rows of a series."""
        begin, end = self._bounds
        return (
            slice(int(begin[series]), int(end[series])) if 0 <= series < len(begin) else slice(0, 0)
        )

    def begun(self, series: int, cutoff: int) -> bool:
        """Whether anything of a series was released by a cut-off."""
        return bool((self.known[self.rows_of(series)] <= cutoff).any())

    @cached_property
    def _standing(self) -> tuple[Whole, Whole, Whole]:
        """Of each series, source and period: the first of its rows,
        and of each row which cell it is of.
        """
        new = np.ones(len(self.series), np.bool_)
        if len(new):
            new[1:] = (
                (self.series[1:] != self.series[:-1])
                | (self.rank[1:] != self.rank[:-1])
                | (self.period[1:] != self.period[:-1])
            )
        return np.flatnonzero(new), np.cumsum(new) - 1, new.astype(np.int64)

    def grid(self, series: int, cutoffs: Whole, *, first: bool = False) -> tuple[Whole, Whole]:
        """The periods of a series, and the row of each (down) as known at
        ascending cut-offs (across); -1 for none.

        A period is read from the first source that has it by then (T5); `first` takes its first
        value that was ever released, withdrawals ignored.

        >>> Vintages.empty().grid(0, np.array([0]))[1].shape
        (0, 1)
        """
        own = self.rows_of(series)
        if own.start == own.stop:
            return np.empty(0, np.int64), np.empty((0, len(cutoffs)), np.int64)
        if self.rank[own.start] == self.rank[own.stop - 1]:  # they ascend
            return self._grid(own, cutoffs, first)
        ranks = np.unique(self.rank[own])
        begin = own.start + np.searchsorted(self.rank[own], ranks, "left")
        end = own.start + np.searchsorted(self.rank[own], ranks, "right")
        grids = [
            self._grid(slice(a, b), cutoffs, first)
            for a, b in zip(begin.tolist(), end.tolist(), strict=True)
        ]
        periods = np.unique(np.concatenate([p for p, _ in grids]))
        out = np.full((len(periods), len(cutoffs)), -1, np.int64)
        for period, rows in reversed(grids):  # of the first source last: what it has counts
            place = np.searchsorted(periods, period)
            out[place] = np.where(rows >= 0, rows, out[place])
        return periods, out

    def _grid(self, own: slice, cutoffs: Whole, first: bool) -> tuple[Whole, Whole]:
        """The same of the rows of one source."""
        starts, cells, _ = self._standing
        low = int(cells[own.start])
        cell = cells[own] - low
        periods = self.period[starts[low : low + int(cell[-1]) + 1]]
        slot = np.searchsorted(cutoffs, self.known[own], "left")
        rows = np.arange(own.start, own.stop)
        seen = slot < len(cutoffs)
        if first:
            seen &= ~np.isnan(self.value[own])
        rows, slot, cell = rows[seen], slot[seen], cell[seen]
        # Of the rows of a cell that stand in one slot the last; of a cell's
        # first release nothing but that.
        keep = np.ones(len(rows), np.bool_)
        if first:
            keep[1:] = cell[1:] != cell[:-1]
        else:
            keep[:-1] = (cell[1:] != cell[:-1]) | (slot[1:] != slot[:-1])
        out = np.full((len(periods), len(cutoffs)), -1, np.int32)
        out.ravel()[cell[keep] * len(cutoffs) + slot[keep]] = rows[keep]
        return periods, np.maximum.accumulate(out, axis=1)

    def history(self, series: int, cutoff: int) -> Whole:
        """The rows by which a series came to read as it did on each day up to a cut-off, by period,
        then by when they became known: what a source says of a period that a preferred one had by
        then changes nothing (T5).

        >>> len(Vintages.empty().history(0, 0))
        0
        """
        own = self.rows_of(series)
        rows: Whole = np.arange(own.start, own.stop)
        rows = rows[self.known[own] <= cutoff]
        rows = rows[np.lexsort((rows, -self.rank[rows], self.known[rows], self.period[rows]))]
        if not len(rows):
            return rows
        period, rank = self.period[rows], self.rank[rows]
        new = np.append(True, period[1:] != period[:-1])
        # Within a period the best rank so far; that of a later one is always less.
        falling = rank - np.cumsum(new) * (int(rank.max()) + 1)
        rows = rows[falling == np.minimum.accumulate(falling)]
        period, known = self.period[rows], self.known[rows]
        last = np.append((period[1:] != period[:-1]) | (known[1:] != known[:-1]), True)
        counted: Whole = rows[last]
        return counted

    def line(self, series: int, cutoff: int, which: Which = "known") -> Line:
        """The series as known at a cut-off, as first released by then,
        or as last revised, whenever that was.
        """
        at = FOR_EVER if which == "last" else cutoff
        periods, grid = self.grid(series, np.array([at], np.int64), first=which == "first")
        rows = grid[:, 0] if len(grid) else np.empty(0, np.int64)
        if which == "last" and len(rows):  # of the periods that were known by then
            known = self.grid(series, np.array([cutoff], np.int64))[1][:, 0] >= 0
            rows = np.where(known, rows, -1)
        there = rows >= 0
        periods, rows = periods[there], rows[there]
        frequency = self.frequency.get(series, Frequency.M)
        if frequency is not Frequency.D and len(periods):  # gaps are reported
            every = np.arange(periods[0], periods[-1] + 1)
            filled = np.full(len(every), -1, np.int64)
            filled[periods - periods[0]] = rows
            periods, rows = every, filled
        return self._line_of(frequency, periods, rows)

    def _line_of(self, frequency: Frequency, periods: Whole, rows: Whole) -> Line:
        gap = rows < 0
        if not len(self.series):
            return Line.of(frequency, periods, np.empty(0))
        place = np.where(gap, 0, rows)
        value = np.where(gap, np.nan, self.value[place])
        reason = np.where(
            gap,
            np.uint8(Reason.NOT_REPORTED),
            np.where(np.isnan(value), np.uint8(Reason.WITHDRAWN), np.uint8(0)),
        )
        base, known = np.where(gap, -1, self.base[place]), np.where(gap, 0, self.known[place])
        assumed = np.where(gap, False, self.assumed[place])
        return Line(
            frequency,
            periods,
            value,
            reason.astype(np.uint8),
            base,
            known,
            assumed.astype(np.bool_),
        )

    def releases(self, series: int, cutoff: int) -> Whole:
        """The instants at which anything of a series became known, up to a cut-off, ascending."""
        known = np.unique(self.known[self.rows_of(series)])
        return known[known <= cutoff]

    def newest_release(self) -> dict[tuple[int, int], int]:
        """By series and period the instant of the last release there is."""
        last = np.ones(len(self.series), np.bool_)
        last[:-1] = (self.series[1:] != self.series[:-1]) | (self.period[1:] != self.period[:-1])
        columns = (
            self.series[last].tolist(),
            self.period[last].tolist(),
            self.known[last].tolist(),
        )
        return {(s, p): at for s, p, at in zip(*columns, strict=True)}

    def bases(self, series: int, at: Whole) -> list[int]:
        """On which base the last period stood at each of ascending instants."""
        _, grid = self.grid(series, at)
        if not len(grid):
            return [NO_BASE] * len(at)
        last = np.where(grid >= 0, np.arange(len(grid))[:, None], -1).max(axis=0)
        rows = grid[np.maximum(last, 0), np.arange(len(at))]
        return [int(b) for b in np.where(rows >= 0, self.base[np.maximum(rows, 0)], NO_BASE)]

    def triangle(
        self, series: int, cutoff: int, most: int
    ) -> tuple[Whole, Whole, NDArray[np.float64]]:
        """The vintages at the last `most` releases: periods down, releases across;
        NaN where nothing was known.
        """
        at = self.releases(series, cutoff)[-most:]
        periods, grid = self.grid(series, at)
        values = (
            np.where(grid >= 0, self.value[np.maximum(grid, 0)], np.nan)
            if len(periods)
            else np.empty((0, len(at)))
        )
        known = (grid >= 0).any(axis=1) if len(periods) else np.empty(0, np.bool_)
        return periods[known], at, values[known]
