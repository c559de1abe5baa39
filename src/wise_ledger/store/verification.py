"""Whether a ledger is what was written: its chain, and the file beyond it.

A large one is verified in processes of their own, each a part of the chain: Python works on one
thing at a time within a process, and nobody's question should wait for a look at every row.
"""

import json
import os
import signal
import sqlite3
import subprocess
import sys
import threading
import time
from bisect import bisect_left
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from dataclasses import asdict, dataclass
from itertools import accumulate, pairwise
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Integer, cast, func, select

from wise_ledger.core.errors import Problem
from wise_ledger.store import chain
from wise_ledger.store.chain import Part
from wise_ledger.store.database import Database, interruptible
from wise_ledger.store.errors import ChainBroken, StoreError
from wise_ledger.store.rowwriting import driver_of
from wise_ledger.store.tables import FACTS_POINT_TO, batches, facts

_WORTH_A_PROCESS = 100_000  # rows; fewer are looked at before a process is there
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
    if parts := _parts(database):
        with suppress(OSError):  # there is no room for processes
            return verify_aside(database.path, step, parts)
    return _verify(database, step, Part())


def _verify(database: Database, step: Step, part: Part) -> Verified:
    """Of a part: the file belongs to the first one, and what points to nothing to the last,
    so that of several damages the same is named as of the whole.
    """
    with ThreadPoolExecutor(1, thread_name_prefix="verify") as beside:
        file = beside.submit(_check_file, database, step) if part.first == 1 else None
        try:
            return _verified(database, step, part)
        except UnicodeDecodeError as error:
            raise _damaged(database.path, f"a text is none ({error})") from None
        finally:
            if file:
                file.result()  # damage goes first: whatever else was found may come of it


def _parts(database: Database) -> list[Part]:
    """As many parts of some size as there are processors, of about as many rows each;
    none where all is little.
    """
    query = select(batches.c.number, cast(batches.c.rows, Integer)).order_by(batches.c.number)
    with database.read() as connection:
        numbers, rows = zip(*[(0, 0), *connection.execute(query).all()], strict=True)
    upto = list(accumulate(rows))
    many = min(upto[-1] // _WORTH_A_PROCESS, os.cpu_count() or 1)
    ends = {numbers[bisect_left(upto, upto[-1] * n // many)] for n in range(1, many)}
    lasts = [*sorted(ends - {numbers[-1]}), None] if many else []
    return [
        Part(before + 1, last)
        for before, last in zip([0, *lasts], lasts, strict=False)  # type: ignore[operator]
    ]


def verify_aside(path: Path, step: Step, parts: Sequence[Part]) -> Verified:
    """The same in processes of their own, one a part; they end with whatever `step` raises."""
    process = subprocess.Popen(
        [sys.executable, "-m", __name__, str(path), json.dumps([asdict(p) for p in parts])],
        stdin=subprocess.DEVNULL,
        stdout=subprocess.PIPE,
        text=True,
        start_new_session=True,  # so that all of them can be ended
        env={**os.environ, "OPENBLAS_NUM_THREADS": "1"},  # it forks while it has but one thread
    )
    done, said = dict.fromkeys(range(len(parts)), (0, 0)), dict[int, tuple[str, Any]]()
    with process:
        try:
            assert process.stdout is not None
            for line in process.stdout:
                part, kind, *given = json.loads(line)
                if kind == "step":
                    done[part] = max(done[part], tuple(given))
                    known = all(total for _, total in done.values())
                    rows, total = map(sum, zip(*done.values(), strict=True))
                    step(rows, total) if known else step(0, 0)
                    continue
                said[part] = kind, given
                # what an earlier part says of it goes first
                before = [said.get(n, ("", ()))[0] for n in range(part)]
                if kind != "verified" and before == ["verified"] * part:
                    break
        finally:
            with suppress(ProcessLookupError):
                os.killpg(process.pid, signal.SIGKILL)
    for kind, given in (said[n] for n in sorted(said)):
        if kind != "verified":
            raise _ERRORS[kind](*(Problem(**p) for p in given))
    if len(said) == len(parts):
        found = said[len(parts) - 1][1][0]
        return Verified(**{**found, "notes": tuple(found["notes"])})
    mend = "verify again; if it stays so, see the log"
    problem = f"the process that verified it has ended ({process.returncode})"
    raise StoreError(Problem("the ledger's file", str(path), problem, mend))


_ERRORS = {error.__name__: error for error in (ChainBroken, StoreError)}


def _check_file(database: Database, step: Step) -> None:
    """SQLite's own check, which needs none of Python's time."""
    with database.read() as connection, interruptible(connection, lambda: step(0, 0)):
        check_structure(driver_of(connection), database.path)


def check_structure(driver: sqlite3.Connection, path: Path) -> None:
    """SQLite's own check of a file; raises `StoreError` for a damaged one."""
    (damage,) = driver.execute("PRAGMA integrity_check(1)").fetchone()
    if damage != "ok":
        raise _damaged(path, " ".join(str(damage).split()))


def _verified(database: Database, step: Step, part: Part) -> Verified:
    with database.read() as connection, interruptible(connection, lambda: step(0, 0)):
        number, hash_ = chain.verify(connection, step, part)
        if part.last is None and (lost := _lost(connection)):
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
    """Verify the named parts of a ledger, each in a process, and write how far each is, and what
    came of it, in lines.
    """
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # meant for who started us, who then ends us
    path, parts = Path(sys.argv[1]), [Part(**p) for p in json.loads(sys.argv[2])]
    # what is loaded is shared: a second process would load it again
    number = next((n for n in range(1, len(parts)) if os.fork() == 0), 0)
    written, turn = 0.0, threading.Lock()  # SQLite's own check steps beside us

    def write(*line: object) -> None:  # in one piece: the others write to the same pipe
        os.write(1, f"{json.dumps((number, *line))}\n".encode())

    def step(done: int, total: int) -> None:
        nonlocal written
        with turn:
            if time.monotonic() - written > _OFTEN:
                written = time.monotonic()
                write("step", done, total)

    with suppress(BrokenPipeError):  # who asked has ended
        try:
            write("verified", asdict(_verify(Database(path), step, parts[number])))
        except StoreError as error:
            write(type(error).__name__, *(asdict(p) for p in error.problems))


if __name__ == "__main__":
    main()
