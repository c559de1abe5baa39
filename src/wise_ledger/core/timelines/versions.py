"""Reported figures as timelines: versions within one source,
and the choice between sources (T5 to T7).
"""

from copy import copy
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.money.splits import ShareBasis
from wise_ledger.core.records.facts import FactColumns
from wise_ledger.core.time.periods import ABSENT, Days, nominal_end, nominal_start, span_months
from wise_ledger.core.timelines.keys import Keys, Mark, State, group_ends, group_starts, make_keys
from wise_ledger.core.timelines.merge import coalesce
from wise_ledger.core.timelines.shares import first_values, on_share_basis
from wise_ledger.core.timelines.timeline import Timeline


def latest_ends(key: Keys, at: NDArray[np.int64], end: Days) -> Timeline:
    """As a timeline whose values are days: the latest period end reported of each key so far."""
    order = np.lexsort((end, at, key))
    key, at, end = key[order], at[order], end[order].astype(np.float64)
    first = np.ones(len(key), np.bool_)
    first[1:] = key[1:] != key[:-1]
    # One running maximum serves all keys: each is lifted above all that the ones before it can
    # reach.
    lift = np.cumsum(first) * 1e6
    latest = np.maximum.accumulate(end + lift) - lift if len(end) else np.empty(0)
    last = np.ones(len(key), np.bool_)
    last[:-1] = (key[1:] != key[:-1]) | (at[1:] != at[:-1])
    rows = int(last.sum())
    state = np.full(rows, State.VALUE, np.int8)
    none = np.zeros(rows, np.int64)
    return Timeline(
        key[last], at[last], latest[last], state, none.astype(np.uint8), none.astype(np.int16) - 1,
        none.astype(np.int32), at[last],
    )  # fmt: skip


def nominal_ends(facts: FactColumns) -> np.ndarray[tuple[int], np.dtype[np.int32]]:
    """F2 for each fact: the declared month end, else the near one, else the end as reported."""
    return np.where(facts.declared_end != ABSENT, facts.declared_end, nominal_end(facts.end))


class Reported:
    """The reported figures of one item, by source and span.

    `facts` are those known (T7). `ranks` are the places of their sources in the order of
    preference, which may differ from company to company (T5); without them the numbers of the
    sources are. Where the item is dated by when it was seen (F14), an end is the day itself and no
    month end. `basis` moves per-share values and share counts with splits (M3); `flagged` are the
    facts that a check found something about. Without `traced` the timelines, and all that is formed
    of them, do not know what they were made of, which takes much room.
    """

    def __init__(
        self,
        facts: FactColumns,
        *,
        ranks: np.ndarray[tuple[int], np.dtype[np.int16]] | None = None,
        seen: bool = False,
        basis: ShareBasis | None = None,
        flagged: np.ndarray[tuple[int], np.dtype[np.int64]] | None = None,
        traced: bool = True,
    ) -> None:
        self._flagged = flagged
        self._traced = traced
        self._basis = basis
        self._ranks = facts.source if ranks is None else ranks
        self.ranks = tuple(np.unique(self._ranks).tolist())
        self.sources = tuple(np.unique(facts.source).tolist())
        self._facts = facts
        self._spans = span_months(facts.start, facts.end)
        self._nominal = facts.end if seen else nominal_ends(facts)
        self._kept: dict[tuple[int, int, bool], Timeline] = {}

    @property
    def splits_learned_late(self) -> list[int]:
        """The instants at which splits became public that were in force by then."""
        return [] if self._basis is None else self._basis.learned_late

    def with_splits_known(self, by: int) -> "Reported":
        """The same figures, if the splits public by an instant had been
        public from their ex-date on.
        """
        out = copy(self)
        out._kept, out._basis = {}, self._basis and self._basis.as_if_known(by)
        return out

    def of(self, rank: int, span: int, *, first: bool = False) -> Timeline:
        """The versions of each company's source of one rank, for periods of
        one span (F1), by nominal end.

        With `first` the first versions alone.
        """
        kept = self._kept.get((rank, span, first))
        if kept is None:
            rows = (self._ranks == rank) & (self._spans == span)
            kept = self._kept[rank, span, first] = self._build(rows, first)
        return kept

    def of_source(self, source: int, span: int, *, first: bool = False) -> Timeline:
        """The versions of one source, whatever its rank."""
        return self._build((self._facts.source == source) & (self._spans == span), first)

    def any_source(self, span: int, *, first: bool = False) -> Timeline:
        """Each period from the first source that has it by then;
        a withdrawal counts as having (T5).
        """
        return coalesce([self.of(r, span, first=first) for r in self.ranks], having=True)

    def _build(self, rows: np.ndarray[tuple[int], np.dtype[np.bool_]], first: bool) -> Timeline:
        if not rows.any():
            return Timeline.empty()
        facts, nominal = self._facts.where(rows), self._nominal[rows]
        key = make_keys(facts.company, nominal)
        # Different period ends of one nominal end are followed apart; the
        # nearest that stands wins (T5).
        distance = np.abs(facts.end.astype(np.int64) - nominal) * 2 + (facts.end < nominal)
        order = np.lexsort((facts.position, facts.batch, facts.at, distance, key))
        key, distance = key[order], distance[order]
        same_key = ~group_starts(key)
        new_end = same_key & np.concatenate(([False], distance[1:] != distance[:-1]))
        if not new_end.any():
            return self._versions(facts, nominal, order, first)
        place = np.cumsum(new_end)
        begin = np.maximum.accumulate(np.where(~same_key, np.arange(len(key)), 0))
        rank: np.ndarray[tuple[int], np.dtype[np.int64]] = place - place[begin]
        return coalesce(
            [self._versions(facts, nominal, order[rank == r], first) for r in range(rank.max() + 1)]
        )

    def _versions(
        self,
        facts: FactColumns,
        nominal: np.ndarray[tuple[int], np.dtype[np.int32]],
        order: np.ndarray[tuple[int], np.dtype[np.int64]],
        first: bool,
    ) -> Timeline:
        value = facts.value[order]
        timeline = Timeline(
            key=make_keys(facts.company[order], nominal[order]),
            at=facts.at[order],
            value=value,
            state=np.where(np.isnan(value), State.WITHDRAWN, State.VALUE).astype(np.int8),
            marks=self._marks(facts)[order],
            currency=facts.currency[order],
            start=nominal_start(facts.start[order]),
            published=facts.at[order],
            fact=facts.fact[order],
        )
        # First reported looks at the single versions; only then does the last
        # of one instant stand for it.
        kept = (
            first_values(timeline)
            if first
            else timeline.take(group_ends(timeline.key, timeline.at))
        )
        moved = kept if self._basis is None else on_share_basis(kept, self._basis)
        return moved if self._traced else replace(moved, fact=None)

    def _marks(self, facts: FactColumns) -> np.ndarray[tuple[int], np.dtype[np.uint8]]:
        marks = np.where(facts.assumed, Mark.ASSUMED, Mark.NONE).astype(np.uint8)
        if self._flagged is not None and len(self._flagged):
            marks |= np.where(np.isin(facts.fact, self._flagged), Mark.FLAGGED, Mark.NONE).astype(
                np.uint8
            )
        return marks
