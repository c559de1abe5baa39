"""Fiscal calendars: which nominal ends are fiscal year ends of which company (F3, as the source declares them)."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.facts.keys import Keys, key_company, key_end
from wise_ledger.core.fiscal.periods import Days, month_of


@dataclass(frozen=True)
class YearEnd:
    """From `valid_from` (days) on, the fiscal year of a company ends in `month`."""

    company: int
    valid_from: int
    month: int


class FiscalCalendar:
    """The declared year ends of all companies; a company that declared none has its year end at any month end."""

    def __init__(self, declared: Iterable[YearEnd]) -> None:
        rows = sorted(declared, key=lambda y: (y.company, y.valid_from))
        self._company = np.array([y.company for y in rows], np.int64)
        self._from = np.array([y.valid_from for y in rows], np.int64)
        self._month = np.array([y.month for y in rows], np.int64)

    def month(self, company: NDArray[np.int64], end: Days) -> NDArray[np.int64]:
        """The month in which the fiscal year of each company ended at the time of `end`; 0 where none is declared.

        Before its first declaration a company has the month of that one.
        """
        if not len(self._company):
            return np.zeros(len(company), np.int64)
        span = 1 << 32
        place = np.searchsorted(self._company * span + self._from, company * span + end, "right") - 1
        first = np.searchsorted(self._company, company, "left")
        place = np.maximum(place, np.minimum(first, len(self._company) - 1))
        return np.where(self._company[place] == company, self._month[place], 0)

    def months_into_year(self, keys: Keys) -> NDArray[np.int64]:
        """Months from the start of the fiscal year to each nominal end: 1 to 12, 12 at the year end."""
        end = key_end(keys)
        month = self.month(key_company(keys), end)
        into = (month_of(end) - month - 1) % 12 + 1
        return np.where(month == 0, 12, into)

    def holds(self, keys: Keys, span: int) -> NDArray[np.bool_]:
        """Whether a year (`span` 12) or a half (6) of the company can end there (F7)."""
        return np.asarray(self.months_into_year(keys) % span == 0)
