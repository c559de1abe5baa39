"""Load records that are kept as columns from a file, such as prices: one batch or none."""

from collections.abc import Iterator
from contextlib import suppress
from dataclasses import replace
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from numpy.typing import NDArray

from wise_ledger.core.catalogue.items import Nature
from wise_ledger.core.errors import BadInput, Problem
from wise_ledger.core.estimates.contributions import MEASURES
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.records.columnkinds import SERIES
from wise_ledger.core.records.columns import UNSAID, ColumnKind, RecordColumns, alike
from wise_ledger.core.records.fields import PERIOD, of_text
from wise_ledger.core.records.recordkind import Field, Reference
from wise_ledger.core.series.keys import key_problem
from wise_ledger.core.series.periods import day_codes
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store.batch import BatchWriter
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.listreading import list_numbers
from wise_ledger.work.columnfile import FileColumns, read_columns_file
from wise_ledger.work.loading import (
    FILES,
    KEEP_ONE,
    KEEP_ONE_OR_SAY,
    BadRow,
    Loaded,
    source_problem,
)
from wise_ledger.work.loadseries import of_one_frequency, older_releases
from wise_ledger.work.named import LookUp, companies_named, listings_named, lists_named, look_up

_Problems = dict[int, Problem]
_Named = dict[str, list[str]]
_GIVEN_LATER = ("items", "contributors", "series", "series_bases")


def load_columns(
    ledger: Ledger,
    snapshots: Snapshots,
    kind: ColumnKind,
    content: bytes | FileColumns,
    *,
    accept_good: bool = False,
) -> Loaded:
    """What a file says; what the ledger says already is left out (T8),
    and two rows may not contradict each other.
    """
    snapshot = snapshots.at()
    read = content if isinstance(content, FileColumns) else read_columns_file(content, kind.heads)
    rows, problems, named = _rows(ledger, snapshot, kind, read)
    if problems and read.lines is None and isinstance(content, bytes):
        read = read_columns_file(content, kind.heads, closely=True)
        rows, problems, named = _rows(ledger, snapshot, kind, read)
    bad = sorted((*read.bad, *_bad_rows(read, problems)), key=lambda b: b.line)
    good = np.ones(len(rows), np.bool_)
    good[list(problems)] = False
    kept = rows.where(good)
    if not len(kept) or (bad and not accept_good):
        return Loaded(kind.name, 0, None, tuple(bad))
    before = ledger.last_batch()
    with ledger.batch("load", f"{len(kept)} {kind.name} from a file") as batch:
        numbered = _numbered(batch, kept, named)
        new = 0
        for source, own in _by_source(read, good):
            new += batch.add_columns(batch.source(*source), numbered.where(own))
    last = ledger.last_batch()
    notes = older_releases(snapshot.view.series, numbered) if kind is SERIES and new else ()
    return Loaded(
        kind.name, len(kept), last if last > before else None, tuple(bad), new, notes=notes
    )


def _numbered(batch: BatchWriter, rows: RecordColumns, named: _Named) -> RecordColumns:
    """The rows with the numbers that the ledger gives what they name first:
    measures and contributors.
    """
    give = {
        "items": batch.item, "contributors": batch.contributor, "series": batch.series,
        "series_bases": batch.series_base,
    }  # fmt: skip
    columns = {}
    for subject in (*rows.kind.subjects, *rows.kind.labels):
        if subject.name in named:
            absent = RecordColumns.absent(np.int32)
            numbers = [
                give[subject.table](text) if text else absent for text in named[subject.name]
            ]
            columns[subject.name] = np.array(numbers, np.int32)[rows[subject.name]]
    return rows.having(**columns)


def _by_source(
    read: FileColumns, good: NDArray[np.bool_]
) -> Iterator[tuple[tuple[str, str], NDArray[Any]]]:
    """The name and title of each source that the good rows come from, and which of them do."""
    if "source" not in read.columns:
        yield FILES, np.ones(int(good.sum()), np.bool_)
        return
    texts, which = _distinct(read.columns["source"])
    for n, text in enumerate(texts):
        if (own := which[good] == n).any():
            yield (text, text.capitalize()) if text and text != FILES[0] else FILES, own


def _rows(
    ledger: Ledger, snapshot: Snapshot, kind: ColumnKind, read: FileColumns
) -> tuple[RecordColumns, _Problems, _Named]:
    """The rows of a file, the first problem of each that has one,
    and names in the place of numbers not given yet.
    """
    problems: _Problems = {}
    named: _Named = {}
    columns: dict[str, NDArray[Any]] = {}
    for field in kind.fields:
        if field.name in read.columns:
            columns[field.name] = _values(field, read.columns[field.name], problems)
        elif field.needed:
            raise BadInput(
                Problem(
                    "line 1", field.name, "this column is missing", f"the head has {_heads(kind)}"
                )
            )
    for found in kind.problems(RecordColumns.of(kind, **columns), ledger.now()):
        problems.setdefault(found.row, found.problem)
    days = columns[kind.day].astype(np.int64)
    for subject in (*kind.subjects, *kind.labels):
        if subject.name not in read.columns and not subject.needed:
            continue
        if subject.name not in read.columns:
            raise BadInput(
                Problem(
                    "line 1", subject.name, "this column is missing", f"the head has {_heads(kind)}"
                )
            )
        texts, which = _distinct(read.columns[subject.name])
        if subject.table in _GIVEN_LATER:
            named[subject.name], columns[subject.name] = _read_names(
                subject, texts, which, snapshot, problems
            )
            continue
        looked = look_up(
            subject.name, texts, which, days, _look_up(ledger, snapshot, subject.table), problems
        )
        columns[subject.name] = looked.number
        for row, problem in looked.problems.items():
            problems.setdefault(row, problem)
    if kind is SERIES:
        given = columns["period"].copy()
        given[list(problems)] = RecordColumns.absent(np.int32)  # which are refused anyway
        periods, mixed = of_one_frequency(
            snapshot.view.series, named["series"], columns["series"], given
        )
        columns["period"] = periods
        for row, problem in mixed.items():
            problems.setdefault(row, problem)
    if "source" in read.columns:
        texts, columns["source"] = _distinct(read.columns["source"])
        wrong = {n: p for n, text in enumerate(texts) if text and (p := source_problem(text))}
        for row in np.flatnonzero(np.isin(columns["source"], list(wrong))).tolist():
            problems.setdefault(row, wrong[int(columns["source"][row])])
    rows = RecordColumns.of(kind, **columns)
    for row, problem in _contradictions(rows, read, problems):
        problems.setdefault(row, problem)
    return rows, problems, named


def _read_names(
    subject: Reference,
    texts: list[str],
    which: NDArray[np.int64],
    snapshot: Snapshot,
    problems: _Problems,
) -> tuple[list[str], NDArray[np.int32]]:
    """What the ledger will number when it is written: the names, and which of them each row has."""
    names: list[str] = []
    wrong: dict[int, Problem] = {}
    for n, text in enumerate(texts):
        names.append(text)
        if not text and not subject.needed:
            continue
        if text and (unreadable := next(of_text(subject.name, text), None)):
            wrong[n] = unreadable
            continue
        if subject.table == "series" and (wrong_key := key_problem(text)):
            wrong[n] = Problem(
                subject.name, text[:80], wrong_key, "write one such as OUTPUT/Q.XA.TOTAL.SA"
            )
        elif not text:
            wrong[n] = Problem(subject.name, "", "the cell is empty", "every row needs it")
        elif subject.table == "items":
            names[n] = MEASURES.get(text, text)
            item = snapshot.view.items.get(names[n])
            if item is None or item.nature is not Nature.FLOW:
                mend = mend_for(
                    text,
                    [
                        *MEASURES,
                        *(i.code for i in snapshot.view.items.values() if i.nature is Nature.FLOW),
                    ],
                )
                wrong[n] = Problem(subject.name, text, "there is no such measure", mend)
    for row in np.flatnonzero(np.isin(which, list(wrong))).tolist() if wrong else ():
        problems.setdefault(row, wrong[int(which[row])])
    return names, which.astype(np.int32)


def _heads(kind: ColumnKind) -> str:
    return ", ".join(kind.heads)


def _look_up(ledger: Ledger, snapshot: Snapshot, table: str) -> LookUp:
    if table == "listings":
        return listings_named(snapshot)
    if table == "companies":
        return companies_named(snapshot)
    with ledger.database.read() as connection:
        return lists_named(list_numbers(connection))


def _contradictions(
    rows: RecordColumns, read: FileColumns, problems: _Problems
) -> list[tuple[int, Problem]]:
    """Two rows of one key and instant that say unlike things: the later is reported.
    One that says no instant goes together with no other (T9).
    """
    kind = rows.kind
    order = rows.order("source", kind.instant)
    order = order[~np.isin(order, list(problems))] if problems else order
    sorted_ = rows.where(order)
    twice = sorted_.same_as_before(*kind.key, "source")
    if not twice.any():
        return []
    first = np.maximum.accumulate(np.where(twice, 0, np.arange(len(order))))
    beside_unsaid = sorted_[kind.instant][first] == UNSAID
    twice &= beside_unsaid | sorted_.same_as_before(kind.instant)
    apart = kind.instant not in kind.key
    mend = KEEP_ONE_OR_SAY.format(kind.instant) if apart else KEEP_ONE
    out = []
    for name in [*kind.says, *([kind.instant] if apart else [])]:
        unlike = np.zeros(len(order), np.bool_)
        unlike[1:] = ~alike(sorted_[name][1:], sorted_[name][:-1])
        for place in np.flatnonzero(twice & unlike).tolist():
            line = "another row" if read.lines is None else f"line {read.lines[order[place - 1]]}"
            shown = _cell(read, name, order[place])
            problem = Problem(name, shown, f"{line} says otherwise", mend)
            out.append((int(order[place]), problem))
    return out


def _bad_rows(read: FileColumns, problems: _Problems) -> list[BadRow]:
    lines = np.arange(2, len(read) + 2) if read.lines is None else read.lines
    return [
        BadRow.of(int(lines[row]), p, {p.at: _cell(read, p.at, row) or p.value})
        for row, p in problems.items()
    ]


def _cell(read: FileColumns, name: str, row: int) -> str:
    if name not in read.columns:
        return ""
    try:
        value = read.columns[name][int(row)].as_py()
    except (OverflowError, ValueError):  # a day that no calendar has
        return ""
    return "" if value is None else str(value)


def _distinct(column: Any) -> tuple[list[str], NDArray[np.int64]]:
    """The different texts of a column, and which of them each row has."""
    texts = pc.utf8_trim_whitespace(column.cast(pa.string())).fill_null("")
    coded = texts.combine_chunks().dictionary_encode()
    return coded.dictionary.to_pylist(), np.asarray(coded.indices, np.int64)


def _values(field: Field, column: Any, problems: _Problems) -> NDArray[Any]:
    """A column as it is kept; what cannot be read is missing, with its problem."""
    kind = column.type
    sql, timestamp = field.type.sql, pa.types.is_timestamp(kind)
    if sql == "real" and (pa.types.is_floating(kind) or pa.types.is_integer(kind)):
        return np.asarray(column.cast(pa.float64(), safe=False).to_numpy(), np.float64)
    if timestamp and kind.tz and kind.unit == "ns":  # nobody publishes within a microsecond
        column = column.cast(pa.timestamp("us", kind.tz), safe=False)
    with suppress(pa.ArrowInvalid):  # where one does not fit, each is looked at as a text
        if sql != "real" and timestamp and not kind.tz:  # days as their midnights
            return _values(field, column.cast(pa.date32()), problems)
        if sql == "whole" and pa.types.is_date(kind):
            days = _whole(column.cast(pa.date32()).cast(pa.int32()), np.int32)
            return day_codes(days) if field.type is PERIOD else days
        if sql == "instant" and timestamp and kind.tz:
            return _whole(column.cast(pa.timestamp("us", "UTC")).cast(pa.int64()), np.int64)
    texts, which = _distinct(column)
    if field.type.sql == "real":
        fast = _fast_numbers(texts)
        if fast is not None:
            return fast[which]
    dtype = {"real": np.float64, "whole": np.int32, "instant": np.int64}[field.type.sql]
    own: NDArray[Any] = np.full(len(texts), RecordColumns.absent(dtype), dtype)
    wrong: dict[int, Problem] = {}
    for n, text in enumerate(texts):
        if not text:
            continue
        try:
            own[n] = field.type.kept(field.type.read(text, field.name))
        except BadInput as error:
            wrong[n] = replace(error.problems[0], mend=field.mend or error.problems[0].mend)
    for row in np.flatnonzero(np.isin(which, list(wrong))).tolist() if wrong else ():
        problems.setdefault(row, wrong[int(which[row])])
    return own[which]


def _fast_numbers(texts: list[str]) -> NDArray[np.float64] | None:
    """Plain numbers, at once; None where one of them is none."""
    column = pa.array([t or None for t in texts], pa.string())
    try:
        found = pc.cast(column, pa.float64())
    except pa.ArrowInvalid:
        return None
    values = np.asarray(found.to_numpy(zero_copy_only=False), np.float64)
    return None if np.isnan(values[np.asarray(found.is_valid())]).any() else values


def _whole(column: Any, dtype: type[np.generic]) -> NDArray[Any]:
    there = (
        column.is_valid().to_numpy(zero_copy_only=False) if hasattr(column, "is_valid") else None
    )
    values = column.fill_null(0).to_numpy()
    out = np.asarray(values, dtype)
    return (
        out if there is None or there.all() else np.where(there, out, RecordColumns.absent(dtype))
    )
