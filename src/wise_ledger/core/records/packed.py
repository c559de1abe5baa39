"""Files of whole columns, Parquet and Arrow, read within bounds: what one unpacks to is looked up
before it is, since a few kilobytes can stand for billions of rows.
"""

import io
import struct
from collections.abc import Iterator
from dataclasses import dataclass

import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.parquet as pq

MOST_ROWS = 10_000_000
MOST_UNPACKED = 2 << 30  # bytes
_PARQUET, _ARROW_FILE = b"PAR1", b"ARROW1"


@dataclass(frozen=True)
class Size:
    """So many rows, and bytes once they are unpacked."""

    rows: int
    size: int


class TooLarge(ValueError):
    """More than may be read: it says how much, as far as it was looked at, and what is the most."""

    def __init__(self, found: Size, most: Size) -> None:
        super().__init__(f"{found.rows:,} rows, {found.size:,} bytes unpacked")
        self.most = most


def read_packed(content: bytes, rows: int | None = None, size: int | None = None) -> pa.Table:
    """The table of a Parquet file, an Arrow file or an Arrow stream, its columns of codes written
    out: of so many `rows` and bytes (`size`) at most, else of what any file may have.

    Raises `TooLarge`, and what pyarrow raises of a damaged one.
    """
    most = Size(
        MOST_ROWS if rows is None else rows,
        MOST_UNPACKED if size is None else size,
    )
    if content.startswith(_PARQUET):
        _within(_of_parquet(content), most)
        # Texts that repeat stay as codes until it is known how long they are.
        schema = pq.read_schema(io.BytesIO(content))
        texts = [field.name for field in schema if _is_text(field.type)]
        table = pq.ParquetFile(io.BytesIO(content), read_dictionary=texts).read()
    else:
        is_file = content.startswith(_ARROW_FILE)
        _within(_of_arrow(pa.py_buffer(content).slice(8 if is_file else 0)), most)
        table = (pa.ipc.open_file if is_file else pa.ipc.open_stream)(
            pa.BufferReader(content)
        ).read_all()
        _within(Size(table.num_rows, 0), most)
    table.validate(full=True)
    columns = [_written_out(column, most) for column in table.columns]
    return pa.table(columns, names=table.column_names) if columns else table


def _is_text(kind: pa.DataType) -> bool:
    types = pa.types
    text = types.is_string(kind) or types.is_large_string(kind) or types.is_string_view(kind)
    return bool(text or types.is_binary(kind) or types.is_large_binary(kind))


def _within(found: Size, most: Size) -> None:
    if found.rows > most.rows or found.size > most.size:
        raise TooLarge(found, most)


def _of_parquet(content: bytes) -> Size:
    head = pq.read_metadata(io.BytesIO(content))
    groups = (head.row_group(n) for n in range(head.num_row_groups))
    return Size(head.num_rows, sum(g.total_byte_size for g in groups))


def _written_out(column: pa.ChunkedArray, most: Size) -> pa.ChunkedArray:
    """A column of codes as what they stand for."""
    if not pa.types.is_dictionary(column.type):
        return column
    size = 0
    for chunk in column.chunks:
        words = chunk.dictionary
        if _is_text(words.type):
            lengths = pc.binary_length(words.cast(pa.large_binary()))
            size += pc.sum(lengths.take(chunk.indices)).as_py() or 0
    _within(Size(len(column), size), most)
    return column.cast(column.type.value_type)


# ---- what the messages of an Arrow stream say of themselves (Message.fbs of the Arrow format)


def _of_arrow(stream: pa.Buffer) -> Size:
    """Of all batches together; what cannot be followed is left to the reader to refuse."""
    rows = size = 0
    try:
        source = pa.BufferReader(stream)
        while True:
            message = pa.ipc.read_message(source)
            found = _of_message(message)
            rows, size = rows + found.rows, size + found.size
    except (pa.ArrowException, EOFError, OSError, struct.error, IndexError):
        return Size(rows, size)


def _of_message(message: pa.ipc.Message) -> Size:
    if message.type not in ("record batch", "dictionary"):
        return Size(0, 0)
    head = message.metadata.to_pybytes()
    batch = _below(head, _whole(head, "<I", 0), 2)  # Message.header
    if message.type == "dictionary":
        batch = _below(head, batch, 1)  # DictionaryBatch.data
        return Size(0, sum(_buffers(head, batch, message.body)))
    rows = _field(head, batch, 0)  # RecordBatch.length
    length = 0 if rows is None else _whole(head, "<q", rows)
    return Size(length, sum(_buffers(head, batch, message.body)))


def _buffers(head: bytes, batch: int, body: pa.Buffer) -> Iterator[int]:
    """The bytes of each buffer of a batch; a compressed one begins with how many it has."""
    at = _field(head, batch, 2)
    if at is None:
        return
    compressed = _field(head, batch, 3) is not None
    at += _whole(head, "<I", at)
    for n in range(_whole(head, "<I", at)):
        offset, length = struct.unpack_from("<qq", head, at + 4 + 16 * n)
        own = length
        if compressed and length >= 8:
            own = _whole(body.slice(offset, 8).to_pybytes(), "<q", 0)
        yield length if own < 0 else own  # -1: not compressed after all


def _whole(head: bytes, form: str, at: int) -> int:
    return int(struct.unpack_from(form, head, at)[0])


def _field(head: bytes, table: int, number: int) -> int | None:
    """Where a field of a table stands."""
    fields = table - _whole(head, "<i", table)
    place = 4 + 2 * number
    if place >= _whole(head, "<H", fields):
        return None
    offset = _whole(head, "<H", fields + place)
    return table + offset if offset else None


def _below(head: bytes, table: int, number: int) -> int:
    """The table that a field points to."""
    at = _field(head, table, number)
    if at is None:
        raise IndexError(number)
    return at + _whole(head, "<I", at)
