"""Dated series of values: what was known of an entity on a day,
read as of cut-offs by one rule of knowledge (T9).
"""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from typing import Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.time.instants import DAY

Instants = NDArray[np.int64]
Entities = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Steps:
    """From the instant `at` on, `row` is what counts of `entity`; sorted by
    entity, then instant.
    """

    entity: Entities
    at: Instants
    row: NDArray[np.int64]

    def bounds(self, entities: Entities) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """For each entity the first of its steps, and the one after its last."""
        return np.searchsorted(self.entity, entities, "left"), np.searchsorted(
            self.entity, entities, "right"
        )

    @cached_property
    def _instants(self) -> Instants:
        return np.unique(self.at)

    @cached_property
    def _places(self) -> NDArray[np.int64]:
        return self.entity << 32 | np.searchsorted(self._instants, self.at)

    def read(self, entities: Entities, cutoffs: Instants) -> NDArray[np.int64]:
        """The row that counts of each entity (down) at each cut-off (across);
        -1 where nothing is known.

        >>> steps = Steps(np.array([3, 3]), np.array([10, 20]), np.array([0, 1]))
        >>> steps.read(np.array([3, 4]), np.array([9, 10, 25])).tolist()
        [[-1, 0, 1], [-1, -1, -1]]
        """
        if not len(self.entity):
            return np.full((len(entities), len(cutoffs)), -1, np.int64)
        known = np.searchsorted(self._instants, cutoffs, "right") - 1
        asked = (entities.astype(np.int64) << 32)[:, None] + known[None, :]
        place = np.searchsorted(self._places, asked, "right") - 1
        found = np.maximum(place, 0)
        same = (place >= 0) & (self.entity[found] == entities[:, None]) & (known >= 0)[None, :]
        return np.where(same, self.row[found], -1)

    def each(self, entities: Entities, cutoffs: Instants) -> NDArray[np.int64]:
        """The row that counts of each entity at its own cut-off, both of one shape;
        -1 where nothing is known.
        """
        if not len(self.entity):
            return np.full(entities.shape, -1, np.int64)
        known = np.searchsorted(self._instants, cutoffs, "right") - 1
        place = (
            np.searchsorted(self._places, (entities.astype(np.int64) << 32) + known, "right") - 1
        )
        found = np.maximum(place, 0)
        same = (place >= 0) & (self.entity[found] == entities) & (known >= 0)
        return np.where(same, self.row[found], -1)


@dataclass(frozen=True, eq=False)
class DatedSeries:
    """Values of entities: in force from `date` (days), public from `at` (microseconds);
    rows in order of recording.

    On a cut-off D, of the rows that are public by D and whose date is on or before D, the one with
    the latest date counts; of two with one date the one that became public later, and of these the
    one recorded later.
    """

    entity: Entities
    date: NDArray[np.int64]
    at: Instants

    @classmethod
    def of(cls, rows: Iterable[tuple[int, int, int]]) -> Self:
        """From (entity, date, at), in order of recording."""
        table = np.array(list(rows), np.int64).reshape(-1, 3)
        return cls(table[:, 0], table[:, 1], table[:, 2])

    @cached_property
    def steps(self) -> Steps:
        """When the row that counts became another one."""
        every = np.arange(len(self.entity))
        since = np.maximum(self.at, self.date * DAY)
        weight = np.empty(len(every), np.int64)  # the greater counts
        weight[np.lexsort((every, self.at, self.date))] = every
        order = np.lexsort((weight, since, self.entity))
        entity, since, weight = self.entity[order], since[order], weight[order]
        # One running maximum serves all entities: each begins above all that
        # the ones before it can reach.
        lifted = weight + entity * (len(every) + 1)
        counts = lifted == np.maximum.accumulate(lifted) if len(every) else np.zeros(0, np.bool_)
        entity, since, order = entity[counts], since[counts], order[counts]
        last = np.ones(len(entity), np.bool_)
        last[:-1] = (entity[1:] != entity[:-1]) | (since[1:] != since[:-1])
        return Steps(entity[last], since[last], order[last])

    def read(self, entities: Entities, cutoffs: Instants) -> NDArray[np.int64]:
        """The row that counts of each entity at each cut-off, (entities, cut-offs);
        -1 where nothing is known.
        """
        return self.steps.read(entities, cutoffs)

    def each(self, entities: Entities, cutoffs: Instants) -> NDArray[np.int64]:
        """The row that counts of each entity at its own cut-off, both of one shape;
        -1 where nothing is known.
        """
        return self.steps.each(entities, cutoffs)
