"""Contributions of analysts, each standing for a stretch of time (E1, E2)."""

from dataclasses import dataclass
from typing import Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.time.instants import DAY
from wise_ledger.core.timelines.keys import make_keys

Whole = NDArray[np.int64]
Numbers = NDArray[np.float64]
MAX_AGE = 120  # days that a contribution stands, unless another limit is asked for
FOREVER = np.iinfo(np.int64).max
YEAR, QUARTER = 12, 3  # kinds of target periods, by their months


@dataclass(frozen=True, eq=False)
class Actuals:
    """When the figure of each company and period was announced, and what was announced: one measure and kind.

    Sorted by key (company and nominal end). `announced` is the instant at which the first figure became known, `first`
    that figure as it was then reported, NaN where it was withdrawn before it had one.
    """

    key: Whole
    announced: Whole
    first: Numbers
    currency: NDArray[np.int16]

    @classmethod
    def of(cls, key: Whole, at: Whole, value: Numbers, currency: NDArray[np.int16]) -> Self:
        """From versions in any order; of those of one instant the last one counts."""
        order = np.lexsort((np.arange(len(key)), at, key))
        key, at = key[order], at[order]
        value, currency = value[order], currency[order]
        first = np.ones(len(key), np.bool_)
        first[1:] = key[1:] != key[:-1]
        begin = np.flatnonzero(first)
        # Of versions of the first instant the last one.
        same = at == np.repeat(at[begin], np.diff(np.append(begin, len(key))))
        last = np.zeros(len(key), np.bool_)
        last[:-1] = same[:-1] & ((key[1:] != key[:-1]) | (at[1:] != at[:-1]))
        if len(key):
            last[-1] = same[-1]
        rows = np.flatnonzero(last)
        return cls(key[rows], at[rows], value[rows], currency[rows])

    @classmethod
    def none(cls) -> Self:
        """Of nothing."""
        return cls(np.empty(0, np.int64), np.empty(0, np.int64), np.empty(0), np.empty(0, np.int16))

    def rows(self, keys: Whole) -> Whole:
        """The row of each key, -1 where nothing was ever announced."""
        place = np.searchsorted(self.key, keys)
        found = np.minimum(place, max(len(self.key) - 1, 0))
        there = (place < len(self.key)) & (self.key[found] == keys) if len(self.key) else np.zeros(keys.shape, np.bool_)
        return np.where(there, found, -1)


def taken_over(first: Actuals, other: Actuals) -> Actuals:
    """Announced at the first instant at which either is known; the value is the first one's where it has any (E1)."""
    keys = np.union1d(first.key, other.key)
    if not len(keys):
        return first
    a, b = first.rows(keys), other.rows(keys)

    def column(name: str, empty: float) -> NDArray[np.generic]:
        mine, theirs = getattr(first, name), getattr(other, name)
        own = mine[np.maximum(a, 0)] if len(mine) else np.full(len(keys), empty)
        others = theirs[np.maximum(b, 0)] if len(theirs) else np.full(len(keys), empty)
        return np.where(a >= 0, own, others)

    at = np.minimum(
        np.where(a >= 0, first.announced[np.maximum(a, 0)] if len(first.key) else FOREVER, FOREVER),
        np.where(b >= 0, other.announced[np.maximum(b, 0)] if len(other.key) else FOREVER, FOREVER),
    )
    value, currency = column("first", np.nan), column("currency", -1)
    return Actuals(keys, at.astype(np.int64), value.astype(np.float64), currency.astype(np.int16))


@dataclass(frozen=True, eq=False)
class Contributions:
    """Contributions to one measure and kind of period, sorted by key, contributor and publication.

    A NaN value withdraws. Each stands from `at` until `until`: until the contributor's next, or it grows too old, but
    for ever where the actual came while it stood (E2). Those after the actual are left out: they change nothing.
    """

    key: Whole  # company and nominal end
    contributor: Whole
    at: Whole
    value: Numbers
    currency: NDArray[np.int16]
    until: Whole

    @classmethod
    def of(
        cls,
        key: Whole,
        contributor: Whole,
        at: Whole,
        value: Numbers,
        currency: NDArray[np.int16],
        actuals: Actuals,
        max_age: int = MAX_AGE,
    ) -> Self:
        """From rows in order of recording; of two of one contributor and instant the later recorded counts."""
        order = np.lexsort((np.arange(len(key)), at, contributor, key))
        key, contributor, at = key[order], contributor[order], at[order]
        value, currency = value[order], currency[order]
        again = np.zeros(len(key), np.bool_)
        again[:-1] = (key[1:] == key[:-1]) & (contributor[1:] == contributor[:-1]) & (at[1:] == at[:-1])
        rows = actuals.rows(key)
        announced = (
            np.where(rows >= 0, actuals.announced[rows], FOREVER) if len(actuals.key) else np.full(len(key), FOREVER)
        )
        # Where the actual has only a date, what was published on that day came after it as well.
        whole_day = announced % DAY == DAY - 1
        counted = np.where(whole_day, announced - (DAY - 1), announced)
        keep = ~again & (at < counted)
        key, contributor, at = key[keep], contributor[keep], at[keep]
        value, currency, announced = value[keep], currency[keep], announced[keep]
        following = np.full(len(key), FOREVER)
        same = (key[1:] == key[:-1]) & (contributor[1:] == contributor[:-1])
        following[:-1] = np.where(same, at[1:], FOREVER)
        too_old = (at // DAY + max_age + 1) * DAY
        until = np.minimum(following, too_old)
        return cls(key, contributor, at, value, currency, np.where(announced < until, FOREVER, until))

    def __len__(self) -> int:
        return len(self.key)

    def candidates(self, keys: Whole) -> tuple[Whole, Whole]:
        """Every row of each target: which of the targets it is of, and the row."""
        low, high = np.searchsorted(self.key, keys, "left"), np.searchsorted(self.key, keys, "right")
        count = high - low
        rows = np.repeat(low - (np.cumsum(count) - count), count) + np.arange(count.sum())
        return np.repeat(np.arange(len(keys)), count), rows


def target(company: Whole, end: Whole) -> Whole:
    """The key of a company's period by its nominal end."""
    return np.asarray(make_keys(company, end.astype(np.int32)), np.int64)
