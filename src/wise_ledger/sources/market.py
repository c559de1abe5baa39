"""What sources give of markets: prices and levels as columns, dividends,
share counts and ends of listings.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import pyarrow as pa
from numpy.typing import NDArray

from wise_ledger.core.records.records import DelistingRecord, DividendRecord, SharesRecord
from wise_ledger.sources.errors import SourceError


@dataclass(frozen=True, eq=False)
class PricesFound:
    """Daily prices at one venue: of the security `keys[which]` (the source's
    own keys), row by row.
    """

    mic: str
    keys: tuple[str, ...]
    which: NDArray[np.int64]
    columns: Mapping[str, NDArray[Any]]  # date (days), open, high, low, close, volume

    def __len__(self) -> int:
        return len(self.which)


@dataclass(frozen=True, eq=False)
class LevelsFound:
    """Levels of lists: of `names[which]`, row by row."""

    names: tuple[str, ...]
    which: NDArray[np.int64]
    columns: Mapping[str, NDArray[Any]]  # date (days), level, total_return_level


@dataclass(frozen=True)
class MarketFound:
    """What changed since a mark, by the source's keys of securities, and the mark to ask from
    next time, which has nothing of what is `missing`: the errors of files that could not be had.
    """

    prices: tuple[PricesFound, ...] = ()
    levels: LevelsFound | None = None
    dividends: tuple[tuple[str, DividendRecord], ...] = ()
    shares: tuple[tuple[str, SharesRecord], ...] = ()
    delistings: tuple[tuple[str, str, DelistingRecord], ...] = field(default=())  # security, venue
    mark: str | None = None
    missing: tuple[SourceError, ...] = ()


@dataclass(frozen=True, eq=False)
class Expected:
    """Rows of one kind about what is expected of companies: these by the
    source's key, texts by column.

    Of `columns` days are whole numbers, instants microseconds, numbers doubles; NaN withdraws.
    """

    # company, period_kind, and by kind measure, currency, contributor
    texts: Mapping[str, Sequence[str]]
    columns: Mapping[str, NDArray[Any]]

    def __len__(self) -> int:
        return len(self.columns["period_end"])


@dataclass(frozen=True)
class EstimatesFound:
    """What became public since a mark, by kind (estimates, actuals, consensus,
    announcements), and the next mark.
    """

    rows: Mapping[str, tuple[Expected, ...]] = field(default_factory=dict)
    mark: str | None = None


def distinct(column: pa.ChunkedArray) -> tuple[tuple[str, ...], NDArray[np.int64]]:
    """The different texts of a column, and which of them each row has;
    raises `ValueError` for what is no text.
    """
    if pa.types.is_dictionary(column.type):
        column = column.cast(column.type.value_type)
    if not pa.types.is_string(column.type) or column.null_count:
        raise ValueError(f"a column of {column.type} in the place of names")
    coded = column.combine_chunks().dictionary_encode()
    return tuple(coded.dictionary.to_pylist()), np.asarray(coded.indices, np.int64)


def numbers(table: pa.Table, name: str) -> NDArray[np.float64]:
    """A column of numbers, NaN where there is none;
    raises `ValueError` for what is no number, or is not there.
    """
    column = _column(table, name)
    if not (pa.types.is_floating(column.type) or pa.types.is_integer(column.type)):
        raise ValueError(f"{name} is no column of numbers")
    return np.asarray(column.cast(pa.float64()).to_numpy(), np.float64)


def days(table: pa.Table, name: str) -> NDArray[np.int32]:
    """A column of days since 1970-01-01; raises `ValueError` for what is none, or is missing."""
    column = _column(table, name)
    if not pa.types.is_date(column.type) or column.null_count:
        raise ValueError(f"{name} is no column of days")
    return np.asarray(column.cast(pa.date32()).cast(pa.int32()).to_numpy(), np.int32)


def names(table: pa.Table, name: str) -> tuple[tuple[str, ...], NDArray[np.int64]]:
    """A column of texts: the different ones, and which of them each row has;
    raises `ValueError`.
    """
    return distinct(_column(table, name))


def _column(table: pa.Table, name: str) -> pa.ChunkedArray:
    if name not in table.column_names:
        raise ValueError(f"there is no column {name}")
    return table.column(name)
