"""Functions over all companies of the list at one date; a missing value keeps its reason and does not count."""

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.language.functions.function import Function, Result, Second, Wants, pure, same
from wise_ledger.core.language.units import NAMED, Unit
from wise_ledger.core.money.currencies import NO_CURRENCY

Numbers = NDArray[np.float64]
Column = Callable[[Numbers, float], Numbers]


class _Undefined(Exception):
    def __init__(self, reason: Reason) -> None:
        self.reason = reason


def _rank(x: Numbers, option: float) -> Numbers:
    """1 for the highest; ties share the mean of their places."""
    _, place, count = np.unique(-x, return_inverse=True, return_counts=True)
    last = np.cumsum(count)
    return np.asarray((last - (count - 1) / 2)[place], np.float64)


def _percentile(x: Numbers, option: float) -> Numbers:
    if len(x) < 2:
        raise _Undefined(Reason.INCOMPLETE)
    return np.asarray((len(x) - _rank(x, 0)) / (len(x) - 1))


def _bucket(x: Numbers, option: float) -> Numbers:
    return np.asarray(1 + np.floor((_rank(x, 0) - 1) * option / len(x)))


def _zscore(x: Numbers, option: float) -> Numbers:
    if len(x) < 2:
        raise _Undefined(Reason.INCOMPLETE)
    spread = x.std(ddof=1)
    if spread == 0:
        raise _Undefined(Reason.ZERO_DENOMINATOR)
    return np.asarray((x - x.mean()) / spread)


def _winsor(x: Numbers, option: float) -> Numbers:
    if len(x) < 2:
        raise _Undefined(Reason.INCOMPLETE)
    low, high = np.quantile(x, [option, 1 - option])
    return np.asarray(np.clip(x, low, high))


def _rescale(x: Numbers, option: float) -> Numbers:
    if len(x) < 2:
        raise _Undefined(Reason.INCOMPLETE)
    low, high = np.quantile(x, [0.05, 0.95])
    if low == high:
        raise _Undefined(Reason.ZERO_DENOMINATOR)
    return np.asarray(np.clip(2 * (x - low) / (high - low) - 1, -1, 1))


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
    return Function(name, call or f"{name}(x)", meaning, numbers, wants, result=result, second=second, highest=highest)


def _count(_unit: Unit) -> Unit:
    return NAMED["count"]


ACROSS = (
    _across("rank", "place among the companies, 1 the highest, ties share the mean", _rank, _count),
    _across(
        "percentile", "share of the others that are lower, from 0% to 100% for the highest", _percentile, highest=1.0
    ),
    _across("bucket", "1 … n by equal counts, 1 the highest", _bucket, _count, "bucket(x, n)", Second.COUNT),
    _across("zscore", "distance from the mean in standard deviations", _zscore),
    _across("winsor", "x clipped at that quantile of each tail", _winsor, same, "winsor(x, 1%)", Second.SHARE),
    _across("rescale", "x mapped to -1 … 1 between the 5th and the 95th percentile", _rescale),
)


def across(column: Column, x: Values, option: float, groups: Values | None, *, keeps_currency: bool) -> Values:
    """Apply a function date by date, inside each group if there are groups; without a group, `not_known`."""
    value = np.full(x.value.shape, np.nan)
    reason = x.reason.copy()
    clash = _mixed_currencies(x)
    for date in range(x.value.shape[1]):
        if groups is None:
            members = [x.there[:, date]]
        else:
            known = groups.there[:, date]
            reason[~known & x.there[:, date], date] = Reason.NOT_KNOWN
            members = [
                x.there[:, date] & known & (groups.value[:, date] == g)
                for g in np.unique(groups.value[known, date].astype(str))
            ]
        for rows in members:
            if not rows.any():
                continue
            if clash[date]:  # amounts of several currencies cannot be ordered without rates (M2)
                reason[rows, date] = Reason.NO_RATE
                continue
            try:
                value[rows, date] = column(x.value[rows, date].astype(np.float64), option)
            except _Undefined as undefined:
                reason[rows, date] = undefined.reason
    currency = x.currency if keeps_currency else np.full(x.value.shape, NO_CURRENCY, np.int16)
    return Values(value, reason, x.marks, currency)


def _mixed_currencies(x: Values) -> NDArray[np.bool_]:
    low = np.where(x.there, x.currency, np.iinfo(np.int16).max).min(axis=0, initial=np.iinfo(np.int16).max)
    high = np.where(x.there, x.currency, np.iinfo(np.int16).min).max(axis=0, initial=np.iinfo(np.int16).min)
    return np.asarray(x.there.any(axis=0) & (low != high))
