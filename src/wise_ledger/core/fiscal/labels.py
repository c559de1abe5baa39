"""Fiscal and calendar labels of one period (rules F4, F5, F6),
and the end a fiscal label implies (F2).
"""

import re
from calendar import monthrange
from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from wise_ledger.core.time.periods import (
    ABSENT,
    BALANCE,
    ODD,
    as_date,
    day,
    nominal_end,
    nominal_start,
    shift_months,
    span_months,
)

_LABEL = re.compile(r"FY([0-9]{4})(?:Q([1-4])|H([12])|-(9M))?")


@dataclass(frozen=True)
class Period:
    """A period as reported; `start` is empty for a balance."""

    start: date | None
    end: date

    @property
    def span(self) -> int:
        """Months (3, 6, 9, 12), `BALANCE` or `ODD` (F1)."""
        return int(span_months(self._start, _column(self.end))[0])

    @property
    def nominal_end(self) -> date:
        """F2, where the source declares no fiscal period."""
        return as_date(int(nominal_end(_column(self.end))[0]))

    @property
    def nominal_start(self) -> date | None:
        """F2; none for a balance."""
        return None if self.start is None else as_date(int(nominal_start(self._start)[0]))

    @property
    def _start(self) -> np.ndarray[tuple[int], np.dtype[np.int32]]:
        return np.array([ABSENT if self.start is None else day(self.start)], np.int32)


def _column(value: date) -> np.ndarray[tuple[int], np.dtype[np.int32]]:
    return np.array([day(value)], np.int32)


def fiscal_label(span: int, end: date, year_end_month: int, named_by: str = "end") -> str:
    """The label of a period with this span and nominal end (F4, F5), such as `FY2023Q2`."""
    if span == ODD:
        return "odd"
    # months from the start of the fiscal year to `end`
    into_year = (end.month - year_end_month - 1) % 12 + 1
    year = end.year + (end.month > year_end_month)
    if named_by == "start" and year_end_month != 12:
        year -= 1
    if span == 12 or (span == BALANCE and into_year == 12):
        return f"FY{year}"
    if span == 9:
        return f"FY{year}-9M"
    if span == 6:
        return f"FY{year}H{1 if into_year <= 6 else 2}"
    return f"FY{year}Q{-(-into_year // 3)}"


def calendar_label(period: Period) -> str:
    """The calendar quarter or year a period belongs to, by its nominal dates (F6)."""
    end, span = period.nominal_end, period.span
    if span == ODD:
        return _quarter(end)
    if span == 12:
        assert period.nominal_start is not None
        return str(_midpoint(period.nominal_start, end).year)
    # A balance, and a half or nine months, stand where their last three months stand.
    start = as_date(int(shift_months(_column(end), -3)[0])) + timedelta(days=1)
    if span == 3:
        assert period.nominal_start is not None
        start = period.nominal_start
    return _quarter(_midpoint(start, end))


def implied_end(label: str, year_end_month: int, named_by: str = "end") -> date | None:
    """The month end that a declared fiscal label means (F2);
    none where the label is not of F5's form.
    """
    found = _LABEL.fullmatch(label)
    if not found:
        return None
    year, quarter, half, nine = int(found[1]), found[2], found[3], found[4]
    if named_by == "start" and year_end_month != 12:
        year += 1
    months_left = 12 - (
        3 * int(quarter) if quarter else 6 * int(half) if half else 9 if nine else 12
    )
    month = year * 12 + year_end_month - 1 - months_left
    return date(month // 12, month % 12 + 1, monthrange(month // 12, month % 12 + 1)[1])


def _midpoint(start: date, end: date) -> date:
    return start + (end - start) // 2


def _quarter(value: date) -> str:
    return f"{value.year}Q{(value.month + 2) // 3}"
