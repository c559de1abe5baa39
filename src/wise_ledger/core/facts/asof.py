"""Reading timelines as of cut-offs: the newest period each company stands at, and single periods (T3, F11).

The panel read works on events, not on dates: it turns the instants of the moves into slots of the cut-offs, scatters
their numbers and carries the newest along the dates. Cost is linear in moves plus companies x cut-offs.
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.facts.keys import Instants, Keys, Rows, State, key_end
from wise_ledger.core.facts.moves import Moves
from wise_ledger.core.facts.timeline import Timeline


def newest(timeline: Timeline, companies: int, cutoffs: Instants) -> Rows:
    """The row of the greatest nominal end that is there, for each company and ascending cut-off.

    Shape (companies, cut-offs); -1 where none. A withdrawn end counts as there, since it hides older ones (F11): the
    caller reads `state` of the row.
    """
    return newest_row(timeline.moves, companies, cutoffs)


def newest_row(moves: Moves, companies: int, cutoffs: Instants) -> Rows:
    """`newest` from moves that were worked out already."""
    rows = np.append(moves.row, -1)  # place -1, nothing known, reads the last
    return rows[moves.newest(companies, cutoffs)]


def standing(timeline: Timeline, keys: Keys, cutoffs: Instants) -> Rows:
    """The row of each key that stands at the cut-off beside it; -1 where nothing is known by then."""
    low = np.searchsorted(timeline.key, keys, "left")
    high = np.searchsorted(timeline.key, keys, "right")
    begin = low.copy()
    while True:  # bisect within each key's own rows, all keys at once
        open_ = low < high
        if not open_.any():
            break
        middle = (low + high) // 2
        known = np.zeros(len(keys), np.bool_)
        known[open_] = timeline.at[middle[open_]] <= cutoffs[open_]
        low = np.where(open_ & known, middle + 1, low)
        high = np.where(open_ & ~known, middle, high)
    return np.where(low > begin, low - 1, -1)


def latest_values(timeline: Timeline, companies: int, cutoffs: Instants) -> NDArray[np.float64]:
    """The value of the newest period as last known at each cut-off: (companies, cut-offs), NaN where missing."""
    moves = timeline.moves
    value = np.append(timeline.value[moves.row], np.nan)
    value[:-1][(moves.row < 0) | (timeline.state[moves.row] != State.VALUE)] = np.nan
    return value[moves.newest(companies, cutoffs)]


class Presence:
    """From when on any figure of some items was known for a company and nominal end (N, F11)."""

    def __init__(self, key: Keys, at: Instants) -> None:
        order = np.lexsort((at, key))
        key, at = key[order], at[order]
        first = np.ones(len(key), np.bool_)
        first[1:] = key[1:] != key[:-1]
        self._key, self._at = key[first], at[first]
        self._moves = Moves.of(self._key, self._at, np.full(len(self._key), State.VALUE, np.int8))

    @classmethod
    def union(cls, parts: list["Presence"]) -> "Presence":
        """Known in any of the parts."""
        if not parts:
            return cls(np.empty(0, np.int64), np.empty(0, np.int64))
        return cls(np.concatenate([p._key for p in parts]), np.concatenate([p._at for p in parts]))

    def at_end(self, keys: Keys, cutoffs: Instants) -> NDArray[np.bool_]:
        """Whether anything that ends there was known, for each key and the cut-off beside it."""
        if not len(self._key):
            return np.zeros(len(keys), np.bool_)
        place = np.minimum(np.searchsorted(self._key, keys), len(self._key) - 1)
        return np.asarray((self._key[place] == keys) & (self._at[place] <= cutoffs))

    def newest_end(self, companies: int, cutoffs: Instants) -> NDArray[Any]:
        """The greatest nominal end known, (companies, cut-offs); the least int32 where nothing was known."""
        rows = newest_row(self._moves, companies, cutoffs)
        ends = np.full(rows.shape, np.iinfo(np.int32).min, np.int32)
        ends[rows >= 0] = key_end(self._key[rows[rows >= 0]])
        return ends
