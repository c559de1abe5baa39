"""A typed cell of a workbook, of columns or of JSON as the text that a person would have written."""

from datetime import date, datetime, time
from typing import Any


def cell_text(value: Any) -> str:
    """The text of a cell; empty where there is nothing in it, be it NaN or NaT.

    A day stands in workbooks and frames as its midnight, a whole number beside missing ones with
    a point.

    >>> [cell_text(v) for v in (None, float("nan"), 12.0, 0.5, datetime(2024, 3, 28), time(17, 30))]
    ['', '', '12', '0.5', '2024-03-28', '17:30']
    """
    if value is None or value != value:
        return ""
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    if isinstance(value, datetime):
        plain = value.tzinfo is None and value.time() == time.min
        return value.date().isoformat() if plain else value.isoformat()
    if isinstance(value, date):
        return value.isoformat()
    if isinstance(value, time):
        return f"{value:%H:%M}" if not (value.second or value.microsecond) else value.isoformat()
    return str(value)
