"""Daily prices of listings, each known since its own instant:
the last one on or before a day, as of a cut-off (M4).
"""

from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.dated.series import DatedSeries, Steps
from wise_ledger.core.dated.versions import Version, standing
from wise_ledger.core.market.factors import places
from wise_ledger.core.records.columns import UNSAID, RecordColumns

OLDEST = 10  # days that a last price may be old
_LONG_AGO = 200_000  # days, before any price
_TABLE = 60_000_000  # entries of the table of slots by day at the most
Whole = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Last:
    """Last prices, all of one shape: the row and slot of each, -1 where there is none, and why."""

    row: Whole
    slot: Whole
    reason: NDArray[np.uint8]


@dataclass(frozen=True, eq=False)
class Prices:
    """The prices of all listings.

    A *slot* is a listing and a day that has a price. `rows` are sorted by slot; `key` has one entry
    a slot, `first` its first row. What a slot says at an instant is one of its rows, the *standing*
    one: of the first source that has it by then (T5) the newest (`versions.standing`); `at` and
    `row` have one entry for each time that this changed, those of a slot together, beginning at
    `begin`.
    """

    rows: RecordColumns
    key: Whole
    begin: Whole
    at: Whole
    row: Whole

    @classmethod
    def of(cls, rows: RecordColumns, ranks: NDArray[np.int16] | None = None) -> Self:
        """From rows sorted by listing, day and order of recording;
        `ranks` is the place of each row's source (T5).
        """
        every = places(rows[rows.kind.subjects[0].name], rows[rows.kind.day])
        new = np.ones(len(rows), np.bool_)
        new[1:] = every[1:] != every[:-1]
        known = rows["known_at"]
        if new.all():
            number = np.arange(len(rows) + 1)
            return cls(rows, every, number, known, number[:-1])
        first = np.flatnonzero(new)
        slot = np.cumsum(new) - 1
        several = np.flatnonzero(np.diff(np.append(first, len(rows)))[slot] > 1)
        rank = (
            np.zeros(len(several), np.int64) if ranks is None else ranks[several].astype(np.int64)
        )
        single = np.setdiff1d(np.arange(len(rows)), several, assume_unique=True)
        said = rows[rows.kind.instant][several] != UNSAID
        steps = _steps(slot[several], rank, known[several], said)
        of_slot = np.concatenate([slot[single], steps.entity])
        at = np.concatenate([known[single], steps.at])
        row = np.concatenate([single, several[steps.row]])
        order = np.lexsort((at, of_slot))
        begin = np.searchsorted(of_slot[order], np.arange(len(first) + 1))
        return cls(rows, every[first], begin, at[order], row[order])

    def __len__(self) -> int:
        return len(self.key)

    @cached_property
    def _most(self) -> int:
        """The most times that what a slot says changed, its first included."""
        return int(np.diff(self.begin).max()) if len(self) else 0

    @cached_property
    def listing(self) -> Whole:
        """The listing of each slot."""
        return np.asarray(self.key >> 32)

    @cached_property
    def day(self) -> Whole:
        """The day of each slot."""
        return np.asarray((self.key & 0xFFFFFFFF) - (1 << 31), np.int64)

    def column(self, name: str) -> NDArray[np.float64]:
        """A field, one entry a row of `rows`."""
        return self.rows[name]

    def read(self, name: str, rows: Whole) -> NDArray[np.float64]:
        """A field of some rows, NaN where there is none (-1)."""
        column = self.rows[name]
        return (
            np.where(rows >= 0, column[np.maximum(rows, 0)], np.nan)
            if len(column)
            else np.full(rows.shape, np.nan)
        )

    def slots(self, listings: Whole, days: Whole) -> Whole:
        """The last slot of each listing on or before a day, -1 where there is none."""
        if self._by_day is not None:
            first, table = self._by_day
            outside = len(table) - 1  # a row of nothing
            listed = np.where((listings >= 0) & (listings < outside), listings, outside)
            return np.asarray(table[listed, np.clip(days - first + 1, 0, table.shape[1] - 1)])
        place = np.searchsorted(self.key, places(listings, days), "right") - 1
        found = np.maximum(place, 0)
        own = (
            (place >= 0) & (self.key[found] >> 32 == listings)
            if len(self)
            else np.zeros(place.shape, np.bool_)
        )
        return np.where(own, place, -1)

    @cached_property
    def _by_day(self) -> tuple[int, NDArray[np.int32]] | None:
        """The last slot of every listing on or before every day,
        while that is no large table; the day it begins.
        """
        if not len(self):
            return None
        first, last, listings = (
            int(self.day.min()),
            int(self.day.max()),
            int(self.listing.max()) + 1,
        )
        if listings * (last - first + 2) > _TABLE or self.listing.min() < 0:
            return None
        table = np.full((listings + 1, last - first + 2), -1, np.int32)
        table[self.listing, self.day - first + 1] = np.arange(len(self), dtype=np.int32)
        return first, np.maximum.accumulate(table, axis=1, out=table)

    def standing(self, slots: Whole, cutoffs: Whole) -> Whole:
        """What each slot says at a cut-off: a row, -1 where it says nothing yet."""
        if not len(self):
            return np.full(slots.shape, -1, np.int64)
        there = np.maximum(slots, 0)
        if len(self.rows) == len(self):  # each slot has one row, of its own number
            return np.where((slots >= 0) & (self.at[there] <= cutoffs), slots, -1)
        begin = self.begin[there]
        out = np.where((slots >= 0) & (self.at[begin] <= cutoffs), self.row[begin], -1)
        for n in range(1, self._most):
            more = (slots >= 0) & (begin + n < self.begin[there + 1])
            place = np.where(more, begin + n, 0)
            out = np.where(more & (self.at[place] <= cutoffs), self.row[place], out)
        return out

    def last(self, listings: Whole, days: Whole, cutoffs: Whole) -> "Last":
        """The last price of each listing on or before a day as known at a
        cut-off, and why there is none.

        All three are of one shape. Before the first price `not_known`, older than ten days `stale`.
        """
        slots = self.slots(listings, days).astype(np.int64)
        there = slots >= 0
        if len(self):
            there &= days - self.day[slots] <= OLDEST
        rows = np.where(there, self.standing(slots, cutoffs), -1)
        waiting = np.nonzero(there & (rows < 0))
        while len(waiting[0]):  # one that came late is passed over until it is known
            slots[waiting] -= 1
            at = slots[waiting]
            near = at >= 0
            near[near] &= (self.listing[at] == listings[waiting])[near]
            near[near] &= (days[waiting] - self.day[at] <= OLDEST)[near]
            rows[waiting] = np.where(near, self.standing(at, cutoffs[waiting]), -1)
            still = near & (rows[waiting] < 0)
            waiting = tuple(w[still] for w in waiting)
        reason = np.zeros(rows.shape, np.uint8)
        if len((missing := np.nonzero(rows < 0))[0]):
            reason[missing] = self._why(listings[missing], days[missing], cutoffs[missing])
        return Last(rows, np.where(rows >= 0, slots, -1), reason)

    def _why(self, listings: Whole, days: Whole, cutoffs: Whole) -> NDArray[np.uint8]:
        """Why there is no price: `stale` where an older one is known."""
        oldest = self.slots(listings, days - OLDEST - 1)
        known = np.zeros(len(oldest), np.bool_)
        if len(self):
            known = (oldest >= 0) & (self._known_since[oldest] <= cutoffs)
        return np.where(known, Reason.STALE, Reason.NOT_KNOWN).astype(np.uint8)

    @cached_property
    def _known_since(self) -> Whole:
        """Of each slot: since when it or any earlier one of its listing is known."""
        out = self.at[self.begin[:-1]].copy()
        for begin, end in self._bounds:
            out[begin:end] = np.minimum.accumulate(out[begin:end])
        return out

    def within(self, listing: int, first: int, last: int) -> Whole:
        """The slots of a listing from a day to a day, both included."""
        one = np.array([listing], np.int64)
        low = np.searchsorted(self.key, places(one, np.array([first])), "left")[0]
        high = np.searchsorted(self.key, places(one, np.array([last])), "right")[0]
        return np.arange(low, high)

    @cached_property
    def _since(self) -> Whole:
        """When each slot was first known to say anything."""
        return self.at[self.begin[:-1]]

    def first_known(self, listings: Whole, cutoff: int) -> list[int | None]:
        """The first day of which each listing has a price known at a cut-off."""
        low, high = (
            np.searchsorted(self.listing, listings),
            np.searchsorted(self.listing, listings + 1),
        )
        since = self._since
        out: list[int | None] = []
        for begin, end in zip(low.tolist(), high.tolist(), strict=True):
            if begin < end and since[begin] <= cutoff:  # nearly always
                out.append(int(self.day[begin]))
                continue
            known = np.flatnonzero(since[begin:end] <= cutoff)
            out.append(int(self.day[begin + known[0]]) if len(known) else None)
        return out

    @cached_property
    def settled(self) -> NDArray[np.bool_]:
        """Slots that say one thing only,
        and are known no later than any slot of their listing after them.

        Whoever sees a later price sees these as well, and always the same.
        """
        since = self._since
        later = np.full(len(self), np.iinfo(np.int64).max)
        for begin, end in self._bounds:
            later[begin : end - 1] = np.minimum.accumulate(since[begin + 1 : end][::-1])[::-1]
        return np.asarray((np.diff(self.begin) == 1) & (since <= later))

    @cached_property
    def unsettled_before(self) -> Whole:
        """How many slots before each are not settled; one entry more than there are slots."""
        return np.concatenate([[0], np.cumsum(~self.settled)])

    @cached_property
    def settled_listings(self) -> NDArray[np.bool_]:
        """By listing: whether all of its slots are settled; at last, of one
        without any, that they are.
        """
        out = np.ones(int(self.listing.max(initial=-1)) + 2, np.bool_)
        out[self.listing[~self.settled]] = False
        return out

    @cached_property
    def _bounds(self) -> list[tuple[int, int]]:
        """The first slot of each listing, and the one after its last."""
        edges = (
            np.flatnonzero(np.r_[True, self.listing[1:] != self.listing[:-1], True]).tolist()
            if len(self)
            else []
        )
        return list(pairwise(edges))


def _steps(slot: Whole, rank: Whole, known: Whole, said: NDArray[np.bool_]) -> Steps:
    """What `versions.standing` says of each slot, of all at once where that is plain.

    Rows are sorted by slot and order of recording; `said` marks those with an instant of their own.
    """
    order = np.lexsort((slot, rank))  # the rows of a slot from one source together, as recorded
    new = np.ones(len(order), np.bool_)
    new[1:] = (slot[order][1:] != slot[order][:-1]) | (rank[order][1:] != rank[order][:-1])
    group = np.cumsum(new) - 1
    says, since = said[order], known[order]
    groups = int(group[-1]) + 1 if len(group) else 0
    # Where a row that says no instant comes after another, it is the newest by what is known
    # as long as rows come in the order in which they became known.
    mixed, unordered = np.zeros(groups, np.bool_), np.zeros(groups, np.bool_)
    mixed[group[1:][~new[1:] & ~says[1:]]] = True
    unordered[group[1:][~new[1:] & (since[1:] < since[:-1])]] = True
    apart = mixed & unordered
    # Where it comes first, it is replaced by one that became known no later than itself.
    first_said = np.full(groups, np.iinfo(np.int64).max)
    np.minimum.at(first_said, group[says], since[says])
    kept = says | mixed[group] | (since < first_said[group])
    by_hand = np.isin(slot[order], slot[order][apart[group]])
    plain = np.sort(order[kept & ~by_hand])
    # The better the rank of a source, the later its "date": the first
    # source that has the day is read.
    steps = DatedSeries(slot[plain], -rank[plain] - _LONG_AGO, known[plain]).steps
    found = [(steps.entity, steps.at, plain[steps.row])]
    for one in np.unique(slot[order][by_hand]).tolist():
        own = np.flatnonzero(slot == one)
        given = [
            Version(int(rank[n]), int(known[n]), int(known[n]) if said[n] else None) for n in own
        ]
        each = standing(given)
        found.append(
            (
                np.full(len(each), one),
                np.array([s.since for s in each]),
                own[[s.row for s in each]],
            )
        )
    return Steps(*(np.concatenate(column) for column in zip(*found, strict=True)))
