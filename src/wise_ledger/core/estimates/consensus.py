"""The consensus over the contributions that stand at an instant (E2)."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.arithmetic import added, mean_of_groups
from wise_ledger.core.estimates.contributions import Contributions
from wise_ledger.core.market.factors import Factors
from wise_ledger.core.money.rates import at_rate
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.timelines.keys import key_company

Whole = NDArray[np.int64]
Numbers = NDArray[np.float64]
STATISTICS = ("mean", "median", "high", "low", "stdev", "count", "raised", "cut")
COUNTS = ("count", "raised", "cut")
BEFORE = 30 * DAY  # against which a contributor has raised or cut
EQUAL = 1e-9
RateOn = Callable[[Whole, Whole, Whole, Whole], Numbers]


@dataclass(frozen=True, eq=False)
class Basis:
    """How contributions are brought together: by whose splits, to which power (-1:
    a share's), at which rates.
    """

    splits: Factors
    security: Whole  # by company, -1 where it has none
    power: int
    rate_on: RateOn

    def factor(self, company: Whole, since: Whole, cutoff: Whole) -> Numbers:
        """What a value stated at an instant is multiplied by on the share basis of a cut-off."""
        if not self.power or not len(self.security):
            return np.ones(len(company))
        owner = self.security[np.minimum(company, len(self.security) - 1)]
        return self.splits.between(owner, since // DAY, cutoff // DAY, cutoff) ** self.power

    def rates(self, source: Whole, into: Whole, day: Whole, cutoff: Whole) -> Numbers:
        """The rates of days as known at cut-offs, all of one shape; 1 where a currency is
        not known, NaN where there is no rate.
        """
        out = np.ones(source.shape)
        move = (source != into) & (source >= 0) & (into >= 0)
        if move.any():
            out[move] = self.rate_on(source[move], into[move], day[move], cutoff[move])
        return out

    def brought(
        self,
        company: Whole,
        value: Numbers,
        currency: Whole,
        into: Whole,
        since: Whole,
        cutoff: Whole,
    ) -> Numbers:
        """Values stated at instants in currencies, on the share basis of cut-offs,
        in others at their own days' rates.

        NaN without a rate; a currency that is not known (below 0) is left as it is.
        """
        rates = self.rates(currency, into, since // DAY, cutoff)
        return at_rate(value * self.factor(company, since, cutoff), rates)


@dataclass(frozen=True, eq=False)
class Standing:
    """The contributions that stand at each cell: which cell, which row,
    and its value as it counts there.

    `left_out` are cells that have one without a rate; such a contribution is in no other column.
    """

    cell: Whole
    row: Whole
    value: Numbers
    left_out: NDArray[np.bool_]


def standing(
    of: Contributions,
    basis: Basis,
    keys: Whole,
    cutoffs: Whole,
    currency: Whole,
    *,
    at: Whole | None = None,
) -> Standing:
    """What stands for each target at its cut-off (or at the instants `at`),
    in a currency, on the cut-off's basis.
    """
    cell, row = of.standing(keys, cutoffs if at is None else at)
    source = of.currency[row].astype(np.int64)
    company = key_company(keys[cell])
    value = basis.brought(company, of.value[row], source, currency[cell], of.at[row], cutoffs[cell])
    unrated = np.isnan(value)
    left_out = np.zeros(len(keys), np.bool_)
    left_out[cell[unrated]] = True
    return Standing(cell[~unrated], row[~unrated], value[~unrated], left_out)


@dataclass(frozen=True, eq=False)
class Consensus:
    """Statistics of each target; NaN with a reason where there is none."""

    values: dict[str, Numbers]
    reason: NDArray[np.uint8]  # of all statistics but stdev

    def of(self, statistic: str) -> tuple[Numbers, NDArray[np.uint8]]:
        """One of `STATISTICS`, and why it is missing where it is."""
        value = self.values[statistic]
        lone = (self.reason == 0) & np.isnan(value)
        return value, np.where(lone, np.uint8(Reason.INCOMPLETE), self.reason)


def consensus(
    of: Contributions,
    basis: Basis,
    keys: Whole,
    cutoffs: Whole,
    currency: Whole,
    statistics: tuple[str, ...] = STATISTICS,
) -> Consensus:
    """The consensus of each target at its cut-off; all arrays have one entry a target."""
    found = standing(of, basis, keys, cutoffs, currency)
    count = np.bincount(found.cell, minlength=len(keys))
    there = count > 0
    out: dict[str, Numbers] = {"count": np.where(there, count, np.nan).astype(np.float64)}
    begin = np.concatenate([[0], np.cumsum(count)])[:-1]
    if {"mean", "stdev"} & set(statistics):
        mean = np.full(len(keys), np.nan)
        if there.any():
            mean[there] = mean_of_groups(
                found.value, np.cumsum(there)[found.cell] - 1, begin[there]
            )
        out["mean"] = mean
        with np.errstate(all="ignore"):
            away = np.bincount(
                found.cell, (found.value - mean[found.cell]) ** 2, minlength=len(keys)
            )
            out["stdev"] = np.where(count > 1, np.sqrt(away / (count - 1)), np.nan)
    if "high" in statistics:
        out["high"] = _extreme(np.maximum, -np.inf, found.value, there, begin)
    if "low" in statistics:
        out["low"] = _extreme(np.minimum, np.inf, found.value, there, begin)
    if "median" in statistics:
        # Values that stand as they were written have a place among all of
        # them: whole numbers sort faster.
        plain = np.array_equal(found.value, of.value[found.row])
        by = found.cell * max(len(of), 1) + of.rank[found.row]
        ordered = found.value[np.argsort(by) if plain else np.lexsort((found.value, found.cell))]
        middle = np.append(ordered, np.nan)
        low, high = begin + (count - 1) // 2, begin + count // 2
        out["median"] = np.where(
            there,
            added(middle[np.where(there, low, -1)], middle[np.where(there, high, -1)]) / 2,
            np.nan,
        )
    if {"raised", "cut"} & set(statistics):
        out["raised"], out["cut"] = _moved(of, basis, found, keys, cutoffs, currency, there)
    reason = np.where(
        there, Reason.NONE, np.where(found.left_out, Reason.NO_RATE, Reason.NO_ESTIMATES)
    )
    return Consensus(out, reason.astype(np.uint8))


def _extreme(
    ufunc: np.ufunc, neither: float, value: Numbers, there: NDArray[np.bool_], begin: Whole
) -> Numbers:
    """The greatest or least of each cell, whose values begin at `begin`;
    NaN for a cell without any.
    """
    if not len(there):
        return np.empty(0)
    found = ufunc.reduceat(np.append(value, neither), begin)
    return np.where(there, found, np.nan)


def _moved(
    of: Contributions,
    basis: Basis,
    now: Standing,
    keys: Whole,
    cutoffs: Whole,
    currency: Whole,
    there: NDArray[np.bool_],
) -> tuple[Numbers, Numbers]:
    """How many contributors raised or cut against their own standing value 30 days before."""
    then = standing(of, basis, keys, cutoffs, currency, at=cutoffs - BEFORE)
    most = int(of.contributor.max(initial=0)) + 1
    mine, before = (
        now.cell * most + of.contributor[now.row],
        then.cell * most + of.contributor[then.row],
    )
    order = np.argsort(before)
    place = np.minimum(np.searchsorted(before[order], mine), max(len(before) - 1, 0))
    if not len(before):
        nothing = np.where(there, 0.0, np.nan)
        return nothing, nothing.copy()
    other = order[place]
    both = before[other] == mine
    # In their own currency where that is unchanged: rates move no opinion.
    same = of.currency[now.row] == of.currency[then.row[other]]
    company = key_company(keys[now.cell])
    own = of.value[now.row] * basis.factor(company, of.at[now.row], cutoffs[now.cell])
    past = of.value[then.row[other]] * basis.factor(
        company, of.at[then.row[other]], cutoffs[now.cell]
    )
    a, b = np.where(same, own, now.value), np.where(same, past, then.value[other])
    moved = both & (np.abs(a - b) > EQUAL * np.maximum(np.abs(a), np.abs(b)))
    up = np.bincount(now.cell[moved & (a > b)], minlength=len(keys)).astype(np.float64)
    down = np.bincount(now.cell[moved & (a < b)], minlength=len(keys)).astype(np.float64)
    return np.where(there, up, np.nan), np.where(there, down, np.nan)
