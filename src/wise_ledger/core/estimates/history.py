"""The consensus of a horizon over a range of days, each day as known then (E2, E3)."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.estimates.consensus import COUNTS
from wise_ledger.core.estimates.contributions import QUARTER, YEAR
from wise_ledger.core.estimates.estimates import NOTHING, Estimates
from wise_ledger.core.money.rates import at_rate, last_day
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.timelines.keys import key_company

Whole = NDArray[np.int64]
Numbers = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class ConsensusHistory:
    """Statistics of companies (down) on days (across), NaN where there is none, and why.

    `period_end` are the target periods' ends, `NOTHING` for the next twelve months and where there
    is none.
    """

    values: dict[str, Numbers]
    reasons: dict[str, NDArray[np.uint8]]
    period_end: Whole


def consensus_history(
    of: Estimates,
    measure: str,
    horizon: str,
    statistics: Sequence[str],
    members: Whole,
    at: Whole,
    cutoff: int,
    own: Whole,
    currency: Whole,
) -> ConsensusHistory:
    """The consensus of a measure and horizon at instants, on the share basis of a cut-off.

    It is reckoned in each company's `own` currency of each instant (E2), and shown in one
    `currency` by company, at the rate of the instant's day (M2).
    """
    shape = (len(members), len(at))
    into = np.broadcast_to(currency[:, None], shape).astype(np.int64)
    day = np.broadcast_to(last_day(at), shape)
    found = of.measures.get(measure)
    power = 0 if found is None else found.power
    company, since = np.repeat(members, len(at)), np.tile(at, len(members))
    moved = of.basis(power).factor(company, since, np.full(len(company), cutoff)).reshape(shape)
    rate = of.basis(power).rates(own, into, day, np.broadcast_to(at, shape))
    values, reasons = {}, {}
    for statistic in statistics:
        estimated = of.estimate(measure, horizon, statistic, members, at, own)
        if statistic in COUNTS:
            value = estimated.value
        else:
            value = at_rate(estimated.value * moved, rate)
            estimated = estimated.missing_where(np.isnan(value), Reason.NO_RATE)
        values[statistic], reasons[statistic] = (
            np.where(estimated.there, value, np.nan),
            estimated.reason,
        )
    ends = np.full(shape, NOTHING, np.int64)
    if horizon != "ntm":
        ends = of.period(QUARTER if horizon[0] == "q" else YEAR, int(horizon[-1]), members, at)
    return ConsensusHistory(values, reasons, ends)


def first_contributions(of: Estimates, measure: str, members: Whole) -> list[int | None]:
    """The day of the first contribution to a measure of each company."""
    found = of.measures.get(measure)
    first: dict[int, int] = {}
    for contributions in found.contributions.values() if found is not None else ():
        company = key_company(contributions.key)
        order = np.lexsort((contributions.at, company))
        begin = np.ones(len(order), np.bool_)
        begin[1:] = company[order][1:] != company[order][:-1]
        for c, at in zip(
            company[order][begin].tolist(), contributions.at[order][begin].tolist(), strict=True
        ):
            first[c] = min(first.get(c, at), at)
    return [None if (at := first.get(c)) is None else at // DAY for c in members.tolist()]
