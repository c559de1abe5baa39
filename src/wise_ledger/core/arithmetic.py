"""Sums, products, quotients and means as they come out on paper: what is left of rounding in halves
is not seen in them.

Figures are decimals, and floats are not: 1.63 - 1.20 is 0.42999999999999994, and a rule that asks
for 0.43 would fail. A sum of decimals is a decimal; where one of few places is no further than
rounding alone can have led, that is the result. Of equal values the mean is their value
to the last bit, so that what is reckoned from it (a spread, a distance) is 0 and no rounding error.
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray

Numbers = NDArray[np.float64]

_ROUNDING = 2 * np.finfo(np.float64).eps
# How many places a sum is looked at with, by the size of what was added: fifteen digits in all.
_SIZES = np.array([1e5, 1e8, 1e11])
_PLACES = np.array([1e9, 1e6, 1e3, 1.0])


def added(a: Any, b: Any) -> Numbers:
    """The sum of decimals.

    >>> added(0.1, 0.2).item(), added(1.63, -1.2).item()
    (0.3, 0.43)
    """
    with np.errstate(all="ignore"):
        return decimal(np.add(a, b), np.abs(a) + np.abs(b))


def subtracted(a: Any, b: Any) -> Numbers:
    """The difference of decimals, as `added` of a sum."""
    return added(a, np.negative(b))


def multiplied(a: Any, b: Any) -> Numbers:
    """The product of decimals.

    >>> multiplied(3, 0.1).item()
    0.3
    """
    with np.errstate(all="ignore"):
        product = np.multiply(a, b)
        return decimal(product, np.abs(product))


def quotient(a: Any, b: Any) -> Numbers:
    """One decimal over another, where that is a decimal of few places; by 0 it is not finite.

    >>> quotient(0.22, 1.1).item(), quotient(1, 3).item() == 1 / 3
    (0.2, True)
    """
    with np.errstate(all="ignore"):
        found = np.true_divide(a, b)
        return decimal(found, np.abs(found))


def decimal(total: Any, size: Any, terms: int = 2) -> Numbers:
    """A sum of so many terms, whose magnitudes add up to `size`: the decimal that it is within
    what rounding may have led astray, else as it is.
    """
    out = np.asarray(total, np.float64)
    with np.errstate(all="ignore"):
        odd = (out != np.rint(out)) & np.isfinite(out)
        if not odd.any():
            return out
        value, size = out[odd], np.broadcast_to(size, out.shape)[odd]
        places = _PLACES[np.searchsorted(_SIZES, size)]
        near = np.rint(value * places) / places
        out = out.copy()
        out[odd] = np.where(np.abs(near - value) <= terms * _ROUNDING * size, near, value)
    return out


def mean(values: Numbers, axis: int = 0) -> Numbers:
    """The mean along an axis of those that are there; NaN where none is.

    >>> mean(np.array([0.1, 0.1, np.nan, 0.1])).item()
    0.1
    """
    there = ~np.isnan(values)
    with np.errstate(all="ignore"):
        least = np.fmin.reduce(values, axis=axis, keepdims=True)
        above = np.where(there, values - least, 0.0).sum(axis=axis)
        return added(np.squeeze(least, axis), above / there.sum(axis=axis))


def mean_of_groups(values: Numbers, group: NDArray[Any], begin: NDArray[Any]) -> Numbers:
    """The mean of each group: of each value its `group`, of each group where it begins.

    No group is empty, and they stand one behind the other.
    """
    least = np.minimum.reduceat(values, begin)
    above = np.add.reduceat(values - least[group], begin)
    return added(least, above / np.diff(begin, append=len(values)))
