"""Timelines: how the value of each period of each company moved as knowledge arrived.

A timeline is the one shape of the fiscal axis. A row says: from the instant `at` on, the figure of `key` (a company
and a nominal end) stands like this. Reported figures, quarters formed from cumulative ones, trailing sums and the
joint state of a whole expression are all timelines, and `merge` is the one step that makes one from others (F10).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.facts.columns import NO_CURRENCY
from wise_ledger.core.facts.keys import Keys, Rows, State, group_ends, group_starts, key_company, key_end, make_keys
from wise_ledger.core.facts.moves import DAY, Moves
from wise_ledger.core.fiscal.periods import Days, shift_months
from wise_ledger.core.market.splits import ROUNDING, ShareBasis


@dataclass(frozen=True, eq=False)
class Input:
    """A timeline that another was made from; `rows[i]` is its row under row i there, -1 for none."""

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
    fact: NDArray[np.int64] | None = None  # the ledger row of each, for reported figures
    inputs: tuple[Input, ...] = ()
    form: str = "reported"  # how the rows were formed, in words
    chosen: NDArray[np.int8] | None = None  # which one input counts; all of them where this is None
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
        )

    def __len__(self) -> int:
        return len(self.key)

    @cached_property
    def moves(self) -> Moves:
        """The moves of each company's newest figure; worked out once, when first asked for."""
        return Moves.of(self.key, self.at, self.state)

    @cached_property
    def ever(self) -> Moves:
        """The same, with withdrawn figures counted as absent: whether there is a value at any end (N)."""
        return Moves.of(self.key, self.at, np.where(self.state == State.VALUE, self.state, 0).astype(np.int8))

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
            fact=None if self.fact is None else self.fact[rows],
            inputs=tuple(replace(i, rows=i.rows[rows]) for i in self.inputs),
            chosen=None if self.chosen is None else self.chosen[rows],
        )

    def later(self, months: int) -> Self:
        """The same figures filed under the nominal end so many months later, to meet those of that end."""
        if not months or not len(self):
            return self
        moved = make_keys(key_company(self.key), shift_months(key_end(self.key), months))
        return replace(self, key=moved)

    def first(self) -> "Timeline":
        """Only the first value of each key, later withdrawals ignored (`first reported`, T5, F10)."""
        stands = self.take(self.state == State.VALUE)
        firsts = stands.take(group_starts(stands.key))
        return firsts if self.basis is None else self.basis.moved(firsts)

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

    def differs(self, rows: Rows, others: Rows) -> NDArray[np.bool_]:
        """Whether the values of two rows differ by more than a split between them explains (M3)."""
        now, then = self.value[rows], self.value[others]
        if self.basis is None:
            return np.asarray(now != then)
        company = key_company(self.key)
        moved = self.basis.upto(company[rows], self.at[rows]) / self.basis.upto(company[others], self.at[others])
        # After a split companies tell rounded figures.
        near = np.abs(now - then * moved) <= ROUNDING * np.abs(then * moved)
        return np.asarray(np.where(moved == 1.0, now != then, ~near))


@dataclass(frozen=True, eq=False)
class Merged:
    """Every instant at which any of some timelines moved, with the row of each that stands then (-1: none yet)."""

    key: Keys
    at: NDArray[np.int64]
    rows: tuple[Rows, ...]


def merge(timelines: Sequence[Timeline]) -> Merged:
    """Lay timelines side by side: one row for each (key, instant) at which any of them has a row."""
    key = np.concatenate([t.key for t in timelines])
    at = np.concatenate([t.at for t in timelines])
    of = np.concatenate([np.full(len(t), i, np.int8) for i, t in enumerate(timelines)])
    row = np.concatenate([np.arange(len(t)) for t in timelines])
    order = _in_order(key, at)
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


def _in_order(key: Keys, at: NDArray[np.int64]) -> Rows:
    """The order by key, then instant, of runs that are each in that order."""
    days = at // DAY
    if not len(key) or key.max() >= 1 << 46 or days.min() < 0 or days.max() >= 1 << 16:
        return np.lexsort((at, key))
    # One number for key and day: a stable sort of numbers merges runs that are in order far faster than lexsort.
    code = (key << 16) | days
    order = np.argsort(code, kind="stable")
    code, told = code[order], at[order]
    wrong = np.flatnonzero((told[1:] < told[:-1]) & (code[1:] == code[:-1]))
    if len(wrong):  # several instants of one day: only those are sorted again
        run = np.cumsum(group_starts(code))
        mixed = np.zeros(run[-1] + 1, np.bool_)
        mixed[run[wrong]] = True
        rows = np.flatnonzero(mixed[run])
        order[rows] = order[rows][np.lexsort((told[rows], run[rows]))]
    return order


def gather(column: NDArray[Any], rows: Rows, fill: float) -> NDArray[Any]:
    """`column[rows]`, with `fill` where the row is -1."""
    if not len(column):
        return np.full(len(rows), fill, column.dtype)
    return np.where(rows < 0, np.asarray(fill, column.dtype), column[rows])


def stack(timelines: Sequence[Timeline]) -> Timeline:
    """Timelines of different companies, cut out of one, put together again."""
    parts = [t for t in timelines if len(t)]
    if len(parts) <= 1:
        return parts[0] if parts else timelines[0]
    first = parts[0]
    key = np.concatenate([t.key for t in parts])
    at = np.concatenate([t.at for t in parts])
    order = np.lexsort((at, key))

    def joined(name: str) -> NDArray[Any]:
        return np.concatenate([getattr(t, name) for t in parts])[order]

    inputs = tuple(
        replace(i, rows=np.concatenate([t.inputs[n].rows for t in parts])[order]) for n, i in enumerate(first.inputs)
    )
    columns: dict[str, Any] = {n: joined(n) for n in ("value", "state", "marks", "currency", "start")}
    columns |= {n: joined(n) for n in ("fact", "chosen") if getattr(first, n) is not None}
    return replace(first, key=key[order], at=at[order], inputs=inputs, **columns)


def coalesce(timelines: Sequence[Timeline], *, having: bool = False) -> Timeline:
    """At each instant the first timeline with a value, else the first that is withdrawn, else absent.

    With `having` a withdrawal counts as having a value: the choice between sources for one reported period (T5).
    """
    options = [t for t in timelines if len(t)]
    if len(options) <= 1:
        return options[0] if options else Timeline.empty()
    merged = merge(options)
    chosen = np.full(len(merged.key), -1, np.int8)
    states = [gather(t.state, rows, State.ABSENT) for t, rows in zip(options, merged.rows, strict=True)]
    for wanted in ((State.VALUE, State.WITHDRAWN),) if having else ((State.VALUE,), (State.WITHDRAWN,)):
        for i, state in enumerate(states):
            chosen[(chosen < 0) & np.isin(state, wanted)] = i

    def pick(name: str, fill: float) -> NDArray[Any]:
        out = np.full(len(chosen), fill, getattr(options[0], name).dtype)
        for i, (t, rows) in enumerate(zip(options, merged.rows, strict=True)):
            mine = chosen == i
            out[mine] = getattr(t, name)[rows[mine]]
        return out

    return Timeline(
        merged.key,
        merged.at,
        pick("value", np.nan),
        pick("state", State.ABSENT),
        pick("marks", 0),
        pick("currency", NO_CURRENCY),
        pick("start", 0),
        inputs=tuple(Input(t, rows) for t, rows in zip(options, merged.rows, strict=True)),
        form="first available",
        chosen=chosen,
        basis=options[0].basis,
    )
