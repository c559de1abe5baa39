"""Fiscal and calendar periods asked for by label,
and the nominal ends that they have of each company (F4 to F6).
"""

import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.errors import bad_input
from wise_ledger.core.fiscal.calendar import FiscalCalendar
from wise_ledger.core.time.periods import NO_END, Days, month_of, shift_months

_LABEL = re.compile(r"(FY)?([0-9]{4})(?:Q([1-4]))?")
MOST = 400  # periods
_FIRST, _LAST = 1900, 2200


@dataclass(frozen=True)
class Periods:
    """Years (12 months) or quarters (3) in order; `fiscal` ones of each
    company's own year, else of the calendar.
    """

    fiscal: bool
    months: int
    first: int  # years count themselves, quarters four a year
    last: int

    @property
    def labels(self) -> tuple[str, ...]:
        """Such as `FY2023`, `FY2023Q2`, `2023`, `2023Q2`."""
        return tuple(map(self._label, range(self.first, self.last + 1)))

    @property
    def selector(self) -> str:
        """What a flow of such a period is, unless an expression says otherwise."""
        return "fy" if self.months == 12 else "q"

    def _label(self, number: int) -> str:
        year, quarter = (number, "") if self.months == 12 else (number // 4, f"Q{number % 4 + 1}")
        return f"{'FY' if self.fiscal else ''}{year}{quarter}"


def read_periods(text: str) -> Periods:
    """Periods as people write them, both ends included; raises `BadInput`.

    >>> read_periods("FY2022Q3/FY2023Q1").labels
    ('FY2022Q3', 'FY2022Q4', 'FY2023Q1')
    """
    begin, _, end = text.replace(" ", "").upper().partition("/")
    found = [_LABEL.fullmatch(part) for part in (begin, end or begin)]
    mend = "write FY2015/FY2024, FY2020Q1/FY2024Q4, or of the calendar 2015/2024, 2020Q1/2024Q4"
    if not found[0] or not found[1]:
        raise bad_input("periods", text, "these are no periods", mend)
    a, b = found[0], found[1]
    if (bool(a[1]), bool(a[3])) != (bool(b[1]), bool(b[3])):
        raise bad_input("periods", text, "the two ends are of different kinds", mend)
    first, last = (int(m[2]) if not m[3] else 4 * int(m[2]) + int(m[3]) - 1 for m in (a, b))
    if not _FIRST <= int(a[2]) <= _LAST or not _FIRST <= int(b[2]) <= _LAST:
        raise bad_input("periods", text, f"a year lies outside {_FIRST} to {_LAST}", mend)
    if last < first:
        raise bad_input("periods", text, "the range ends before it begins", f"write {end}/{begin}")
    if last - first >= MOST:
        raise bad_input(
            "periods", text, f"these are more than {MOST} periods", "ask for fewer at once"
        )
    return Periods(bool(a[1]), 3 if a[3] else 12, first, last)


def ends_of(
    calendar: FiscalCalendar, periods: Periods, companies: NDArray[np.int64], cutoff: int
) -> Days:
    """The nominal end of each period of each company as known at an instant,
    (companies, periods); else NO_END.

    A period of a transition has no such label. A calendar period is the fiscal one whose midpoint
    it holds (F6).
    """
    years = (
        (periods.first, periods.last)
        if periods.months == 12
        else (periods.first // 4, periods.last // 4)
    )
    months = np.arange((years[0] - 1 - 1970) * 12, (years[1] + 3 - 1970) * 12)
    month_ends = ((months + 1).astype("M8[M]").astype("M8[D]").astype(np.int64) - 1).astype(
        np.int32
    )
    stage = np.array([calendar.known(c, cutoff) for c in companies.tolist()], np.int64)
    by_start = np.array([calendar.named_by_start(c, cutoff) for c in companies.tolist()], np.bool_)
    stages, ends = np.repeat(stage, len(months)), np.tile(month_ends, len(companies))
    shape = (len(companies), len(months))
    into = calendar.months_into_year(stages, ends).reshape(shape)
    month = month_of(month_ends).astype(np.int64)[None, :]
    into = np.where(into < 0, month, into)  # while no year end is known, years end in December
    fits = (into % periods.months == 0) & ~calendar.in_transition(stages, ends).reshape(shape)
    if periods.fiscal:
        year_end = (month - into - 1) % 12 + 1
        year = months // 12 + 1970 + (month > year_end) - (by_start[:, None] & (year_end != 12))
        number = year if periods.months == 12 else 4 * year + into // 3 - 1
    else:
        start = shift_months(month_ends, -periods.months).astype(np.int64) + 1
        middle = (start + (month_ends - start) // 2).astype("M8[D]").astype("M8[M]").astype(
            np.int64
        ) + 1970 * 12
        number = np.broadcast_to(middle // periods.months, shape)
    out = np.full((len(companies), periods.last - periods.first + 1), NO_END, np.int32)
    place = number - periods.first
    fits &= (place >= 0) & (place < out.shape[1])
    for n in range(len(months)):  # a later end of the same label stands
        rows = np.flatnonzero(fits[:, n])
        out[rows, place[rows, n]] = month_ends[n]
    return out
