"""The SQLite file: WAL, foreign keys, one writer, many readers;
brought up to date by its migrations.
"""

import sqlite3
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, create_engine, event
from sqlalchemy.exc import DatabaseError, OperationalError

from wise_ledger.core.errors import Problem
from wise_ledger.store.errors import StoreError

_BUSY_MS = 15_000
# of the write-ahead log before it goes into the file: a page that many batches touch goes once
_LOG_PAGES = 4_000
# of pages that the writer keeps: rows go into the middle of indexes, page by page again
_CACHE_KB = 16_000
_STEPS = 200_000  # of SQLite's machine between looks: some milliseconds
_MIGRATING = threading.Lock()  # the library of migrations has one context for all threads


class Database:
    """An open ledger file; `read()` gives a snapshot, `write()` the one write transaction."""

    def __init__(self, path: Path, *, made: bool = False) -> None:
        self.path = path
        self._writing, self._turn = threading.RLock(), threading.Lock()
        self._together: tuple[int, Connection] | None = None  # who writes several parts
        path.parent.mkdir(parents=True, exist_ok=True)
        with in_plain_words(self.path):
            if not path.exists():
                _make(path)
            elif not made and path.stat().st_size == 0:
                mend = "restore it from a backup, or take it away for a new ledger to begin"
                raise StoreError(
                    Problem(
                        "the ledger's file",
                        str(path),
                        "the file is empty, which no ledger is",
                        mend,
                    )
                )
            path.chmod(0o600)
        self._engine = create_engine(f"sqlite:///{path}")
        _control_transactions(self._engine, "BEGIN")
        # One connection writes, so that it has at hand what it wrote last.
        self._writer = create_engine(f"sqlite:///{path}", pool_size=1)
        _control_transactions(self._writer, "BEGIN IMMEDIATE", f"cache_size = -{_CACHE_KB}")
        try:
            with in_plain_words(self.path):
                self._migrate()
        except UnicodeDecodeError:
            self.close()
            mend = "restore it from a backup"
            raise StoreError(
                Problem("the ledger's file", str(path), "the file is damaged", mend)
            ) from None
        except BaseException:
            self.close()  # nobody has it, so nobody else would
            raise

    def close(self) -> None:
        """Let go of the file."""
        self._engine.dispose()
        self._writer.dispose()

    @contextmanager
    def read(self) -> Iterator[Connection]:
        """A connection that sees one state of the ledger throughout."""
        with in_plain_words(self.path), self._engine.connect() as connection, connection.begin():
            yield connection

    @contextmanager
    def write(self) -> Iterator[Connection]:
        """The write transaction: all of it is kept, or nothing."""
        who, connection = self._together or (0, None)
        if connection is not None and who == threading.get_ident():
            with in_plain_words(self.path), _part_of(connection):
                yield connection
            return
        with self._turn:  # the next is who waits, not who wrote just now
            self._writing.acquire()
        try:
            with (
                in_plain_words(self.path),
                self._writer.connect() as connection,
                connection.begin(),
            ):
                yield connection
        finally:
            self._writing.release()

    @contextmanager
    def together(self) -> Iterator[None]:
        """Writes of this thread that go to the disk as one: each is kept or not by itself, and none
        is kept before all are done. The disk is waited for once.
        """
        with self.write() as connection:
            self._together = threading.get_ident(), connection
            try:
                yield
            finally:
                self._together = None

    @property
    def awaited(self) -> bool:
        """Whether somebody waits to write."""
        return self._turn.locked()

    def _migrate(self) -> None:
        if self._version() == newest_version():
            # as nearly always: the library of migrations takes longer to load than a ledger to open
            return
        from alembic import command
        from alembic.config import Config
        from alembic.util import CommandError

        config = Config()
        config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
        with _MIGRATING, self.write() as connection:
            config.attributes["connection"] = connection
            try:
                command.upgrade(config, "head")
            except CommandError as error:
                mend = "serve it with the version that wrote it, or restore it from a backup"
                problem = f"it is of a version that is not known here: {error}"
                raise StoreError(
                    Problem("the ledger's file", str(self.path), problem, mend)
                ) from None

    def _version(self) -> str | None:
        """The migration that made the file what it is; None where there was none yet."""
        with self._engine.connect() as connection:
            kept = "SELECT 1 FROM sqlite_master WHERE name = 'alembic_version'"
            if connection.exec_driver_sql(kept).first() is None:
                return None
            return connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar()


@contextmanager
def _part_of(connection: Connection) -> Iterator[None]:
    """A part of a transaction, which is kept or not by itself."""
    driver = connection.connection.driver_connection
    assert driver is not None
    driver.execute("SAVEPOINT part")
    try:
        yield
    except BaseException:
        if driver.in_transaction:  # a full disk has ended all of it
            driver.execute("ROLLBACK TO part")
            driver.execute("RELEASE part")
        raise
    driver.execute("RELEASE part")


@contextmanager
def interruptible(connection: Connection, step: Callable[[], None]) -> Iterator[None]:
    """Have `step` called now and then while SQLite works;
    what it raises ends a statement, however long.
    """
    raised: list[BaseException] = []

    def look() -> int:
        try:
            step()
        except BaseException as error:  # the driver would only print it
            raised.append(error)
        return len(raised)

    driver = connection.connection.driver_connection
    assert driver is not None
    driver.set_progress_handler(look, _STEPS)
    try:
        yield
    except Exception:
        if raised:  # whatever the interrupted statement was taken for
            raise raised[0] from None
        raise
    finally:
        driver.set_progress_handler(None, 0)


@cache
def newest_version() -> str:
    """The last migration: they are numbered, and named for their number."""
    return max(
        path.name[:4] for path in (Path(__file__).parent / "migrations/versions").glob("[0-9]*.py")
    )


def _make(path: Path) -> None:
    """A new ledger, made aside: where this breaks off there is none, never an empty one."""
    aside = path.with_name(path.name + ".new")
    for ending in ("", "-wal", "-shm"):
        Path(f"{aside}{ending}").unlink(missing_ok=True)
    aside.touch(0o600)
    Database(aside, made=True).close()
    aside.replace(path)


def _control_transactions(engine: Engine, begin: str, *more: str) -> None:
    """Take BEGIN out of the driver's hands,
    so that a writer locks at once and readers keep their snapshot.
    """

    @event.listens_for(engine, "connect")
    def _connect(connection: sqlite3.Connection, _record: Any) -> None:
        connection.isolation_level = None
        try:
            for pragma in (
                "journal_mode = WAL",
                "synchronous = FULL",
                "foreign_keys = ON",
                f"busy_timeout = {_BUSY_MS}",
                f"wal_autocheckpoint = {_LOG_PAGES}",
                *more,
            ):
                connection.execute(f"PRAGMA {pragma}")
        except sqlite3.DatabaseError:
            connection.close()  # it is in no pool yet
            raise

    @event.listens_for(engine, "begin")
    def _begin(connection: Connection) -> None:
        connection.exec_driver_sql(begin)


@contextmanager
def in_plain_words(path: Path) -> Iterator[None]:
    """What SQLite says of a ledger's file is said in words that name it, with the mend."""
    try:
        yield
    except (
        OperationalError,
        DatabaseError,
        sqlite3.DatabaseError,
    ) as error:  # the last: rows straight to the driver
        raise _in_words(error, path) from error


def _in_words(error: DatabaseError | sqlite3.DatabaseError, path: Path) -> Exception:
    """SQLite's error in words that name the file and the mend."""
    text = str(error.orig if isinstance(error, DatabaseError) else error)
    problem, mend = {
        "locked": (
            "another process is writing to the ledger",
            "stop it, or try again when it is done",
        ),
        "disk is full": ("the disk is full", "make room; nothing acknowledged was lost"),
        "malformed": ("the file is damaged", "restore it from a backup"),
        "not a database": ("the file is no ledger", "name another file, or move this one away"),
        "readonly": ("the file cannot be written", "check who owns it and its folder"),
        "unable to open": ("the file cannot be opened", "check the path and who owns its folder"),
    }.get(
        next(
            (
                k
                for k in (
                    "locked",
                    "disk is full",
                    "malformed",
                    "not a database",
                    "readonly",
                    "unable to open",
                )
                if k in text
            ),
            "",
        ),
        ("", ""),
    )
    if not problem:
        kind = type(error.orig if isinstance(error, DatabaseError) else error)
        if kind not in (sqlite3.OperationalError, sqlite3.DatabaseError):
            return error  # of a rule of the tables: whoever wrote knows what it means
        problem = f"the file cannot be read as it is: {text[:200]}"
        mend = "run `wise-ledger verify`; where it is damaged, restore it from a backup"
    return StoreError(Problem("the ledger's file", str(path), problem, mend))
