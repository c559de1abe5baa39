"""Figures as columns: what filings say, on the way into the ledger without an object for each."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, fields
from datetime import date, datetime
from itertools import accumulate, chain, compress, pairwise
from typing import Any, Self, overload

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.records.coded import Coded
from wise_ledger.core.records.records import CONSOLIDATED, FactRecord
from wise_ledger.core.time.instants import micros
from wise_ledger.core.time.periods import ABSENT, day


@dataclass(frozen=True, eq=False)
class Figures(Sequence[FactRecord]):
    """Figures in an order, one entry of each column a figure;
    the columns are the fields of `FactRecord`.

    Where few values stand many times the column is `Coded`, so that a check or a conversion looks
    at each once.
    """

    item: Coded[str]
    period_start: Coded[date | None]
    period_end: Coded[date]
    value: Sequence[float | None]
    reported: Sequence[str]
    scale: Coded[int]
    unit: Coded[str]
    published_at: Coded[datetime]
    place: Sequence[str]
    assumed: Coded[bool]
    basis: Coded[str]
    fiscal_period: Coded[str | None]
    declared_end: Coded[date | None]
    share_basis_date: Coded[date | None]

    @classmethod
    def of(cls, records: Iterable[FactRecord]) -> Self:
        """Out of single figures."""
        columns: list[Any] = list(zip(*records, strict=True)) or [()] * len(_FIELDS)
        coded = [
            c if name in _EACH_ITS_OWN else Coded.of(c)
            for name, c in zip(_FIELDS, columns, strict=True)
        ]
        return cls(*coded)

    @classmethod
    def joined(cls, parts: Sequence["Figures"]) -> "Figures":
        """Several, one after the other."""
        if len(parts) == 1:
            return parts[0]
        if whole := _whole_of(parts):
            return whole
        return cls(*(_joined(name, [getattr(p, name) for p in parts]) for name in _FIELDS))

    def parts(self, sizes: Iterable[int]) -> "list[Figures]":
        """Cut into parts of so many each; joined again they are these very figures."""
        ends = list(accumulate(sizes))
        return [_Part(self, begin, end) for begin, end in pairwise([0, *ends])]

    @property
    def columns(self) -> list[Sequence[Any]]:
        """Every column, in the order of the fields."""
        return [getattr(self, name) for name in _FIELDS]

    def starts(self) -> NDArray[np.int64]:
        """The day on which each one's period begins, `ABSENT` for a balance."""
        return days_of(self.period_start)

    def ends(self) -> NDArray[np.int64]:
        """The day on which each one's period ends."""
        return self.period_end.numbers(day)

    def instants(self) -> NDArray[np.int64]:
        """When each became public, in microseconds."""
        return self.published_at.numbers(micros)

    def numbers(self) -> NDArray[np.float64]:
        """The values, NaN where one is withdrawn."""
        return np.array(self.value, np.float64)

    def consolidated(self) -> NDArray[np.bool_]:
        """Which are on the consolidated basis."""
        return self.basis.numbers(lambda basis: basis == CONSOLIDATED).astype(np.bool_)

    def where(self, keep: Sequence[bool]) -> "Figures":
        """Only those marked true."""
        kept: list[Any] = [
            column.where(keep) if isinstance(column, Coded) else list(compress(column, keep))
            for column in self.columns
        ]
        return Figures(*kept)

    def __len__(self) -> int:
        return len(self.item)

    def __iter__(self) -> Iterator[FactRecord]:
        return map(FactRecord._make, zip(*self.columns, strict=True))

    @overload
    def __getitem__(self, n: int) -> FactRecord: ...
    @overload
    def __getitem__(self, n: slice) -> "Figures": ...
    def __getitem__(self, n: int | slice) -> "FactRecord | Figures":
        found: list[Any] = [column[n] for column in self.columns]
        return FactRecord._make(found) if isinstance(n, int) else Figures(*found)


class _Part(Figures):
    """Some figures in a row of others: of those that come in together most are never looked at
    document by document, so their columns are cut when they are asked for.
    """

    def __init__(self, whole: Figures, begin: int, end: int) -> None:
        self.__dict__["cut"] = whole, begin, end

    def __getattr__(self, name: str) -> Any:
        if name not in _FIELDS:
            raise AttributeError(name)
        whole, begin, end = self.__dict__["cut"]
        self.__dict__[name] = getattr(whole, name)[begin:end]
        return self.__dict__[name]

    def __len__(self) -> int:
        _, begin, end = self.__dict__["cut"]
        return int(end - begin)

    def __reduce__(self) -> tuple[Any, ...]:
        return _Part, self.__dict__["cut"]


def _whole_of(parts: Sequence[Figures]) -> Figures | None:
    """What was cut into just these parts."""
    cuts = [part.__dict__["cut"] for part in parts if isinstance(part, _Part)]
    if len(cuts) < len(parts) or not cuts:
        return None
    whole, ends = cuts[0][0], [0, *(end for _, _, end in cuts)]
    same = all(
        of is whole and begin == end for (of, begin, _), end in zip(cuts, ends, strict=False)
    )
    return whole if same and ends[-1] == len(whole) else None


def days_of(column: Coded[date | None]) -> NDArray[np.int64]:
    """Days, `ABSENT` where there is no date."""
    return column.numbers(lambda d: ABSENT if d is None else day(d))


def _joined(name: str, columns: Sequence[Any]) -> Any:
    return list(chain.from_iterable(columns)) if name in _EACH_ITS_OWN else Coded.joined(columns)


_EACH_ITS_OWN = ("value", "reported", "place")  # values of which nearly none stands twice
_FIELDS = tuple(f.name for f in fields(Figures))
assert FactRecord._fields == _FIELDS
