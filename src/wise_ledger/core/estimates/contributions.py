"""Contributions of analysts, each standing for a stretch of time (E1, E2)."""

from dataclasses import dataclass
from functools import cached_property
from typing import Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.records.limits import LIMITS
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.timelines.keys import make_keys

Whole = NDArray[np.int64]
Numbers = NDArray[np.float64]
# days that a contribution stands, unless another limit is set or asked for
MAX_AGE = LIMITS["estimate_stands"].usual
FOREVER = np.iinfo(np.int64).max
MEASURES = {"eps": "diluted_eps"}  # what people call measures beside the codes of their items
YEAR, QUARTER = 12, 3  # kinds of target periods, by their months


@dataclass(frozen=True, eq=False)
class Actuals:
    """When the figure of each company and period was announced, and what was
    announced: one measure and kind.

    Sorted by key (company and nominal end). `announced` is the instant at which the first figure
    became known. `first` is the figure as first reported, known since `known`; until then it is
    `before` (NaN where nothing was).
    """

    key: Whole
    announced: Whole
    first: Numbers
    currency: NDArray[np.int16]
    known: Whole
    before: Numbers
    currency_before: NDArray[np.int16]

    @classmethod
    def of(cls, key: Whole, at: Whole, value: Numbers, currency: NDArray[np.int16]) -> Self:
        """From versions in any order: the first of each key counts,
        of those of one instant the last one.
        """
        order = np.lexsort((np.arange(len(key)), at, key))
        key, at = key[order], at[order]
        value, currency = value[order], currency[order]
        first = np.ones(len(key), np.bool_)
        first[1:] = key[1:] != key[:-1]
        begin = np.flatnonzero(first)
        of_first = at == np.repeat(at[begin], np.diff(np.append(begin, len(key))))
        rows = _last_of(key, of_first)
        nothing = np.full(len(rows), np.nan), np.full(len(rows), -1, np.int16)
        return cls(key[rows], at[rows], value[rows], currency[rows], at[rows], *nothing)

    @classmethod
    def none(cls) -> Self:
        """Of nothing."""
        empty = np.empty(0, np.int64)
        return cls.of(empty, empty, np.empty(0), np.empty(0, np.int16))

    def rows(self, keys: Whole) -> Whole:
        """The row of each key, -1 where nothing was ever announced."""
        place = np.searchsorted(self.key, keys)
        found = np.append(self.key, -1)[place]
        return np.where((place < len(self.key)) & (found == keys), place, -1)

    def value(self, rows: Whole, cutoffs: Whole) -> tuple[Numbers, NDArray[np.int16]]:
        """What was announced as known at cut-offs, and in which currency."""
        later = self.known[rows] <= cutoffs
        value = np.where(later, self.first[rows], self.before[rows])
        return value, np.where(later, self.currency[rows], self.currency_before[rows])


def _last_of(key: Whole, marked: NDArray[np.bool_]) -> Whole:
    """Of sorted keys the last marked row of each."""
    rows = np.flatnonzero(marked)
    last = np.ones(len(rows), np.bool_)
    last[:-1] = key[rows[1:]] != key[rows[:-1]]
    return rows[last]


def taken_over(own: Actuals, figures: Actuals) -> Actuals:
    """Announced at the first instant at which either is known;
    the value is the own one's once that is known (E1).
    """
    keys = np.union1d(own.key, figures.key)
    a, b = own.rows(keys), figures.rows(keys)

    def at(of: Actuals, rows: Whole) -> Whole:
        return np.append(of.announced, FOREVER)[rows]

    def value(of: Actuals, rows: Whole) -> tuple[Numbers, NDArray[np.int16]]:
        return np.append(of.first, np.nan)[rows], np.append(of.currency, np.int16(-1))[rows]

    mine, theirs = value(own, a), value(figures, b)
    known = np.where(a >= 0, at(own, a), at(figures, b))
    first = np.where(a >= 0, mine[0], theirs[0])
    currency = np.where(a >= 0, mine[1], theirs[1]).astype(np.int16)
    return Actuals(keys, np.minimum(at(own, a), at(figures, b)), first, currency, known, *theirs)


@dataclass(frozen=True, eq=False)
class Contributions:
    """Contributions to one measure and kind of period, sorted by key, contributor and publication.

    A NaN value withdraws. Each stands from `at` until `until`: until the contributor's next, or it
    grows too old, but for ever where the actual came while it stood (E2). Those after the actual
    are left out: they change nothing.
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
        """From rows in order of recording;
        of two of one contributor and instant the later recorded counts.
        """
        order = np.lexsort((np.arange(len(key)), at, contributor, key))
        key, contributor, at = key[order], contributor[order], at[order]
        value, currency = value[order], currency[order]
        again = np.zeros(len(key), np.bool_)
        again[:-1] = (
            (key[1:] == key[:-1]) & (contributor[1:] == contributor[:-1]) & (at[1:] == at[:-1])
        )
        rows = actuals.rows(key)
        announced = (
            np.where(rows >= 0, actuals.announced[rows], FOREVER)
            if len(actuals.key)
            else np.full(len(key), FOREVER)
        )
        keep = ~again & (at < counted_until(announced))
        key, contributor, at = key[keep], contributor[keep], at[keep]
        value, currency, announced = value[keep], currency[keep], announced[keep]
        following = np.full(len(key), FOREVER)
        same = (key[1:] == key[:-1]) & (contributor[1:] == contributor[:-1])
        following[:-1] = np.where(same, at[1:], FOREVER)
        until = np.minimum(following, too_old_from(at, max_age))
        return cls(
            key, contributor, at, value, currency, np.where(announced < until, FOREVER, until)
        )

    def __len__(self) -> int:
        return len(self.key)

    @cached_property
    def rank(self) -> Whole:
        """The place of each value among all of them."""
        out = np.empty(len(self), np.int64)
        out[np.argsort(self.value, kind="stable")] = np.arange(len(self))
        return out

    def standing(self, keys: Whole, instants: Whole) -> tuple[Whole, Whole]:
        """What stands for each target at its instant: the number of the
        target, ascending, and the row.

        Row by row it is found from which to which of its targets' instants it stands, so that
        nothing is looked at that does not.
        """
        moments, when = np.unique(instants, return_inverse=True)
        targets, which = np.unique(keys, return_inverse=True)
        width = len(moments) + 1
        places = which * width + when
        order = np.argsort(places, kind="stable")
        places = places[order]
        own = np.searchsorted(targets, self.key)
        there = np.flatnonzero(np.append(targets, -1)[own] == self.key)
        row = there[~np.isnan(self.value[there])]
        base = own[row] * width
        low = np.searchsorted(places, base + np.searchsorted(moments, self.at[row], "left"), "left")
        high = np.searchsorted(
            places, base + np.searchsorted(moments, self.until[row], "left"), "left"
        )
        count = np.maximum(high - low, 0)
        cell = order[np.repeat(low - (np.cumsum(count) - count), count) + np.arange(count.sum())]
        rows = np.repeat(row, count)
        by_cell = np.argsort(cell, kind="stable")
        return cell[by_cell], rows[by_cell]


def counted_until(announced: Whole) -> Whole:
    """From when on contributions change nothing; where the actual has only a date,
    all that day came after it (E2).
    """
    return np.asarray(np.where(announced % DAY == DAY - 1, announced - (DAY - 1), announced))


def too_old_from(at: Whole, max_age: int) -> Whole:
    """From when on contributions published at instants are too old."""
    return np.asarray((at // DAY + max_age + 1) * DAY)


def target(company: Whole, end: Whole) -> Whole:
    """The key of a company's period by its nominal end."""
    return np.asarray(make_keys(company, end.astype(np.int32)), np.int64)
