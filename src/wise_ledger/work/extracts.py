"""Extracts: panels too large to be answered at once, written to a file that is kept for a week.

One is written at a time; it says how far it is, can be stopped, and begins again where the service
was stopped.
"""

import json
import logging
import secrets
import threading
from collections.abc import Callable, Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any, BinaryIO

from wise_ledger.core.errors import LedgerError, NotFound, Problem, bad_input
from wise_ledger.core.time.instants import as_instant, micros
from wise_ledger.store import extractkeeping as keeping
from wise_ledger.store.ledger import Ledger

log = logging.getLogger(__name__)
KEPT = timedelta(days=7)
FORMATS = ("parquet", "arrow", "csv")
_OPEN = ("waiting", "running")
Progress = Callable[[int, int, int], bool]  # dates done, of how many, rows so far; whether to go on
# what was asked for, as Arrow batches
Read = Callable[[Mapping[str, Any], Progress], Iterator[Any]]
Write = Callable[[Iterator[Any], str, BinaryIO], None]  # batches as a file of a format


@dataclass(frozen=True)
class Extract:
    """What was asked for and how far it is; `done` and `total` are dates, `size` bytes."""

    id: str
    title: str
    asked: Mapping[str, Any]
    format: str
    state: str
    done: int
    total: int
    rows: int
    size: int
    problem: str
    asked_at: datetime
    kept_until: datetime | None


class Extracts:
    """The extracts of a ledger, and the one thread that writes them."""

    def __init__(self, ledger: Ledger, folder: Path) -> None:
        self._ledger = ledger
        self._folder = folder
        self._wake = threading.Condition()
        self._stopping = threading.Event()
        self._halted: set[str] = set()
        self._read: Read | None = None
        self._write: Write | None = None
        self._thread = threading.Thread(target=self._work, name="extracts", daemon=True)

    def start(self, read: Read, write: Write) -> None:
        """Begin; what an earlier process left open is written again."""
        self._read, self._write = read, write
        self._thread.start()

    def stop(self) -> None:
        """End after the dates at hand."""
        self._stopping.set()
        with self._wake:
            self._wake.notify_all()
        if self._thread.is_alive():
            self._thread.join()

    def ask(self, title: str, asked: Mapping[str, Any], form: str) -> Extract:
        """Have a panel written; raises `BadInput` for a format that is none."""
        if form not in FORMATS:
            raise bad_input(
                "format", form, "no extract is written so", f"write {', '.join(FORMATS)}"
            )
        id_ = f"ex-{secrets.token_hex(6)}"
        values = {"title": title, "asked": json.dumps(asked), "format": form, "state": "waiting"}
        with self._ledger.database.write() as connection:
            now = micros(self._ledger.now())
            keeping.add_extract(
                connection,
                id=id_,
                **values,
                done=0,
                total=0,
                rows=0,
                size=0,
                problem="",
                asked_at=now,
            )
        with self._wake:
            self._wake.notify_all()
        return self.find(id_)

    def all(self) -> list[Extract]:
        """The newest first."""
        with self._ledger.database.read() as connection:
            return [_extract(row) for row in keeping.all_extracts(connection)]

    def find(self, id_: str) -> Extract:
        """One of them; raises `NotFound`."""
        found = next((e for e in self.all() if e.id == id_), None)
        if found is None:
            raise NotFound(
                Problem(
                    "extract", id_, "there is no such extract", "its file may have been let go of"
                )
            )
        return found

    def file(self, id_: str) -> tuple[Extract, Path]:
        """The file of one that is done; raises `BadInput` before."""
        found = self.find(id_)
        path = self._path(found.id, found.format)
        if found.state != "done" or not path.exists():
            raise bad_input(
                "extract", id_, f"it is {found.state}", "wait until it is done, or ask again"
            )
        return found, path

    def drop(self, id_: str) -> None:
        """Stop one that is being written, and let go of its file; raises `NotFound`."""
        found = self.find(id_)
        with self._wake:
            self._halted.add(id_)
        self._path(id_, found.format).unlink(missing_ok=True)
        with self._ledger.database.write() as connection:
            if found.state in _OPEN:
                keeping.set_extract(
                    connection, id_, state="stopped", kept_until=micros(self._ledger.now() + KEPT)
                )
            else:
                keeping.drop_extract(connection, id_)

    def _path(self, id_: str, form: str) -> Path:
        return self._folder / f"{id_}.{form}"

    def _work(self) -> None:
        while not self._stopping.is_set():
            try:
                self._let_go()
                extract = next((e for e in reversed(self.all()) if e.state in _OPEN), None)
                if extract is not None:
                    self._make(extract)
                    continue
            except Exception:
                # The file is locked, the disk full: the next one is tried all the same.
                log.exception("extracts")
            with self._wake:
                self._wake.wait(2.0)

    def _make(self, extract: Extract) -> None:
        assert self._read is not None and self._write is not None
        path, part = self._path(extract.id, extract.format), self._path(extract.id, "part")
        size = {"rows": 0}

        def progress(done: int, total: int, rows: int) -> bool:
            size["rows"] = rows
            self._set(extract.id, state="running", done=done, total=total, rows=rows)
            return not self._stopping.is_set() and extract.id not in self._halted

        try:
            progress(0, extract.total, 0)
            self._folder.mkdir(parents=True, exist_ok=True)
            with part.open("wb") as file:
                self._write(self._read(extract.asked, progress), extract.format, file)
        except LedgerError as error:
            self._end(
                extract.id, "failed", f"{error.problems[0].problem}; {error.problems[0].mend}"
            )
        except Exception as error:
            log.exception("extract %s failed", extract.id)
            self._end(extract.id, "failed", str(error)[:300])
        else:
            if not self._stopping.is_set() and extract.id not in self._halted:
                part.replace(path)
                self._set(extract.id, size=path.stat().st_size)
                self._end(extract.id, "done", "")
        finally:
            with suppress(OSError):
                part.unlink(missing_ok=True)

    def _set(self, id_: str, **values: Any) -> None:
        if id_ not in self._halted:
            with self._ledger.database.write() as connection:
                keeping.set_extract(connection, id_, **values)

    def _end(self, id_: str, state: str, problem: str) -> None:
        self._set(id_, state=state, problem=problem, kept_until=micros(self._ledger.now() + KEPT))

    def _let_go(self) -> None:
        """Files whose time is over, and what is kept of them."""
        now = self._ledger.now()
        for extract in self.all():
            if extract.kept_until is not None and extract.kept_until < now:
                with suppress(OSError):
                    self._path(extract.id, extract.format).unlink(missing_ok=True)
                with self._ledger.database.write() as connection:
                    keeping.drop_extract(connection, extract.id)


def _extract(row: Any) -> Extract:
    until = None if row.kept_until is None else as_instant(row.kept_until)
    about = (
        row.id,
        row.title,
        json.loads(row.asked),
        row.format,
        row.state,
        row.done,
        row.total,
        row.rows,
        row.size,
    )
    return Extract(*about, row.problem, as_instant(row.asked_at), until)
