"""Rows as files: separated text, Parquet, Arrow and workbooks, the same through every door.

Each carries how it was asked: the most important of it as leading columns, all of it in the file's
metadata, in a workbook on a second sheet, beside separated text as a Table Schema.
"""

import csv
import io
import json
import shutil
from collections.abc import Iterator, Mapping
from datetime import UTC, date, datetime
from itertools import chain
from pathlib import Path
from typing import TYPE_CHECKING, Any, BinaryIO
from zipfile import ZIP_DEFLATED, ZipFile, ZipInfo

from pydantic import Field

from wise_ledger.wire.model import Model, iso_text
from wise_ledger.wire.rows import Rows

if TYPE_CHECKING:
    import pandas as pd
    import pyarrow as pa

FORMULA = ("=", "+", "-", "@", "\t", "\r")  # what makes a spreadsheet reckon with a text
_DAYS = ("period_end", "period_start", "nominal_end", "valid_from", "valid_to")
_INSTANTS = ("known_at", "known_on", "first_public_at", "published_at", "recorded_at")
_CELL = 32_767  # characters that a cell of a workbook can hold
_ROWS, _COLUMNS = 1_048_576, 16_384  # and what its sheet can (ECMA-376)
_NO_TIME = datetime(1980, 1, 1, tzinfo=UTC)  # as archives have it
_KINDS = {"f": "number", "i": "integer", "b": "boolean", "M": "datetime"}


class DoesNotFit(ValueError):
    """What a kind of file cannot hold, such as a table of too many rows, and the mend."""

    def __init__(self, problem: str, mend: str) -> None:
        super().__init__(f"{problem}: {mend}")
        self.problem, self.mend = problem, mend


def separated(rows: Rows, delimiter: str = ",", *, raw: bool = False, header: bool = True) -> str:
    """Rows as text, with a head or without.

    A text that a spreadsheet would reckon with gets a `'` before it, unless `raw`.
    """
    lines = _Lines()
    writer = csv.writer(lines, delimiter=delimiter, lineterminator="\r\n")
    if header:
        writer.writerow(rows.columns)
    writer.writerows([_cell(row[name], raw) for name in rows.columns] for row in rows)
    return "".join(lines.written)


class _Lines:
    """Takes lines that end as a terminal's do.

    The writer puts into quotes what is in its own ends of lines, and a text with a lone carriage
    return needs them too: a reader would take it for the end of a line.
    """

    def __init__(self) -> None:
        self.written: list[str] = []

    def write(self, line: str) -> None:
        self.written.append(line.removesuffix("\r\n") + "\n")


def _cell(value: Any, raw: bool) -> Any:
    if value is None:
        return ""
    if isinstance(value, date):
        return iso_text(value)
    return (
        f"'{value}" if not raw and isinstance(value, str) and value.startswith(FORMULA) else value
    )


def _words_of(value: Any) -> str | None:
    """A value as a CSV has it."""
    missing = value is None or value != value
    return None if missing else str(_cell(value, raw=True))


def frame(rows: Rows) -> "pd.DataFrame":
    """Rows as a frame with types: days, instants in UTC, numbers, text."""
    import pandas as pd

    made = pd.DataFrame(list(rows), columns=list(rows.columns))
    for name in rows.columns:
        if name.endswith(_DAYS):
            made[name] = pd.to_datetime(made[name])
        elif name.endswith(_INSTANTS):
            made[name] = pd.to_datetime(made[name], utc=True, format="ISO8601").dt.as_unit("us")
    made.attrs.update(rows.context)
    return made


def arrow(rows: Rows) -> "pa.Table":
    """Rows as an Arrow table; how it was asked stands in its metadata under `context`."""
    import pyarrow as pa

    made = frame(rows)
    made.attrs = {}
    for name, column in made.items():
        kinds = set(map(type, column.dropna())) if column.dtype == object else set()
        if len(kinds) > 1 and kinds & {str, bool}:  # of several kinds words are the widest
            made[name] = [_words_of(value) for value in column]
    table = pa.Table.from_pandas(made, preserve_index=False)
    return table.replace_schema_metadata(
        {**(table.schema.metadata or {}), b"context": json.dumps(rows.context)}
    )


def file_of(form: str, rows: Rows, *, raw: bool = False) -> bytes:
    """Rows as the bytes of a file: csv, tsv, parquet, arrow (a stream) or xlsx.

    Raises `DoesNotFit` for what no workbook can hold.
    """
    out = io.BytesIO()
    if form == "xlsx":
        _save(_workbook(rows), out)
    elif form == "parquet":
        import pyarrow.parquet as pq

        pq.write_table(arrow(rows), out)
    elif form == "arrow":
        import pyarrow as pa

        table = arrow(rows)
        with pa.ipc.new_stream(out, table.schema) as writer:
            writer.write_table(table)
    else:
        return separated(rows, "\t" if form == "tsv" else ",", raw=raw or form == "tsv").encode()
    return out.getvalue()


def write_batches(batches: Iterator["pa.RecordBatch"], form: str, file: BinaryIO) -> None:
    """Whole columns into a file, batch by batch: where rows are millions.

    csv, arrow (a stream) or parquet.
    """
    import pyarrow.parquet as pq

    if form != "parquet":
        for part in parts_of_batches(batches, form):
            file.write(part)
        return
    first = next(batches)
    with pq.ParquetWriter(file, first.schema, compression="zstd") as writer:
        for batch in chain((first,), batches):
            writer.write_batch(batch)


def parts_of_batches(
    batches: Iterator["pa.RecordBatch"], form: str, *, raw: bool = False
) -> Iterator[bytes]:
    """Whole columns as csv or arrow (a stream): the first are read while the last are made."""
    return _arrow_of(batches) if form == "arrow" else _separated_of(batches, raw)


def with_context(
    batches: Iterator["pa.RecordBatch"], context: Mapping[str, Any]
) -> Iterator["pa.RecordBatch"]:
    """Batches that say how they were asked."""
    metadata = {b"context": json.dumps(context)}
    return (batch.replace_schema_metadata(metadata) for batch in batches)


class _Taken(io.RawIOBase):
    """Something to write to that gives what was written, and forgets it."""

    def __init__(self) -> None:
        self.parts: list[bytes] = []

    def writable(self) -> bool:
        return True

    def write(self, data: Any) -> int:
        self.parts.append(bytes(data))
        return len(data)

    def take(self) -> bytes:
        found, self.parts = b"".join(self.parts), []
        return found


def _arrow_of(batches: Iterator["pa.RecordBatch"]) -> Iterator[bytes]:
    import pyarrow as pa

    sink, writer = _Taken(), None
    for batch in batches:
        if writer is None:
            writer = pa.ipc.new_stream(sink, batch.schema)
        writer.write_batch(batch)
        yield sink.take()
    if writer is not None:
        writer.close()
    yield sink.take()


def _separated_of(batches: Iterator["pa.RecordBatch"], raw: bool) -> Iterator[bytes]:
    """With a head; as `separated` writes it, column by column."""
    import pyarrow as pa
    import pyarrow.compute as pc

    for number, batch in enumerate(batches):
        if number == 0:
            yield (",".join(map(_quoted, batch.schema.names)) + "\n").encode()
        if not len(batch):
            continue
        cells = [_as_text(column, raw) for column in batch.columns]
        how = {"null_handling": "replace", "null_replacement": ""}
        lines = pc.binary_join_element_wise(*cells, ",", **how)
        if len(cells) == 1:  # an empty line is no row to a reader
            lines = pc.if_else(pc.equal(lines, ""), '""', lines)
        whole = pa.ListArray.from_arrays(pa.array([0, len(lines)], pa.int32()), lines)
        yield pc.binary_join(whole, "\n")[0].as_buffer().to_pybytes() + b"\n"


def _as_text(column: Any, raw: bool) -> Any:
    """A column as `separated` has it: words and instants written out, each different one once."""
    import pyarrow as pa

    if pa.types.is_string(column.type) or pa.types.is_timestamp(column.type):
        column = column.dictionary_encode()
    if not pa.types.is_dictionary(column.type):
        return column.cast(pa.string())
    words = [_quoted(str(_cell(word, raw))) for word in column.dictionary.to_pylist()]
    return pa.DictionaryArray.from_arrays(
        column.indices, pa.array(words, pa.string())
    ).dictionary_decode()


def _quoted(text: str) -> str:
    """A cell in quotes where it needs them."""
    return '"' + text.replace('"', '""') + '"' if set(text) & set(',"\r\n') else text


def _workbook(rows: Rows) -> Any:
    """A workbook: the rows with text as text, and on a second sheet how it was asked."""
    from openpyxl import Workbook
    from openpyxl.cell import WriteOnlyCell
    from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE

    for count, most, what in (
        (len(rows), _ROWS - 1, "rows"),
        (len(rows.columns), _COLUMNS, "columns"),
    ):
        if count > most:
            problem = f"a workbook has no room for {count:,} {what}"
            raise DoesNotFit(problem, f"ask for at most {most:,}, or for Parquet or CSV")
    book = Workbook(write_only=True)
    sheet, about = book.create_sheet("Figures"), book.create_sheet("How it was asked")
    sheet.freeze_panes = "A2"

    def cell(of: Any, value: Any) -> Any:
        if isinstance(value, str):
            value = ILLEGAL_CHARACTERS_RE.sub("\ufffd", value)  # which no workbook can hold
            if len(value) > _CELL:
                value = value[: _CELL - 1] + "…"
        if isinstance(value, str) and value.startswith(FORMULA):
            made = WriteOnlyCell(of, value)
            made.data_type = "s"  # a text, no formula
            return made
        return value.replace(tzinfo=None) if isinstance(value, datetime) else value

    sheet.append([cell(sheet, name) for name in rows.columns])
    for row in rows:
        sheet.append([cell(sheet, row[name]) for name in rows.columns])
    for name, value in rows.context.items():
        about.append([name, cell(about, value if isinstance(value, int | float) else str(value))])
    book.properties.title = str(
        rows.context.get("name") or rows.context.get("list_title") or "Figures"
    )
    book.properties.description = json.dumps(rows.context)
    known_on = rows.context.get("known_on")
    asked_of = datetime.fromisoformat(known_on) if known_on else _NO_TIME
    book.properties.created = book.properties.modified = asked_of.replace(
        microsecond=0, tzinfo=None
    )
    return book


class _Undated(ZipFile):
    """An archive whose parts do not say when it was made: the same rows are the same bytes (T7)."""

    def writestr(self, zinfo_or_arcname: Any, data: Any, *how: Any, **more: Any) -> None:
        with self.open(self._part(str(zinfo_or_arcname)), "w") as part:
            part.write(data.encode() if isinstance(data, str) else data)

    def write(self, filename: Any, arcname: Any = None, *how: Any, **more: Any) -> None:
        with (
            Path(filename).open("rb") as source,
            self.open(self._part(str(arcname)), "w", force_zip64=True) as part,
        ):
            shutil.copyfileobj(source, part)

    def _part(self, name: str) -> ZipInfo:
        part = ZipInfo(name)
        part.compress_type = self.compression
        return part


def _save(book: Any, file: BinaryIO) -> None:
    from openpyxl.writer.excel import ExcelWriter

    ExcelWriter(book, _Undated(file, "w", ZIP_DEFLATED)).save()


class TableField(Model):
    """A column of a table."""

    name: str
    type: str = Field(description="string, number, integer, boolean, date or datetime")


class TableSchema(Model):
    """The Table Schema (Frictionless Data) of a table as separated text, with how it was asked."""

    fields: list[TableField]
    missingValues: list[str]
    context: dict[str, Any]


def table_schema(rows: Rows) -> dict[str, object]:
    """The Table Schema of the rows as separated text, with how it was asked."""
    made = frame(rows)

    def kind(name: str) -> str:
        return (
            "date"
            if name == "date" or name.endswith(_DAYS)
            else _KINDS.get(made[name].dtype.kind, "string")
        )

    fields = [{"name": name, "type": kind(name)} for name in rows.columns]
    return {"fields": fields, "missingValues": [""], "context": dict(rows.context)}
