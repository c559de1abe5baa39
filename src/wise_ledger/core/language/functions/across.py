"""Functions over all companies of the list at one date;
a missing value keeps its reason and does not count.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.arithmetic import mean_of_groups
from wise_ledger.core.language.functions.function import Function, Result, Second, Wants, pure, same
from wise_ledger.core.language.units import NAMED, Unit
from wise_ledger.core.money.currencies import NO_CURRENCY

Numbers = NDArray[np.float64]
Reasons = NDArray[np.uint8]


@dataclass(frozen=True, eq=False)
class _Groups:
    """Values of many groups (a date, or a group of companies on it),
    ascending within each, group behind group.
    """

    value: Numbers
    group: NDArray[np.int64]  # of each value
    begin: NDArray[np.int64]  # of each group
    count: NDArray[np.int64]

    @property
    def counts(self) -> NDArray[np.int64]:
        """How many values the group of each value has."""
        return self.count[self.group]

    def of_each(self, total: Numbers) -> Numbers:
        """Something of each group, for each value."""
        return total[self.group]

    def quantile(self, share: float) -> Numbers:
        """Of each group, by linear interpolation."""
        place = share * (self.count - 1)
        low = np.floor(place).astype(np.int64)
        a, b = (
            self.value[self.begin + low],
            self.value[self.begin + np.minimum(low + 1, self.count - 1)],
        )
        return np.asarray(a + (b - a) * (place - low))

    @property
    def flat(self) -> NDArray[np.bool_]:
        """Groups without any spread."""
        return np.asarray(self.value[self.begin] == self.value[self.begin + self.count - 1])


# values, and why a group has none
Column = Callable[[_Groups, float], tuple[Numbers, Reasons | None]]


def _ranks(groups: _Groups) -> Numbers:
    """1 for the highest; ties share the mean of their places."""
    changes = np.flatnonzero((np.diff(groups.value) != 0) | (np.diff(groups.group) != 0)) + 1
    first = np.concatenate([[0], changes])
    last = np.concatenate([changes, [len(groups.value)]]) - 1
    middle = np.repeat((first + last) / 2, last - first + 1) - groups.begin[groups.group]
    return np.asarray(groups.counts - middle, np.float64)


def _too_few(groups: _Groups) -> Reasons:
    return np.where(groups.count < 2, np.uint8(Reason.INCOMPLETE), np.uint8(Reason.NONE))


def _too_flat(groups: _Groups, flat: NDArray[np.bool_]) -> Reasons:
    few = _too_few(groups)
    return np.where((few == 0) & flat, np.uint8(Reason.ZERO_DENOMINATOR), few)


def _rank(groups: _Groups, option: float) -> tuple[Numbers, Reasons | None]:
    return _ranks(groups), None


def _percentile(groups: _Groups, option: float) -> tuple[Numbers, Reasons | None]:
    return (groups.counts - _ranks(groups)) / (groups.counts - 1), _too_few(groups)


def _bucket(groups: _Groups, option: float) -> tuple[Numbers, Reasons | None]:
    return 1 + np.floor((_ranks(groups) - 1) * option / groups.counts), None


def _zscore(groups: _Groups, option: float) -> tuple[Numbers, Reasons | None]:
    away = groups.value - groups.of_each(mean_of_groups(groups.value, groups.group, groups.begin))
    spread = np.sqrt(np.add.reduceat(away * away, groups.begin) / (groups.count - 1))
    return away / groups.of_each(spread), _too_flat(groups, groups.flat)


def _winsor(groups: _Groups, option: float) -> tuple[Numbers, Reasons | None]:
    low, high = (groups.of_each(groups.quantile(q)) for q in (option, 1 - option))
    return np.clip(groups.value, low, high), _too_few(groups)


def _rescale(groups: _Groups, option: float) -> tuple[Numbers, Reasons | None]:
    low, high = groups.quantile(0.05), groups.quantile(0.95)
    reason = _too_flat(groups, low == high)
    low, high = groups.of_each(low), groups.of_each(high)
    return np.clip(2 * (groups.value - low) / (high - low) - 1, -1, 1), reason


def _across(
    name: str,
    meaning: str,
    column: Column,
    result: Result = pure,
    call: str = "",
    second: Second = Second.NOTHING,
    highest: float | None = None,
) -> Function:
    def numbers(parts: Sequence[Values], option: float) -> Values:
        groups = parts[1] if len(parts) > 1 else None
        return across(column, parts[0], option, groups, keeps_currency=result is same)

    wants = Wants.ACROSS
    return Function(
        name,
        call or f"{name}(x)",
        meaning,
        numbers,
        wants,
        result=result,
        second=second,
        highest=highest,
    )


def _count(_unit: Unit) -> Unit:
    return NAMED["count"]


ACROSS = (
    _across("rank", "place among the companies, 1 the highest, ties share the mean", _rank, _count),
    _across(
        "percentile",
        "share of the others that are lower, from 0% to 100% for the highest",
        _percentile,
        highest=1.0,
    ),
    _across(
        "bucket",
        "1 … n by equal counts, 1 the highest",
        _bucket,
        _count,
        "bucket(x, n)",
        Second.COUNT,
    ),
    _across("zscore", "distance from the mean in standard deviations", _zscore),
    _across(
        "winsor",
        "x clipped at that quantile of each tail",
        _winsor,
        same,
        "winsor(x, 1%)",
        Second.SHARE,
    ),
    _across("rescale", "x mapped to -1 … 1 between the 5th and the 95th percentile", _rescale),
)


_SMALL = 1 << 16


def numbers_of(groups: Values) -> Values:
    """Groups that are words as numbers: equal where they are."""
    words = groups.value.ravel().tolist()
    number = {word: n for n, word in enumerate(dict.fromkeys(words))}
    place = np.fromiter(map(number.__getitem__, words), np.int64, len(words))
    return replace(groups, value=place.reshape(groups.value.shape))


def across(
    column: Column, x: Values, option: float, groups: Values | None, *, keeps_currency: bool
) -> Values:
    """Apply a function date by date, inside each group if there are groups;
    without a group, `not_known`.
    """
    dates = x.value.shape[1]
    reason = x.reason.copy()
    codes = np.zeros(x.value.shape, np.int64)
    if groups is not None:
        reason[x.there & ~groups.there] = Reason.NOT_KNOWN
        numbered = groups if groups.value.dtype != object else numbers_of(groups)
        codes += numbered.value + np.arange(dates) * (int(numbered.value.max(initial=0)) + 1)
    else:
        codes += np.arange(dates)
    # Amounts of several currencies cannot be ordered without rates (M2).
    reason[(reason == 0) & _mixed_currencies(x)] = Reason.NO_RATE
    value = np.full(x.value.shape, np.nan)
    cells = np.flatnonzero(reason == 0)
    if len(cells):
        numbers, code = x.value.ravel()[cells].astype(np.float64, copy=False), codes.ravel()[cells]
        order = np.argsort(numbers)
        # which are sorted by their digits
        small = code[order].astype(np.uint16 if code.max() < _SMALL else np.int64)
        order = order[np.argsort(small, kind="stable")]
        cells, numbers, code = cells[order], numbers[order], code[order]
        begin = np.flatnonzero(np.concatenate([[True], code[1:] != code[:-1]]))
        count = np.diff(np.append(begin, len(code)))
        made = _Groups(numbers, np.repeat(np.arange(len(begin)), count), begin, count)
        with np.errstate(all="ignore"):
            value.ravel()[cells], why = column(made, option)
        if why is not None:
            reason.ravel()[cells] = why[made.group]
    currency = x.currency if keeps_currency else np.full(x.value.shape, NO_CURRENCY, np.int16)
    return Values(value, reason, x.marks, currency)


def _mixed_currencies(x: Values) -> NDArray[np.bool_]:
    there = x.there
    low = np.where(there, x.currency, np.iinfo(np.int16).max).min(
        axis=0, initial=np.iinfo(np.int16).max
    )
    high = np.where(there, x.currency, np.iinfo(np.int16).min).max(
        axis=0, initial=np.iinfo(np.int16).min
    )
    return np.asarray(there.any(axis=0) & (low != high))
