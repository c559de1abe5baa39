"""Periods of economic series: days, weeks, months, quarters and years,
however they are written (S2).

A period is the number of its frequency's units since 1970; weeks are counted by their Sunday.
"""

import re
from datetime import date
from enum import IntEnum
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.errors import BadInput, bad_input
from wise_ledger.core.time.instants import DAY, read_date
from wise_ledger.core.time.periods import as_date, day

Whole = NDArray[np.int64]
_KINDS = 8  # frequencies that a code has room for
_FIRST_SUNDAY = 3  # 1970-01-04
_WEEK = 7
_WRITE = "write 2024, 2024Q1, 2024-03, 2024-W05 or 2024-03-28"


class Frequency(IntEnum):
    """How long the periods of a series are; the greater, the shorter."""

    A = 1
    Q = 2
    M = 3
    W = 4
    D = 5

    @property
    def adverb(self) -> str:
        """As people say it: yearly, quarterly, monthly, weekly, daily."""
        return _ADVERBS[self]

    @property
    def noun(self) -> str:
        """What one of its periods is: year, quarter, month, week, day."""
        return _NOUNS[self]

    @property
    def in_a_year(self) -> int:
        """Its periods in a year; of days the weekdays."""
        return _IN_A_YEAR[self]


_ADVERBS = dict(zip(Frequency, ("yearly", "quarterly", "monthly", "weekly", "daily"), strict=True))
_NOUNS = dict(zip(Frequency, ("year", "quarter", "month", "week", "day"), strict=True))
_IN_A_YEAR = dict(zip(Frequency, (1, 4, 12, 52, 260), strict=True))
_MONTHS = {Frequency.A: 12, Frequency.Q: 3, Frequency.M: 1}
# T4: how long after its period an observation is taken to be released whose source does not say
# when.
LAGS = dict(zip(Frequency, (180, 90, 45, 7, 1), strict=True))
# S4: how long after its period's end a last observation still stands on a date.
STALE = dict(zip(Frequency, (1100, 400, 200, 35, 10), strict=True))


def period_of(frequency: Frequency, days: Whole) -> Whole:
    """The period that holds each day.

    >>> period_of(Frequency.Q, np.array([day(date(2024, 3, 28))])).tolist()
    [216]
    """
    if frequency is Frequency.D:
        return days.astype(np.int64)
    if frequency is Frequency.W:
        return (days.astype(np.int64) + _WEEK - 1 - _FIRST_SUNDAY) // _WEEK
    months: NDArray[Any] = days.astype(np.int64).astype("M8[D]").astype("M8[M]").astype(np.int64)
    return np.asarray(months // _MONTHS[frequency])


def first_day(frequency: Frequency, periods: Whole) -> Whole:
    """The first day of each period."""
    if frequency is Frequency.D:
        return periods.astype(np.int64)
    if frequency is Frequency.W:
        return periods.astype(np.int64) * _WEEK + _FIRST_SUNDAY - _WEEK + 1
    months = periods.astype(np.int64) * _MONTHS[frequency]
    return np.asarray(months.astype("M8[M]").astype("M8[D]").astype(np.int64))


def last_day(frequency: Frequency, periods: Whole) -> Whole:
    """The last day of each period; of a week its Sunday."""
    return first_day(frequency, periods.astype(np.int64) + 1) - 1


def code_of(frequency: Frequency, period: int) -> int:
    """A period as the one number it is kept as: its last day and its frequency."""
    return int(last_day(frequency, np.array([period]))[0]) * _KINDS + frequency


def decoded(codes: NDArray[Any]) -> tuple[Whole, Whole]:
    """The frequency of each period that is kept as one number, and its last day."""
    return codes.astype(np.int64) % _KINDS, codes.astype(np.int64) // _KINDS


def day_codes(days: NDArray[Any]) -> NDArray[Any]:
    """Days as the numbers that they are kept as where they are the periods of
    daily series; none stays none.
    """
    none, furthest = np.iinfo(np.int32).min, np.iinfo(np.int32).max // _KINDS - 1
    # A day of no calendar stays one: that it does not fit is found where it is checked.
    codes = np.clip(days.astype(np.int64), -furthest, furthest) * _KINDS + Frequency.D
    return np.where(days == none, none, codes).astype(np.int32)


def recoded(codes: NDArray[Any], frequency: Frequency) -> NDArray[Any]:
    """Periods that are kept as one number each,
    as the longer ones of a frequency that hold their last days.
    """
    ends = last_day(frequency, period_of(frequency, decoded(codes)[1]))
    return np.asarray(ends * _KINDS + frequency, codes.dtype)


@lru_cache(1 << 16)
def label(frequency: Frequency, period: int) -> str:
    """As it is written: 2024, 2024Q1, 2024-03, 2024-W05, 2024-03-28."""
    end = as_date(int(last_day(frequency, np.array([period]))[0]))
    if frequency is Frequency.A:
        return f"{end.year}"
    if frequency is Frequency.Q:
        return f"{end.year}Q{(end.month + 2) // 3}"
    if frequency is Frequency.M:
        return f"{end.year}-{end.month:02d}"
    if frequency is Frequency.W:
        week = end.isocalendar()
        return f"{week.year}-W{week.week:02d}"
    return end.isoformat()


_FORMS = (
    (Frequency.A, re.compile(r"([0-9]{4})(?:-?A1?)?")),
    (Frequency.Q, re.compile(r"([0-9]{4})[- ]?Q([1-4])")),
    (Frequency.Q, re.compile(r"Q([1-4])[- ]([0-9]{4})")),
    (Frequency.M, re.compile(r"([0-9]{4})-([0-9]{2})")),
    (Frequency.M, re.compile(r"([0-9]{4})-?M([0-9]{1,2})")),
    (Frequency.W, re.compile(r"([0-9]{4})-?W([0-9]{1,2})")),
)
_LEAST, _MOST = 1700, 2200


def read_period(text: str, at: str = "period") -> tuple[Frequency, int]:
    """A period in any usual spelling; raises `BadInput`.

    >>> read_period("2024-Q1") == read_period("2024Q1") == (Frequency.Q, 216)
    True
    """
    words = text.strip().upper()
    for frequency, form in _FORMS:
        if (found := form.fullmatch(words)) is None:
            continue
        parts = [int(g) for g in found.groups()]
        if len(parts) == 2 and parts[0] < 10 < parts[1]:
            parts.reverse()
        if not _LEAST <= parts[0] <= _MOST:
            break
        try:
            return frequency, _numbered(frequency, *parts)
        except ValueError:
            raise bad_input(at, text, f"there is no such {frequency.noun}", _WRITE) from None
    if re.fullmatch(r"[0-9]{4}-?[SH][12]", words):
        raise bad_input(at, text, "series of half years are not kept", "give quarters, or years")
    try:
        found_day = read_date(text, at)
    except BadInput as error:
        if "ambiguous" in error.problems[0].problem or "year first" in error.problems[0].problem:
            raise
        raise bad_input(at, text, "this is no period", _WRITE) from None
    if not _LEAST <= found_day.year <= _MOST:
        raise bad_input(at, text, f"the year is not within {_LEAST} and {_MOST}", _WRITE)
    return Frequency.D, day(found_day)


def _numbered(frequency: Frequency, year: int, part: int = 1) -> int:
    """The number of a part of a year; raises `ValueError` where there is none."""
    if frequency is Frequency.W:
        return int(period_of(frequency, np.array([day(date.fromisocalendar(year, part, 1))]))[0])
    month = (part - 1) * _MONTHS[frequency] + 1 if frequency is not Frequency.A else 1
    return int(period_of(frequency, np.array([day(date(year, month, 1))]))[0])


def read_frequency(text: str, at: str = "frequency") -> Frequency:
    """A frequency by its letter or word: M, month, monthly; raises `BadInput`."""
    word = text.strip().lower()
    for each in Frequency:
        if word in (each.name.lower(), each.adverb, each.noun, {"A": "annual"}.get(each.name)):
            return each
    raise bad_input(
        at, text, "there is no such frequency", "write day, week, month, quarter or year"
    )


def assumed_release(codes_frequency: Whole, ends: Whole) -> Whole:
    """T4: when an observation is taken to be released whose source does not say:
    so many days after its period.
    """
    lags = np.zeros(max(Frequency) + 1, np.int64)
    for frequency, lag in LAGS.items():
        lags[frequency] = lag
    return np.asarray((ends + lags[codes_frequency] + 1) * DAY - 1)


def period_words(code: int) -> str:
    """A period that is kept as one number, as it is written."""
    kinds, ends = decoded(np.array([code]))
    if not 1 <= int(kinds[0]) <= max(Frequency):
        return str(code)
    frequency = Frequency(int(kinds[0]))
    return label(frequency, int(period_of(frequency, ends)[0]))
