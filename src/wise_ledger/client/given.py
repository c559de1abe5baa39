"""What callers give, in any usual form, as the service reads it: dates, several texts, the content of files."""

import io
from collections.abc import Sequence
from datetime import date, datetime, time
from pathlib import Path
from typing import TYPE_CHECKING, Any

from wise_ledger.client.errors import refused

if TYPE_CHECKING:
    import pandas as pd

When = str | date | datetime
Words = Sequence[str]


def when(at: When) -> str:
    """A date or an instant as the service reads it.

    Of `datetime`, `pandas.Timestamp` and `numpy.datetime64` a midnight without a zone is its date; any other time of
    day needs its zone. Raises `InputRefused`.

    >>> when(datetime(2024, 6, 30))
    '2024-06-30'
    """
    if isinstance(at, str):
        return at
    if not isinstance(at, date):  # numpy.datetime64
        at = datetime.fromisoformat(str(at)[:26])
    if not isinstance(at, datetime):
        return at.isoformat()
    if at.tzinfo is None:
        if at.time() != time.min:
            raise refused("date", at.isoformat(), "an instant needs its time zone", "give one, or a date alone")
        return at.date().isoformat()
    return at.isoformat()


def words(name: str, given: Words) -> list[str]:
    """Several texts, as they are given; a single one in their place is refused, since its letters would be taken."""
    if isinstance(given, str):
        raise refused(name, given, "this is one text, not a sequence of them", f"write [{given!r}]")
    return [*given]


def day(on: When | None) -> str | None:
    """A date as the service reads it; an instant is none."""
    text = None if on is None else when(on)
    if text is not None and len(text) > 10:
        raise refused("date", text, "this is an instant, not a date", "give the date alone")
    return text


def content(given: "bytes | str | Path | pd.DataFrame") -> tuple[bytes, str]:
    """The bytes of a file and its name: of a path, of bytes as they are, of a frame as CSV."""
    if isinstance(given, bytes):
        return given, "a file"
    if isinstance(given, str | Path):
        path = Path(given)
        try:
            return path.read_bytes(), path.name
        except OSError as error:
            problem = f"the file cannot be read: {error.strerror or error}"
            raise refused("file", str(path), problem, "name a file that is there") from None
    out = io.StringIO()
    given.to_csv(out, index=False, date_format="%Y-%m-%d")
    return out.getvalue().encode(), "a frame"


def refuse_text(name: str, given: Any) -> None:
    """Refuse a single text where several are meant: its letters would be taken."""
    words(name, given)
