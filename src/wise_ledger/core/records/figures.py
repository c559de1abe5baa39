"""Figures as columns: what filings say, on the way into the ledger without an object for each."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, fields
from datetime import date, datetime
from itertools import chain, compress
from typing import Any, Self, overload

from wise_ledger.core.records.records import FactRecord


@dataclass(frozen=True, eq=False)
class Figures(Sequence[FactRecord]):
    """Figures in an order, one entry of each column a figure; the columns are the fields of `FactRecord`."""

    item: Sequence[str]
    period_start: Sequence[date | None]
    period_end: Sequence[date]
    value: Sequence[float | None]
    reported: Sequence[str]
    scale: Sequence[int]
    unit: Sequence[str]
    published_at: Sequence[datetime]
    place: Sequence[str]
    assumed: Sequence[bool]
    basis: Sequence[str]
    fiscal_period: Sequence[str | None]
    declared_end: Sequence[date | None]
    share_basis_date: Sequence[date | None]

    @classmethod
    def of(cls, records: Iterable[FactRecord]) -> Self:
        """Out of single figures."""
        return cls(*(list(zip(*records, strict=True)) or [()] * len(_FIELDS)))

    @classmethod
    def joined(cls, parts: Sequence["Figures"]) -> "Figures":
        """Several, one after the other."""
        if len(parts) == 1:
            return parts[0]
        of_each = ([getattr(p, name) for p in parts] for name in _FIELDS)
        return cls(*(list(chain.from_iterable(columns)) for columns in of_each))

    @property
    def columns(self) -> list[Sequence[Any]]:
        """Every column, in the order of the fields."""
        return [getattr(self, name) for name in _FIELDS]

    def where(self, keep: Sequence[bool]) -> Self:
        """Only those marked true."""
        return type(self)(*(list(compress(column, keep)) for column in self.columns))

    def __len__(self) -> int:
        return len(self.item)

    def __iter__(self) -> Iterator[FactRecord]:
        return map(FactRecord._make, zip(*self.columns, strict=True))

    @overload
    def __getitem__(self, n: int) -> FactRecord: ...
    @overload
    def __getitem__(self, n: slice) -> "Figures": ...
    def __getitem__(self, n: int | slice) -> "FactRecord | Figures":
        found = [column[n] for column in self.columns]
        return FactRecord._make(found) if isinstance(n, int) else Figures(*found)


_FIELDS = tuple(f.name for f in fields(Figures))
assert FactRecord._fields == _FIELDS
