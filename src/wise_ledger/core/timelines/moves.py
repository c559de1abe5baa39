"""Moves: when the newest figure of each company became another one (F11).

Worked out once from a timeline, moves make the panel read cheap: rows that can never be an answer
(their period is older than one already known) are gone, and what is left is in order of company and
time.
"""

import heapq
from dataclasses import dataclass
from typing import Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.time.instants import DAY
from wise_ledger.core.timelines.keys import Instants, Keys, Rows, State, company_starts, key_company


@dataclass(frozen=True, eq=False)
class Moves:
    """From the instant `at` on the newest figure of `company` is that of
    `row` (-1: none), in order.

    Rows are counted from the first one of their company, so that the moves of one company stay as
    they are when rows of others come and go (`absolute` counts them from the start of the
    timeline).
    """

    company: NDArray[np.int64]
    at: Instants
    day: NDArray[np.int64]  # of `at`, since 1970-01-01
    row: Rows

    @classmethod
    def of(cls, key: Keys, at: Instants, state: NDArray[np.int8]) -> Self:
        """The moves of a timeline's columns, sorted by key, then instant.

        A withdrawn figure counts as there, since it hides older ones; an absent one does not.
        """
        company = key_company(key)
        by_time = np.lexsort((at, company))
        rows, events = _steps(by_time, company, key, state)
        own = np.where(rows < 0, rows, rows - np.searchsorted(company, company[events]))
        return cls(company[events], at[events], at[events] // DAY, own)

    def absolute(self, key: Keys) -> Rows:
        """The rows of the moves in the timeline with these keys; -1 stays."""
        if not len(self.company):
            return self.row
        every = np.arange(int(self.company[0]), int(self.company[-1]) + 1)
        first = company_starts(key, every)[self.company - self.company[0]]
        return np.where(self.row < 0, self.row, self.row + first)

    def slots(self, cutoffs: Instants) -> NDArray[np.int64]:
        """For each move the first of the ascending cut-offs at which it is
        known; their number if none.
        """
        return slots(self.at, self.day, cutoffs)

    def newest(self, companies: int, cutoffs: Instants) -> NDArray[np.int32]:
        """The place among the moves that answers, (companies, cut-offs);
        -1 where nothing was known.
        """
        if len(cutoffs) <= _FEW:
            return self._newest_of_few(companies, cutoffs)
        placed = np.full(companies * len(cutoffs), -1, np.int32)
        slot = self.slots(cutoffs)
        seen = np.flatnonzero(slot < len(cutoffs))
        # In order of time within a company: where several fall into one
        # slot the last written stands.
        placed[self.company[seen] * len(cutoffs) + slot[seen]] = seen
        grid = placed.reshape(companies, len(cutoffs))
        np.maximum.accumulate(grid, axis=1, out=grid)
        return grid

    def _newest_of_few(self, companies: int, cutoffs: Instants) -> NDArray[np.int32]:
        first = np.searchsorted(self.company, np.arange(companies + 1))
        out = np.full((companies, len(cutoffs)), -1, np.int32)
        for n, cutoff in enumerate(cutoffs.tolist()):
            known = np.concatenate([[0], np.cumsum(self.at <= cutoff)])
            count = known[first[1:]] - known[first[:-1]]
            out[:, n] = np.where(count > 0, first[:-1] + count - 1, -1)
        return out


def slots(at: Instants, day: NDArray[np.int64], cutoffs: Instants) -> NDArray[np.int64]:
    """For each instant, on its day, the first of the ascending cut-offs that
    is not before it; their number if none.
    """
    ends_of_days = len(cutoffs) > 0 and bool(((cutoffs + 1) % DAY == 0).all())
    if not ends_of_days or not len(day):
        return np.searchsorted(cutoffs, at, "left")
    # Cut-offs at ends of days: a table by day takes the place of a search for each instant.
    first, last = int(day.min()), int(day.max())
    table = np.searchsorted(cutoffs, (np.arange(first, last + 1) + 1) * DAY - 1, "left")
    return np.asarray(table[day - first])


_FEW = 3  # cut-offs for which counting is faster than scattering


def _steps(
    by_time: Rows, company: NDArray[np.int64], key: Keys, state: NDArray[np.int8]
) -> tuple[Rows, Rows]:
    """The moves of each company's answer: the row that answers from then on,
    and the row whose instant that is.
    """
    if not len(key):
        return by_time, by_time
    absent = state[by_time] == State.ABSENT
    falls = np.zeros(int(company[-1]) + 1, np.bool_)
    falls[company[by_time[absent]]] = True
    easy = ~falls[company[by_time]]
    rows = by_time[easy]
    # Keys ascend with the company, so one running maximum serves all of them;
    # older ends never answer again.
    rows = rows[key[rows] >= np.maximum.accumulate(key[rows])] if len(rows) else rows
    if not falls.any():
        return rows, rows
    # A formed figure that stopped being formed lets an older end answer again:
    # followed one company at a time.
    hard_rows, hard_events = _fallbacks(by_time[~easy], company, key, state)
    events = np.concatenate([rows, hard_events])
    answers = np.concatenate([rows, hard_rows])
    order = np.argsort(company[events], kind="stable")
    return answers[order], events[order]


def _fallbacks(
    by_time: Rows, company: NDArray[np.int64], key: Keys, state: NDArray[np.int8]
) -> tuple[Rows, Rows]:
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
