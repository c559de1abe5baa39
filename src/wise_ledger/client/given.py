"""What callers give, in any usual form, as the service reads it: dates, several texts,
the content of files.
"""

import io
from collections.abc import Mapping, Sequence
from contextlib import suppress
from datetime import date, datetime, time
from operator import index
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar
from urllib.parse import quote

from pydantic import BaseModel, ValidationError

from wise_ledger.client.errors import InputRefused, refused

if TYPE_CHECKING:
    import pandas as pd
    import pyarrow as pa

M = TypeVar("M", bound=BaseModel)
When = str | date | datetime
Words = Sequence[str]


def when(at: When) -> str:
    """A date or an instant as the service reads it.

    Of `datetime`, `pandas.Timestamp` and `numpy.datetime64` a midnight without a zone is its date;
    any other time of day needs its zone. Raises `InputRefused`.

    >>> when(datetime(2024, 6, 30))
    '2024-06-30'
    """
    if isinstance(at, str):
        return at
    if type(at).__name__ == "Period":  # of pandas: its last day
        at = at.to_timestamp(how="end").normalize()  # type: ignore[attr-defined]
    if type(at).__module__ == "numpy":  # numpy.datetime64
        at = _of_numpy(at)
    if not isinstance(at, date) or at != at:  # pandas.NaT is no date, and not itself
        raise refused(
            "date", str(at), "this is no date", "write it as YYYY-MM-DD, such as 2023-06-30"
        )
    if not isinstance(at, datetime):
        return at.isoformat()
    if at.tzinfo is None:
        if at.time() != time.min:
            raise refused(
                "date",
                at.isoformat(),
                "an instant needs its time zone",
                "give one, or a date alone",
            )
        return at.date().isoformat()
    return at.isoformat()


def _of_numpy(at: Any) -> Any:
    try:
        return datetime.fromisoformat(str(at)[:26])
    except ValueError:  # not a time, or no date at all
        return at


def words(name: str, given: Words) -> list[str]:
    """Several texts, as they are given; a single one in their place is refused,
    since its letters would be taken.
    """
    if isinstance(given, str):
        raise refused(name, given, "this is one text, not a sequence of them", f"write [{given!r}]")
    return [text_of(name, one) for one in several(name, given)]


def several(name: str, given: Any) -> list[Any]:
    """The members of a sequence, of a set, of what pandas has;
    raises `InputRefused` for what has none.
    """
    try:
        if not isinstance(given, bytes):
            return [*given]
        raise TypeError
    except TypeError:
        raise refused(
            name, repr(given)[:80], "this is no sequence", "write several, such as [..., ...]"
        ) from None


def text_of(name: str, one: Any) -> str:
    """One of several as text; an empty cell of a frame is none."""
    if one is None or one != one:
        raise refused(name, str(one), "one of them is empty", "leave it out")
    return str(one)


def day(on: When | None) -> str | None:
    """A date as the service reads it; an instant is none."""
    text = None if on is None else when(on)
    if text is not None and len(text) > 10:
        raise refused("date", text, "this is an instant, not a date", "give the date alone")
    return text


def content(given: "bytes | str | Path | pd.DataFrame | pa.Table") -> tuple[bytes, str]:
    """The bytes of a file and its name: of a path, of bytes as they are, of a frame as CSV,
    of a table of Arrow as a stream.
    """
    if isinstance(given, bytes):
        return given, "a file"
    if isinstance(given, str | Path):
        path = Path(given)
        try:
            return path.read_bytes(), path.name
        except (OSError, ValueError) as error:
            problem = f"the file cannot be read: {getattr(error, 'strerror', None) or error}"
            raise refused("file", str(path), problem, "name a file that is there") from None
    if type(given).__module__.startswith("pyarrow"):
        import pyarrow as pa

        if isinstance(given, pa.Table):
            sink = io.BytesIO()
            with pa.ipc.new_stream(sink, given.schema) as writer:
                writer.write_table(given)
            return sink.getvalue(), "a table"
    if not hasattr(given, "to_csv"):
        raise refused(
            "file",
            repr(given)[:80],
            "this is no file",
            "give a path, bytes, a frame of pandas or a table of Arrow",
        )
    out = io.StringIO()
    if any(name is not None for name in given.index.names):  # one that is called is a column
        given = given.reset_index()
    given.to_csv(out, index=False)  # an instant as it is, a column of midnights as days
    return out.getvalue().encode(), "a frame"


def raw_bytes(name: str, given: Any) -> bytes:
    """The bytes of a file, as they are sent."""
    if isinstance(given, bytes | bytearray | memoryview):
        return bytes(given)
    raise refused(name, repr(given)[:80], "these are no bytes", "give what a file holds")


def number(name: str, given: Any) -> int | None:
    """A whole number, or none."""
    with suppress(TypeError):  # what numpy has is a number too
        if given is None or not isinstance(given, bool):
            return given if given is None else index(given)
    raise refused(name, repr(given)[:80], "this is no number", "write one, or leave it out")


def truth(name: str, given: Any) -> bool:
    """True or false."""
    if type(given).__name__ in ("bool", "bool_"):  # the second one is numpy's
        return bool(given)
    raise refused(name, repr(given)[:80], "this is neither", "write True or False")


def one_text(name: str, given: Any) -> str | None:
    """A text, or none."""
    if given is None or isinstance(given, str):
        return given
    raise refused(name, repr(given)[:80], "this is no text", "write one, or leave it out")


def mapping(name: str, given: Any) -> dict[str, Any]:
    """Values by name."""
    if isinstance(given, Mapping):
        return dict(given)
    raise refused(name, repr(given)[:80], "these are no values by name", "write {...}")


def refuse_text(name: str, given: Any) -> None:
    """Refuse a single text where several are meant: its letters would be taken."""
    words(name, given)


def segment(given: str, *, slashes: bool = False) -> str:
    """What a name is in an address; raises `InputRefused` for what is none, or would be a step in
    it: `..` leads to another call. Symbols may have slashes.
    """
    if not isinstance(given, str):
        raise refused("name", repr(given)[:80], "this is no name", "write it as text")
    if not given.strip(".") or ("/" in given and not slashes) or {".", ".."} & {*given.split("/")}:
        mend = "write the name of what you mean"
        raise refused("name", repr(given)[:80], "nothing has such a name", mend)
    try:
        return quote(given, safe="")
    except UnicodeEncodeError:
        raise no_text(given) from None


def request_of(kind: type[M], /, **fields: Any) -> M:
    """A question as the service reads it;
    raises `InputRefused` for fields of another kind than it has.
    """
    try:
        return kind(**fields)
    except ValidationError as error:
        first = error.errors()[0]
        at = ".".join(map(str, first["loc"]))
        raise refused(
            at, repr(first["input"])[:80], first["msg"].lower(), "see help() of this call"
        ) from None
    except TypeError:  # what is of a kind and is none of it, such as pandas.NaT
        odd = next((n for n, value in fields.items() if value != value), "")
        raise refused(odd, "", "this cannot be sent", "see help() of this call") from None


def no_text(given: str) -> InputRefused:
    """The error of a text that cannot be sent."""
    return refused(
        "text", ascii(given)[:80], "it has half a character", "type it again, or leave it out"
    )
