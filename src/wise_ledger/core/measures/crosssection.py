"""Functions over all companies of the list at one date; a missing value keeps its reason and does not count."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.facts.columns import NO_CURRENCY
from wise_ledger.core.facts.reasons import Reason
from wise_ledger.core.facts.values import Values

Numbers = NDArray[np.float64]


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
    return np.asarray(100 * (len(x) - _rank(x, 0)) / (len(x) - 1))


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


FUNCTIONS: dict[str, Callable[[Numbers, float], Numbers]] = {
    "rank": _rank,
    "percentile": _percentile,
    "bucket": _bucket,
    "zscore": _zscore,
    "winsor": _winsor,
    "rescale": _rescale,
}


def cross_section(name: str, x: Values, option: float, groups: Values | None) -> Values:
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
                value[rows, date] = FUNCTIONS[name](x.value[rows, date].astype(np.float64), option)
            except _Undefined as undefined:
                reason[rows, date] = undefined.reason
    currency = x.currency if name == "winsor" else np.full(x.value.shape, NO_CURRENCY, np.int16)
    return Values(value, reason, x.marks, currency)


def _mixed_currencies(x: Values) -> NDArray[np.bool_]:
    low = np.where(x.there, x.currency, np.iinfo(np.int16).max).min(axis=0, initial=np.iinfo(np.int16).max)
    high = np.where(x.there, x.currency, np.iinfo(np.int16).min).max(axis=0, initial=np.iinfo(np.int16).min)
    return np.asarray(x.there.any(axis=0) & (low != high))
