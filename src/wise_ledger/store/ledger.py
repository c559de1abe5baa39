"""The ledger: atomic batches in, one state of it out."""

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from itertools import pairwise
from pathlib import Path

from sqlalchemy import Connection, func, select

from wise_ledger.core.errors import BadInput, Problem
from wise_ledger.core.time.instants import as_instant, micros
from wise_ledger.store import chain
from wise_ledger.store.batch import BatchWriter
from wise_ledger.store.database import Database, interruptible
from wise_ledger.store.errors import StoreError
from wise_ledger.store.rowwriting import driver_of, insert_rows
from wise_ledger.store.tables import FACTS_POINT_TO, batches, facts, items


@dataclass(frozen=True)
class Batch:
    """One atomic write, as listed."""

    number: int
    recorded_at: datetime
    kind: str
    note: str
    rows: int
    hash: str


@dataclass(frozen=True)
class Verified:
    """The chain holds up to this batch."""

    batches: int
    facts: int
    hash: str
    notes: tuple[str, ...] = ()  # what a person should look at, though nothing is broken


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

        A batch without a single new row leaves no trace.
        """
        with self.database.write() as connection:
            number, previous = _last(connection)
            # The row of the batch must stand before rows can point to it, and takes
            # no update afterwards: it is written last, and foreign keys are looked
            # at when the transaction ends.
            connection.exec_driver_sql("PRAGMA defer_foreign_keys = ON")
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
        with ThreadPoolExecutor(1, thread_name_prefix="verify") as beside:
            file = beside.submit(self._check_file, step)
            try:
                return self._verified(step)
            except UnicodeDecodeError as error:
                raise _damaged(self.database.path, f"a text is none ({error})") from None
            finally:
                file.result()  # damage goes first: whatever else was found may come of it

    def _check_file(self, step: Callable[[int, int], None]) -> None:
        """SQLite's own check, which needs none of Python's time."""
        with self.database.read() as connection, interruptible(connection, lambda: step(0, 0)):
            damage = connection.exec_driver_sql("PRAGMA integrity_check(5)").scalars().all()
        if damage != ["ok"]:
            raise _damaged(self.database.path, " ".join(str(damage[0]).split()))

    def _verified(self, step: Callable[[int, int], None]) -> Verified:
        with self.database.read() as connection, interruptible(connection, lambda: step(0, 0)):
            number, hash_ = chain.verify(connection, step)
            if lost := connection.exec_driver_sql(
                "PRAGMA foreign_key_check"
            ).first() or _lost_of_facts(connection):
                raise _damaged(
                    self.database.path,
                    f"a row of {lost[0]} belongs to one of {lost[2]} that is not there",
                )
            count = connection.execute(select(func.count()).select_from(facts)).scalar_one()
            at = (
                connection.execute(select(batches.c.recorded_at).order_by(batches.c.number))
                .scalars()
                .all()
            )
        back = sum(after < before for before, after in pairwise(at))
        note = f"the clock went back: {back} batches are stamped before the ones they follow"
        return Verified(number, count, hash_, (note,) if back else ())


def _lost_of_facts(connection: Connection) -> tuple[str, int, str] | None:
    """A fact that points to what is not there, as SQLite names one of what is declared."""
    for name, table in FACTS_POINT_TO.items():
        lost = f"SELECT id FROM facts WHERE {name} NOT IN (SELECT number FROM {table.name}) LIMIT 1"
        if found := driver_of(connection).execute(lost).fetchone():
            return facts.name, found[0], table.name
    return None


def _damaged(path: Path, what: str) -> StoreError:
    return StoreError(
        Problem(
            "the ledger's file",
            str(path),
            f"the file is damaged: {what}",
            "restore it from a backup",
        )
    )


def _last(connection: Connection) -> tuple[int, str]:
    found = (
        driver_of(connection)
        .execute("SELECT number, hash FROM batches ORDER BY number DESC LIMIT 1")
        .fetchone()
    )
    return tuple(found) if found else (0, chain.GENESIS)
