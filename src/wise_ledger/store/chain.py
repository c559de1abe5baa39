"""The hash chain: each batch's hash covers its rows, in order, and the batch before it."""

import hashlib
import json
import sqlite3
from bisect import bisect_right
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import ExitStack, closing
from dataclasses import dataclass
from itertools import chain, islice
from typing import Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import Boolean, Connection, Float, LargeBinary, Table, Text, select, text

from wise_ledger.core.errors import Problem
from wise_ledger.store.errors import ChainBroken
from wise_ledger.store.packing import unpack
from wise_ledger.store.rowwriting import Column
from wise_ledger.store.tables import LEDGER, batches, blocks, documents

GENESIS = "0" * 64
_CHUNK = 2000
_SHOWN = 300  # characters of a value that is named
_encode = json.JSONEncoder(separators=(",", ":")).encode


def _short(value: Any) -> Any:
    return hashlib.sha256(value).hexdigest() if isinstance(value, bytes) else value


class ContentHash:
    """The hash of a batch's rows, each table by itself;
    how it is reckoned is named in what the chain keeps of it.

    Columns without a value are left out, so that a column added later leaves old hashes as they
    were. Rows come in the order of their keys, at once or bit by bit.
    """

    def __init__(self, version: int = 3) -> None:
        self._version = version
        self._tables: dict[str, _TableHash] = {}
        self._hash = hashlib.sha256()  # of all tables in one, as versions 1 and 2 do

    @classmethod
    def like(cls, kept: str) -> "ContentHash":
        """Reckoned as the one that was kept: `3:` and the hash, or of old the hash alone."""
        version, named, _ = kept.partition(":")
        return cls(int(version) if named and version.isdigit() else 1)

    def add(self, table: Table, rows: Iterable[Sequence[Any]]) -> None:
        """Take in rows of a table, their columns in the table's order."""
        if table.name not in self._tables:
            of = self._hash if self._version < 3 else hashlib.sha256()
            self._tables[table.name] = _TableHash(table, self._version, of)
        self._tables[table.name].add(rows)
        # one hash runs through all tables: this one is done before the next begins
        if self._version < 3:
            self._tables[table.name].finish()

    def add_columns(self, table: Table, columns: Sequence[Column]) -> None:
        """The same, of rows that are at hand as columns."""
        self.add(table, ())
        self._tables[table.name].add_columns(columns)

    @property
    def rows(self) -> int:
        """How many rows it covers."""
        return sum(t.rows for t in self._tables.values())

    @property
    def hex(self) -> str:
        """The hash of all that was taken in, with how it was reckoned."""
        for table in self._tables.values():
            table.finish()
        if self._version == 1:
            return self._hash.hexdigest()
        if self._version == 2:
            return f"2:{self._hash.hexdigest()}"
        found = [
            self._tables[t.name]
            for t in LEDGER
            if t.name in self._tables and self._tables[t.name].rows
        ]
        lines = "".join(f"{t.name} {t.rows} {t.digest}\n" for t in found)
        return f"3:{hashlib.sha256(lines.encode()).hexdigest()}"


class _TableHash:
    """The running hash of the rows of one table, so many at a time."""

    def __init__(self, table: Table, version: int, running: "hashlib._Hash") -> None:
        self.name = table.name
        self._taken = 0
        # rows within a row
        self._many = table.columns.keys().index("rows") if table is blocks else None
        self._running = running
        self._waiting: list[Sequence[Any]] = []  # rows, fewer than a chunk
        self._rest: list[Column] | None = None  # the same, where they came as columns
        names = table.columns.keys()
        raw = any(isinstance(c.type, LargeBinary) for c in table.columns)
        # the driver gives them as numbers
        truths = {c.name for c in table.columns if isinstance(c.type, Boolean)}
        kinds = [_kind(c.type) for c in table.columns]
        self._lines: Callable[[Sequence[Sequence[Any]]], bytes]
        self._bytes: Callable[[Iterable[Column]], bytes] = lambda columns: _as_bytes(
            names, kinds, columns
        )
        if version == 1:
            self._lines = lambda rows: _by_rows(table.name, names, truths, rows, raw)
        elif version == 2:
            self._lines = lambda rows: _by_columns(table.name, names, truths, rows, raw)
        else:
            self._lines = lambda rows: self._bytes(zip(*rows, strict=True))

    def add(self, rows: Iterable[Sequence[Any]]) -> None:
        if self._rest is not None:
            rest, self._rest = self._rest, None
            rows = chain(_rows_of(rest), rows)
        coming = iter(rows)
        while more := list(islice(coming, _CHUNK - len(self._waiting))):
            self._waiting += more
            if len(self._waiting) == _CHUNK:
                self.finish()

    def add_columns(self, columns: Sequence[Column]) -> None:
        """Whole chunks are taken as they are, of version 3: the bytes are those of the rows."""
        begin = -len(self._waiting if self._rest is None else self._rest[0]) % _CHUNK
        if begin:
            self.add(_rows_of([c[:begin] for c in columns]))
        for at in range(begin, len(columns[0]), _CHUNK):
            part = [c[at : at + _CHUNK] for c in columns]
            if len(part[0]) < _CHUNK:
                self._rest = part
                break
            self._running.update(self._bytes(part))
            self._taken += _CHUNK

    def finish(self) -> None:
        if self._rest is not None:
            self._running.update(self._bytes(self._rest))
            self._taken += len(self._rest[0])
            self._rest = None
        if self._waiting:
            self._take(self._waiting)
            self._waiting = []

    def _take(self, rows: Sequence[Sequence[Any]]) -> None:
        self._running.update(self._lines(rows))
        self._taken += self._count(rows)

    def _count(self, rows: Sequence[Sequence[Any]]) -> int:
        return len(rows) if self._many is None else sum(row[self._many] for row in rows)

    @property
    def rows(self) -> int:
        rest = 0 if self._rest is None else len(self._rest[0])
        return self._taken + self._count(self._waiting) + rest

    @property
    def digest(self) -> str:
        return self._running.hexdigest()


def _rows_of(columns: Sequence[Column]) -> Iterable[Sequence[Any]]:
    return zip(*(c.tolist() if isinstance(c, np.ndarray) else c for c in columns), strict=True)


def _kind(type_: object) -> str:
    """How a column's values are written as bytes; raw bytes are not:
    their address stands beside them.
    """
    if isinstance(type_, LargeBinary):
        return ""
    return "text" if isinstance(type_, Text) else "real" if isinstance(type_, Float) else "whole"


def _as_bytes(names: Sequence[str], kinds: Sequence[str], columns: Iterable[Column]) -> bytes:
    """Many rows column by column: name, kind and number of values,
    which of them are missing, and the values.
    """
    out = []
    for name, kind, column in zip(names, kinds, columns, strict=True):
        if not kind:
            continue
        if isinstance(column, np.ndarray):
            out += _array_as_bytes(name, kind, column)
            continue
        count, first = len(column), column[0]
        # as many columns are: one look saves several
        same = column[-1] is first and column.count(first) == count
        if same and first is None:
            continue
        there: Sequence[Any] = column
        missing = b""
        if not same and column.count(None):
            missing = bytes(v is None for v in column)
            there = [v for v in column if v is not None]
        out.append(f"{name} {kind} {count} {len(missing)}\n".encode() + missing)
        if kind == "text":
            sizes = (
                np.full(count, len(first), "<i8")
                if same
                else np.fromiter(map(len, there), "<i8", len(there))
            )
            out += [sizes.tobytes(), (first * count if same else "".join(there)).encode()]
        else:
            type_ = _TYPES[kind]
            numbers = (
                np.full(count, first, type_) if same else np.fromiter(there, type_, len(there))
            )
            out.append((numbers + 0).tobytes())  # the file keeps no negative zero
    return b"".join(out)


_TYPES = {"whole": "<i8", "real": "<f8"}


def _array_as_bytes(name: str, kind: str, column: NDArray[Any]) -> list[bytes]:
    """The same bytes as of a list of its values."""
    mask = np.ma.getmaskarray(column)
    if mask.all():
        return []
    missing = mask.tobytes() if mask.any() else b""
    there = np.ma.getdata(column)[~mask].astype(_TYPES[kind])
    return [
        f"{name} {kind} {len(column)} {len(missing)}\n".encode() + missing,
        (there + 0).tobytes(),
    ]


def _by_columns(
    table: str, names: Sequence[str], truths: set[str], rows: Sequence[Sequence[Any]], raw: bool
) -> bytes:
    """One line of JSON for many rows: each column with a value anywhere, whole."""
    columns = {}
    for name, column in zip(names, zip(*rows, strict=True), strict=True):
        if any(v is not None for v in column):
            shown = [_short(v) for v in column] if raw else column
            columns[name] = (
                [None if v is None else bool(v) for v in shown] if name in truths else shown
            )
    return _encode([table, len(rows), columns]).encode() + b"\n"


def _by_rows(
    table: str, names: Sequence[str], truths: set[str], rows: Sequence[Sequence[Any]], raw: bool
) -> bytes:
    """One line of JSON for each row: how ledgers were hashed before."""
    plain = [{n: v for n, v in zip(names, row, strict=True) if v is not None} for row in rows]
    if raw:
        plain = [{n: _short(v) for n, v in row.items()} for row in plain]
    for name in truths:
        for row in plain:
            row[name] = bool(row[name])
    return "".join(f"{_encode([table, row])}\n" for row in plain).encode()


def batch_hash(
    number: int, recorded_at: int, kind: str, note: str, rows: int, content: str, previous: str
) -> str:
    """The hash of a batch: all that stands in its row but the hash itself."""
    line = json.dumps(
        [number, recorded_at, kind, note, rows, content, previous], separators=(",", ":")
    )
    return hashlib.sha256(line.encode()).hexdigest()


@dataclass(frozen=True)
class Part:
    """Batches that follow each other, the last of them included; with none named, all to the end."""

    first: int = 1
    last: int | None = None

    def where(self, column: str = "batch") -> str:
        """What is asked of a row in SQL; of the whole chain nothing, whatever it says of itself."""
        if self == Part():
            return "1"
        upto = "" if self.last is None else f" AND {column} <= {self.last}"
        return f"{column} >= {self.first}{upto}"


def verify(
    connection: Connection,
    step: Callable[[int, int], None] = lambda done, total: None,
    part: Part = Part(),
) -> tuple[int, str]:
    """Recompute the chain from the rows: the last batch's number and hash, or `ChainBroken`.

    Also checks that every document still has the bytes that its address says. `step` is called with
    the rows that are done, and how many there are. Of a part of the chain, the hash of the batch
    before it is taken at its word.
    """
    with ExitStack() as stack:  # a statement that is read to its middle would hold the file
        streams = [stack.enter_context(closing(_Stream(connection, t, part))) for t in LEDGER]
        return _verified(connection, streams, step, part)


def _verified(
    connection: Connection,
    streams: "Sequence[_Stream]",
    step: Callable[[int, int], None],
    part: Part,
) -> tuple[int, str]:
    number, rows = part.first - 1, 0
    before = connection.execute(select(batches.c.hash).where(batches.c.number == number))
    previous = before.scalar() or GENESIS
    for stream in streams:
        stream.fill()
    query = select(batches).where(text(part.where("number"))).order_by(batches.c.number)
    every = connection.execute(query).all()
    total = sum(batch.rows for batch in every if isinstance(batch.rows, int))
    for batch in every:
        number += 1
        if batch.number != number:
            raise _missing(number)
        stored = (batch.rows, batch.content, batch.previous)
        if (*_content(streams, batch), previous) != stored:
            raise _broken(
                f"batch {number}", batch.content, "its rows are not those that were written"
            )
        hash_ = batch_hash(number, batch.recorded_at, batch.kind, batch.note, *stored)
        if hash_ != batch.hash:
            raise _broken(
                f"batch {number}", batch.hash, "its own row is not the one that was written"
            )
        previous = hash_
        rows += batch.rows
        step(rows, total)
    if part.last not in (None, number):
        raise _missing(number + 1)
    for stream in streams:
        if stream.rest:
            raise _broken(
                f"table {stream.table.name}", stream.rest[0][0], "a row belongs to no batch"
            )
    return number, previous


def _content(streams: "Sequence[_Stream]", batch: Any) -> tuple[int, str]:
    """How many rows a batch has, and their hash; it is empty where they could not be written so."""
    content = ContentHash.like(batch.content)
    try:
        for stream in streams:
            if stream.has(batch.number):
                content.add(stream.table, chain.from_iterable(stream.of(batch.number)))
        return content.rows, content.hex
    except UnicodeDecodeError:
        raise  # the file is damaged, which is said otherwise
    except (ValueError, TypeError, OverflowError):  # a text for a number, bytes for a text
        return 0, ""


class _Stream:
    """A table's rows in the order they were written, handed out batch by
    batch: each row is read once.
    """

    def __init__(self, connection: Connection, table: Table, part: Part) -> None:
        self.table = table
        driver = connection.connection.driver_connection
        assert driver is not None
        names = ", ".join(f'"{c.name}"' for c in table.columns)
        key = table.primary_key.columns.values()[0].name
        self._rows = driver.execute(
            f"SELECT {names} FROM {table.name} WHERE {part.where()} ORDER BY {key}"
        )
        self._batch = table.columns.keys().index("batch")
        self._at_once = 50 if table in _ADDRESSED else 500
        self.rest: list[tuple[Any, ...]] = []

    def close(self) -> None:
        """Read no further."""
        self._rows.close()

    def fill(self) -> bool:
        """Read on; whether there was more."""
        try:
            self.rest = self._rows.fetchmany(self._at_once)
        except sqlite3.OperationalError as error:  # bytes that are no text
            raise _broken(f"table {self.table.name}", error, "it cannot be read") from None
        if self.table in _ADDRESSED:
            for row in self.rest:
                _check_bytes(self.table, row)
        return bool(self.rest)

    def has(self, batch: int) -> bool:
        """Whether the next row is one of this batch, or of one before it that nobody has."""
        return bool(self.rest) and self.rest[0][self._batch] <= batch

    def of(self, batch: int) -> Iterator[list[tuple[Any, ...]]]:
        """The rows of a batch, which must come next, some at a time."""
        while self.rest:
            end = bisect_right(self.rest, batch, key=lambda row: row[self._batch])
            if end:
                yield self.rest[:end]
                self.rest = self.rest[end:]
            if self.rest or not self.fill():
                return


# Tables with raw bytes, and the columns that hold them, their size before they were
# packed, and what they are called.
_ADDRESSED = {documents: ("content", "unpacked_size", "title"), blocks: ("payload", None, "kind")}


def _check_bytes(table: Table, row: Sequence[Any]) -> None:
    content, size, title = (
        None if n is None else row[table.columns.keys().index(n)] for n in _ADDRESSED[table]
    )
    address = row[table.columns.keys().index("sha256")]
    try:
        raw = unpack(content, size)
    except (ValueError, TypeError):  # no bytes at all
        raw = b""
    if not isinstance(raw, bytes) or hashlib.sha256(raw).hexdigest() != address:
        problem = "its bytes do not have the hash they are filed under"
        raise _broken(f"{table.name[:-1]} {address[:12]}", title, problem)


def _missing(number: int) -> ChainBroken:
    return _broken(f"batch {number}", number, "a batch is missing from the numbering")


def _broken(at: str, value: object, problem: str) -> ChainBroken:
    mend = "the ledger was changed from outside: restore it from a backup"
    # short: it goes through a pipe in one piece
    return ChainBroken(Problem(at, str(value)[:_SHOWN], problem, mend))
