"""Whether a ledger is what was written: its chain, and the file beyond it.

A large one is verified in a process of its own: Python works on one thing at a time within a
process, and nobody's question should wait for a look at every row there is.
"""

import json
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from dataclasses import asdict, dataclass
from itertools import pairwise
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, func, select

from wise_ledger.core.errors import Problem
from wise_ledger.store import chain
from wise_ledger.store.database import Database, interruptible
from wise_ledger.store.errors import ChainBroken, StoreError
from wise_ledger.store.rowwriting import driver_of
from wise_ledger.store.tables import FACTS_POINT_TO, batches, facts

WORTH_A_PROCESS = 100_000  # rows; fewer are looked at before a process is there
_OFTEN = 0.1  # seconds between two words of how far it is

Step = Callable[[int, int], None]
"""Called with the rows that are done and how many there are, and in between (with zeros)."""


@dataclass(frozen=True)
class Verified:
    """The chain holds up to this batch."""

    batches: int
    facts: int
    hash: str
    notes: tuple[str, ...] = ()  # what a person should look at, though nothing is broken


def verify(database: Database, step: Step) -> Verified:
    """Recompute the chain, and have the file checked for damage beyond it.

    Raises `ChainBroken` with the batch that does not hold, `StoreError` for a damaged file, and
    what `step` raises.
    """
    with ThreadPoolExecutor(1, thread_name_prefix="verify") as beside:
        file = beside.submit(_check_file, database, step)
        try:
            return _verified(database, step)
        except UnicodeDecodeError as error:
            raise _damaged(database.path, f"a text is none ({error})") from None
        finally:
            file.result()  # damage goes first: whatever else was found may come of it


def verify_aside(path: Path, step: Step) -> Verified:
    """The same in a process of its own, which ends with whatever `step` raises."""
    process = subprocess.Popen(
        [sys.executable, "-m", __name__, str(path)],
        stdin=subprocess.DEVNULL,
        stdout=subprocess.PIPE,
        text=True,
    )
    with process:
        try:
            assert process.stdout is not None
            for line in process.stdout:
                kind, *given = json.loads(line)
                if kind == "step":
                    step(*given)
                elif kind == "verified":
                    return Verified(**{**given[0], "notes": tuple(given[0]["notes"])})
                else:
                    raise _ERRORS[kind](*(Problem(**p) for p in given))
        finally:
            process.kill()
    mend = "verify again; if it stays so, see the log"
    problem = f"the process that verified it has ended ({process.returncode})"
    raise StoreError(Problem("the ledger's file", str(path), problem, mend))


_ERRORS = {error.__name__: error for error in (ChainBroken, StoreError)}


def _check_file(database: Database, step: Step) -> None:
    """SQLite's own check, which needs none of Python's time."""
    with database.read() as connection, interruptible(connection, lambda: step(0, 0)):
        damage = connection.exec_driver_sql("PRAGMA integrity_check(5)").scalars().all()
    if damage != ["ok"]:
        raise _damaged(database.path, " ".join(str(damage[0]).split()))


def _verified(database: Database, step: Step) -> Verified:
    with database.read() as connection, interruptible(connection, lambda: step(0, 0)):
        number, hash_ = chain.verify(connection, step)
        if lost := _lost(connection):
            problem = f"a row of {lost[0]} belongs to one of {lost[2]} that is not there"
            raise _damaged(database.path, problem)
        count = connection.execute(select(func.count()).select_from(facts)).scalar_one()
        stamps = select(batches.c.recorded_at).order_by(batches.c.number)
        at = connection.execute(stamps).scalars().all()
    back = sum(after < before for before, after in pairwise(at))
    note = f"the clock went back: {back} batches are stamped before the ones they follow"
    return Verified(number, count, hash_, (note,) if back else ())


def _lost(connection: Connection) -> Any:
    """A row that points to what is not there: its table, its number, the other table."""
    declared = connection.exec_driver_sql("PRAGMA foreign_key_check").first()
    return declared or _lost_of_facts(connection)


def _lost_of_facts(connection: Connection) -> tuple[str, int, str] | None:
    for name, table in FACTS_POINT_TO.items():
        lost = f"SELECT id FROM facts WHERE {name} NOT IN (SELECT number FROM {table.name}) LIMIT 1"
        if found := driver_of(connection).execute(lost).fetchone():
            return facts.name, found[0], table.name
    return None


def _damaged(path: Path, what: str) -> StoreError:
    problem = f"the file is damaged: {what}"
    return StoreError(Problem("the ledger's file", str(path), problem, "restore it from a backup"))


def main() -> None:
    """Verify the ledger that is named, and write how far it is, and what came of it, in lines."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # meant for who started us, who then ends us
    written, turn = 0.0, threading.Lock()  # SQLite's own check steps beside us

    def write(*line: object) -> None:
        sys.stdout.write(f"{json.dumps(line)}\n")
        sys.stdout.flush()

    def step(done: int, total: int) -> None:
        nonlocal written
        with turn:
            if time.monotonic() - written > _OFTEN:
                written = time.monotonic()
                write("step", done, total)

    with suppress(BrokenPipeError):  # who asked has ended
        try:
            write("verified", asdict(verify(Database(Path(sys.argv[1])), step)))
        except StoreError as error:
            write(type(error).__name__, *(asdict(p) for p in error.problems))


if __name__ == "__main__":
    main()
