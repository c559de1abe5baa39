"""Where a figure comes from: the tree from a timeline's row down to the facts it was made of."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from wise_ledger.core.facts.columns import NO_CURRENCY
from wise_ledger.core.facts.keys import State, key_end
from wise_ledger.core.facts.timeline import Timeline


@dataclass(frozen=True)
class Derivation:
    """One figure: its value and nominal end, how it was formed, and what from; `sign` is its part in the whole."""

    form: str
    value: float | None  # None: withdrawn
    end: int  # days
    fact: int | None  # the ledger row of a reported figure
    parts: tuple["Derivation", ...] = ()
    sign: int = 1
    currency: int = NO_CURRENCY


def trace(timeline: Timeline, row: int, sign: int = 1) -> Derivation:
    """The tree under a row; choices between forms are passed through, so that only what counts is in it."""
    if timeline.chosen is not None:
        chosen = timeline.inputs[int(timeline.chosen[row])]
        return trace(chosen.timeline, int(chosen.rows[row]), sign)
    there = timeline.state[row] == State.VALUE
    value = float(timeline.value[row]) if there else None
    # Parts of a sum are filed under the sum's own end; each tells the end it was reported for.
    end = int(key_end(timeline.key[row : row + 1])[0])
    fact = None if timeline.fact is None else int(timeline.fact[row])
    parts = tuple(trace(i.timeline, int(i.rows[row]), i.sign) for i in timeline.inputs)
    return Derivation(timeline.form, value, end, fact, parts, sign, int(timeline.currency[row]))


def facts_under(derivation: Derivation, sign: int = 1) -> Iterator[tuple[int, int]]:
    """Every fact below a figure with the sign by which it enters: (ledger row, 1 or -1)."""
    own = sign * derivation.sign
    if derivation.fact is not None:
        yield derivation.fact, own
    for part in derivation.parts:
        yield from facts_under(part, own)


def restated(
    timeline: Timeline, rows: np.ndarray[tuple[int, ...], np.dtype[np.int64]]
) -> tuple[np.ndarray[tuple[int, ...], np.dtype[np.bool_]], np.ndarray[tuple[int, ...], np.dtype[np.bool_]]]:
    """For standing rows (-1: none): whether the value had changed by then, and whether it changes afterwards."""
    if not len(timeline):
        none = np.zeros(rows.shape, np.bool_)
        return none, none
    there = rows >= 0
    at = np.where(there, rows, 0)
    by_then = timeline.changed()[at] & there
    last = np.searchsorted(timeline.key, timeline.key[at], "right") - 1
    # Any later row that differs counts, also where the last one comes back to the value of then.
    every = np.arange(len(timeline))
    following = np.concatenate([timeline.differs(every[1:], every[:-1]), [False]])
    following |= np.concatenate([timeline.state[1:] != timeline.state[:-1], [False]])
    moves = np.concatenate([[0], np.cumsum(following)])
    differs = moves[last] > moves[at]
    return by_then, np.asarray(differs & there)
