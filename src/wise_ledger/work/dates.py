"""Reading the dates and instants that people write."""

from datetime import date, datetime

from wise_ledger.core.facts import instants
from wise_ledger.core.fiscal import periods


def read_cutoff(text: str, at: str) -> datetime:
    """A cut-off: a date means its end, UTC; an instant is taken as it is (T3). Raises `BadInput`."""
    return instants.read_cutoff(text, at)


def as_instant(value: int) -> datetime:
    """The UTC instant of so many microseconds since 1970."""
    return instants.as_instant(value)


def as_date(days: int) -> date:
    """The date of a day number."""
    return periods.as_date(days)


def read_date(text: str, at: str) -> date:
    """An ISO date. Raises `BadInput`."""
    return instants.read_date(text, at)
