"""All series of a ledger: their keys, what is said of them, their vintages;
how they are read on dates (S4).
"""

from bisect import bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.dated.attributes import Attributes
from wise_ledger.core.series.keys import unknown_key
from wise_ledger.core.series.periods import STALE, Frequency, last_day
from wise_ledger.core.series.vintages import FOR_EVER, Vintages
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import shift_months

Whole = NDArray[np.int64]
Numbers = NDArray[np.float64]
_LATE = 7
_PER = {"d": 0, "mo": 1, "q": 3, "y": 12}
_LENGTHS = {Frequency.M: 1, Frequency.Q: 3, Frequency.A: 12}


def periods_in(frequency: Frequency, count: int, unit: str) -> int | None:
    """How many of its own periods a span is; None where it is no whole number of them (S4).

    >>> periods_in(Frequency.Q, 1, "y"), periods_in(Frequency.Q, 2, "mo")
    (4, None)
    """
    if frequency is Frequency.D:
        # refused in days elsewhere; a span always fits
        return count if unit == "d" else count * _PER[unit] * 30
    if frequency is Frequency.W:
        if unit == "y":
            return 52 * count
        return count // 7 if unit == "d" and count % 7 == 0 else None
    if unit == "d":
        return None
    months = count * _PER[unit]
    return months // _LENGTHS[frequency] if months % _LENGTHS[frequency] == 0 else None


@dataclass(frozen=True, eq=False)
class SeriesBook:
    """Series by number: `keys`, what was said of them (`attributes`),
    what an index is 100 for (`bases`).
    """

    keys: Sequence[str] = ()
    vintages: Vintages = field(default_factory=Vintages.empty)
    attributes: Attributes = field(default_factory=lambda: Attributes(()))
    bases: Sequence[str] = ()

    @cached_property
    def number(self) -> Mapping[str, int]:
        """The number of each key."""
        return {key: n for n, key in enumerate(self.keys)}

    def of(self, key: str) -> int:
        """The number of a key; raises `BadInput` with the nearest three."""
        if key not in self.number:
            raise unknown_key(key, self.keys)
        return self.number[key]

    def base(self, number: int) -> str:
        """What an index is 100 for, by its number; empty for none."""
        return self.bases[number] if number >= 0 else ""

    def frequency(self, number: int) -> Frequency | None:
        """How long its periods are; None where nothing was ever observed."""
        return self.vintages.frequency.get(number)

    def text(self, number: int, name: str, cutoff: int = FOR_EVER) -> str:
        """What was said of it by a cut-off; before anything was, the first
        thing that was; empty for nothing.
        """
        if (number, name) not in self._words:
            return ""
        at, values = self._words[number, name]
        return values[max(0, bisect_right(at, cutoff) - 1)]

    @cached_property
    def _words(self) -> dict[tuple[int, str], tuple[list[int], list[str]]]:
        """By series and name when something was said, and what; in order."""
        rows: dict[tuple[int, str], list[tuple[int, str]]] = {}
        for name in self.attributes.names:
            for version in self.attributes.versions(name):
                rows.setdefault((version.company, name), []).append((version.at, version.value))
        out = {}
        for key, versions in rows.items():
            versions.sort(key=lambda r: r[0])  # of one instant the last recorded stays last
            out[key] = [at for at, _ in versions], [value for _, value in versions]
        return out

    # ---- on dates (S4)

    def at(
        self,
        number: int,
        cutoffs: Whole,
        *,
        back: tuple[int, str] = (0, "d"),
        first: bool = False,
        one_base: bool = False,
    ) -> tuple[Numbers, NDArray[np.uint8], NDArray[np.bool_], Whole]:
        """On each of ascending cut-offs the last period released by then,
        or so long before it, within that vintage.

        Values, reasons, whether a release is assumed, and the period's last day. `first` reads what
        was first released; with `one_base` it is `not_meaningful` where it stands on another base
        than the last period (S1).
        """
        periods, grid = self.vintages.grid(number, cutoffs, first=first)
        frequency = self.frequency(number) or Frequency.M
        last = _last_place(grid)
        if back[0] and len(periods):
            there = np.maximum(last, 0)
            wanted = np.where(last >= 0, earlier(frequency, periods[there], *back), 0)
            place = np.searchsorted(periods, wanted, "right") - 1
            exact = (place >= 0) & (periods[np.maximum(place, 0)] == wanted)
            if frequency is Frequency.D:  # the last day at most a week before
                exact = (place >= 0) & (wanted - periods[np.maximum(place, 0)] <= _LATE)
            place = np.where((last >= 0) & exact, place, -1)
        else:
            place = last
        found = self._read(frequency, periods, grid, last, place, cutoffs)
        if one_base and len(periods):
            column = np.arange(len(cutoffs))
            a, b = (
                self.vintages.base[np.maximum(grid[np.maximum(p, 0), column], 0)]
                for p in (last, place)
            )
            broken = (found[1] == 0) & (a != b)
            return (
                found[0],
                np.where(broken, np.uint8(Reason.NOT_MEANINGFUL), found[1]),
                found[2],
                found[3],
            )
        return found

    def samples(
        self, number: int, cutoffs: Whole, span: tuple[int, str], *, first: bool = False
    ) -> tuple[list[tuple[Numbers, Numbers]], NDArray[np.uint8], list[int], list[bool]]:
        """For each cut-off the values within a span up to the last period then,
        with their times in years before it.

        Reasons where there is no last period or an old one; how many samples the span has; whether
        they stand on several bases.
        """
        periods, grid = self.vintages.grid(number, cutoffs, first=first)
        frequency = self.frequency(number) or Frequency.M
        last = _last_place(grid)
        reason = self._read(frequency, periods, grid, last, last, cutoffs)[1]
        out: list[tuple[Numbers, Numbers]] = []
        counts: list[int] = []
        broken: list[bool] = []
        for n in range(len(cutoffs)):
            if last[n] < 0:
                out.append((np.empty(0), np.empty(0)))
                counts.append(1)
                broken.append(False)
                continue
            newest = int(periods[last[n]])
            oldest = int(earlier(frequency, np.array([newest]), *span)[0])
            own = np.flatnonzero((periods > oldest) & (periods <= newest))
            rows = grid[own, n]
            broken.append(len(np.unique(self.vintages.base[rows[rows >= 0]])) > 1)
            values = np.where(
                grid[own, n] >= 0, self.vintages.value[np.maximum(grid[own, n], 0)], np.nan
            )
            out.append(
                (
                    values,
                    (periods[own] - newest)
                    / (365 if frequency is Frequency.D else frequency.in_a_year),
                )
            )
            counts.append(
                _weekdays(oldest + 1, newest) if frequency is Frequency.D else newest - oldest
            )
        return out, reason, counts, broken

    def _read(
        self,
        frequency: Frequency,
        periods: Whole,
        grid: Whole,
        last: Whole,
        place: Whole,
        cutoffs: Whole,
    ) -> tuple[Numbers, NDArray[np.uint8], NDArray[np.bool_], Whole]:
        column = np.arange(len(cutoffs))
        if not len(periods):
            none = np.full(len(cutoffs), Reason.NOT_KNOWN, np.uint8)
            return np.full(len(cutoffs), np.nan), none, np.zeros(len(cutoffs), np.bool_), column * 0
        rows = np.where(place >= 0, grid[np.maximum(place, 0), column], -1)
        of = np.maximum(rows, 0)
        value = np.where(rows >= 0, self.vintages.value[of], np.nan)
        ends = last_day(frequency, periods)
        newest = ends[np.maximum(last, 0)]
        lacks = np.where(last < 0, np.uint8(Reason.NOT_KNOWN), np.uint8(Reason.INCOMPLETE))
        reason = np.where(
            rows < 0, lacks, np.where(np.isnan(value), np.uint8(Reason.WITHDRAWN), np.uint8(0))
        )
        old = (last >= 0) & (cutoffs // DAY - newest > STALE[frequency])
        reason = np.where(old, np.uint8(Reason.STALE), reason).astype(np.uint8)
        assumed = (rows >= 0) & self.vintages.assumed[of]
        return value, reason, assumed, np.where(rows >= 0, ends[np.maximum(place, 0)], 0)


def earlier(frequency: Frequency, periods: Whole, count: int, unit: str) -> Whole:
    """Each period so long before; of days the same day of an earlier month,
    month ends to month ends.
    """
    if frequency is not Frequency.D:
        return periods - (periods_in(frequency, count, unit) or 0)
    if unit == "d":
        return periods - count
    return shift_months(periods.astype(np.int32), -count * _PER[unit]).astype(np.int64)


def _last_place(grid: Whole) -> Whole:
    """The last period that is known at each cut-off; -1 where none is."""
    if not len(grid):
        return np.full(grid.shape[1], -1, np.int64)
    seen = grid >= 0
    return np.where(seen.any(axis=0), len(grid) - 1 - np.argmax(seen[::-1], axis=0), -1)


def _weekdays(first: int, last: int) -> int:
    days = np.arange(first, last + 1)
    return int(((days + 3) % 7 < 5).sum())
