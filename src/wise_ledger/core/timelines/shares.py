"""Per-share figures and share counts on the share basis of each cut-off (M3).

A row of a timeline is on the share basis of its own instant. From the instant of a split on, a
further row has the figure on the new basis, so that quarters and sums are formed of figures of one
basis, and a shifted figure needs no thought.
"""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.money.splits import ShareBasis
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.timelines.keys import (
    FIRST_END,
    Rows,
    State,
    group_ends,
    group_starts,
    make_keys,
)
from wise_ledger.core.timelines.merge import coalesce
from wise_ledger.core.timelines.timeline import Timeline

_NEVER = np.iinfo(np.int64).max
_LEAST_END = np.array([FIRST_END] * 2, np.int32)


def first_values(timeline: Timeline) -> Timeline:
    """Only the first value of each key, later withdrawals ignored (`first reported`, T5, F10)."""
    stands = timeline.take(timeline.state == State.VALUE)
    firsts = stands.take(group_starts(stands.key))
    return firsts if timeline.basis is None else on_share_basis(firsts, timeline.basis)


def from_then_on(now: Timeline, then: Timeline, instant: int) -> Timeline:
    """First values that read otherwise from an instant on: as they stand there in `then`."""
    stands = group_starts(then.key[::-1])[::-1]
    stands[:-1] |= then.at[1:] >= instant
    kept = np.flatnonzero((then.at >= instant) | stands)
    later = then.take(kept)
    later = replace(later, at=np.maximum(later.at, instant))
    out = replace(coalesce([later, now.take(now.at < instant)]), basis=now.basis)
    # Of others than the companies of those splits nothing is restated.
    again = np.zeros(len(out), np.bool_)
    again[1:] = (
        (out.at[1:] == instant) & (out.key[1:] == out.key[:-1]) & (out.value[1:] == out.value[:-1])
    )
    return out.take(~again)


def on_share_basis(timeline: Timeline, basis: ShareBasis) -> Timeline:
    """With each figure on the basis of its own instant, and again from each later split on."""
    every = np.arange(len(timeline))
    sources, instants, factors = [every], [timeline.at], [np.ones(len(timeline))]
    for company in np.unique(basis.company).tolist():
        low, high = np.searchsorted(
            timeline.key, make_keys(np.array([company, company + 1]), _LEAST_END)
        )
        if low == high:
            continue
        rows = np.arange(low, high)
        key, at, basis_on = (
            timeline.key[rows],
            timeline.at[rows],
            _basis_days(timeline, rows, basis),
        )
        until = np.append(np.where(key[1:] == key[:-1], at[1:], _NEVER), _NEVER)
        splits = np.flatnonzero(basis.company == company)
        factor = basis.moving(splits, basis_on, at)
        factors[0][rows] = factor
        instants_of = {
            *basis.known[splits].tolist(),
            *basis.at[splits].tolist(),
            *basis.until[splits].tolist(),
        }
        for instant in sorted(instants_of - {_NEVER}):
            then = basis.moving(splits, basis_on, np.full(len(rows), instant))
            stands = (
                (at < instant)
                & (until > instant)
                & (timeline.state[rows] == State.VALUE)
                & (then != factor)
            )
            sources.append(rows[stands])
            instants.append(np.full(int(stands.sum()), instant))
            factors.append(then[stands])
            factor = np.where(at < instant, then, factor)
    source, moved_at, moved_by = (
        np.concatenate(sources),
        np.concatenate(instants),
        np.concatenate(factors),
    )
    order = np.lexsort((moved_at, timeline.key[source]))
    chosen = timeline.take(source[order])
    out = replace(chosen, at=moved_at[order], value=chosen.value * moved_by[order], basis=basis)
    return out.take(group_ends(out.key, out.at))


def _basis_days(timeline: Timeline, rows: Rows, basis: ShareBasis) -> NDArray[np.int64]:
    """On the shares of which day each figure is stated: of its publication,
    unless its source states it.
    """
    days: NDArray[np.int64] = timeline.at[rows] // DAY
    if basis.stated and timeline.fact is not None:
        for place, fact in enumerate(timeline.fact[rows].tolist()):
            days[place] = basis.stated.get(fact, days[place])
    return days
