"""Reading timelines as of cut-offs: the newest period each company stands at, and single periods (T3, F11).

The panel read works on events, not on dates: it drops, once, every row that can never be an answer (its period is
older than one already known), turns the instants that remain into slots of the cut-offs, scatters the row numbers
and carries the newest along the dates. Cost is linear in rows plus companies x cut-offs.
"""

import heapq
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.facts.timeline import Keys, Rows, State, Timeline, key_company, key_end

Instants = NDArray[np.int64]


def newest(timeline: Timeline, companies: int, cutoffs: Instants) -> Rows:
    """The row of the greatest nominal end that is there, for each company and ascending cut-off.

    Shape (companies, cut-offs); -1 where none. A withdrawn end counts as there, since it hides older ones (F11): the
    caller reads `state` of the row.
    """
    return newest_of(timeline.key, timeline.at, timeline.state, companies, cutoffs)


def newest_of(key: Keys, at: Instants, state: NDArray[np.int8], companies: int, cutoffs: Instants) -> Rows:
    """`newest` over bare columns, sorted by key, then instant."""
    grid = np.full((companies, len(cutoffs)), -1, np.int64)
    if not len(key) or not companies:
        return grid
    company = key_company(key)
    by_time = np.lexsort((at, company))
    rows, events = _steps(by_time, company, key, state)
    slot = np.searchsorted(cutoffs, at[events], "left")
    seen = slot < len(cutoffs)
    # Rows come in time order within a company: where several fall into one slot the last written stands.
    order = np.arange(len(rows))
    placed = np.full((companies, len(cutoffs)), -1, np.int64)
    placed[company[events[seen]], slot[seen]] = order[seen]
    np.maximum.accumulate(placed, axis=1, out=placed)
    known = placed >= 0
    grid[known] = rows[placed[known]]
    return grid


def _steps(by_time: Rows, company: NDArray[np.int64], key: Keys, state: NDArray[np.int8]) -> tuple[Rows, Rows]:
    """The moves of each company's answer: the row that answers from then on, and the row whose instant that is."""
    absent = state[by_time] == State.ABSENT
    falls = np.zeros(int(company[-1]) + 1, np.bool_)
    falls[company[by_time[absent]]] = True
    easy = ~falls[company[by_time]]
    rows = by_time[easy]
    # Keys ascend with the company, so one running maximum serves all of them; older ends never answer again.
    rows = rows[key[rows] >= np.maximum.accumulate(key[rows])] if len(rows) else rows
    if not falls.any():
        return rows, rows
    # A formed figure that stopped being formed lets an older end answer again: followed one company at a time.
    hard_rows, hard_events = _fallbacks(by_time[~easy], company, key, state)
    events = np.concatenate([rows, hard_events])
    answers = np.concatenate([rows, hard_rows])
    order = np.argsort(company[events], kind="stable")
    return answers[order], events[order]


def _fallbacks(by_time: Rows, company: NDArray[np.int64], key: Keys, state: NDArray[np.int8]) -> tuple[Rows, Rows]:
    answers, events = [], []
    standing: dict[int, int] = {}
    heap: list[int] = []
    current = None
    for row in by_time.tolist():
        if company[row] != current:
            current, standing, heap = company[row], {}, []
        standing[int(key[row])] = row
        heapq.heappush(heap, -int(key[row]))
        while heap and state[standing[-heap[0]]] == State.ABSENT:
            heapq.heappop(heap)
        answers.append(standing[-heap[0]] if heap else -1)
        events.append(row)
    return np.array(answers, np.int64), np.array(events, np.int64)


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
    rows = newest(timeline, companies, cutoffs)
    out = np.full(rows.shape, np.nan)
    there = rows >= 0
    out[there] = timeline.value[rows[there]]
    return out


class Presence:
    """From when on any figure of some items was known for a company and nominal end (N, F11)."""

    def __init__(self, key: Keys, at: Instants) -> None:
        order = np.lexsort((at, key))
        key, at = key[order], at[order]
        first = np.ones(len(key), np.bool_)
        first[1:] = key[1:] != key[:-1]
        self._key, self._at = key[first], at[first]

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
        state = np.full(len(self._key), State.VALUE, np.int8)
        rows = newest_of(self._key, self._at, state, companies, cutoffs)
        ends = np.full(rows.shape, np.iinfo(np.int32).min, np.int32)
        ends[rows >= 0] = key_end(self._key[rows[rows >= 0]])
        return ends
