"""The figures of one company as checks look at them: columns,
and single figures where a check looks closer.
"""

from collections.abc import Container, Sequence
from dataclasses import dataclass, fields, replace
from itertools import compress
from typing import NamedTuple, Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.records.figures import Figures
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import ABSENT, span_months

_LARGEST = 1 << 62
Mask = NDArray[np.bool_]
Rows = NDArray[np.int64]


class Figure(NamedTuple):
    """One figure of those that are held."""

    fact: int
    item: str
    start: int | None
    end: int
    span: int
    published: int  # day
    value: float | None
    unit: str
    document: int
    source: int
    new: bool


@dataclass(frozen=True, eq=False)
class Held:
    """Figures of a company, one row each, any order; `new` ones are looked at,
    the others stand beside.
    """

    codes: tuple[str, ...]  # of items; `item` points here
    units: tuple[str, ...]
    fact: NDArray[np.int64]
    item: NDArray[np.int64]
    start: NDArray[np.int32]  # days; ABSENT of a balance
    end: NDArray[np.int32]
    span: NDArray[np.int8]
    published: NDArray[np.int64]  # days
    value: NDArray[np.float64]  # NaN where it was withdrawn
    unit: NDArray[np.int64]
    document: NDArray[np.int64]
    source: NDArray[np.int64]
    new: Mask

    @classmethod
    def of(
        cls,
        fact: Sequence[int],
        item: Sequence[str],
        start: Sequence[int | None],
        end: Sequence[int],
        published_at: Sequence[int],
        value: Sequence[float | None],
        unit: Sequence[str],
        document: Sequence[int],
        source: Sequence[int],
        *,
        new: bool,
    ) -> Self:
        """Out of columns as the ledger has them: days, and instants in microseconds."""
        begin = np.array([ABSENT if s is None else s for s in start], np.int32)
        numbers = [np.array(column, np.int64) for column in (fact, published_at, document, source)]
        end_, value_ = np.array(end, np.int32), np.array(value, np.float64)
        return cls.of_columns(
            *numbered(item), begin, end_, value_, *numbered(unit), *numbers, new=new
        )

    @classmethod
    def of_columns(
        cls,
        codes: tuple[str, ...],
        item: Rows,
        start: NDArray[np.int32],
        end: NDArray[np.int32],
        value: NDArray[np.float64],
        units: tuple[str, ...],
        unit: Rows,
        fact: Rows,
        published_at: Rows,
        document: Rows,
        source: Rows,
        *,
        new: bool,
    ) -> Self:
        """The same, out of columns as they are held, but for the instants."""
        return cls(
            codes,
            units,
            fact,
            item,
            start,
            end,
            span_months(start, end),
            published_at // DAY,
            value,
            unit,
            document,
            source,
            np.full(len(fact), new),
        )

    @classmethod
    def of_figures(cls, figures: Figures, fact: Rows, document: Rows, source: int) -> Self:
        """The consolidated ones of figures of one source that are new, each with its number and
        its document's.
        """
        held = cls.of_columns(
            figures.item.values,
            figures.item.place.astype(np.int64),
            figures.starts().astype(np.int32),
            figures.ends().astype(np.int32),
            figures.numbers(),
            figures.unit.values,
            figures.unit.place.astype(np.int64),
            fact,
            figures.instants(),
            document,
            np.full(len(fact), source),
            new=True,
        )
        return held.where(figures.consolidated())

    @classmethod
    def joined(cls, parts: Sequence["Held"]) -> "Held":
        """Several, one after the other."""
        if not parts:
            return cls.of(*[()] * 9, new=True)
        if len(parts) == 1:
            return parts[0]
        codes = tuple(dict.fromkeys(c for p in parts for c in p.codes))
        units = tuple(dict.fromkeys(u for p in parts for u in p.units))
        columns = {
            name: np.concatenate([getattr(p, name) for p in parts])
            for name in (
                f.name for f in fields(cls) if f.name not in ("codes", "units", "item", "unit")
            )
        }
        item = np.concatenate([_places(p.codes, codes)[p.item] for p in parts])
        unit = np.concatenate([_places(p.units, units)[p.unit] for p in parts])
        return cls(codes, units, item=item, unit=unit, **columns)

    def __len__(self) -> int:
        return len(self.fact)

    def where(self, keep: Mask | Rows) -> Self:
        """Only the rows marked true, or those of these numbers."""
        if keep.dtype == np.bool_ and keep.all():
            return self
        columns = [f.name for f in fields(self) if f.name not in ("codes", "units")]
        return replace(self, **{name: getattr(self, name)[keep] for name in columns})

    def without(self, facts: set[int]) -> Self:
        """All but these facts."""
        return (
            self.where(~np.isin(self.fact, np.fromiter(facts, np.int64, len(facts))))
            if facts
            else self
        )

    def of_known(self, items: Container[str]) -> Self:
        """Only those of items that are known; no other is among `codes` then."""
        known = np.array([c in items for c in self.codes], np.bool_)
        if known.all():
            return self
        kept = self.where(known[self.item])
        return replace(
            kept, codes=tuple(compress(self.codes, known)), item=(np.cumsum(known) - 1)[kept.item]
        )

    def has(self, codes: set[str] | frozenset[str]) -> Mask:
        """Which rows are of one of these items."""
        return np.array([c in codes for c in self.codes], np.bool_)[self.item]

    def figures(self, rows: Mask | Rows) -> list[Figure]:
        """Single figures, in the order of the rows."""
        of = self.where(rows)
        return [
            Figure(
                fact,
                self.codes[item],
                None if start == ABSENT else start,
                end,
                span,
                published,
                None if value != value else value,
                self.units[unit],
                document,
                source,
                new,
            )
            for fact, item, start, end, span, published, value, unit, document, source, new in zip(
                *(getattr(of, f.name).tolist() for f in fields(of)[2:]), strict=True
            )
        ]


def numbered(texts: Sequence[str]) -> tuple[tuple[str, ...], Rows]:
    """Each text once, and for every entry which of them it is."""
    number = {text: n for n, text in enumerate(dict.fromkeys(texts))}
    return tuple(number), np.fromiter(map(number.__getitem__, texts), np.int64, len(texts))


def _places(own: tuple[str, ...], all_of_them: tuple[str, ...]) -> NDArray[np.int64]:
    place = {text: n for n, text in enumerate(all_of_them)}
    return np.array([place[text] for text in own], np.int64)


def keys(*columns: NDArray[np.signedinteger]) -> NDArray[np.int64]:
    """One number for each row, the same where all columns are the same."""
    key = np.zeros(len(columns[0]), np.int64)
    for column in columns if len(key) else ():
        low = int(column.min())
        width = int(column.max()) - low + 1
        if width > len(column) * 64:  # far apart: counted instead of measured
            column, low = np.unique(column, return_inverse=True)[1], 0
            width = int(column.max()) + 1
        if int(key.max(initial=0)) > _LARGEST // width:
            key = np.unique(key, return_inverse=True)[1].astype(np.int64)
        key = key * width + (column.astype(np.int64) - low)
    return key
