"""Factors that act on a day: splits on what was stated before them,
dividends on what is held over them.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.dated.versions import NEVER
from wise_ledger.core.time.instants import DAY

_LIFT = 32  # bits for the day


@dataclass(frozen=True)
class Factor:
    """On `day` what is owned by `owner` is multiplied by `factor`;
    known from an instant until another replaced it.
    """

    owner: int
    day: int
    factor: float
    known: int
    until: int = NEVER


def places(owners: NDArray[np.int64], days: NDArray[np.int64]) -> NDArray[np.int64]:
    """One number for an owner and a day, ascending with both; days may lie before 1970."""
    return (owners.astype(np.int64) << _LIFT) + (days.astype(np.int64) + (1 << _LIFT - 1))


@dataclass(frozen=True, eq=False)
class Factors:
    """Factors of many owners.

    Those known by their day for good are reckoned at once; the few others one by one.
    """

    key: NDArray[np.int64]  # owner and day, ascending
    running: NDArray[np.float64]  # the product of its owner's factors up to each, itself included
    late: tuple[Factor, ...]

    @classmethod
    def of(cls, factors: Iterable[Factor]) -> Self:
        """From factors in any order."""
        given = list(factors)
        late = tuple(f for f in given if f.known > f.day * DAY or f.until != NEVER)
        timely = sorted(
            (f for f in given if f.known <= f.day * DAY and f.until == NEVER),
            key=lambda f: (f.owner, f.day),
        )
        running = np.array([f.factor for f in timely], np.float64)
        owners = np.array([f.owner for f in timely], np.int64)
        edges = (
            np.flatnonzero(np.r_[True, owners[1:] != owners[:-1], True]).tolist() if timely else []
        )
        for begin, end in pairwise(edges):
            running[begin:end] = np.cumprod(running[begin:end])
        return cls(places(owners, np.array([f.day for f in timely], np.int64)), running, late)

    @cached_property
    def late_owners(self) -> frozenset[int]:
        """Owners with a factor that was known late, or replaced."""
        return frozenset(f.owner for f in self.late)

    def between(
        self,
        owners: NDArray[np.int64],
        after: NDArray[np.int64],
        upto: NDArray[np.int64],
        cutoffs: NDArray[np.int64],
    ) -> NDArray[np.float64]:
        """The product of each owner's factors later than the day `after`, up
        to the day `upto`, as known at a cut-off.

        All are of one shape, which is that of the result.
        """
        if not len(self.key) and not self.late:
            return np.ones(owners.shape)
        out = self.upto(owners, upto) / self.upto(owners, after)
        for factor in self.late:
            own = (owners == factor.owner) & (after < factor.day) & (factor.day <= upto)
            own &= (factor.known <= cutoffs) & (cutoffs < factor.until)
            out[own] *= factor.factor
        return np.where(upto < after, 1.0, out)

    def upto(self, owners: NDArray[np.int64], days: NDArray[np.int64]) -> NDArray[np.float64]:
        """The product of each owner's factors up to a day, but for those known late."""
        if not len(self.key):
            return np.ones(owners.shape)
        place = np.searchsorted(self.key, places(owners, days), "right") - 1
        found = np.maximum(place, 0)
        own = (place >= 0) & (self.key[found] >> _LIFT == owners)
        return np.where(own, self.running[found], 1.0)
