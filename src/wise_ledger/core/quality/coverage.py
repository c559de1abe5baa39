"""How often items are filled (Q3)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.records.facts import FactColumns


@dataclass(frozen=True)
class Coverage:
    """Companies and facts with an item, and its first and last period end (days)."""

    companies: int
    facts: int
    first: int
    last: int


def of_item(facts: FactColumns) -> Coverage | None:
    """The coverage of one item; None where it is never filled."""
    there = ~np.isnan(facts.value)
    if not there.any():
        return None
    company, end = facts.company[there], facts.end[there]
    has = np.zeros(int(company.max()) + 1, np.bool_)
    has[company] = True
    return Coverage(int(has.sum()), len(end), int(end.min()), int(end.max()))


def by_year(facts: FactColumns, companies: NDArray[np.int64] | None = None) -> dict[int, int]:
    """How many companies (of some, or of all) have an item for a period that
    ends in each calendar year.
    """
    there = ~np.isnan(facts.value)
    if companies is not None:
        there &= np.isin(facts.company, companies)
    if not there.any():
        return {}
    year = facts.end[there].astype("datetime64[D]").astype("datetime64[Y]").astype(np.int64) + 1970
    first = int(year.min())
    has = np.zeros((int(year.max()) - first + 1, int(facts.company.max()) + 1), np.bool_)
    has[year - first, facts.company[there]] = True
    return {first + n: int(count) for n, count in enumerate(has.sum(axis=1).tolist()) if count}
