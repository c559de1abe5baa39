"""Columns of records as bytes: an Apache Parquet file without row groups to look into,
decimals as whole numbers.

A price is a few digits behind a point; as the whole number of its last digit it takes a third of
the room of a double, and comes back as the same double to the last bit. A column for which that
does not hold is kept as doubles.
"""

import io
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq
from numpy.typing import NDArray

from wise_ledger.core.records.columns import ColumnKind, RecordColumns, missing

_DIGITS = (0, 2, 4, 6)  # behind the point, in which a column of numbers may stand exactly
_WHOLE = 2.0**53
_SCALED = b"digits"


def pack_columns(rows: RecordColumns) -> bytes:
    """The columns as bytes; `batch` and `source`, which all rows share, stand beside them."""
    columns, fields, encodings = [], [], {}
    for name in rows.kind.dtypes:
        if name in ("batch", "source"):
            continue
        values, absent = rows[name], missing(rows[name])
        about = {}
        encodings[name] = "DELTA_BINARY_PACKED"
        if values.dtype.kind == "f":
            digits = _digits(values[~absent])
            if digits is None:
                encodings[name] = "BYTE_STREAM_SPLIT"
            else:
                about = {_SCALED: str(digits).encode()}
                with np.errstate(invalid="ignore"):
                    values = np.rint(np.where(absent, 0.0, values) * 10.0**digits).astype(np.int64)
        array = pa.array(values, mask=absent if absent.any() else None)
        columns.append(array)
        fields.append(pa.field(name, array.type, metadata=about))
    table = pa.Table.from_arrays(columns, schema=pa.schema(fields))
    out = io.BytesIO()
    pq.write_table(table, out, compression="zstd", use_dictionary=False, column_encoding=encodings)
    return out.getvalue()


def unpack_columns(kind: ColumnKind, payload: bytes, *, batch: int, source: int) -> RecordColumns:
    """The columns that were packed, to the last bit;
    raises `ValueError` where the bytes are no such columns.
    """
    try:
        table = pq.read_table(io.BytesIO(payload), use_threads=False)
    except (pa.ArrowInvalid, OSError) as error:
        raise ValueError(str(error)) from None
    columns = {}
    for field in table.schema:
        values = table.column(field.name).combine_chunks()
        digits = (field.metadata or {}).get(_SCALED)
        columns[field.name] = _plain(
            values, kind.dtypes[field.name], None if digits is None else int(digits)
        )
    return RecordColumns.of(kind, **columns, batch=batch, source=source)


def _plain(values: Any, dtype: type[np.generic], digits: int | None) -> NDArray[Any]:
    if digits is None and not values.null_count:
        return np.asarray(values.to_numpy(zero_copy_only=False), dtype)
    absent = values.is_null().to_numpy(zero_copy_only=False)
    out = values.fill_null(0).to_numpy(zero_copy_only=False)
    if digits is not None:
        out = out / 10.0**digits
    out = out.astype(dtype)
    if absent.any():
        out = np.where(absent, RecordColumns.absent(dtype), out)
    return np.asarray(out)


def _digits(values: NDArray[np.float64]) -> int | None:
    """How many digits behind the point hold all of the numbers exactly;
    None where that cannot be said.
    """
    if np.signbit(values[values == 0]).any():
        return None
    for digits in _DIGITS:
        whole = np.rint(values * 10.0**digits)
        if (np.abs(whole) >= _WHOLE).any():
            return None
        if (whole / 10.0**digits == values).all():
            return digits
    return None
