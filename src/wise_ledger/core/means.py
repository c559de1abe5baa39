"""The mean of values that may be missing, reckoned so that of equal ones it is their value to the
last bit: what is reckoned from it (a spread, a distance) is then 0 and not a rounding error.
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray

Numbers = NDArray[np.float64]


def mean(values: Numbers, axis: int = 0) -> Numbers:
    """The mean along an axis of those that are there; NaN where none is.

    >>> mean(np.array([0.1, 0.1, np.nan, 0.1])).item()
    0.1
    """
    there = ~np.isnan(values)
    with np.errstate(all="ignore"):
        least = np.fmin.reduce(values, axis=axis, keepdims=True)
        above = np.where(there, values - least, 0.0).sum(axis=axis)
        return np.asarray(np.squeeze(least, axis) + above / there.sum(axis=axis))


def of_groups(values: Numbers, group: NDArray[Any], begin: NDArray[Any]) -> Numbers:
    """The mean of each group: of each value its `group`, of each group where it begins.

    No group is empty, and they stand one behind the other.
    """
    least = np.minimum.reduceat(values, begin)
    above = np.add.reduceat(values - least[group], begin)
    return np.asarray(least + above / np.diff(begin, append=len(values)))
