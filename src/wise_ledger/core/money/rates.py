"""Currency rates: a balance at the rate of its period end,
a flow at the mean of the rates inside its period (M2).
"""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.money.currencies import NO_CURRENCY, currency_code
from wise_ledger.core.time.instants import DAY

OLDEST = 7  # days that the last earlier rate serves
ENOUGH = 0.8  # of the weekdays of a flow's period that must have a rate
_THURSDAY = 3  # the first day of 1970, Monday being 0

Codes = NDArray[np.int16]
Numbers = NDArray[np.float64]


class RateTable:
    """Rates by day: `rate` units of `quote` for one `base` (numbers of
    currencies, see `currency_code`).

    Rows are in order of preference: of two for one pair and day the first counts. A rate is known
    at the end of its own date, or from the instant `known` on where that is later (T9); rates are
    read as of instants `at`.
    """

    def __init__(
        self,
        base: NDArray[np.int16],
        quote: NDArray[np.int16],
        days: NDArray[np.int32],
        rate: Numbers,
        known: NDArray[np.int64] | None = None,
    ) -> None:
        self._base, self._quote = base, quote
        self._days, self._rate = days, rate
        self._pairs: dict[tuple[int, int], _Pair] = {}
        # States of the table: before the first that came after its own day
        # became known, and after each.
        self._known = (
            _NONE
            if known is None
            else np.where(known > (days.astype(np.int64) + 1) * DAY, known, _ALWAYS)
        )
        self._moved_at = np.unique(self._known[self._known != _ALWAYS])
        self._states: dict[int, RateTable] = {}

    @classmethod
    def empty(cls) -> "RateTable":
        """No rate at all."""
        none = np.empty(0, np.int16)
        return cls(none, none, np.empty(0, np.int32), np.empty(0))

    def __len__(self) -> int:
        return len(self._rate)

    @property
    def currencies(self) -> frozenset[int]:
        """Every currency that the table names."""
        return frozenset(np.unique(np.concatenate([self._base, self._quote])).tolist())

    def on(
        self, source: Codes, target: Codes, days: NDArray[np.int64], at: NDArray[np.int64]
    ) -> Numbers:
        """Units of `target` for one of `source` on each day,
        the last rate of up to 7 days before; NaN for none.
        """

        def read(pair: "_Pair", rows: NDArray[np.int64]) -> Numbers:
            place = np.searchsorted(pair.days, days[rows], "right") - 1
            found = np.maximum(place, 0)
            fresh = (place >= 0) & (days[rows] - pair.days[found] <= OLDEST)
            return np.where(fresh, pair.rate[found], np.nan)

        return self._as_of(at, source, target, read)

    def mean(
        self,
        source: Codes,
        target: Codes,
        start: NDArray[np.int64],
        end: NDArray[np.int64],
        at: NDArray[np.int64],
    ) -> Numbers:
        """The mean of the rates dated inside each period, both ends included;
        NaN where there are too few.

        Four in five of its weekdays must have one, or of its months where no month up to then has
        two.
        """

        def read(pair: "_Pair", rows: NDArray[np.int64]) -> Numbers:
            low, high = pair.inside(start[rows], end[rows])
            enough = pair.enough(low, high, start[rows], end[rows])
            with np.errstate(invalid="ignore", divide="ignore"):
                return np.where(enough, pair.mean(low, high), np.nan)

        return self._as_of(at, source, target, read)

    def count(self, source: int, target: int, start: int, end: int, at: int) -> int:
        """How many rates of a pair are dated inside a period, both ends included."""

        def read(pair: "_Pair", rows: NDArray[np.int64]) -> Numbers:
            low, high = pair.inside(np.array([start]), np.array([end]))
            return np.asarray(high - low, np.float64)[rows]

        found = self._as_of(
            np.array([at]), np.array([source], np.int16), np.array([target], np.int16), read
        )
        return int(np.nan_to_num(found[0]))

    def _as_of(self, at: NDArray[np.int64], source: Codes, target: Codes, read: "Read") -> Numbers:
        """Read each row from the state of the table at its instant."""
        if not len(self._moved_at):
            return self._each(source, target, read)
        state = np.searchsorted(self._moved_at, at, "right")
        out = np.full(source.shape, np.nan)
        for n in np.unique(state).tolist():
            rows = np.flatnonzero(state == n)

            def read_own(
                pair: "_Pair", own: NDArray[np.int64], rows: NDArray[np.int64] = rows
            ) -> Numbers:
                return read(pair, rows[own])

            out[rows] = self._state(n)._each(source[rows], target[rows], read_own)
        return out

    def _state(self, number: int) -> "RateTable":
        """The table as it was after so many of its rows' instants had passed;
        made when first read.
        """
        if number == len(self._moved_at):
            return self
        if number not in self._states:
            if len(self._states) >= _STATES_KEPT:
                self._states.clear()
            there = self._known < self._moved_at[number]
            self._states[number] = RateTable(
                self._base[there], self._quote[there], self._days[there], self._rate[there]
            )
        return self._states[number]

    def _each(self, source: Codes, target: Codes, read: "Read") -> Numbers:
        """Read pair by pair; what needs no conversion is 1."""
        out = np.full(source.shape, np.nan)
        out[source == target] = 1.0
        asked = np.flatnonzero(
            (source != target) & (source != NO_CURRENCY) & (target != NO_CURRENCY)
        )
        both = source[asked].astype(np.int64) << 16 | target[asked].astype(np.int64)
        for code in np.unique(both).tolist():
            pair = self._pair(code >> 16, code & 0xFFFF)
            if len(pair.days):
                rows = asked[both == code]
                out[rows] = read(pair, rows)
        return out

    def _pair(self, source: int, target: int) -> "_Pair":
        """Units of `target` for one of `source`, day by day: as quoted, else inverse,
        else across a common base.
        """
        if (source, target) not in self._pairs:
            days, rates = [], []
            for found in (
                self._quoted(source, target),
                self._inverse(target, source),
                *self._crosses(source, target),
            ):
                days.append(found[0])
                rates.append(found[1])
            every, rate = np.concatenate(days), np.concatenate(rates)
            ordered, first = np.unique(every, return_index=True)  # the first way that has the day
            self._pairs[source, target] = _Pair(ordered, rate[first])
        return self._pairs[source, target]

    def _quoted(self, base: int, quote: int) -> tuple[NDArray[np.int32], Numbers]:
        rows = np.flatnonzero((self._base == base) & (self._quote == quote))
        days, first = np.unique(self._days[rows], return_index=True)
        return days, self._rate[rows[first]]

    def _inverse(self, base: int, quote: int) -> tuple[NDArray[np.int32], Numbers]:
        days, rate = self._quoted(base, quote)
        return days, 1 / rate

    def _crosses(self, source: int, target: int) -> list[tuple[NDArray[np.int32], Numbers]]:
        out = []
        for base in np.unique(self._base).tolist():
            if base in (source, target):
                continue
            a, b = self._quoted(base, source), self._quoted(base, target)
            days, left, right = np.intersect1d(a[0], b[0], assume_unique=True, return_indices=True)
            out.append((days, b[1][right] / a[1][left]))
        return out


class _Pair:
    """The rates of two currencies by day, ascending; sums and counts are those of all rows before
    each.
    """

    def __init__(self, days: NDArray[np.int32], rate: Numbers) -> None:
        self.days, self.rate = days.astype(np.int64), rate
        self._sums = _running(rate)
        self._still = _running(np.diff(rate, prepend=rate[:1]) == 0)
        self._weekdays = _running(_is_weekday(self.days)).astype(np.int64)
        month = _month(self.days)
        again = np.zeros(len(month), np.bool_)
        again[1:] = month[1:] == month[:-1]
        self._monthly_until = int(np.flatnonzero(again)[0]) if again.any() else len(month)

    def inside(
        self, start: NDArray[np.int64], end: NDArray[np.int64]
    ) -> tuple[NDArray[Any], NDArray[Any]]:
        """The rows dated inside each period: from the first to before the second."""
        low = np.searchsorted(self.days, start, "left")
        return low, np.maximum(np.searchsorted(self.days, end, "right"), low)

    def mean(self, low: NDArray[Any], high: NDArray[Any]) -> Numbers:
        """The mean of rows from one to before another; of rates that stand still that rate."""
        first = self.rate[np.minimum(low, len(self.rate) - 1)]
        still = self._still[high] - self._still[np.minimum(low + 1, high)] == high - low - 1
        found = (self._sums[high] - self._sums[low]) / (high - low)
        return np.asarray(np.where(still, first, found))

    def enough(
        self,
        low: NDArray[Any],
        high: NDArray[Any],
        start: NDArray[np.int64],
        end: NDArray[np.int64],
    ) -> NDArray[np.bool_]:
        """Whether the rows speak for the whole period (M2)."""
        until = np.maximum(end + 1, start)
        weekdays = np.busday_count(start.astype("datetime64[D]"), until.astype("datetime64[D]"))
        months = _month(end) - _month(start) + 1
        monthly = high <= self._monthly_until
        there = np.where(monthly, high - low, self._weekdays[high] - self._weekdays[low])
        return np.asarray((high > low) & (there >= ENOUGH * np.where(monthly, months, weekdays)))


def _running(column: NDArray[Any]) -> Numbers:
    return np.concatenate([[0.0], np.cumsum(column)])


def _is_weekday(days: NDArray[np.int64]) -> NDArray[np.bool_]:
    return np.asarray((days + _THURSDAY) % 7 < 5)


def _month(days: NDArray[np.int64]) -> NDArray[np.int64]:
    return days.astype("datetime64[D]").astype("datetime64[M]").astype(np.int64)


Read = Callable[[_Pair, NDArray[np.int64]], Numbers]
_NONE = np.empty(0, np.int64)
_ALWAYS = np.iinfo(np.int64).min
_STATES_KEPT = 400


def rate_table(
    rows: Sequence[tuple[str, str, int, float]], known: Sequence[int] | None = None
) -> RateTable:
    """From (base, quote, day, rate), codes as in ISO 4217, in order of preference.

    `known` are the instants from which on rows count, 0 for the end of their date.
    """
    return RateTable(
        np.array([currency_code(r[0]) for r in rows], np.int16),
        np.array([currency_code(r[1]) for r in rows], np.int16),
        np.array([r[2] for r in rows], np.int32),
        np.array([r[3] for r in rows]),
        None if known is None else np.array(known, np.int64),
    )


def at_rate(amounts: NDArray[np.float64], rates: NDArray[np.float64]) -> NDArray[np.float64]:
    """Amounts at rates, NaN where there is none; zero needs no rate (M2).

    >>> at_rate(np.array([5.0, 0.0]), np.array([np.nan, np.nan])).tolist()
    [nan, 0.0]
    """
    return np.where(amounts == 0, amounts, amounts * rates)


def amount_at(amount: float, rate: float) -> float:
    """One amount at a rate, like `at_rate`."""
    return amount and amount * rate


def last_day(cutoff: NDArray[np.int64]) -> NDArray[np.int64]:
    """The last day whose rates are known at an instant in microseconds:
    they are at the end of the day (T9).
    """
    return np.asarray((cutoff + 1) // DAY - 1, np.int64)


def rate_of(
    table: RateTable, source: int, target: int, start: int | None, end: int, at: int
) -> float:
    """One rate between two currencies as known at an instant: the mean over a period, without a
    start that of the day (M2); NaN where there is none.
    """
    codes = np.array([source], np.int16), np.array([target], np.int16)
    on, known = np.array([end], np.int64), np.array([at], np.int64)
    if start is None:
        return float(table.on(*codes, on, known)[0])
    return float(table.mean(*codes, np.array([start], np.int64), on, known)[0])
