"""The rows that one market figure of a listing was read of: prices, levels, dividends (M3, M4)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.market.market import Market
from wise_ledger.core.market.payouts import Dividend
from wise_ledger.core.market.prices import Prices
from wise_ledger.core.market.windows import YEAR


@dataclass(frozen=True)
class Quoted:
    """A price or level: of which listing (or list) and day, since when it is known, from which
    source, as it was traded, and as it counts (on the share basis of a later day).
    """

    name: str  # the column it stands in
    listing: int
    day: int
    known_at: int
    source: int
    as_traded: float
    value: float


@dataclass(frozen=True)
class Paid:
    """A dividend, and its amount on the share basis of a later day."""

    dividend: Dividend
    value: float


def quoted(
    market: Market, name: str, listing: int, day: int, cutoff: int, basis: int | None = None
) -> tuple[Quoted | None, Reason]:
    """The last price of a listing on or before a day as known at a cut-off, on the share basis of
    that day or another; else why there is none.
    """
    last = market.quoted(*_cells(listing, day, cutoff))
    row = int(last.row[0])
    if row < 0:
        return None, Reason(int(last.reason[0]))
    found = _of_row(market, name, row, listing, day if basis is None else basis, cutoff)
    return found, Reason.NOT_REPORTED if np.isnan(found.value) else Reason.NONE


def _of_row(market: Market, name: str, row: int, listing: int, basis: int, cutoff: int) -> Quoted:
    prices = market.prices
    day = int(prices.rows["date"][row])
    security = market.listed.security[np.array([listing])]
    split = float(market.splits.between(security, *_cells(day, basis, cutoff))[0])
    given = float(prices.rows[name][row])
    value = given * split if name == "volume" else given / split
    return Quoted(name, listing, day, *_known(prices, row), given, value)


def extreme(market: Market, name: str, listing: int, day: int, cutoff: int) -> Quoted | None:
    """The row that has the highest high (`high_52w`) or lowest low of the year to a day; the close
    of one that has none.
    """
    highest, prices = name == "high_52w", market.prices
    column = "high" if highest else "low"
    slots = prices.within(listing, day - YEAR + 1, day)
    rows = prices.standing(slots, np.full(len(slots), cutoff))
    found = []
    for row in rows[rows >= 0].tolist():
        field = "close" if np.isnan(prices.rows[column][row]) else column
        found.append(_of_row(market, field, row, listing, day, cutoff))
    there = [q for q in found if not np.isnan(q.value)]
    choose = max if highest else min
    return choose(there, key=lambda q: q.value) if there else None


def final_return(
    market: Market, listing: int, start: int, day: int, cutoff: int
) -> tuple[int, float] | None:
    """On which day of a span a listing ended, and its final return (NaN where that is not known);
    none where it did not.
    """
    ended, final = market.ended(*(np.array([n], np.int64) for n in (listing, cutoff)))
    return (int(ended[0]), float(final[0])) if start < ended[0] <= day else None


def dividends(
    market: Market,
    listing: int,
    after: int,
    upto: int,
    cutoff: int,
    *,
    special: bool,
    basis: int | None = None,
) -> tuple[Paid, ...]:
    """What a share of a listing was paid with an ex-date after one day, up to another, as known at
    a cut-off, in order, on the share basis of that day or a later; special dividends if asked for.
    """
    security = int(market.listed.security[listing])
    found = [
        d
        for d in market.dividends
        if d.security == security
        and after < d.ex_date <= upto
        and d.known <= cutoff < d.until
        and (special or not d.special)
    ]
    owner, upto = np.array([security]), upto if basis is None else basis
    out = []
    for d in sorted(found, key=lambda d: d.ex_date):
        split = market.splits.between(owner, *_cells(d.ex_date, upto, cutoff))[0]
        out.append(Paid(d, float(d.amount / split)))
    return tuple(out)


def level(
    market: Market, name: str, day: int, cutoff: int, *, total: bool
) -> tuple[Quoted | None, Reason]:
    """The last level of a list on or before a day as known at a cut-off, else why there is none."""
    if market.levels is None or name not in market.lists:
        return None, Reason.NOT_KNOWN
    number, column = market.lists[name], "total_return_level" if total else "level"
    found = market.levels.last(*_cells(number, day, cutoff))
    row = int(found.row[0])
    if row < 0:
        return None, Reason(int(found.reason[0]))
    value, own = float(market.levels.rows[column][row]), int(market.levels.rows["date"][row])
    level_ = Quoted(column, number, own, *_known(market.levels, row), value, value)
    return level_, Reason.NOT_REPORTED if np.isnan(value) else Reason.NONE


def _known(prices: Prices, row: int) -> tuple[int, int]:
    return int(prices.rows["known_at"][row]), int(prices.rows["source"][row])


def _cells(*numbers: int) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
    """One cell of each."""
    a, b, c = (np.array([n], np.int64) for n in numbers)
    return a, b, c
