"""The ledger: atomic batches in, one state of it out."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from sqlalchemy import Connection, select

from wise_ledger.core.errors import BadInput
from wise_ledger.core.time.instants import as_instant, micros
from wise_ledger.store import chain
from wise_ledger.store.batch import BatchWriter
from wise_ledger.store.database import Database
from wise_ledger.store.rowwriting import driver_of, insert_rows
from wise_ledger.store.tables import batches, items
from wise_ledger.store.verification import Verified, verify


@dataclass(frozen=True)
class Batch:
    """One atomic write, as listed."""

    number: int
    recorded_at: datetime
    kind: str
    note: str
    rows: int
    hash: str


class Ledger:
    """A ledger file; `now` is the clock by which batches are stamped."""

    def __init__(self, path: Path, now: Callable[[], datetime]) -> None:
        self.database = Database(path)
        self.now = now

    def close(self) -> None:
        """Let go of the file."""
        self.database.close()

    @contextmanager
    def batch(self, kind: str, note: str) -> Iterator[BatchWriter]:
        """Write one batch: all of it or nothing.

        A batch without a single new row leaves no trace. Its own row takes no update afterwards, so
        that it is written last.
        """
        with self.database.write() as connection:
            number, previous = _last(connection)
            writer = BatchWriter(connection, number + 1, micros(self.now()))
            yield writer
            if kind == "load" and writer.refused:  # a file is one batch or none
                raise BadInput(*(p for found in writer.refused.values() for p in found))
            content = writer.content()
            if not content.rows:
                return
            row = (number + 1, writer.recorded_at, kind, note, content.rows, content.hex, previous)
            insert_rows(connection, batches, [(*row, chain.batch_hash(*row))])

    def last_batch(self) -> int:
        """The number of the newest batch; 0 for an empty ledger."""
        with self.database.read() as connection:
            return _last(connection)[0]

    def item_codes(self) -> list[str]:
        """The codes of the items that it has figures of."""
        with self.database.read() as connection:
            return list(connection.execute(select(items.c.code).order_by(items.c.code)).scalars())

    def hash_of(self, batch: int) -> str | None:
        """The hash by which a batch is chained; None where there is no such batch."""
        with self.database.read() as connection:
            return connection.execute(
                select(batches.c.hash).where(batches.c.number == batch)
            ).scalar()

    def batches(self, before: int | None, limit: int) -> list[Batch]:
        """The newest batches first, those before a number."""
        query = select(batches).order_by(batches.c.number.desc()).limit(limit)
        if before is not None:
            query = query.where(batches.c.number < before)
        with self.database.read() as connection:
            return [
                Batch(b.number, as_instant(b.recorded_at), b.kind, b.note, b.rows, b.hash)
                for b in connection.execute(query)
            ]

    def verify(self, step: Callable[[int, int], None] = lambda done, total: None) -> Verified:
        """Recompute the whole hash chain, and have the file checked for damage beyond it.

        `step` is called with the rows that are done and how many there are, and in between; what it
        raises ends this. Raises `ChainBroken` with the batch that does not hold, and `StoreError`
        for a damaged file.
        """
        return verify(self.database, step)


def _last(connection: Connection) -> tuple[int, str]:
    found = (
        driver_of(connection)
        .execute("SELECT number, hash FROM batches ORDER BY number DESC LIMIT 1")
        .fetchone()
    )
    return tuple(found) if found else (0, chain.GENESIS)
