"""Spans and nominal ends of periods, over columns of days (rules F1, F2).

Days are whole days since 1970-01-01, kept as int32; `ABSENT` marks a period start that is empty (a
balance).
"""

from collections.abc import Callable
from datetime import date, timedelta
from functools import lru_cache
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

Days = NDArray[np.int32]
Numbers = TypeVar("Numbers", bound=NDArray[Any])

ABSENT = NO_END = np.iinfo(np.int32).min  # no start (a balance); no end (nothing known)
BALANCE, ODD = 0, -1
_SPANS = ((3, 77, 119), (6, 161, 203), (9, 246, 294), (12, 350, 378))
NEAR = 10  # days within which a month end, or two starts, count as the same
_EPOCH = date(1970, 1, 1)
# What is asked of every period, again and again, is worked out once for each day that the ledger
# takes, and some years around them; of other days, such as `ABSENT`, each time.
_FIRST, _AFTER = (date(1850, 1, 1) - _EPOCH).days, (date(2251, 1, 1) - _EPOCH).days


def day(value: date) -> int:
    """Days since 1970-01-01."""
    return (value - _EPOCH).days


def as_date(days: int) -> date:
    """The date of a day number."""
    return _EPOCH + timedelta(days=int(days))


def span_months(start: Days, end: Days) -> NDArray[np.int8]:
    """Span in months (3, 6, 9, 12), `BALANCE` without a start, else `ODD` (F1)."""
    length = end.astype(np.int64) - start + 1
    span = np.full(end.shape, ODD, np.int8)
    for months, least, most in _SPANS:
        span[(length >= least) & (length <= most)] = months
    span[start == ABSENT] = BALANCE
    return span


_FEW = 4_000  # days, of which a shift is reckoned sooner than a table of all is made
_YEARS_AROUND = 100


@lru_cache(128)  # thirty years of quarters are as many shifts; half a megabyte each
def _table(work: Callable[..., Numbers], *given: int) -> Numbers:
    return work(np.arange(_FIRST, _AFTER, dtype=np.int32), *given)


def _by_table(work: Callable[..., Numbers], days: Days, *given: int) -> Numbers:
    """`work` on every day."""
    try:
        # days before the first are far after it
        found: Any = _table(work, *given)[(days - _FIRST).astype(np.uint32)]
    except IndexError:
        return work(days, *given)
    return found  # type: ignore[no-any-return]


def nominal_end(end: Days) -> Days:
    """The month end nearest to `end` if within 10 days, else `end` (F2,
    without a declared period).
    """
    return _by_table(_nominal_end, end)


def _nominal_end(end: Days) -> Days:
    month = end.astype("M8[D]").astype("M8[M]")
    own = ((month + 1).astype("M8[D]").astype(np.int64) - 1).astype(np.int32)
    before = (month.astype("M8[D]").astype(np.int64) - 1).astype(np.int32)
    nearest = np.where(own - end <= end - before, own, before)
    return np.where(np.abs(nearest - end) <= NEAR, nearest, end).astype(np.int32)


def nominal_start(start: Days) -> Days:
    """The day after the nominal end of the day before `start` (F2); `ABSENT` stays."""
    known = np.where(start == ABSENT, 0, start).astype(np.int32)
    return np.where(start == ABSENT, ABSENT, nominal_end(known - 1) + 1).astype(np.int32)


def shift_months(days: Days, months: int) -> Days:
    """Each day so many months later (negative: earlier); month ends go to month ends."""
    if not months:
        return days.astype(np.int32)
    if days.size < _FEW and abs(months) <= _YEARS_AROUND * 12:
        return _shifted_by_month(days, months)
    return _by_table(_shift_months, days, months)


def _shifted_by_month(days: Days, months: int) -> Days:
    """The same for few days: a table of each shift would take longer to make, and samples of
    ten years of quarters are forty shifts.
    """
    month_of, first = _calendar()  # both of int32
    try:
        month = month_of[(days - _FIRST).astype(np.uint32)]
    except IndexError:
        return _shift_months(days, months)
    begin, last = first[month + months], first[month + (months + 1)] - 1
    at_end = first[month + 1] - 1 == days
    shifted: Days = np.where(at_end, last, np.minimum(begin + (days - first[month]), last))
    return shifted.astype(np.int32, copy=False)


@lru_cache(1)
def _calendar() -> tuple[Days, Days]:
    """The month of each day, and the first day of each month; months are counted from
    `_YEARS_AROUND` years before the first day's on.
    """
    months = np.arange(_FIRST, _AFTER, dtype=np.int32).astype("M8[D]").astype("M8[M]")
    around = _YEARS_AROUND * 12
    every = np.arange(months[0] - around, months[-1] + around + 3)
    month_of: Days = (months - every[0]).astype(np.int32)
    first: Days = every.astype("M8[D]").astype(np.int32)
    return month_of, first


def _shift_months(days: Days, months: int) -> Days:
    month = days.astype("M8[D]").astype("M8[M]")
    into = days - month.astype("M8[D]").astype(np.int64)
    target = month + months
    first = target.astype("M8[D]").astype(np.int64)
    last = (target + 1).astype("M8[D]").astype(np.int64) - 1
    at_end = (month + 1).astype("M8[D]").astype(np.int64) - 1 == days
    return np.where(at_end, last, np.minimum(first + into, last)).astype(np.int32)


def months_between(start: Days, end: Days) -> NDArray[np.int64]:
    """Whole calendar months from one month end to another."""
    return np.asarray(_by_table(_months, end) - _by_table(_months, start))


def months_long(start: Days, end: Days) -> NDArray[np.int64]:
    """How many months a period lasts, from its nominal start to its nominal end."""
    return months_between(np.asarray(start - 1), end)


def _months(days: Days) -> NDArray[np.int64]:
    """Months since January 1970."""
    months: NDArray[Any] = days.astype("M8[D]").astype("M8[M]")
    return months.astype(np.int64)


def month_of(days: Days) -> NDArray[np.int8]:
    """Calendar month, 1 to 12, of each day."""
    return _by_table(_month_of, days)


def _month_of(days: Days) -> NDArray[np.int8]:
    return (_months(days) % 12 + 1).astype(np.int8)


def starts_agree(a: Days, b: Days) -> NDArray[np.bool_]:
    """Whether two period starts are within 10 days of each other (F7)."""
    return np.asarray(np.abs(a.astype(np.int64) - b) <= NEAR)
