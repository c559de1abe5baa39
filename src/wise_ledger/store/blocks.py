"""Blocks: records that are kept as columns, so many rows of one kind, source and batch in each."""

import hashlib
from collections.abc import Callable, Iterator

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import Connection, Table, select

from wise_ledger.core.market.closes import Closes
from wise_ledger.core.records.columns import UNSAID, ColumnKind, RecordColumns, alike
from wise_ledger.core.time.instants import DAY
from wise_ledger.store import naming
from wise_ledger.store.chain import ContentHash
from wise_ledger.store.columnpacking import pack_columns, unpack_columns
from wise_ledger.store.rowwriting import insert_rows
from wise_ledger.store.tables import blocks

_ROWS = 65_536  # in a block


class BlockWriter:
    """Takes the columns of one batch; `reserve` gives so many keys of a table,
    `content` is the batch's hash.
    """

    def __init__(
        self,
        connection: Connection,
        batch: int,
        recorded_at: int,
        reserve: Callable[[Table, int], int],
        content: ContentHash,
    ) -> None:
        self._connection = connection
        self._batch = batch
        self._recorded_at = recorded_at
        self._reserve = reserve
        self._content = content

    def add(self, source: int, rows: RecordColumns) -> int:
        """Write the rows that say anything new (T8); how many they are.

        Of rows of one key and instant the last counts. `known_at` holds when each is known if it
        replaces none.
        """
        kind = rows.kind
        rows = rows.where(rows.order(kind.instant))
        rows = rows.where(~_followed(rows, *kind.key, kind.instant))
        rows = rows.having(source=source, batch=self._batch)
        rows = self._new(rows)
        count = -(-len(rows) // _ROWS)
        first = self._reserve(blocks, count)
        written = []
        for n in range(count):
            part = rows.where(np.arange(n * _ROWS, min((n + 1) * _ROWS, len(rows))))
            payload = pack_columns(part)
            bounds = [
                int(f(part[name]))
                for name in (kind.subjects[0].name, kind.day)
                for f in (np.min, np.max)
            ]
            digest = hashlib.sha256(payload).hexdigest()
            written.append(
                (first + n, self._batch, kind.name, source, *bounds, len(part), digest, payload)
            )
        insert_rows(self._connection, blocks, written)
        self._content.add(blocks, written)
        return len(rows)

    def _new(self, rows: RecordColumns) -> RecordColumns:
        """The rows that differ from what the ledger has of the same key and instant; of one without
        an instant, from what counts of the key. Sorted, as they were.
        """
        kind = rows.kind
        has = self._standing(rows)
        if not len(has):
            return rows
        unsaid = rows[kind.instant] == UNSAID
        same, known_at = np.zeros(len(rows), np.bool_), rows["known_at"].copy()
        if not unsaid.all():
            _, same[~unsaid] = _found(rows.where(~unsaid), has, *kind.key, kind.instant)
        if unsaid.any():
            counts = has.where(~_followed(has, *kind.key))
            replaces, same[unsaid] = _found(rows.where(unsaid), counts, *kind.key)
            known_at[unsaid] = np.where(
                replaces, np.maximum(known_at[unsaid], self._recorded_at), known_at[unsaid]
            )
        return rows.having(known_at=known_at).where(~same)

    def _standing(self, rows: RecordColumns) -> RecordColumns:
        """Of the keys that the ledger may have, from this source, the row of each instant that it
        has last, since the last one without an instant; sorted by key and instant.
        """
        kind = rows.kind
        if not len(rows):
            return rows
        subject, days = rows[kind.subjects[0].name], rows[kind.day]
        t = blocks.c
        query = select(t.batch, t.source, t.payload).where(
            t.kind == kind.name,
            t.source == int(rows["source"][0]),
            t.low <= int(subject.max()),
            t.high >= int(subject.min()),
            t.first_day <= int(days.max()),
            t.last_day >= int(days.min()),
        )
        parts = []
        for r in self._connection.execute(query.order_by(t.id)):
            part = unpack_columns(kind, r.payload, batch=r.batch, source=r.source)
            near = (part[kind.day] >= days.min()) & (part[kind.day] <= days.max())
            parts.append(part.where(near))
        found = RecordColumns.together(kind, parts)
        found = found.where(found.order("batch"))
        unsaid = np.append(0, np.cumsum(found[kind.instant] == UNSAID))  # before each
        last = np.flatnonzero(~_followed(found, *kind.key)) + 1
        of_key = last[np.searchsorted(last, np.arange(len(found)), "right")] if len(last) else last
        found = found.where(unsaid[of_key] == unsaid[1:])
        found = found.where(found.order(kind.instant, "batch"))
        return found.where(~_followed(found, *kind.key, kind.instant))


def _found(
    rows: RecordColumns, has: RecordColumns, *key: str
) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Which rows have their key among others, each there once, and which say the same as that."""
    both = RecordColumns.together(rows.kind, [has, rows])
    order = np.lexsort([both[name] for name in (*key, "batch")][::-1])
    sorted_ = both.where(order)
    begins = ~sorted_.same_as_before(*key)
    first = np.flatnonzero(begins)[np.cumsum(begins) - 1]  # of each key: the one that was there
    place = np.empty(len(order), np.int64)
    place[order] = np.arange(len(order))
    place = place[len(has) :]
    there = order[first[place]] < len(has)
    same, before = there.copy(), sorted_.where(first[place])
    for name in rows.kind.says:
        same &= alike(rows[name], before[name])
    return there, same


def with_known_at(connection: Connection, batch: int, rows: RecordColumns) -> RecordColumns:
    """The rows with the instant each is known since, if it replaces none
    (T9): published, else by its day.

    A price is known when its venue closes, all else when its day ends.
    """
    given = rows[rows.kind.instant]
    unsaid = given == UNSAID
    if not unsaid.any():
        return rows.having(known_at=given)
    if rows.kind.unsaid is not None:
        return rows.having(known_at=np.where(unsaid, rows.kind.unsaid(rows), given))
    days = rows[rows.kind.day].astype(np.int64)
    own = (days + 1) * DAY - 1
    if rows.kind.subjects[0].table == "listings":
        closes = Closes.of(
            naming.all_listings(connection, batch), naming.all_venues(connection, batch)
        )
        own = closes.at(rows["listing"], days)
    return rows.having(known_at=np.where(unsaid, own, given))


def _followed(rows: RecordColumns, *key: str) -> np.ndarray:
    """Of sorted rows: which have one of the same key after them."""
    out = np.zeros(len(rows), np.bool_)
    out[:-1] = rows.same_as_before(*key)[1:]
    return out


def read_blocks(
    connection: Connection, kind: ColumnKind, after: int, upto: int
) -> Iterator[RecordColumns]:
    """The rows of a kind that the batches after one, up to another, brought,
    block by block in order of recording.
    """
    t = blocks.c
    query = select(t.batch, t.source, t.payload).where(
        t.kind == kind.name, t.batch > after, t.batch <= upto
    )
    for r in connection.execute(query.order_by(t.id)):
        yield unpack_columns(kind, r.payload, batch=r.batch, source=r.source)


def newest_batch(connection: Connection, kind: ColumnKind, upto: int) -> int:
    """The last batch, up to one, that brought rows of a kind; 0 where none did."""
    query = select(blocks.c.batch).where(blocks.c.kind == kind.name, blocks.c.batch <= upto)
    return connection.execute(query.order_by(blocks.c.id.desc()).limit(1)).scalar() or 0
