"""Reading the dates and instants that people write."""

from datetime import date, datetime

from wise_ledger.core.errors import BadInput
from wise_ledger.core.records.fields import of_day, of_instant
from wise_ledger.core.time import instants, periods


def read_cutoff(text: str, at: str) -> datetime:
    """A cut-off: a date means its end, UTC; an instant is taken as it is (T3).

    Raises `BadInput`.
    """
    found = instants.read_cutoff(text, at)
    for problem in of_instant(at, found, None):
        raise BadInput(problem)
    return found


def read_start(text: str, at: str) -> datetime:
    """The start of a range that includes both ends: a date means its begin, UTC;
    an instant is taken as it is.
    """
    return (
        read_cutoff(text, at)
        if len(text.strip()) > 10
        else instants.start_of_day(read_date(text, at))
    )


def as_instant(value: int) -> datetime:
    """The UTC instant of so many microseconds since 1970."""
    return instants.as_instant(value)


def as_date(days: int) -> date:
    """The date of a day number."""
    return periods.as_date(days)


def read_date(text: str, at: str) -> date:
    """An ISO date of a range. Raises `BadInput`, also for years of which nobody keeps anything."""
    found = instants.read_date(text, at)
    for problem in of_day(at, found):
        raise BadInput(problem)
    return found
