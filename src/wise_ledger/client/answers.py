"""What the service answers, read: whatever is none of its answers is said to be none."""

import io
from typing import TYPE_CHECKING, TypeVar

from pydantic import BaseModel, ValidationError

from wise_ledger.client.errors import ServiceFailed

if TYPE_CHECKING:
    import pyarrow as pa

M = TypeVar("M", bound=BaseModel)


def body_of(kind: type[M], raw: bytes | str) -> M:
    """A JSON body; raises `ServiceFailed` for what is none of this kind: something else answers at
    the address, or a service of another version.
    """
    try:
        return kind.model_validate_json(raw)
    except ValidationError as error:
        first = error.errors(include_url=False, include_input=False)[0]
        place = ".".join(map(str, first["loc"])) or "the body"
        raise _no(kind.__name__, f"{place}: {first['msg']}") from None


def table_of(raw: bytes) -> "pa.Table":
    """The bytes of an Arrow stream, or of a Parquet file, as a table; raises
    `ServiceFailed` for what is neither.
    """
    import pyarrow as pa
    import pyarrow.parquet as pq

    try:
        if raw.startswith(b"PAR1"):
            return pq.read_table(io.BytesIO(raw))
        with pa.ipc.open_stream(pa.py_buffer(raw)) as reader:
            return reader.read_all()
    except (pa.ArrowException, OSError) as error:
        raise _no("table", str(error)) from None


def _no(kind: str, problem: str) -> ServiceFailed:
    detail = f"It is no {kind} ({problem}): is it a Wise Ledger service, of the same version?"
    return ServiceFailed("The answer cannot be read", detail)
