"""Instants of public knowledge: cut-offs, publication dates and assumed lags (rules T2, T3, T4).

Instants are whole microseconds since 1970-01-01T00:00Z, kept as int64.
"""

import re
from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from wise_ledger.core.errors import bad_input
from wise_ledger.core.time.periods import BALANCE

DAY = 86_400_000_000  # microseconds
_EPOCH = datetime(1970, 1, 1, tzinfo=UTC)
_MICROSECOND = timedelta(microseconds=1)
# a day as frames and workbooks write it: its midnight, in no zone
_MIDNIGHT = re.compile(r"([0-9]{4}-[0-9]{2}-[0-9]{2})[T ]00:00(:00(\.0+)?)?")
_SLASHED = re.compile(r"([0-9]{1,2})[/.]([0-9]{1,2})[/.]([0-9]{4})")
LAG_OF_YEAR, LAG_OF_OTHER = 90, 60  # days, T4


def micros(value: datetime) -> int:
    """Microseconds since the epoch of an aware instant."""
    return (value - _EPOCH) // _MICROSECOND


def as_instant(value: int) -> datetime:
    """The aware UTC instant of so many microseconds."""
    return _EPOCH + timedelta(microseconds=int(value))


def iso_text(value: date) -> str:
    """A day, or an aware UTC instant, in ISO 8601: the instant with `Z`, as every answer has it."""
    return value.isoformat().replace("+00:00", "Z")


def end_of_day(value: date, zone: str = "UTC") -> datetime:
    """23:59:59.999999 of the day in `zone`, as UTC (T2)."""
    return datetime.combine(value, time.max, ZoneInfo(zone)).astimezone(UTC)


def start_of_day(value: date) -> datetime:
    """00:00 of the day, UTC."""
    return datetime.combine(value, time.min, UTC)


def assumed_publication(period_end: date, span: int, at_year_end: bool) -> datetime:
    """T4: the end of `period_end` plus 90 days (12 months, or a balance at
    the year end), else 60.
    """
    late = span == 12 or (span == BALANCE and at_year_end)
    return end_of_day(period_end + timedelta(days=LAG_OF_YEAR if late else LAG_OF_OTHER))


def day_alone(text: str) -> str:
    """The day of a text that is a day or its midnight in no zone; else the text.

    >>> day_alone("2024-03-28 00:00:00"), day_alone("2024-03-28T10:00:00Z")
    ('2024-03-28', '2024-03-28T10:00:00Z')
    """
    midnight = _MIDNIGHT.fullmatch(text.strip())
    return midnight[1] if midnight else text.strip()


def read_date(text: str, at: str) -> date:
    """An ISO 8601 date, or its midnight in no zone; anything else is refused,
    with the readings it could have had.
    """
    try:
        return date.fromisoformat(day_alone(text))
    except ValueError:
        pass
    if slashed := _SLASHED.fullmatch(text.strip()):
        first, second, year = (int(g) for g in slashed.groups())
        readings = dict.fromkeys(
            f"{year}-{m:02d}-{d:02d}"
            for d, m in ((first, second), (second, first))
            if m <= 12 and d <= 31
        )
        if len(readings) == 2:
            raise bad_input(at, text, "this date is ambiguous", f"write {' or '.join(readings)}")
        if readings:
            raise bad_input(
                at, text, "dates are written year first", f"write {next(iter(readings))}"
            )
    raise bad_input(at, text, "this is no date", "write it as YYYY-MM-DD, such as 2023-06-30")


def read_cutoff(text: str, at: str) -> datetime:
    """A cut-off: a date means its end in UTC, an instant is taken as it is (T3)."""
    stripped = text.strip()
    if len(stripped) > 10 and stripped[10] in "T ":
        try:
            value = datetime.fromisoformat(stripped)
        except ValueError:
            raise bad_input(
                at,
                text,
                "this is no instant",
                "write it as 2023-06-30T16:00:00Z, or give the date alone",
            ) from None
        if value.tzinfo is None:
            raise bad_input(
                at, text, "an instant needs its time zone", f"write {stripped}Z for UTC"
            )
        return value.astimezone(UTC)
    return end_of_day(read_date(stripped, at))
