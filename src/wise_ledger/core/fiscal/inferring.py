"""Fiscal year ends of companies whose sources declare none: the month in which their 12-month periods end (F3)."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.facts.columns import FactColumns
from wise_ledger.core.facts.versions import nominal_ends
from wise_ledger.core.fiscal.periods import ABSENT, NEAR, as_date, span_months

# One of these stands in every annual report; the periods of other items are not looked at.
READ_FROM = ("revenue", "net_income", "operating_cash_flow", "basic_eps", "diluted_eps")


@dataclass(frozen=True)
class Inferred:
    """From the instant `told` (microseconds) on a company's years end in `month`, for ends after `since` (days)."""

    company: int
    since: int
    month: int
    told: int


@dataclass(frozen=True)
class _Period:
    start: int
    end: int
    nominal: int
    year: bool
    told: int


def infer_year_ends(facts: Sequence[FactColumns], companies: NDArray[np.bool_]) -> list[Inferred]:
    """The year ends of those `companies` (marked true by number), in the order in which they became known.

    The first 12-month period published gives the month. Another month counts once a 12-month period is published that
    starts within ten days of the end of the last old year, or of a reported period that began there (a transition);
    other 12-month figures, such as trailing ones, change nothing.
    """
    periods: dict[int, dict[tuple[int, int], _Period]] = {}
    for columns in facts:
        flows = columns.where(companies[columns.company] & (columns.start != ABSENT)) if len(columns) else columns
        spans, nominal = span_months(flows.start, flows.end), nominal_ends(flows)
        rows = zip(
            flows.company.tolist(), flows.start.tolist(), flows.end.tolist(), nominal.tolist(), (spans == 12).tolist(),
            flows.at.tolist(), strict=True,
        )  # fmt: skip
        for company, start, end, month_end, year, at in rows:
            of = periods.setdefault(company, {})
            known = of.get((start, end))
            if known is None or at < known.told:
                of[start, end] = _Period(start, end, month_end, year, at)
    return [found for company in sorted(periods) for found in _of_company(company, periods[company].values())]


def _of_company(company: int, periods: Iterable[_Period]) -> list[Inferred]:
    ordered = sorted(periods, key=lambda p: (p.told, p.end))
    out: list[Inferred] = []
    last = 0
    for period in ordered:
        if not period.year:
            continue
        month = as_date(period.nominal).month
        if not out:
            out.append(Inferred(company, -1 << 20, month, period.told))
            last = period.nominal
        elif month == out[-1].month:
            last = max(last, period.nominal)
        elif period.nominal > last and _follows(period, last, ordered):
            out.append(Inferred(company, last, month, period.told))
            last = period.nominal
    return out


def _follows(year: _Period, last: int, periods: Sequence[_Period]) -> bool:
    """Whether a year begins where the last old one ended, or where a period known by then ended that began there."""
    between = (p for p in periods if not p.year and p.told <= year.told and abs(p.start - last - 1) <= NEAR)
    begins = [last, *(p.nominal for p in between)]
    return any(abs(year.start - end - 1) <= NEAR for end in begins)
