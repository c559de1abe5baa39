"""Splicing: what was formed again for a few companies put in the place of what they had,
the others left as they are.

All that is kept by company (timelines, their moves, joint states, presence) counts rows within the
company, so that a splice is a concatenation of stretches and nothing in them changes.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.timelines.asof import Presence
from wise_ledger.core.timelines.joint import Joint
from wise_ledger.core.timelines.keys import Rows, company_starts
from wise_ledger.core.timelines.moves import Moves
from wise_ledger.core.timelines.timeline import Timeline

T = TypeVar("T", Timeline, Joint, Presence)
_MOVES = ("moves", "ever")  # worked out when first asked for, then kept beside
_OF_MOVES = ("company", "at", "day", "row")


def bare(timeline: Timeline) -> Timeline:
    """Without what only lineage needs."""
    return replace(timeline, inputs=(), chosen=None, fact=None, published=timeline.at)


def spliced(old: T, new: T, companies: Rows) -> T:
    """`old` with the rows of `companies` (ascending) taken from `new`, which has no others."""
    stretches = _Stretches.of(
        company_starts(old.key, companies), company_starts(old.key, companies + 1),
        company_starts(new.key, companies), company_starts(new.key, companies + 1),
        len(old.key),
    )  # fmt: skip
    columns: dict[str, Any] = {}
    for name, column in vars(old).items():
        if isinstance(column, np.ndarray):
            columns[name] = stretches.joined(column, getattr(new, name))
    if isinstance(old, Joint) and isinstance(new, Joint):
        columns["rows"] = tuple(
            stretches.joined(a, b) for a, b in zip(old.rows, new.rows, strict=True)
        )
    if isinstance(old, Timeline) and isinstance(new, Timeline):
        columns["published"] = columns["at"]
        columns["basis"] = new.basis or old.basis
    out = replace(old, **columns)
    for name in _MOVES:
        if name in vars(old):
            vars(out)[name] = _moves(vars(old)[name], getattr(new, name), companies)
    return out


def joined(parts: Sequence[T]) -> T:
    """What was formed of companies in blocks, ascending, as one."""
    first = parts[0]
    if len(parts) == 1:
        return first
    columns: dict[str, Any] = {
        name: np.concatenate([getattr(p, name) for p in parts])
        for name, column in vars(first).items()
        if isinstance(column, np.ndarray)
    }
    if isinstance(first, Joint):
        rows = [p.rows for p in parts if isinstance(p, Joint)]
        columns["rows"] = tuple(np.concatenate(r) for r in zip(*rows, strict=True))
    if isinstance(first, Timeline):
        columns["published"] = columns["at"]
        bases = [p.basis for p in parts if isinstance(p, Timeline)]
        columns["basis"] = next((b for b in bases if b is not None), None)
    out = replace(first, **columns)
    for name in _MOVES:
        if all(name in vars(p) for p in parts):
            moves = [getattr(p, name) for p in parts]
            vars(out)[name] = Moves(
                *(np.concatenate([getattr(m, n) for m in moves]) for n in _OF_MOVES)
            )
    return out


def size(value: Timeline | Joint | Presence) -> int:
    """How many bytes a value takes, with its moves."""
    arrays = {id(a): a for a in _arrays(value)}
    return sum(a.nbytes for a in arrays.values())


def _arrays(value: Any) -> list[NDArray[Any]]:
    out = []
    for part in vars(value).values():
        if isinstance(part, np.ndarray):
            out.append(part)
        elif isinstance(part, tuple):
            out += [a for a in part if isinstance(a, np.ndarray)]
        elif isinstance(part, Moves):
            out += _arrays(part)
    return out


def _moves(old: Moves, new: Moves, companies: Rows) -> Moves:
    stretches = _Stretches.of(
        np.searchsorted(old.company, companies, "left"),
        np.searchsorted(old.company, companies, "right"),
        np.searchsorted(new.company, companies, "left"),
        np.searchsorted(new.company, companies, "right"),
        len(old.company),
    )
    return Moves(*(stretches.joined(getattr(old, n), getattr(new, n)) for n in _OF_MOVES))


@dataclass(frozen=True, eq=False)
class _Stretches:
    """Stretches of an old and a new column by turns: where each begins and ends in its own."""

    low: tuple[Sequence[int], Sequence[int]]
    high: tuple[Sequence[int], Sequence[int]]
    length: int

    @classmethod
    def of(
        cls, old_low: Rows, old_high: Rows, new_low: Rows, new_high: Rows, length: int
    ) -> "_Stretches":
        kept_low = [0, *old_high.tolist()]
        kept_high = [*old_low.tolist(), length]
        return cls((kept_low, new_low.tolist()), (kept_high, new_high.tolist()), length)

    def joined(self, old: NDArray[Any], new: NDArray[Any]) -> NDArray[Any]:
        """One column: what is kept of the old one, what is new in between."""
        parts = []
        for n, (low, high) in enumerate(zip(self.low[0], self.high[0], strict=True)):
            if low < high:
                parts.append(old[low:high])
            if n < len(self.low[1]) and self.low[1][n] < self.high[1][n]:
                parts.append(new[self.low[1][n] : self.high[1][n]])
        return np.concatenate(parts) if parts else old[:0]
