"""Timelines laid side by side: the one step that makes one from others (F10),
and the choice between several.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.money.currencies import NO_CURRENCY
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.timelines.keys import Keys, Rows, State, group_ends, group_starts
from wise_ledger.core.timelines.timeline import Input, Timeline


@dataclass(frozen=True, eq=False)
class Merged:
    """Every instant at which any of some timelines moved,
    with the row of each that stands then (-1: none yet).
    """

    key: Keys
    at: NDArray[np.int64]
    rows: tuple[Rows, ...]


def merge(timelines: Sequence[Timeline]) -> Merged:
    """Lay timelines side by side: one row for each (key,
    instant) at which any of them has a row.
    """
    key = np.concatenate([t.key for t in timelines])
    at = np.concatenate([t.at for t in timelines])
    of = np.concatenate([np.full(len(t), i, np.int16) for i, t in enumerate(timelines)])
    row = np.concatenate([np.arange(len(t)) for t in timelines])
    order = in_order(key, at)
    key, at, of, row = key[order], at[order], of[order], row[order]
    if not len(key):
        return Merged(key, at, tuple(np.empty(0, np.int64) for _ in timelines))
    last = group_ends(key, at)
    place = np.arange(len(key))
    begin = np.maximum.accumulate(np.where(group_starts(key), place, 0))
    standing = []
    for i in range(len(timelines)):
        newest = np.maximum.accumulate(np.where(of == i, place, -1))
        standing.append(np.where(newest >= begin, row[newest], -1)[last])
    return Merged(key[last], at[last], tuple(standing))


def in_order(key: Keys, at: NDArray[np.int64]) -> Rows:
    """The order by key, then instant, of runs that are each in that order."""
    days = at // DAY
    if not len(key) or key.max() >= 1 << 46 or days.min() < 0 or days.max() >= 1 << 16:
        return np.lexsort((at, key))
    # One number for key and day: a stable sort of numbers merges runs that are in
    # order far faster than lexsort.
    code = (key << 16) | days
    order = np.argsort(code, kind="stable")
    code, since = code[order], at[order]
    wrong = np.flatnonzero((since[1:] < since[:-1]) & (code[1:] == code[:-1]))
    if len(wrong):  # several instants of one day: only those are sorted again
        run = np.cumsum(group_starts(code))
        mixed = np.zeros(run[-1] + 1, np.bool_)
        mixed[run[wrong]] = True
        rows = np.flatnonzero(mixed[run])
        order[rows] = order[rows][np.lexsort((since[rows], run[rows]))]
    return order


def gather(column: NDArray[Any], rows: Rows, fill: float) -> NDArray[Any]:
    """`column[rows]`, with `fill` where the row is -1."""
    if not len(column):
        return np.full(len(rows), fill, column.dtype)
    out = column[rows]  # a row of -1 reads the last
    out[rows < 0] = fill
    return out


def coalesce(timelines: Sequence[Timeline], *, having: bool = False) -> Timeline:
    """At each instant the first timeline with a value, else the first that is
    withdrawn, else absent.

    With `having` a withdrawal counts as having a value: the choice between sources for one reported
    period (T5).
    """
    options = [t for t in timelines if len(t)]
    if len(options) <= 1:
        return _blank(options[0]) if options else Timeline.empty()
    merged = merge(options)
    chosen = np.full(len(merged.key), -1, np.int16)
    states = [
        gather(t.state, rows, State.ABSENT) for t, rows in zip(options, merged.rows, strict=True)
    ]
    for wanted in (
        ((State.VALUE, State.WITHDRAWN),) if having else ((State.VALUE,), (State.WITHDRAWN,))
    ):
        for i, state in enumerate(states):
            chosen[(chosen < 0) & np.isin(state, wanted)] = i
    return _chosen(options, merged, chosen)


def _blank(timeline: Timeline) -> Timeline:
    """The same, nothing left of a figure where it is absent:
    as where it was chosen among several.
    """
    absent = timeline.state == State.ABSENT
    if not absent.any():
        return timeline
    return replace(
        timeline,
        value=np.where(absent, np.nan, timeline.value),
        marks=np.where(absent, np.uint8(0), timeline.marks),
        currency=np.where(absent, np.int16(NO_CURRENCY), timeline.currency),
        start=np.where(absent, np.int32(0), timeline.start),
        published=np.where(absent, np.int64(0), timeline.published),
    )


def by_source(reported: Sequence[Timeline], formed: Sequence[Timeline]) -> Timeline:
    """Each period from one source (T5); both lists in the order of preference.

    The first source that reported it gives it. What that source withdrew may only be formed of its
    own other figures. What nobody reported is formed by the first source that can, a withdrawn part
    at that end counting as such.
    """
    sources = len(reported)
    if not sources:
        return Timeline.empty()
    if sources == 1:
        return coalesce([reported[0], formed[0]])
    options = [*reported, *formed]
    if not any(len(t) for t in options):
        return Timeline.empty()
    merged = merge(options)
    states = [
        gather(t.state, rows, State.ABSENT) for t, rows in zip(options, merged.rows, strict=True)
    ]
    chosen = np.full(len(merged.key), -1, np.int16)
    for n in range(2 * sources):
        chosen[(chosen < 0) & (states[n] != State.ABSENT)] = n
    for n in range(sources):
        own = (chosen == n) & (states[n] == State.WITHDRAWN) & (states[sources + n] == State.VALUE)
        chosen[own] = sources + n
    return _chosen(options, merged, chosen)


def _traced(timelines: Sequence[Timeline]) -> bool:
    return any(t.traced for t in timelines)


def _chosen(options: Sequence[Timeline], merged: Merged, chosen: NDArray[np.int16]) -> Timeline:
    """At each instant the row of the option chosen; absent where that is -1."""

    def pick(name: str, fill: float) -> NDArray[Any]:
        out = np.full(len(chosen), fill, getattr(options[0], name).dtype)
        for i, (t, rows) in enumerate(zip(options, merged.rows, strict=True)):
            mine = chosen == i
            out[mine] = getattr(t, name)[rows[mine]]
        return out

    inputs = (
        tuple(Input(t, rows) for t, rows in zip(options, merged.rows, strict=True))
        if _traced(options)
        else ()
    )
    return Timeline(
        merged.key,
        merged.at,
        pick("value", np.nan),
        pick("state", State.ABSENT),
        pick("marks", 0),
        pick("currency", NO_CURRENCY),
        pick("start", 0),
        pick("published", 0),
        inputs=inputs,
        form="first available",
        chosen=chosen if inputs else None,
        basis=next((t.basis for t in options if t.basis is not None), None),
    )
