"""What cannot be among prices, levels and rates (Q1):
such a row is out of use until a person accepts it (Q2).

A row is held against the last good one of its source before it, as both were known when it became
known, so that nothing published later changes what is used (T9). Once a person accepts the first
row of a new scale, those after it are held against that one.
"""

from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from functools import partial
from operator import attrgetter
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.records.columns import RecordColumns

REACH = 400  # days; a row that much older says nothing of one
_FAR = 25.0  # times the row before, from which on a closer look is taken
_LOOSE = 1.4  # around a power of ten
_known = attrgetter("known")
Owner = int | tuple[int, int]  # a listing or list by number, a pair of currencies
Verdicts = Mapping[tuple[str, Owner, int], bool]  # by kind, owner and day: whether a person accepts


class Quoted(NamedTuple):
    """A value on a day as a source has it, known from an instant on;
    `row` is its place among those looked at.
    """

    row: int
    source: int
    day: int
    known: int
    batch: int
    value: float


@dataclass(frozen=True)
class Doubt:
    """A row of a kind that cannot be, beside the last good one."""

    kind: str
    owner: Owner
    row: Quoted
    beside: Quoted
    check: str  # scale, inverted
    detail: str


def scale_of(ratio: float) -> int | None:
    """The power of ten, a hundred or a thousand, that a row is off by, or the
    reverse; None for neither.
    """
    for power in (100, 1000):
        for near in (ratio / power, ratio * power):
            if 1 / _LOOSE < near < _LOOSE:
                return power
    return None


def walk(
    kind: str,
    owner: Owner,
    rows: Iterable[Quoted],
    factor: Callable[[int, int, int], float],
    verdicts: Verdicts,
    *,
    invertible: bool = False,
) -> list[Doubt]:
    """The rows of one owner that cannot be, in the order of their days and recording.

    `factor(after, upto, known)` is by how many new shares an old one was replaced between two days.
    """
    # Of each source, those that some row may still be held against: of two, the later one takes the
    # place of the other unless it was known after it. So they were known one after another.
    good: dict[int, list[Quoted]] = defaultdict(list)
    out = []
    for r in rows:
        kept = good[r.source]
        last = bisect_right(kept, r.known, key=_known)
        beside = kept[last - 1] if last else None
        doubt = None
        if beside is not None and r.day - beside.day <= REACH and beside.value > 0:
            ratio = r.value * factor(beside.day, r.day, r.known) / beside.value
            doubt = _judged(kind, owner, r, beside, ratio, invertible)
        if doubt is not None:
            out.append(doubt)
        if doubt is None or verdicts.get((kind, owner, r.day), False):
            del kept[bisect_left(kept, r.known, key=_known) :]
            kept.append(r)
    return out


def _judged(
    kind: str, owner: Owner, r: Quoted, beside: Quoted, ratio: float, invertible: bool
) -> Doubt | None:
    power = scale_of(ratio)
    if power is not None:
        word = {100: "hundred", 1000: "thousand"}[power]
        detail = f"about a {word} times" if ratio > 1 else f"about a {word}th of"
        return Doubt(kind, owner, r, beside, "scale", detail)
    upside_down = abs(r.value * beside.value - 1) < 0.1 and not 0.75 < beside.value < 1 / 0.75
    if invertible and upside_down:
        return Doubt(kind, owner, r, beside, "inverted", "upside down: about one over")
    return None


def doubts_of_columns(
    rows: RecordColumns,
    column: str,
    factor: Callable[[int, int, int, int], float],
    verdicts: Verdicts,
) -> list[Doubt]:
    """The rows of prices or levels that cannot be; sorted by owner, day and order of recording.

    `factor(owner, after, upto, known)` as for `walk`.
    """
    there = np.flatnonzero(~np.isnan(rows[column]))
    value, owner = rows[column][there], rows[rows.kind.subjects[0].name][there]
    with np.errstate(divide="ignore"):
        change = value[1:] / value[:-1]
    jumps = (owner[1:] == owner[:-1]) & ((change > _FAR) | (change < 1 / _FAR))
    out = []
    for one in np.unique(owner[1:][jumps]).tolist():
        begin, end = np.searchsorted(owner, [one, one + 1])
        own = there[begin:end]
        quoted = map(
            Quoted,
            own.tolist(),
            *(_plain(rows[n][own]) for n in ("source", rows.kind.day, "known_at", "batch", column)),
        )
        out += walk(rows.kind.name, one, quoted, partial(factor, one), verdicts)
    return out


def _plain(values: NDArray[Any]) -> list[Any]:
    found: list[Any] = values.tolist()
    return found


def out_of_use(doubts: Iterable[Doubt], verdicts: Verdicts) -> NDArray[np.int64]:
    """The places of the rows that no person accepted."""
    return np.array(
        [d.row.row for d in doubts if not verdicts.get((d.kind, d.owner, d.row.day), False)],
        np.int64,
    )
