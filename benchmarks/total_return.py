"""total_return: the total return over a year of many listings at many month ends,
from millions of daily prices.
"""

import numpy as np

from benchmarks.market import FIRST, LAST, prices
from benchmarks.timing import Result, best_of
from wise_ledger.core.identity.universe import Listing, Security, Stretch
from wise_ledger.core.market.factors import Factor, Factors
from wise_ledger.core.market.market import Market
from wise_ledger.core.market.payouts import Dividend
from wise_ledger.core.market.prices import Prices
from wise_ledger.core.market.whose import Listed
from wise_ledger.core.money.currencies import currency_code
from wise_ledger.core.records.columnkinds import PRICES
from wise_ledger.core.records.columns import RecordColumns
from wise_ledger.core.time.instants import DAY

SIZES = {"small": (100, 24), "full": (3000, 180)}  # listings, month ends
BOUND = 0.100  # seconds, the goal


def run(size: str) -> list[Result]:
    """Ours, and the same by plain arrays of one listing."""
    listings, dates = SIZES[size]
    table = prices(listings)
    days = np.asarray(table["date"].cast("int32"), np.int32)
    which = np.repeat(np.arange(listings, dtype=np.int32), len(days) // listings)
    close = np.asarray(table["close"])
    known = days.astype(np.int64) * DAY + DAY // 2
    rows = RecordColumns.of(PRICES, listing=which, date=days, close=close, known_at=known, batch=1)
    usd = currency_code("USD")
    dividends = [
        Dividend(n, day, 0.2, usd, False, day * DAY)
        for n in range(listings)
        for day in range(FIRST + n % 60, LAST, 182)
    ]
    splits = [Factor(n, FIRST + 900, 2.0, (FIRST + 900) * DAY) for n in range(0, listings, 10)]
    market = Market(
        Prices.of(rows),
        Listed.of(
            [Security(n, n, "ordinary") for n in range(listings)],
            [Listing(n, n, f"L{n}", "ZALD", "USD", Stretch(), True) for n in range(listings)],
        ),
        Factors.of(splits),
        dividends,
    )
    members = np.arange(listings)
    ends = np.linspace(FIRST + 380, LAST - 5, dates).astype(np.int64)
    cutoffs = (ends + 1) * DAY - 1
    # dividends are laid beside prices once
    market.returns(members[:1], ends[:1] - 365, cutoffs[:1], total=True)
    seconds, found = best_of(5, lambda: market.returns(members, ends - 365, cutoffs, total=True))
    equal = all(
        np.isclose(found.value[n, d], _held(rows, market, n, ends[d]))
        for n, d in ((0, 0), (3, 7), (10, -1))
    )
    name = f"{len(days):,} prices, {listings:,} x {dates} returns"
    return [
        Result("total_return", size, f"Wise Ledger, {name}", seconds, 1.0, equal),
        Result(
            "total_return",
            size,
            f"{BOUND * 1000:.0f} ms are aimed at",
            BOUND,
            BOUND / seconds,
            equal,
        ),
    ]


def _held(rows: RecordColumns, market: Market, listing: int, end: int) -> float:
    """The same, held day by day."""
    own = rows["listing"] == listing
    days, close = rows["date"][own].astype(int), rows["close"][own]
    first, last = (int(np.flatnonzero(days <= d)[-1]) for d in (end - 365, end))
    shares = 1.0
    for n in range(first + 1, last + 1):
        for split in (
            s for s in (FIRST + 900,) if listing % 10 == 0 and days[n - 1] < s <= days[n]
        ):
            shares *= 2.0 if split else 1.0
        paid = sum(
            d.amount
            for d in market.dividends
            if d.security == listing and days[n - 1] < d.ex_date <= days[n]
        )
        shares *= 1 + paid / close[n]
    return float(shares * close[last] / close[first] - 1)
