"""Files of columns: a description, then each column whole, memory-mapped when read;
checksums over both.
"""

import json
import os
import zlib
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

_ALIGNED = 64
_HEAD = 4096  # bytes for the description at the start of a file


def write_columns(
    path: Path, about: Mapping[str, Any], columns: Mapping[str, NDArray[Any]]
) -> None:
    """Write columns with what is to be said about them, aside first,
    so that a crash leaves the old file or none.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    aside = path.with_suffix(".new")
    with aside.open("wb") as file:
        file.write(b" " * _HEAD)
        places, checksum = {}, 0
        for name, column in columns.items():
            raw = np.ascontiguousarray(column).view(np.uint8).data
            file.write(b"\0" * (-file.tell() % _ALIGNED))
            places[name] = [file.tell(), len(column), column.dtype.str]
            file.write(raw)
            checksum = zlib.crc32(raw, checksum)
        head_bytes = json.dumps(
            {"about": about, "columns": places, "size": file.tell(), "checksum": checksum}
        ).encode()
        head = b"%08x %s" % (zlib.crc32(head_bytes), head_bytes)
        if len(head) >= _HEAD:
            raise ValueError("too much is said about these columns")
        file.seek(0)
        file.write(head.ljust(_HEAD - 1) + b"\n")
        file.flush()
        os.fsync(file.fileno())
    # Readers that have the old file mapped keep it: a new name takes it away
    # from the folder, not the bytes.
    aside.replace(path)


def read_columns(path: Path) -> tuple[dict[str, Any], dict[str, NDArray[Any]]] | None:
    """What was said and the columns, mapped from the file;
    None where anything about it is in doubt.
    """
    try:
        raw = np.memmap(path, np.uint8, "r")
        sum_of_head, _, head_bytes = bytes(raw[:_HEAD]).strip().partition(b" ")
        if int(sum_of_head, 16) != zlib.crc32(head_bytes):
            return None
        head = json.loads(head_bytes)
        columns, checksum = {}, 0
        for name, (begin, count, dtype) in head["columns"].items():
            part = raw[begin : begin + count * np.dtype(dtype).itemsize]
            checksum = zlib.crc32(part.data, checksum)
            columns[name] = np.asarray(part).view(dtype)
        whole = head["size"] == len(raw) and head["checksum"] == checksum
        return (head["about"], columns) if whole else None
    except (OSError, ValueError, KeyError, TypeError, AttributeError):
        return None
