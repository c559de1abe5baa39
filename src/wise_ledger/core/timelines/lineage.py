"""Where a figure comes from: the tree from a timeline's row down to the facts it was made of."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.money.currencies import NO_CURRENCY
from wise_ledger.core.timelines.keys import Rows, State, group_starts, key_end
from wise_ledger.core.timelines.timeline import Timeline


@dataclass(frozen=True)
class Derivation:
    """One figure: its value and nominal end, how it was formed, and what from;
    `sign` is its part in the whole.
    """

    form: str
    value: float | None  # None: withdrawn
    end: int  # days
    fact: int | None  # the ledger row of a reported figure
    parts: tuple["Derivation", ...] = ()
    sign: int = 1
    currency: int = NO_CURRENCY
    start: int = 0  # nominal, of a flow
    at: int = 0  # since when it stands like this


def trace(timeline: Timeline, row: int, sign: int = 1) -> Derivation:
    """The tree under a row; choices between forms are passed through,
    so that only what counts is in it.
    """
    if timeline.chosen is not None:
        chosen = timeline.inputs[int(timeline.chosen[row])]
        return trace(chosen.timeline, int(chosen.rows[row]), sign)
    there = timeline.state[row] == State.VALUE
    value = float(timeline.value[row]) if there else None
    # Parts of a sum are filed under the sum's own end; each keeps the end it was reported for.
    end = int(key_end(timeline.key[row : row + 1])[0])
    fact = None if timeline.fact is None else int(timeline.fact[row])
    parts = tuple(trace(i.timeline, int(i.rows[row]), i.sign) for i in timeline.inputs)
    return Derivation(timeline.form, value, end, fact, parts, sign, *_more(timeline, row))


def _more(timeline: Timeline, row: int) -> tuple[int, int, int]:
    return int(timeline.currency[row]), int(timeline.start[row]), int(timeline.at[row])


def facts_under(derivation: Derivation, sign: int = 1) -> Iterator[tuple[int, int]]:
    """Every fact below a figure with the sign by which it enters: (ledger row, 1 or -1)."""
    own = sign * derivation.sign
    if derivation.fact is not None:
        yield derivation.fact, own
    for part in derivation.parts:
        yield from facts_under(part, own)


UNKNOWN = np.iinfo(np.int64).min


@dataclass(frozen=True, eq=False)
class Story:
    """Of figures that stand: whether they had changed by then, whether they change afterwards, and
    since when they read as they do; `UNKNOWN` where none stands.
    """

    restated: NDArray[np.bool_]
    restated_later: NDArray[np.bool_]
    since: NDArray[np.int64]


def story(timeline: Timeline, rows: NDArray[np.int64]) -> Story:
    """Of standing rows (-1: none)."""
    flat = rows.ravel()
    there = np.flatnonzero(flat >= 0)
    by_then, later = np.zeros(len(flat), np.bool_), np.zeros(len(flat), np.bool_)
    since = np.full(len(flat), UNKNOWN, np.int64)
    if len(there):
        # Only the periods at hand are looked at, each with all that was ever known of it.
        keys = np.unique(timeline.key[flat[there]])
        low = np.searchsorted(timeline.key, keys, "left")
        count = np.searchsorted(timeline.key, keys, "right") - low
        picked = np.repeat(low - np.cumsum(count) + count, count) + np.arange(count.sum())
        at = np.searchsorted(picked, flat[there])
        few = replace(timeline, inputs=(), chosen=None).take(picked)
        by_then[there], later[there] = _restated(few, at)
        since[there] = few.at[_begins(few)[at]]
    shape = rows.shape
    return Story(by_then.reshape(shape), later.reshape(shape), since.reshape(shape))


def _restated(timeline: Timeline, at: Rows) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    last = np.searchsorted(timeline.key, timeline.key[at], "right") - 1
    # Any later row that differs counts, also where the last one comes back to the value of then.
    every = np.arange(len(timeline))
    following = np.concatenate([timeline.differs(every[1:], every[:-1]), [False]])
    following |= np.concatenate([timeline.state[1:] != timeline.state[:-1], [False]])
    moves = np.concatenate([[0], np.cumsum(following)])
    return timeline.changed()[at], np.asarray(moves[last] > moves[at])


def _begins(timeline: Timeline) -> Rows:
    """The first of the rows, one after the other, that read as each does: what is published again,
    or by a source that does not count, is another row and reads the same.
    """
    begins = group_starts(timeline.key)
    value = timeline.value
    same = (value[1:] == value[:-1]) | (np.isnan(value[1:]) & np.isnan(value[:-1]))
    for column in (timeline.state, timeline.currency):
        same &= column[1:] == column[:-1]
    begins[1:] |= ~same
    return np.maximum.accumulate(np.where(begins, np.arange(len(begins)), 0))
