"""Figures that stand only as far as something else is known: a fiscal year end, a template (T9).

What is known of a company moves in stages. `as_learned` keeps the rows of a timeline that fit the
stage of their instant: what fits from a stage on appears when that begins, what no longer fits is
absent from then on.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.timelines.keys import Instants, Keys, Rows, State, group_ends, key_company
from wise_ledger.core.timelines.timeline import Timeline

EVER, NEVER = np.iinfo(np.int64).min, np.iinfo(np.int64).max
Fits = Callable[[Rows, Keys], NDArray[np.bool_]]  # of stages, and the keys of the rows beside them


@dataclass(frozen=True, eq=False)
class Stages:
    """Stages of companies, sorted by company, then by the instant at which each begins."""

    company: NDArray[np.int64]
    at: Instants

    @classmethod
    def none(cls) -> Self:
        """Nothing is known of anybody."""
        return cls(np.empty(0, np.int64), np.empty(0, np.int64))

    def ends(self) -> Instants:
        """When each stage ends: where the next one of its company begins."""
        if not len(self.company):
            return self.at
        return np.append(np.where(self.company[1:] == self.company[:-1], self.at[1:], NEVER), NEVER)


def as_learned(
    timeline: Timeline, stages: Stages, fits: Fits, *, unknown_fits: bool = False
) -> Timeline:
    """The rows of a timeline that fit what was known at each instant.

    `fits` is asked for pairs of a stage and a key. Of what stands before a company's first stage,
    and of companies without any, all fits where `unknown_fits`, else nothing.
    """
    if not len(timeline):
        return timeline
    if unknown_fits:
        stages, fits = _with_beginnings(stages, fits, timeline)
    company = key_company(timeline.key)
    low, high = (
        np.searchsorted(stages.company, company, "left"),
        np.searchsorted(stages.company, company, "right"),
    )
    single = np.flatnonzero(high - low == 1)
    kept = single[fits(low[single], timeline.key[single])] if len(single) else single
    if len(kept) == len(timeline) and not (timeline.at < stages.at[low]).any():
        return timeline
    at = np.maximum(timeline.at[kept], stages.at[low[kept]])
    many = np.flatnonzero(high - low > 1)
    if not len(many):
        out = replace(timeline.take(kept), at=at)
        return out.take(group_ends(out.key, out.at))
    moved, moved_at, gone = _followed(timeline, many, low[many], high[many], stages, fits)
    source = np.concatenate([kept, moved])
    instants, absent = (
        np.concatenate([at, moved_at]),
        np.concatenate([np.zeros(len(kept), np.bool_), gone]),
    )
    order = np.lexsort((instants, timeline.key[source]))
    taken, absent = timeline.take(source[order]), absent[order]
    out = replace(
        taken,
        at=instants[order],
        value=np.where(absent, np.nan, taken.value),
        state=np.where(absent, State.ABSENT, taken.state).astype(np.int8),
    )
    return out.take(group_ends(out.key, out.at) & _known_values(out))


def _with_beginnings(stages: Stages, fits: Fits, timeline: Timeline) -> tuple[Stages, Fits]:
    """With a stage for every company from the beginning of time, at which everything fits."""
    companies = np.unique(key_company(timeline.key))
    count = len(companies)
    company = np.concatenate([companies, stages.company])
    at = np.concatenate([np.full(count, EVER), stages.at])
    order = np.lexsort((at, company))

    def fits_too(stage: Rows, keys: Keys) -> NDArray[np.bool_]:
        own = order[stage] - count
        out = np.ones(len(stage), np.bool_)
        known = np.flatnonzero(own >= 0)
        out[known] = fits(own[known], keys[known])
        return out

    return Stages(company[order], at[order]), fits_too


def _followed(
    timeline: Timeline, rows: Rows, low: Rows, high: Rows, stages: Stages, fits: Fits
) -> tuple[Rows, Instants, NDArray[np.bool_]]:
    """Rows of companies with several stages: which, from which instant on,
    and whether it is gone from then on.
    """
    key, at = timeline.key, timeline.at
    until = np.append(np.where(key[1:] == key[:-1], at[1:], NEVER), NEVER)
    count = high - low
    source = np.repeat(rows, count)
    within = np.arange(len(source)) - np.repeat(np.cumsum(count) - count, count)
    stage = np.repeat(low, count) + within
    begins = np.maximum(at[source], stages.at[stage])
    meet = begins < np.minimum(until[source], stages.ends()[stage])
    source, stage, begins = source[meet], stage[meet], begins[meet]
    fit = fits(stage, key[source])
    # A row that fits (or not) as in the stage before stands on: nothing is to be said of it.
    again = np.zeros(len(source), np.bool_)
    again[1:] = (source[1:] == source[:-1]) & (fit[1:] == fit[:-1])
    return source[~again], begins[~again], ~fit[~again]


def _known_values(timeline: Timeline) -> NDArray[np.bool_]:
    """Rows that say something: not those from before a figure was there,
    nor an absence after another.
    """
    absent = timeline.state == State.ABSENT
    starts = np.ones(len(timeline), np.bool_)
    starts[1:] = timeline.key[1:] != timeline.key[:-1]
    after_absent = np.zeros(len(timeline), np.bool_)
    after_absent[1:] = absent[:-1]
    return np.asarray(~(absent & (starts | after_absent)))
