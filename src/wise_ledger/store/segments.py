"""Column segments: the facts of one item as files, derived from the ledger;
deleting them loses nothing.

An item's folder holds a base and, as batches come, small segments after it, each one file that says
which batches it covers and by which hash the last of them is chained. A segment that is missing,
short, damaged or of another ledger, and all after it, are made again.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import groupby
from operator import itemgetter
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import Connection, text

from wise_ledger.core.money.currencies import currency_of
from wise_ledger.core.records.facts import DTYPES, FactColumns
from wise_ledger.core.time.periods import ABSENT
from wise_ledger.store.columnfile import read_columns, write_columns
from wise_ledger.store.factids import fact_ids


@dataclass(frozen=True, eq=False)
class Segment:
    """Facts of the batches after `after` up to `upto`, sorted by company,
    then place in the ledger.
    """

    after: int
    upto: int
    columns: FactColumns

    def of(self, companies: NDArray[np.int64]) -> FactColumns:
        """The facts of some companies (ascending)."""
        low = np.searchsorted(self.columns.company, companies, "left")
        count = np.searchsorted(self.columns.company, companies, "right") - low
        rows = np.repeat(low - np.cumsum(count) + count, count) + np.arange(count.sum())
        return self.columns.where(rows)


class SegmentFiles:
    """The segments of all items under one folder; `hash_of` gives a batch's hash,
    so that others' files are known.
    """

    def __init__(self, folder: Path, hash_of: Callable[[int], str | None]) -> None:
        self._folder = folder
        self._hash_of = hash_of

    def read(self, item: str, upto: int) -> list[Segment]:
        """The kept segments of an item that cover the batches from the first
        on, none after `upto`.
        """
        found: list[Segment] = []
        for path in sorted((self._folder / item).glob("*.columns")):
            segment = self._open(path)
            if segment is None or segment.after != (found[-1].upto if found else 0):
                path.unlink(missing_ok=True)
            elif segment.upto <= upto:
                found.append(segment)
        return found

    def forget(self, item: str) -> None:
        """Take the files of an item away: they are made again when it is asked for."""
        for path in (self._folder / item).glob("*.columns"):
            path.unlink(missing_ok=True)

    def _open(self, path: Path) -> Segment | None:
        kept = read_columns(path)
        if kept is None or {n: c.dtype for n, c in kept[1].items()} != {
            n: np.dtype(t) for n, t in DTYPES.items()
        }:
            return None
        about, columns = kept
        if about.get("hash") != self._hash_of(about["upto"]):
            return None
        return Segment(about["after"], about["upto"], FactColumns.of(columns))

    def write(self, item: str, segment: Segment, *, alone: bool) -> None:
        """Keep a segment as a file, `alone` in the place of all others.

        Where the disk is full nothing is kept: the segment is read from the ledger again after a
        restart.
        """
        folder = self._folder / item
        path = folder / f"{segment.after:09d}-{segment.upto:09d}.columns"
        about = {"after": segment.after, "upto": segment.upto, "hash": self._hash_of(segment.upto)}
        try:
            old = list(folder.glob("*.columns")) if alone else []
            write_columns(path, about, {name: getattr(segment.columns, name) for name in DTYPES})
            for other in old:
                if other != path:
                    other.unlink(missing_ok=True)
        except OSError:
            path.with_suffix(".new").unlink(missing_ok=True)


_FIGURES = text(
    "SELECT f.id, f.value, f.published_at, f.company FROM facts f JOIN items i ON i.number = f.item"
    " WHERE i.code = :item AND f.batch > :after AND f.batch <= :upto AND f.basis = 'consolidated' ORDER BY f.id"
)


def agrees(connection: Connection, item: str, segment: Segment) -> bool:
    """Whether a segment has the facts that the ledger has, each with its value,
    company and publication.
    """
    asked = {"item": item, "after": segment.after, "upto": segment.upto}
    rows = np.array([tuple(row) for row in connection.execute(_FIGURES, asked)], object).reshape(
        -1, 4
    )
    columns = segment.columns.where(np.argsort(segment.columns.fact, kind="stable"))
    return len(rows) == len(columns) and all(
        np.array_equal(column, rows[:, n].astype(column.dtype), equal_nan=column.dtype.kind == "f")
        for n, column in enumerate((columns.fact, columns.value, columns.at, columns.company))
    )


def merged(segments: Sequence[Segment]) -> Segment:
    """Several segments that follow each other as one."""
    columns = {n: np.concatenate([getattr(s.columns, n) for s in segments]) for n in DTYPES}
    return Segment(segments[0].after, segments[-1].upto, _sorted(FactColumns.of(columns)))


def _sorted(columns: FactColumns) -> FactColumns:
    return columns.where(np.lexsort((columns.fact, columns.company)))


_COLUMNS = (
    "f.company, coalesce(f.period_start, :absent), f.period_end, coalesce(f.declared_end, :absent), f.published_at,"
    " f.batch, f.position, f.source, f.value, f.unit, f.assumed, f.id"
)
_OF_ITEM = text(
    f"SELECT {_COLUMNS} FROM facts f JOIN items i ON i.number = f.item"
    " WHERE i.code = :item AND f.batch > :after AND f.batch <= :upto AND f.basis = 'consolidated'"
)
_OF_ALL = text(
    f"SELECT i.code, {_COLUMNS} FROM facts f JOIN items i ON i.number = f.item"
    " WHERE f.id >= :first AND f.id < :last AND f.basis = 'consolidated' ORDER BY i.code"
)


def read_facts(connection: Connection, item: str, after: int, upto: int) -> Segment:
    """The facts of an item in some batches, from the ledger."""
    rows = connection.execute(
        _OF_ITEM, {"item": item, "after": after, "upto": upto, "absent": ABSENT}
    ).all()
    return _segment(after, upto, rows)


def read_few(connection: Connection, after: int, upto: int, most: int) -> dict[str, Segment] | None:
    """The facts of some batches by item, in one go; None where they are more than `most`."""
    first, last = fact_ids(connection, after, upto)
    if last - first > most:
        return None
    rows = connection.execute(_OF_ALL, {"first": first, "last": last, "absent": ABSENT})
    by_item = groupby(rows, key=itemgetter(0))
    return {code: _segment(after, upto, [row[1:] for row in own]) for code, own in by_item}


def _segment(after: int, upto: int, rows: Sequence[Sequence[Any]]) -> Segment:
    if not rows:
        return Segment(after, upto, FactColumns.empty())
    by_name = dict(zip(DTYPES, zip(*rows, strict=True), strict=True))
    units = {unit: currency_of(unit) for unit in set(by_name["currency"])}
    columns = {
        **by_name,
        "value": [np.nan if v is None else v for v in by_name["value"]],
        "currency": [units[u] for u in by_name["currency"]],
    }
    return Segment(after, upto, _sorted(FactColumns.of(columns)))
