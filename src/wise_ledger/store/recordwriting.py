"""Writing records of a declared kind: column by column,
what the ledger says already left out (T8).
"""

from collections.abc import Callable, Sequence
from operator import itemgetter
from typing import Any

from sqlalchemy import Connection, Table

from wise_ledger.core.records.recordkind import Field, RecordKind
from wise_ledger.store.chain import ContentHash
from wise_ledger.store.rowwriting import insert_rows, rows_of

Row = tuple[Any, ...]


class RecordWriter:
    """Takes the records of one batch; `reserve` gives so many keys of a table,
    `content` is the batch's hash.
    """

    def __init__(
        self,
        connection: Connection,
        batch: int,
        reserve: Callable[[Table, int], int],
        content: ContentHash,
    ) -> None:
        self._connection = connection
        self._batch = batch
        self._reserve = reserve
        self._content = content
        self.hashed: set[str] = set()  # tables whose rows of this batch are in the hash already

    def add(
        self, kind: RecordKind, table: Table, records: Sequence[Any], **references: int | None
    ) -> int:
        """Write the records that say anything new of what the references
        point to; how many they are.
        """
        if kind.complete is not None:
            records = [kind.complete(r) for r in records]
        rows_given = list(
            zip(*(self._column(kind, c, records, references) for c in kind.columns), strict=True)
        )
        new = self._new(kind, table, rows_given, {name: references[name] for name in kind.within})
        first = self._reserve(table, len(new))
        rows = [(first + n, self._batch, *row) for n, row in enumerate(new)]
        insert_rows(self._connection, table, rows)
        self._content.add(table, rows)
        self.hashed.add(table.name)
        return len(rows)

    def _column(
        self, kind: RecordKind, column: Any, records: Sequence[Any], references: dict[str, Any]
    ) -> Sequence[Any]:
        if not isinstance(column, Field):
            given = references[column.name]
            return given if isinstance(given, list) else [given] * len(records)
        kept = column.type.kept
        return [None if (value := column.of(r)) is None else kept(value) for r in records]

    def _new(
        self, kind: RecordKind, table: Table, rows_given: list[Row], within: dict[str, int | None]
    ) -> list[Row]:
        """The rows that differ from the last one of the same key and instant,
        in the ledger or before them here; one without an instant from the last of all.
        """
        names = [c.in_table for c in kind.columns]
        key = itemgetter(*(names.index(name) for name in kind.key))
        at = kind.instant and names.index(kind.instant)
        last: dict[Any, Row] = {}
        said: dict[Any, dict[int, Row]] = {}  # by key: since what came last without an instant

        def is_new(row: Row) -> bool:
            same = key(row)
            if at is None or row[at] is None:
                if last.get(same) == row:
                    return False
                said.pop(same, None)
            else:
                own = said.setdefault(same, {})
                if own.get(row[at]) == row:
                    return False
                own[row[at]] = row
            last[same] = row
            return True

        for row in rows_of(self._connection, table, names, within, "id"):
            is_new(row)
        return [row for row in rows_given if is_new(row)]
