"""What was announced of periods, beside what was expected the instant before (E4)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.arithmetic import quotient, subtracted
from wise_ledger.core.estimates.consensus import Basis, consensus
from wise_ledger.core.estimates.contributions import Actuals, Contributions
from wise_ledger.core.timelines.keys import key_company

Whole = NDArray[np.int64]
Numbers = NDArray[np.float64]
Reasons = NDArray[np.uint8]


@dataclass(frozen=True, eq=False)
class Surprises:
    """Of announced periods, one entry each, on the share basis of the cut-off: the actual as first
    reported, the statistics expected of it, and the reasons where either lacks (0: it is there).
    """

    announced: Whole
    actual: Numbers
    actual_reason: Reasons
    expected: dict[str, Numbers]
    expected_reason: Reasons

    def of(self, how: str) -> tuple[Numbers, Reasons]:
        """`amount`, `relative` or `deviations`, and why there is none."""
        mean = self.expected["mean"]
        amount, reason = subtracted(self.actual, mean), self.expected_reason.copy()
        reason[reason == 0] = self.actual_reason[reason == 0]
        with np.errstate(all="ignore"):
            if how == "relative":
                amount = quotient(amount, np.abs(mean))
                reason[(reason == 0) & (mean == 0)] = Reason.ZERO_DENOMINATOR
            elif how == "deviations":
                spread = self.expected["stdev"]
                amount = amount / spread
                reason[(reason == 0) & np.isnan(spread)] = Reason.INCOMPLETE
                reason[(reason == 0) & (spread == 0)] = Reason.ZERO_DENOMINATOR
        return np.where(reason == 0, amount, np.nan), reason


def surprises(
    actuals: Actuals,
    contributions: Contributions,
    basis: Basis,
    keys: Whole,
    rows: Whole,
    cutoffs: Whole,
    currency: Whole,
    statistics: tuple[str, ...] = ("mean", "stdev"),
) -> Surprises:
    """Of the periods `keys`, whose actuals are at `rows`, as known at cut-offs, in currencies."""
    announced, company = actuals.announced[rows], key_company(keys)
    reported, source = actuals.value(rows, cutoffs)
    actual = basis.brought(company, reported, source.astype(np.int64), currency, announced, cutoffs)
    lacks = np.where(np.isnan(reported), Reason.WITHDRAWN, Reason.NO_RATE)
    found = consensus(contributions, basis, keys, announced - 1, currency, statistics)
    # Told on the share basis of the cut-off, not on that of the announcement.
    moved = basis.factor(company, announced - 1, cutoffs)
    return Surprises(
        announced,
        actual,
        np.where(np.isnan(actual), lacks, 0).astype(np.uint8),
        {n: found.values[n] * (1 if n == "count" else moved) for n in statistics},
        found.reason,
    )
