"""Reading timelines as of cut-offs: the newest period each company stands at,
and single periods (T3, F11).

The panel read works on events, not on dates: it turns the instants of the moves into slots of the
cut-offs, scatters their numbers and carries the newest along the dates. Cost is linear in moves
plus companies x cut-offs.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.timelines.keys import (
    Instants,
    Keys,
    Rows,
    State,
    company_starts,
    group_starts,
    key_end,
)
from wise_ledger.core.timelines.moves import Moves
from wise_ledger.core.timelines.timeline import Timeline


def newest(timeline: Timeline, companies: int, cutoffs: Instants) -> Rows:
    """The row of the greatest nominal end that is there, for each company and ascending cut-off.

    Shape (companies, cut-offs); -1 where none. A withdrawn end counts as there, since it hides
    older ones (F11): the caller reads `state` of the row.
    """
    return newest_row(timeline.moves, timeline.key, companies, cutoffs)


def newest_row(moves: Moves, key: Keys, companies: int, cutoffs: Instants) -> Rows:
    """`newest` from moves that were worked out already;
    `key` are those of the rows that they lead to.
    """
    place = moves.newest(companies, cutoffs)
    own = np.append(moves.row, -1)[place]  # place -1, nothing known, reads the last
    first = company_starts(key, np.arange(companies))
    return np.where(own < 0, -1, own + first[:, None])


def standing(timeline: Timeline, keys: Keys, cutoffs: Instants) -> Rows:
    """The row of each key that stands at the cut-off beside it;
    -1 where nothing is known by then.
    """
    if not len(keys):
        return np.empty(0, np.int64)
    # The same key is asked for at many cut-offs, one after the other: each run is looked for once.
    first = group_starts(keys)
    runs, run = keys[first], np.cumsum(first) - 1
    low = np.searchsorted(timeline.key, runs, "left")[run]
    high = np.searchsorted(timeline.key, runs, "right")[run]
    return last_known(timeline.at, low, high, cutoffs)


def newest_each(moves: Moves, key: Keys, company: Rows, at: Instants) -> Rows:
    """`newest_row` of each company at the instant beside it; companies in runs."""
    if not len(company):
        return np.empty(0, np.int64)
    begins = group_starts(company)
    runs, run = company[begins], np.cumsum(begins) - 1
    low = np.searchsorted(moves.company, runs, "left")[run]
    high = np.searchsorted(moves.company, runs, "right")[run]
    own = np.append(moves.row, -1)[last_known(moves.at, low, high, at)]
    return np.where(own < 0, -1, own + company_starts(key, runs)[run])


def last_known(at: Instants, low: Rows, high: Rows, cutoffs: Instants) -> Rows:
    """Of rows from `low` up to `high`, ascending in `at`, the last one known
    at the cut-off; -1 where none is.
    """
    begin, low, high = low, low.copy(), high.copy()
    open_ = np.flatnonzero(low < high)
    while len(open_):  # bisect, all at once
        lows, highs = low[open_], high[open_]
        middle = (lows + highs) // 2
        known = at[middle] <= cutoffs[open_]
        lows, highs = np.where(known, middle + 1, lows), np.where(known, highs, middle)
        low[open_], high[open_] = lows, highs
        open_ = open_[lows < highs]
    return np.where(low > begin, low - 1, -1)


def latest_values(timeline: Timeline, companies: int, cutoffs: Instants) -> NDArray[np.float64]:
    """The value of the newest period as last known at each cut-off:
    (companies, cut-offs), NaN where missing.
    """
    moves = timeline.moves
    rows = moves.absolute(timeline.key)
    value = np.append(timeline.value[rows], np.nan)
    value[:-1][(rows < 0) | (timeline.state[rows] != State.VALUE)] = np.nan
    return value[moves.newest(companies, cutoffs)]


@dataclass(frozen=True, eq=False)
class Presence:
    """From when on (`at`) any figure of some items was known for a company
    and nominal end (N, F11); each key once.
    """

    key: Keys
    at: Instants

    @classmethod
    def of(cls, key: Keys, at: Instants) -> "Presence":
        """Of figures in any order."""
        if not len(key):
            return cls(key, at)
        order = np.argsort(key, kind="stable")  # what comes in sorted runs is merged
        key = key[order]
        first = np.flatnonzero(group_starts(key))
        return cls(key[first], np.minimum.reduceat(at[order], first))

    @classmethod
    def union(cls, parts: Sequence["Presence"]) -> "Presence":
        """Known in any of the parts."""
        if not parts:
            return cls(np.empty(0, np.int64), np.empty(0, np.int64))
        return cls.of(np.concatenate([p.key for p in parts]), np.concatenate([p.at for p in parts]))

    @cached_property
    def moves(self) -> Moves:
        """The moves of the newest end of each company."""
        return Moves.of(self.key, self.at, np.full(len(self.key), State.VALUE, np.int8))

    def at_end(self, keys: Keys, cutoffs: Instants) -> NDArray[np.bool_]:
        """Whether anything that ends there was known, for each key and the cut-off beside it."""
        if not len(self.key):
            return np.zeros(len(keys), np.bool_)
        place = np.minimum(np.searchsorted(self.key, keys), len(self.key) - 1)
        return np.asarray((self.key[place] == keys) & (self.at[place] <= cutoffs))

    def ends(self, rows: Rows) -> NDArray[np.int32]:
        """The nominal end of each row; the least int32 where there is none."""
        ends = np.full(rows.shape, np.iinfo(np.int32).min, np.int32)
        ends[rows >= 0] = key_end(self.key[rows[rows >= 0]])
        return ends
