"""A copy of a ledger's file, made while the ledger is written to: one state, whole and verified."""

import os
import sqlite3
from contextlib import closing, suppress
from pathlib import Path
from urllib.parse import quote

from wise_ledger.core.errors import Problem
from wise_ledger.store.database import Database, in_plain_words, newest_version
from wise_ledger.store.errors import StoreError
from wise_ledger.store.verification import Step, Verified, check_structure, verify

_PAGES = 4_000  # between two words of how far it is


def back_up(path: Path, to: Path, step: Step) -> Verified | None:
    """Copy the ledger's file at `path` to `to`, which must not be there yet.

    The copy is the state at the moment in which it begins, whatever is written meanwhile; it has
    its name only once its chain was recomputed. Of a ledger that an older version wrote and none
    served since, the file alone is checked, so that the copy stays as old: None is returned then.
    `step` is called with what is done and how much there is: pages, then rows.

    Raises `StoreError` where there is no ledger, no room, or `to` is there; `ChainBroken`; and
    what `step` raises. Nothing is left behind then.
    """
    if not path.is_file():
        mend = "name the folder of a ledger (--data)"
        raise StoreError(Problem("the ledger's file", str(path), "there is no ledger here", mend))
    if to.exists():
        problem = "there is a file of this name already"
        raise StoreError(Problem("the copy", str(to), problem, "name another, or move it away"))
    aside = to.with_name(to.name + ".part")
    try:
        _copy(path, aside, step)
        found = _checked(aside, step)
        with aside.open("rb") as file:
            os.fsync(file.fileno())
        aside.rename(to)
    finally:
        _clear(aside)
    return found


def _clear(aside: Path) -> None:
    for ending in ("", "-wal", "-shm"):
        Path(f"{aside}{ending}").unlink(missing_ok=True)


def _copy(path: Path, to: Path, step: Step) -> None:
    _clear(to)  # of one that broke off
    to.touch(0o600)

    def far(_: int, remaining: int, total: int) -> None:
        step(total - remaining, total)

    with (
        in_plain_words(path),
        closing(sqlite3.connect(f"file:{quote(str(path.absolute()))}?mode=ro", uri=True)) as ours,
        closing(sqlite3.connect(to)) as theirs,
    ):
        ours.isolation_level = None
        ours.execute("BEGIN")  # one state throughout: else it begins again with each batch
        ours.execute("SELECT count(*) FROM sqlite_master").fetchone()
        ours.backup(theirs, pages=_PAGES, progress=far)


def _checked(path: Path, step: Step) -> Verified | None:
    with in_plain_words(path), closing(sqlite3.connect(path)) as file:
        version = None
        with suppress(sqlite3.OperationalError):  # there is no such table: no ledger
            version = file.execute("SELECT version_num FROM alembic_version").fetchone()
        if version is None:
            problem, mend = "the file is no ledger", "name the folder of a ledger (--data)"
            raise StoreError(Problem("the ledger's file", str(path), problem, mend))
        if version[0] != newest_version():
            check_structure(file, path)
            return None
    with closing(Database(path)) as database:
        return verify(database, step)
