"""The records that are kept as columns, in memory: read on as batches come,
kept as a file beside the ledger.
"""

import threading
from collections import defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from wise_ledger.core.records.columns import ColumnKind, RecordColumns
from wise_ledger.store.blocks import newest_batch, read_blocks
from wise_ledger.store.columnfile import read_columns, write_columns
from wise_ledger.store.ledger import Ledger

_WORTH_A_FILE = 10_000  # rows; fewer are read from the ledger again after a restart
_TENTH = 10


@dataclass(frozen=True, eq=False)
class _Kept:
    rows: RecordColumns
    upto: int
    in_file: int = 0  # how many of them are in the file


class Histories:
    """All rows of each kind, sorted by its key, versions in order of recording.

    Safe for many threads.
    """

    def __init__(self, ledger: Ledger, folder: Path) -> None:
        self._ledger = ledger
        self._folder = folder
        self._locks: dict[str, threading.Lock] = defaultdict(threading.Lock)
        self._kept: dict[str, _Kept] = {}

    def of(self, kind: ColumnKind, batch: int) -> RecordColumns:
        """The rows of a kind up to a batch."""
        with self._locks[kind.name]:
            kept = self._kept.get(kind.name) or self._from_file(kind, batch)
            with self._ledger.database.read() as connection:
                newest = newest_batch(connection, kind, batch)
                if newest > kept.upto:
                    fresh = RecordColumns.together(
                        kind, list(read_blocks(connection, kind, kept.upto, newest))
                    )
                    rows = RecordColumns.together(kind, [kept.rows, fresh])
                    kept = self._saved(_Kept(rows.where(rows.order("batch")), newest, kept.in_file))
            self._kept[kind.name] = kept
        return kept.rows.where(kept.rows["batch"] <= batch) if kept.upto > batch else kept.rows

    def newest(self, kind: ColumnKind, batch: int) -> int:
        """The last batch, up to one, that brought rows of a kind."""
        with self._ledger.database.read() as connection:
            return newest_batch(connection, kind, batch)

    def verify(
        self, kinds: Iterable[ColumnKind], step: Callable[[], None] = lambda: None
    ) -> tuple[int, int]:
        """How many files were compared with the ledger, and how many did not
        agree: these are let go of.
        """
        compared = again = 0
        for kind in kinds:
            step()
            with self._locks[kind.name], self._ledger.database.read() as connection:
                found = self._from_file(kind, self._ledger.last_batch())
                if not found.upto:
                    continue
                compared += 1
                fresh = RecordColumns.together(
                    kind, list(read_blocks(connection, kind, 0, found.upto))
                )
                if not found.rows.same(fresh.where(fresh.order("batch"))):
                    again += 1
                    self._path(kind).unlink(missing_ok=True)
                    self._kept.pop(kind.name, None)
        return compared, again

    def _path(self, kind: ColumnKind) -> Path:
        return self._folder / f"{kind.name}.columns"

    def _from_file(self, kind: ColumnKind, batch: int) -> _Kept:
        """What the file has; nothing where it is in doubt,
        of another ledger or of batches after this one.
        """
        nothing = _Kept(RecordColumns.of(kind, batch=np.empty(0, np.int32)), 0)
        found = read_columns(self._path(kind))
        if found is None:
            return nothing
        about, columns = found
        if {n: c.dtype for n, c in columns.items()} != {
            n: np.dtype(t) for n, t in kind.dtypes.items()
        }:
            return nothing
        if about["upto"] > batch or about.get("hash") != self._ledger.hash_of(about["upto"]):
            return nothing
        rows = RecordColumns(kind, columns)
        return _Kept(rows, about["upto"], len(rows))

    def _saved(self, kept: _Kept) -> _Kept:
        """Written to the file where it has grown by more than a tenth."""
        grown = len(kept.rows) - kept.in_file
        if len(kept.rows) < _WORTH_A_FILE or grown * _TENTH <= len(kept.rows):
            return kept
        about = {"upto": kept.upto, "hash": self._ledger.hash_of(kept.upto)}
        path = self._path(kept.rows.kind)
        try:
            write_columns(path, about, kept.rows.columns)
        except OSError:  # the disk is full: it is read from the ledger again after a restart
            path.with_suffix(".new").unlink(missing_ok=True)
            return kept
        return _Kept(kept.rows, kept.upto, len(kept.rows))


Reader = Callable[[ColumnKind], RecordColumns]
