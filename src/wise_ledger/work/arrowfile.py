"""Files of whole columns: Parquet, and Arrow as a file or a stream;
whatever is wrong with one is bad input.
"""

from typing import TYPE_CHECKING

from wise_ledger.core.errors import bad_input

if TYPE_CHECKING:
    import pyarrow as pa

_BEGINS = b"PAR1", b"ARROW1", b"\xff\xff\xff\xff"  # Parquet, Arrow's file, its stream


def is_arrow(content: bytes) -> bool:
    """Whether it begins as such a file does."""
    return content.startswith(_BEGINS)


def read_arrow(content: bytes, most_rows: int | None = None) -> "pa.Table":
    """The table of a file of so many rows at most, else of what any may have, its columns named
    in small letters; raises `BadInput`.
    """
    import pyarrow as pa

    from wise_ledger.core.records.packed import TooLarge, read_packed

    try:
        table = read_packed(content, most_rows)
    except TooLarge as error:
        most = error.most
        problem = f"at most {most.rows:,} rows and {most.size:,} bytes are taken at once"
        raise bad_input("file", str(error), problem, "load it in parts") from None
    except (pa.ArrowException, OSError, ValueError, KeyError, MemoryError) as error:
        problem = f"the file is damaged: {str(error)[:100]}"
        raise bad_input("file", f"{len(content)} bytes", problem, "write it again") from None
    names = [str(name).strip().lower() for name in table.column_names]
    if twice := sorted({n for n in names if names.count(n) > 1}):
        raise bad_input(
            "line 1", twice[0], "two columns have this name", "rename one, or take it out"
        )
    columns = [_plain(name, column) for name, column in zip(names, table.columns, strict=True)]
    return pa.table(columns, names=names) if columns else table


def _plain(name: str, column: "pa.ChunkedArray") -> "pa.ChunkedArray":
    """As text, numbers, days, instants or truths, which is all that a cell can be."""
    import pyarrow as pa

    kind = column.type
    if (
        pa.types.is_binary(kind)
        or pa.types.is_large_binary(kind)
        or pa.types.is_fixed_size_binary(kind)
    ):
        kind = pa.string()
    if pa.types.is_nested(kind):
        raise bad_input(
            "line 1", name, f"this column holds {kind}", "write text, numbers, days or instants"
        )
    try:
        return column if column.type == kind else column.cast(kind)
    except pa.ArrowException:
        raise bad_input(
            "line 1", name, "this column cannot be read as text", "write it in UTF-8"
        ) from None
