"""The hash chain: each batch's hash covers its rows, in order, and the batch before it."""

import hashlib
import json
from collections.abc import Iterable, Iterator, Sequence
from itertools import islice
from typing import Any

from sqlalchemy import Boolean, Connection, LargeBinary, Row, Table, select

from wise_ledger.core.errors import Problem
from wise_ledger.store.errors import ChainBroken
from wise_ledger.store.tables import LEDGER, batches, documents

GENESIS = "0" * 64
_CHUNK = 2000
_encode = json.JSONEncoder(separators=(",", ":")).encode


def _short(value: Any) -> Any:
    return hashlib.sha256(value).hexdigest() if isinstance(value, bytes) else value


class ContentHash:
    """The running hash of a batch's rows, table by table; how it is reckoned is named in what the chain keeps of it.

    Columns without a value are left out, so that a column added later leaves old hashes as they were.
    """

    def __init__(self, version: int = 2) -> None:
        self._hash = hashlib.sha256()
        self._version = version
        self.rows = 0

    @classmethod
    def like(cls, kept: str) -> "ContentHash":
        """Reckoned as the one that was kept: `2:` and the hash, or of old the hash alone."""
        version, named, _ = kept.partition(":")
        return cls(int(version) if named and version.isdigit() else 1)

    def add(self, table: Table, rows: Iterable[Sequence[Any]]) -> None:
        """Take in rows of a table, their columns in the table's order; raw bytes count by their own hash."""
        names = table.columns.keys()
        raw = any(isinstance(c.type, LargeBinary) for c in table.columns)
        truths = {c.name for c in table.columns if isinstance(c.type, Boolean)}  # the driver gives them as numbers
        rows = iter(rows)
        while chunk := list(islice(rows, _CHUNK)):
            lines = _by_rows if self._version == 1 else _by_columns
            self._hash.update(lines(table.name, names, truths, chunk, raw))
            self.rows += len(chunk)

    @property
    def hex(self) -> str:
        """The hash so far, with how it was reckoned."""
        return self._hash.hexdigest() if self._version == 1 else f"{self._version}:{self._hash.hexdigest()}"


def _by_columns(table: str, names: Sequence[str], truths: set[str], rows: Sequence[Sequence[Any]], raw: bool) -> bytes:
    """One line of JSON for many rows: each column with a value anywhere, whole."""
    columns = {}
    for name, column in zip(names, zip(*rows, strict=True), strict=True):
        if any(v is not None for v in column):
            shown = [_short(v) for v in column] if raw else column
            columns[name] = [None if v is None else bool(v) for v in shown] if name in truths else shown
    return _encode([table, len(rows), columns]).encode() + b"\n"


def _by_rows(table: str, names: Sequence[str], truths: set[str], rows: Sequence[Sequence[Any]], raw: bool) -> bytes:
    """One line of JSON for each row: how ledgers were hashed before."""
    plain = [{n: v for n, v in zip(names, row, strict=True) if v is not None} for row in rows]
    if raw:
        plain = [{n: _short(v) for n, v in row.items()} for row in plain]
    for name in truths:
        for row in plain:
            row[name] = bool(row[name])
    return "".join(f"{_encode([table, row])}\n" for row in plain).encode()


def batch_hash(number: int, recorded_at: int, kind: str, note: str, rows: int, content: str, previous: str) -> str:
    """The hash of a batch: all that stands in its row but the hash itself."""
    line = json.dumps([number, recorded_at, kind, note, rows, content, previous], separators=(",", ":"))
    return hashlib.sha256(line.encode()).hexdigest()


def verify(connection: Connection) -> tuple[int, str]:
    """Recompute the whole chain from the rows: the last batch's number and hash, or `ChainBroken`.

    Also checks that every document still has the bytes that its address says.
    """
    previous, number = GENESIS, 0
    streams = [_Stream(connection, table) for table in LEDGER]
    for batch in connection.execute(select(batches).order_by(batches.c.number)).all():
        number += 1
        if batch.number != number:
            raise _broken(f"batch {number}", batch.number, "a batch is missing from the numbering")
        content = ContentHash.like(batch.content)
        for stream in streams:
            content.add(stream.table, stream.of(number))
        stored = (batch.rows, batch.content, batch.previous)
        if (content.rows, content.hex, previous) != stored:
            raise _broken(f"batch {number}", batch.content, "its rows are not those that were written")
        hash_ = batch_hash(number, batch.recorded_at, batch.kind, batch.note, *stored)
        if hash_ != batch.hash:
            raise _broken(f"batch {number}", batch.hash, "its own row is not the one that was written")
        previous = hash_
    for stream in streams:
        if stream.row is not None:
            raise _broken(f"table {stream.table.name}", stream.row[0], "a row belongs to no batch")
    return number, previous


class _Stream:
    """A table's rows in the order they were written, handed out batch by batch: each row is read once."""

    def __init__(self, connection: Connection, table: Table) -> None:
        self.table = table
        key = table.primary_key.columns.values()[0]
        self._rows = connection.execution_options(yield_per=5000).execute(select(table).order_by(key))
        self.row = self._rows.fetchone()

    def of(self, batch: int) -> Iterator[Row[Any]]:
        """The rows of a batch, which must come next."""
        while self.row is not None and self.row.batch == batch:
            yield _checked(self.table, self.row)
            self.row = self._rows.fetchone()


def _checked(table: Table, row: Row[Any]) -> Row[Any]:
    if table is documents and hashlib.sha256(row.content).hexdigest() != row.sha256:
        raise _broken(f"document {row.sha256[:12]}", row.title, "its bytes do not have the hash they are filed under")
    return row


def _broken(at: str, value: object, problem: str) -> ChainBroken:
    mend = "the ledger was changed from outside: restore it from a backup"
    return ChainBroken(Problem(at, str(value), problem, mend))
