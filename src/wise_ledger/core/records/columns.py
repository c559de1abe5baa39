"""Records of which there are millions and nothing is formed:
whole columns instead of an object a row.

A kind of them is declared like any other (`columnkinds.py`). Its rows come, are checked, kept and
read as arrays: days as whole numbers since 1970-01-01, instants as microseconds, numbers as
doubles, everything else as the number of a row of another table.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.errors import Problem
from wise_ledger.core.records.fields import FieldType
from wise_ledger.core.records.recordkind import Field, Reference

UNSAID = np.iinfo(np.int64).min  # an instant that the source does not give
Mask = NDArray[np.bool_]
_DTYPES: Mapping[str, type[np.generic]] = {
    "real": np.float64,
    "whole": np.int32,
    "instant": np.int64,
}


@dataclass(frozen=True)
class RowProblem:
    """What is wrong with the row of this number."""

    row: int
    problem: Problem


@dataclass(frozen=True)
class RowCheck:
    """Something asked of rows as a whole: `fails` marks those that do not pass,
    reported as the column `at`.
    """

    at: str
    problem: str
    mend: str
    fails: Callable[["RecordColumns"], Mask]


@dataclass(frozen=True)
class ColumnKind:
    """A kind of record kept as columns.

    `subjects` point to what a row is of, the first of them sorts the rows; with the columns of
    `same` they say which rows are versions of one another within a source. `day` names the column
    that dates a row. Where `by_publication` is set, rows of unlike publication instants (the column
    `instant`) are versions each; one without an instant is known since its day (T9), or as `unsaid`
    reckons, and one that replaces a row of an earlier batch since its own batch. `labels` point to
    what a row says beside numbers. The rows of a file of a `sourced` kind may name the source they
    come from.
    """

    name: str
    subjects: tuple[Reference, ...]
    fields: tuple[Field, ...]
    same: tuple[str, ...]
    day: str
    by_publication: bool = False
    checks: tuple[RowCheck, ...] = ()
    sourced: bool = False
    labels: tuple[Reference, ...] = ()
    instant: str = "published_at"
    unsaid: Callable[["RecordColumns"], NDArray[np.int64]] | None = None

    @property
    def _columns(self) -> tuple[Field | Reference, ...]:
        return (*self.subjects, *self.fields, *self.labels)

    @property
    def says(self) -> tuple[str, ...]:
        """The columns in which two versions may differ."""
        return (
            *(f.name for f in self.fields if f.name != self.instant),
            *(label.name for label in self.labels),
        )

    @property
    def heads(self) -> tuple[str, ...]:
        """The columns of a file."""
        return (*(c.name for c in self._columns), *(("source",) if self.sourced else ()))

    @property
    def needed(self) -> tuple[str, ...]:
        """Those that every row of a file has."""
        return tuple(c.name for c in self._columns if c.needed)

    @property
    def example(self) -> Mapping[str, str]:
        """A row of a file, to be written over."""
        return {c.name: c.example for c in self._columns} | (
            {"source": "my-supplier"} if self.sourced else {}
        )

    @property
    def key(self) -> tuple[str, ...]:
        """The columns that make two rows versions of one another,
        in the order in which rows are sorted.
        """
        own = (*(s.name for s in self.subjects), *self.same)
        return (*own, self.instant) if self.by_publication else own

    @property
    def dtypes(self) -> Mapping[str, type[np.generic]]:
        """Every column of a row as it is kept, by name."""
        columns = {s.name: np.int32 for s in self.subjects} | {
            f.name: _DTYPES[f.type.sql] for f in self.fields
        }
        columns |= {label.name: np.int32 for label in self.labels}
        return {**columns, "known_at": np.int64, "source": np.int16, "batch": np.int32}

    def problems(self, rows: "RecordColumns", now: datetime) -> list[RowProblem]:
        """The first problem of each row that has one, in the order of the rows."""
        found: dict[int, Problem] = {}
        for field in self.fields:
            values = rows[field.name]
            absent = missing(values)
            wrong = ~absent & ~fits(field.type, values, now)
            if field.needed:
                for row in np.flatnonzero(absent).tolist():
                    found.setdefault(
                        row, Problem(field.name, "", "the cell is empty", "every row needs it")
                    )
            for row in np.flatnonzero(wrong).tolist():
                found.setdefault(row, _in_words(field, values[row], now))
        shows = {field.name: field.type.shown for field in self.fields}
        for check in self.checks:
            for row in np.flatnonzero(check.fails(rows)).tolist():
                if row in found:  # what is wrong with its cells goes first
                    continue
                cell = rows[check.at][row]
                shown = "" if missing(cell) else _shown(shows.get(check.at, str)(cell.item()))
                found[row] = Problem(check.at, shown, check.problem, check.mend)
        return [RowProblem(row, found[row]) for row in sorted(found)]


@dataclass(frozen=True, eq=False)
class RecordColumns:
    """Rows of one kind, column by column; every column has one entry a row."""

    kind: ColumnKind
    columns: Mapping[str, NDArray[Any]]

    @classmethod
    def of(cls, kind: ColumnKind, **columns: Any) -> Self:
        """From sequences or arrays by name; one left out is missing in every row,
        of `batch` and `source` 0.
        """
        rows = max((len(c) for c in columns.values() if np.ndim(c)), default=0)
        out = {}
        for name, dtype in kind.dtypes.items():
            if name in columns:
                given = np.broadcast_to(np.asarray(columns[name], dtype), rows)
            else:
                given = np.full(
                    rows, 0 if name in ("source", "batch") else cls.absent(dtype), dtype
                )
            out[name] = given
        return cls(kind, out)

    @classmethod
    def together(cls, kind: ColumnKind, parts: Sequence["RecordColumns"]) -> Self:
        """Several one after the other."""
        filled = [p for p in parts if len(p)]
        if len(filled) == 1:
            return cls(kind, filled[0].columns)
        return cls(
            kind,
            {
                n: np.concatenate([np.empty(0, t), *(p[n] for p in filled)])
                for n, t in kind.dtypes.items()
            },
        )

    @staticmethod
    def absent(dtype: type[np.generic]) -> Any:
        """What stands in a column of this type where there is no value."""
        return _MISSING[np.dtype(dtype).kind, np.dtype(dtype).itemsize]

    def __len__(self) -> int:
        return len(self.columns["batch"])

    def __getitem__(self, name: str) -> NDArray[Any]:
        return self.columns[name]

    def where(self, keep: NDArray[Any]) -> Self:
        """Only the rows marked true, or those of these numbers."""
        return type(self)(self.kind, {name: column[keep] for name, column in self.columns.items()})

    def having(self, **columns: Any) -> Self:
        """With other columns in the place of some."""
        given = {
            n: np.broadcast_to(np.asarray(c, self.kind.dtypes[n]), len(self))
            for n, c in columns.items()
        }
        return type(self)(self.kind, {**self.columns, **given})

    def same(self, other: "RecordColumns") -> bool:
        """Whether these are the same rows in the same order, a missing value as a missing one."""
        return len(self) == len(other) and all(
            bool(alike(self[n], other[n]).all()) for n in self.kind.dtypes
        )

    def order(self, *behind: str) -> NDArray[np.int64]:
        """The numbers of the rows, sorted by the key of the kind, then by
        `behind`, then as they stand.
        """
        return np.lexsort([self[name] for name in (*self.kind.key, *behind)][::-1])

    def same_as_before(self, *names: str) -> Mask:
        """Of sorted rows: which agree with the one before them in some columns,
        a missing value with a missing one.
        """
        out = np.zeros(len(self), np.bool_)
        if len(self):
            out[1:] = True
            for name in names:
                out[1:] &= alike(self[name][1:], self[name][:-1])
        return out


_MISSING: Mapping[tuple[str, int], Any] = {
    ("f", 8): np.nan,
    ("i", 8): UNSAID,
    ("i", 4): np.iinfo(np.int32).min,
}


def missing(values: NDArray[Any]) -> Mask:
    """Where a column has no value."""
    if values.dtype.kind == "f":
        return np.asarray(np.isnan(values))
    return np.asarray(values == _MISSING.get((values.dtype.kind, values.dtype.itemsize), np.nan))


def alike(a: NDArray[Any], b: NDArray[Any]) -> Mask:
    """Where two columns agree; two missing values do."""
    if a.dtype.kind == "f":
        return np.asarray((a == b) | (np.isnan(a) & np.isnan(b)))
    return np.asarray(a == b)


def fits(type_: FieldType, values: NDArray[Any], now: datetime) -> Mask:
    """Where the values of a column pass what is asked of each of them,
    all in one look where its type has one.
    """
    if type_.all_fit is not None:
        return type_.all_fit(values, now)
    return np.ones(len(values), np.bool_)


def _in_words(field: Field, value: Any, now: datetime) -> Problem:
    unlike = Problem(field.name, str(value), "this value does not fit", "mend it")
    try:
        found: Iterator[Problem] = field.type.problems(
            field.name, field.type.shown(value.item()), now
        )
        problem = next(found, unlike)
    except (OverflowError, ValueError):  # no day of any calendar
        problem = unlike
    return replace(problem, mend=field.mend or problem.mend)


def _shown(value: Any) -> str:
    return f"{value:g}" if isinstance(value, float) else str(value)
