"""Files of millions of rows, read as columns: CSV, Parquet, Arrow;
other kinds of file by way of their lines.

A file is read fast and as a whole; only where something in it is wrong it is read again closely, so
that every bad row is reported with its line.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.csv as pc_csv
from numpy.typing import NDArray

from wise_ledger.core.errors import bad_input
from wise_ledger.words import counted
from wise_ledger.work.arrowfile import is_arrow, read_arrow
from wise_ledger.work.loading import BadRow
from wise_ledger.work.tablefile import read_table
from wise_ledger.work.termfile import decode


@dataclass(frozen=True, eq=False)
class FileColumns:
    """The columns of a file by name, as text or typed; `lines` are those of the rows,
    None where nobody counted yet.
    """

    columns: dict[str, Any]
    lines: NDArray[np.int64] | None
    bad: tuple[BadRow, ...] = ()

    def __len__(self) -> int:
        return len(next(iter(self.columns.values())))


def read_columns_file(
    content: bytes, heads: Sequence[str], *, closely: bool = False
) -> FileColumns:
    """The columns of a file, which are among `heads`;
    raises `BadInput` for an empty file or a strange column.

    `closely` counts lines, and reports rows that have more or fewer cells than the head has.
    """
    if is_arrow(content):
        found = _typed(read_arrow(content))
    elif content[:4] == b"PK\x03\x04" or content.lstrip()[:1] == b"{":
        found = _by_lines(content, heads)
    else:
        found = _csv(content, closely=closely)
    strange = sorted(set(found.columns) - set(heads))
    if strange:
        raise bad_input(
            "line 1", strange[0], "there is no such column", f"the columns are {', '.join(heads)}"
        )
    if not found.columns or not (len(found) or found.bad):
        raise bad_input(
            "file",
            f"{len(content)} bytes",
            "the file has no rows",
            f"its columns are {', '.join(heads)}",
        )
    return found


def _typed(table: pa.Table) -> FileColumns:
    return FileColumns(
        dict(zip(table.column_names, table.columns, strict=True)), np.arange(2, table.num_rows + 2)
    )


def _by_lines(content: bytes, heads: Sequence[str]) -> FileColumns:
    lines = read_table(content, heads)
    names = [h for h in heads if any(h in line.cells for line in lines)]
    columns = {
        n: pa.chunked_array([pa.array([line.cells.get(n) for line in lines], pa.string())])
        for n in names
    }
    return FileColumns(columns, np.array([line.number for line in lines], np.int64))


def _csv(content: bytes, *, closely: bool) -> FileColumns:
    text = _in_utf8(content)
    head, _, _ = text.partition(b"\n")
    delimiter = max(",;\t", key=lambda d: head.count(d.encode()))
    names = [
        cell.strip().strip('"').lower() for cell in head.decode().strip("\r\n").split(delimiter)
    ]
    if twice := sorted({n for n in names if names.count(n) > 1}):
        raise bad_input(
            "line 1", twice[0], "two columns have this name", "rename one, or take it out"
        )
    strange: list[Any] = []

    def note(row: Any) -> str:
        strange.append(row)
        return "skip" if closely else "error"

    try:
        table = pc_csv.read_csv(
            pa.py_buffer(text),
            pc_csv.ReadOptions(
                use_threads=not closely, column_names=names, skip_rows=1, block_size=1 << 24
            ),
            pc_csv.ParseOptions(
                delimiter=delimiter, invalid_row_handler=note, ignore_empty_lines=not closely
            ),
            pc_csv.ConvertOptions(
                column_types=dict.fromkeys(names, pa.string()), strings_can_be_null=False
            ),
        )
    except pa.ArrowInvalid as error:
        if not closely:
            return _csv(content, closely=True)
        raise bad_input(
            "file", str(error)[:80], "this cannot be read as CSV", "write one row a line"
        ) from None
    columns = dict(zip(names, table.columns, strict=True))
    if not closely:
        return FileColumns(columns, None)
    # The head is line 1; a line that was skipped is counted all the same.
    skipped = np.array([row.number for row in strange], np.int64)
    lines = np.setdiff1d(np.arange(2, table.num_rows + 2 + len(skipped)), skipped)
    mend = "give every row as many cells as the head has"
    bad = [
        BadRow(
            row.number,
            "row",
            row.text[:80],
            f"it has {counted(row.actual_columns, 'cell')}, not {row.expected_columns}",
            mend,
        )
        for row in strange
        if row.text.strip()
    ]
    blank = np.logical_and.reduce(
        [np.asarray(pc.equal(pc.utf8_trim_whitespace(c), "")) for c in columns.values()]
    )
    if blank.any():
        columns = {n: c.filter(pa.array(~blank)) for n, c in columns.items()}
    return FileColumns(columns, lines[~blank], tuple(bad))


def _in_utf8(content: bytes) -> bytes:
    if content[:3] == b"\xef\xbb\xbf":
        content = content[3:]
    try:
        content.decode("utf-8")
    except UnicodeDecodeError:
        return decode(content, []).encode()
    return content
