"""Cells: a value or a reason with all that a reader must know of it,
and the columns that they stand in.
"""

from dataclasses import dataclass
from datetime import date
from functools import lru_cache
from typing import NamedTuple

from wise_ledger.core.timelines.keys import Mark


@dataclass(frozen=True)
class Column:
    """An expression shown as a column under a name;
    `percent` where it was compared with a percent.
    """

    expression: str
    unit: str
    percent: bool
    name: str


class Cell(NamedTuple):
    """A figure of one company: a value or a reason, with what must be known of it.

    Many are made: a plain tuple.
    """

    value: float | str | None
    reason: str | None
    currency: str | None
    end: date | None
    known_at: int | None  # since when it reads like this (microseconds)
    marks: tuple[str, ...]
    restated: bool
    restated_later: bool | None  # None unless hindsight was asked for (T9)


@dataclass(frozen=True)
class Table:
    """Columns, and a row of cells for each company."""

    columns: tuple[Column, ...]
    rows: tuple[tuple[Cell, ...], ...]


@lru_cache(256)
def mark_names(marks: int) -> tuple[str, ...]:
    """The words of a set of marks."""
    return tuple(m.name.lower() for m in Mark if m & marks and m.name)
