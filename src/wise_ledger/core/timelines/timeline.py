"""Timelines: how the value of each period of each company moved as knowledge arrived.

A timeline is the one shape of the fiscal axis. A row says: from the instant `at` on, the figure of
`key` (a company and a nominal end) stands like this. Reported figures, quarters formed from
cumulative ones, trailing sums and the joint state of a whole expression are all timelines, and
`merge` is the one step that makes one from others (F10).
"""

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.money.splits import ROUNDING, ShareBasis
from wise_ledger.core.time.periods import Days, shift_months
from wise_ledger.core.timelines.keys import (
    Keys,
    Rows,
    State,
    group_starts,
    key_company,
    key_end,
    make_keys,
)
from wise_ledger.core.timelines.moves import Moves

NOT_MOVED = np.iinfo(np.int64).min


@dataclass(frozen=True, eq=False)
class Input:
    """A timeline that another was made from; `rows[i]` is its row under row i
    there, -1 for none.
    """

    timeline: "Timeline"
    rows: Rows
    sign: int = 1


@dataclass(frozen=True, eq=False)
class Timeline:
    """Rows sorted by key, then instant, one a pair; `value` counts where `state` is VALUE."""

    key: Keys
    at: NDArray[np.int64]
    value: NDArray[np.float64]
    state: NDArray[np.int8]
    marks: NDArray[np.uint8]
    currency: NDArray[np.int16]
    start: Days  # nominal start of the period, as far as it is one span
    published: NDArray[np.int64]  # when the newest of what stands behind the row was published
    fact: NDArray[np.int64] | None = None  # the ledger row of each, for reported figures
    inputs: tuple[Input, ...] = ()
    form: str = "reported"  # how the rows were formed, in words
    chosen: NDArray[np.int16] | None = (
        None  # which one input counts; all of them where this is None
    )
    basis: ShareBasis | None = None  # of figures that move with splits (M3)

    @classmethod
    def empty(cls) -> Self:
        """No row."""
        return cls(
            np.empty(0, np.int64),
            np.empty(0, np.int64),
            np.empty(0),
            np.empty(0, np.int8),
            np.empty(0, np.uint8),
            np.empty(0, np.int16),
            np.empty(0, np.int32),
            np.empty(0, np.int64),
        )

    def __len__(self) -> int:
        return len(self.key)

    @property
    def traced(self) -> bool:
        """Whether the rows know what they were made of."""
        return self.fact is not None or bool(self.inputs)

    @cached_property
    def only_mark(self) -> int | None:
        """The marks of every row where they are the same; else None."""
        return _only(self.marks)

    @cached_property
    def only_currency(self) -> int | None:
        """The currency of every row where it is the same; else None."""
        return _only(self.currency)

    @cached_property
    def moves(self) -> Moves:
        """The moves of each company's newest figure; worked out once, when first asked for."""
        return Moves.of(self.key, self.at, self.state)

    @cached_property
    def ever(self) -> Moves:
        """The same, with withdrawn figures counted as absent:
        whether there is a value at any end (N).
        """
        return Moves.of(
            self.key, self.at, np.where(self.state == State.VALUE, self.state, 0).astype(np.int8)
        )

    def take(self, rows: Rows | NDArray[np.bool_]) -> Self:
        """The rows chosen; the order must stay that of a timeline."""
        return replace(
            self,
            key=self.key[rows],
            at=self.at[rows],
            value=self.value[rows],
            state=self.state[rows],
            marks=self.marks[rows],
            currency=self.currency[rows],
            start=self.start[rows],
            published=self.published[rows],
            fact=None if self.fact is None else self.fact[rows],
            inputs=tuple(replace(i, rows=i.rows[rows]) for i in self.inputs),
            chosen=None if self.chosen is None else self.chosen[rows],
        )

    def later(self, months: int) -> Self:
        """The same figures filed under the nominal end so many months later,
        to meet those of that end.
        """
        if not months or not len(self):
            return self
        moved = make_keys(key_company(self.key), shift_months(key_end(self.key), months))
        return replace(self, key=moved)

    def changed(self) -> NDArray[np.bool_]:
        """Whether each row's value differs from the first its key ever had: it was restated."""
        if not len(self):
            return np.empty(0, np.bool_)
        stands = self.state == State.VALUE
        group = np.cumsum(group_starts(self.key)) - 1
        firsts = np.full(group[-1] + 1, -1)
        rows = np.flatnonzero(stands)[::-1]
        firsts[group[rows]] = rows  # the last write wins: the earliest row
        return np.asarray(stands & self.differs(np.arange(len(self)), firsts[group]))

    def moved_at(self) -> NDArray[np.int64]:
        """When the value that stands in each row was published,
        if another one stood before; else `NOT_MOVED`.
        """
        if not len(self):
            return np.empty(0, np.int64)
        every = np.arange(len(self))
        stands = self.state == State.VALUE
        begin = np.maximum.accumulate(np.where(group_starts(self.key), every, 0))
        value_before = np.concatenate(
            [[-1], np.maximum.accumulate(np.where(stands, every, -1))[:-1]]
        )
        known = stands & (value_before >= begin)
        moves = np.zeros(len(self), np.bool_)
        moves[known] = self.differs(every[known], value_before[known])
        newest = np.maximum.accumulate(np.where(moves, every, -1))
        return np.where(newest >= begin, self.published[newest], NOT_MOVED)

    def without(self, marks: int) -> Self:
        """Without the rows that have any of some marks: as long as one would
        stand, its period is absent.
        """
        marked = (self.marks & marks) != 0
        if not marked.any():
            return self
        state = np.where(marked, State.ABSENT, self.state).astype(np.int8)
        return replace(self, value=np.where(marked, np.nan, self.value), state=state).formed()

    def formed(self) -> Self:
        """Without the rows from before a figure could first be formed, which say nothing."""
        there = np.maximum.accumulate(
            np.where(self.state != State.ABSENT, np.arange(len(self)), -1)
        )
        return self.take(there >= np.searchsorted(self.key, self.key, "left"))

    def differs(self, rows: Rows, others: Rows) -> NDArray[np.bool_]:
        """Whether the values of two rows differ by more than a split between them explains (M3)."""
        now, then = self.value[rows], self.value[others]
        if self.basis is None:
            return np.asarray(now != then)
        company = key_company(self.key)
        moved = self.basis.upto(company[rows], self.at[rows]) / self.basis.upto(
            company[others], self.at[others]
        )
        # After a split companies report rounded figures.
        near = np.abs(now - then * moved) <= ROUNDING * np.abs(then * moved)
        return np.asarray(np.where(moved == 1.0, now != then, ~near))


def _only(column: NDArray[Any]) -> int | None:
    """What stands in every row of a column; None where several things do, or there is no row."""
    return int(column[0]) if len(column) and bool((column == column[0]).all()) else None
