"""Rows of a file to load: CSV, JSON Lines, XLSX or Parquet,
each with its line and its columns by name.
"""

import csv
import io
import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from wise_ledger.core.errors import BadInput, bad_input
from wise_ledger.words import counted
from wise_ledger.work.arrowfile import is_arrow, read_arrow
from wise_ledger.work.celltext import cell_text
from wise_ledger.work.termfile import decode, spreadsheet

if TYPE_CHECKING:
    import pyarrow as pa

MOST_ROWS = 2_000_000
_LONGEST_CELL = 1_000_000  # characters


@dataclass(frozen=True)
class Line:
    """A row: its line in the file (the head is line 1) and its cells as text;
    empty ones are left out.
    """

    number: int
    cells: dict[str, str]


def read_table(content: bytes, columns: Sequence[str]) -> list[Line]:
    """The rows of a file whose columns are among `columns`;
    raises `BadInput` for an empty file or a strange column.
    """
    if is_arrow(content):
        rows = _of_columns(content)
    elif content[:4] == b"PK\x03\x04":
        rows = _headed(spreadsheet(content))
    else:
        text = decode(content, [])
        rows = _json_lines(text) if text.lstrip().startswith("{") else _headed(_csv(text))
    if len(rows) > MOST_ROWS:
        raise _too_many(f"{len(rows):,} rows")
    if not rows:
        raise bad_input(
            "file",
            f"{len(content)} bytes",
            "the file has no rows",
            f"its columns are {', '.join(columns)}",
        )
    strange = sorted({name for line in rows for name in line.cells} - set(columns))
    if strange:
        raise bad_input(
            "line 1", strange[0], "there is no such column", f"the columns are {', '.join(columns)}"
        )
    return rows


def _too_many(rows: str) -> BadInput:
    return bad_input("file", rows, f"at most {MOST_ROWS:,} are taken at once", "load it in parts")


def read_grid(content: bytes) -> list[list[str]]:
    """All lines of a CSV or XLSX file, cell by cell, whatever they are."""
    return spreadsheet(content) if content[:4] == b"PK\x03\x04" else _csv(decode(content, []))


def _csv(text: str) -> list[list[str]]:
    if "\n" not in text:  # lines that end as they did on old machines
        text = text.replace("\r", "\n")
    head = text[:4000]
    delimiter = max(",;\t", key=lambda d: text.partition("\n")[0].count(d) or head.count(d) / 1000)
    csv.field_size_limit(_LONGEST_CELL)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
    out = []
    try:
        for row in reader:
            out.append(row)
            if len(out) > MOST_ROWS:
                raise _too_many(f"over {MOST_ROWS:,} rows")
    except csv.Error as error:
        lines = text.split("\n")
        first = reader.line_num if "field larger" in str(error) else _opened(lines)
        shown, mend = (
            lines[min(first, len(lines)) - 1][:60],
            "close the quote, and write one in a quoted cell twice",
        )
        raise bad_input(f"line {first}", shown, f"it cannot be read: {error}", mend) from None
    return out


def _opened(lines: Sequence[str]) -> int:
    """The line on which the quote was opened at which reading ended."""
    count, first = 0, 1
    for number, line in enumerate(lines, start=1):
        if count % 2 == 0:
            first = number
        count += line.count('"')
    return first


def _headed(rows: list[list[str]]) -> list[Line]:
    if not rows:
        return []
    heads = [cell.strip().lower() for cell in rows[0]]
    if twice := sorted({h for h in heads if h and heads.count(h) > 1}):
        raise bad_input(
            "line 1", twice[0], "two columns have this name", "rename one, or take it out"
        )
    out = []
    for number, row in enumerate(rows[1:], start=2):
        if more := next((cell for cell in row[len(heads) :] if cell.strip()), None):
            problem = f"it has {counted(len(row), 'cell')}, not {len(heads)}"
            raise bad_input(
                f"line {number}", more[:60], problem, "quote a cell that holds the separator"
            )
        cells = {h: cell.strip() for h, cell in zip(heads, row, strict=False) if cell.strip()}
        if cells:
            out.append(Line(number, cells))
    return out


def _json_lines(text: str) -> list[Line]:
    out = []
    for number, line in enumerate(text.split("\n"), start=1):
        if not line.strip():
            continue
        try:
            row = json.loads(line, object_pairs_hook=_once)
        except (ValueError, RecursionError):
            raise bad_input(
                f"line {number}", line[:60], "this is no JSON object", "write one a line"
            ) from None
        if not isinstance(row, dict):
            raise bad_input(
                f"line {number}", line[:60], "this is no JSON object", "write one a line"
            )
        if nested := next((k for k, v in row.items() if isinstance(v, list | dict)), None):
            raise bad_input(
                f"line {number}", nested, "this holds no single value", "write a text or a number"
            )
        texts = {str(k).strip().lower(): cell_text(v) for k, v in row.items()}
        out.append(Line(number, {k: text for k, text in texts.items() if text}))
    return out


def _once(pairs: list[tuple[str, object]]) -> dict[str, object]:
    found = dict(pairs)
    if len(found) < len(pairs):
        raise ValueError("a name stands twice")
    return found


def _of_columns(content: bytes) -> list[Line]:
    table = read_arrow(content, MOST_ROWS)
    columns = [_texts(column) for column in table.columns]
    return [
        Line(n, {k: text for k, text in zip(table.column_names, row, strict=True) if text})
        for n, row in enumerate(zip(*columns, strict=True), start=2)
    ]


def _texts(column: "pa.ChunkedArray") -> list[str]:
    """The cells of a column; of days and instants that no calendar has, what Arrow says of them."""
    try:
        return [cell_text(value) for value in column.to_pylist()]
    except (OverflowError, ValueError):
        return [text or "" for text in column.cast("string").to_pylist()]
