"""Random small markets, and what they say reckoned day by day in plain Python:
no code shared with the engine.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import groupby
from typing import Any

import numpy as np
from hypothesis import strategies as st

from wise_ledger.core.dated.series import DatedSeries
from wise_ledger.core.identity.universe import FOREVER, Listing, Security, Stretch
from wise_ledger.core.market.factors import NEVER, Factor, Factors
from wise_ledger.core.market.market import Market
from wise_ledger.core.market.payouts import Dividend
from wise_ledger.core.market.prices import Prices
from wise_ledger.core.market.value import ShareCounts
from wise_ledger.core.market.whose import Delisting, Listed
from wise_ledger.core.money.currencies import currency_code
from wise_ledger.core.records.columnkinds import PRICES
from wise_ledger.core.records.columns import RecordColumns
from wise_ledger.core.time.instants import DAY

USD, EUR = currency_code("USD"), currency_code("EUR")
BEGIN, END = 18_000, 18_030  # days of all that happens
LISTINGS = (
    Listing(0, 0, "A", "ZALD", "USD", Stretch(0, FOREVER), True),
    Listing(1, 1, "B", "ZALD", "EUR", Stretch()),
)
SECURITIES = (Security(0, 0, "ordinary"), Security(1, 1, "ordinary"))
Row = tuple[int, int, float, float, int]  # listing, day, high, close, known


@dataclass(frozen=True)
class World:
    """What is known of two listings, each of its own company."""

    rows: tuple[Row, ...]
    splits: tuple[Factor, ...]
    dividends: tuple[Dividend, ...]
    delistings: tuple[Delisting, ...]
    shares: tuple[tuple[int, int, int, float], ...] = ()  # security, day, known, count

    def market(self) -> Market:
        """As the engine has it."""
        names = ("listing", "date", "high", "close", "known_at")
        rows = RecordColumns.of(
            PRICES, **{n: [r[i] for r in self.rows] for i, n in enumerate(names)}
        )
        said = {"published_at": rows["known_at"], "batch": np.arange(len(rows))}
        volume = [volume_of(day) for day in rows["date"].tolist()]
        rows = rows.having(low=rows["close"], open=rows["close"] + 0.5, volume=volume, **said)
        return Market(
            Prices.of(rows.where(rows.order("batch"))),
            Listed.of(SECURITIES, LISTINGS, self.delistings),
            Factors.of(self.splits),
            self.dividends,
            self.delistings,
            rate_on=rate_on,
        )

    def counts(self) -> ShareCounts:
        """Shares outstanding as the engine has them."""
        return ShareCounts(
            DatedSeries.of(s[:3] for s in self.shares),
            np.array([s[3] for s in self.shares], np.float64),
        )

    def known(self, cutoff: int) -> "World":
        """Without what became public after an instant."""

        def of(rows: Any) -> Any:
            return tuple(
                replace(r, until=NEVER if r.until > cutoff else r.until)
                for r in rows
                if r.known <= cutoff
            )

        return World(
            tuple(r for r in self.rows if r[4] <= cutoff),
            of(self.splits),
            of(self.dividends),
            of(self.delistings),
            tuple(s for s in self.shares if s[2] <= cutoff),
        )


def rate_on(source: Any, target: Any, day: Any, at: Any) -> Any:
    """A euro is 1.1 dollars, but on days that seven divides there is no rate."""
    rate = np.where(source == target, 1.0, np.where(source == EUR, 1.1, 1 / 1.1))
    return np.where((source != target) & (np.asarray(day) % 7 == 0), np.nan, rate)


def volume_of(day: int) -> float:
    """The shares traded on a day, which some days do not say."""
    return math.nan if day % 5 == 0 else 100.0 + day % 7


def _known(day: int) -> Any:
    own = st.just(day * DAY)
    return st.one_of(own, own, own, st.integers(BEGIN, END + 5).map(lambda d: d * DAY + 5))


@st.composite
def worlds(draw: Any) -> World:
    """A month of prices, some late or corrected, with splits, dividends and
    delistings, some late or replaced.
    """
    number = st.sampled_from([0, 1])
    days = st.integers(BEGIN, END)
    rows = []
    for _ in range(draw(st.integers(0, 30))):
        day = draw(days)
        close = draw(
            st.sampled_from([10.0, 12.5, 8.0, math.nan] if draw(st.booleans()) else [10.0, 11.0])
        )
        high = draw(st.sampled_from([13.0, math.nan]))
        late = draw(st.sampled_from([0, 0, 0, 0, 3, 12]))
        rows.append((draw(number), day, high, close, day * DAY + DAY // 2 + late * DAY))
    splits = []
    for listing, day in draw(st.sets(st.tuples(number, days), max_size=3)):
        known = draw(_known(day))
        until = NEVER if draw(st.booleans()) else known + draw(st.integers(1, 9)) * DAY
        splits.append(Factor(listing, day, draw(st.sampled_from([2.0, 4.0, 0.5])), known, until))
    dividends = []
    for listing, day, special in draw(st.sets(st.tuples(number, days, st.booleans()), max_size=5)):
        known = draw(_known(day))
        until = NEVER if draw(st.integers(0, 3)) else known + draw(st.integers(1, 9)) * DAY
        currency = draw(st.sampled_from([USD, USD, EUR]))
        dividends.append(
            Dividend(
                listing, day, draw(st.sampled_from([0.5, 1.0])), currency, special, known, until
            )
        )
    delistings = []
    if draw(st.booleans()):
        day = draw(days)
        final = draw(st.sampled_from([-0.5, -1.0, math.nan]))
        delistings.append(Delisting(draw(number), day, final, draw(_known(day))))
    counted = draw(st.lists(st.tuples(number, days, st.sampled_from([100.0, 300.0])), max_size=3))
    shares = tuple((n, day, draw(_known(day)), count) for n, day, count in counted)
    return World(tuple(rows), tuple(splits), tuple(dividends), tuple(delistings), shares)


# ---- the same, day by day


def last_price(world: World, listing: int, day: int, cutoff: int) -> tuple[Row | None, str]:
    """The last row on or before a day as known at a cut-off, or why there is none."""
    for d in world.delistings:
        if d.listing == listing and d.known <= cutoff and d.day < day:
            return None, "inactive"
    known = [r for r in world.rows if r[0] == listing and r[4] <= cutoff and r[1] <= day]
    if not known:
        return None, "not_known"
    newest = max(r[1] for r in known)
    if day - newest > 10:
        return None, "stale"
    same = [
        (r[4], n, r) for n, r in enumerate(world.rows) if r in known and r[:2] == (listing, newest)
    ]
    return max(same, key=lambda s: s[:2])[2], ""


def factor(world: World, owner: int, after: int, upto: int, cutoff: int) -> float:
    """By how much a share of one day became more shares of another."""
    out = 1.0
    for s in world.splits:
        if s.owner == owner and after < s.day <= upto and s.known <= cutoff < s.until:
            out *= s.factor
    return out


def close(world: World, listing: int, day: int, cutoff: int) -> float | str:
    """The adjusted close, or why there is none."""
    row, why = last_price(world, listing, day, cutoff)
    if row is None:
        return why
    if math.isnan(row[3]):
        return "not_reported"
    return row[3] / factor(world, listing, row[1], day, cutoff)


def all_rows(world: World, listing: int, cutoff: int) -> dict[int, Row]:
    """What each day says at a cut-off."""
    out: dict[int, tuple[int, Row]] = {}
    for row in world.rows:
        if (
            row[0] == listing
            and row[4] <= cutoff
            and (row[1] not in out or out[row[1]][0] <= row[4])
        ):
            out[row[1]] = (row[4], row)
    return {day: row for day, (_, row) in out.items()}


def bars(
    world: World, listing: int, first: int, last: int, cutoff: int, bucket: Callable[[int], Any]
) -> dict[int, tuple[float, ...]]:
    """By its last day with a row: open, high, low, close, volume, change and total return of every
    stretch; NaN where there is none.
    """
    out: dict[int, tuple[float, ...]] = {}
    today, rows = cutoff // DAY, all_rows(world, listing, cutoff)
    days = sorted(d for d in rows if first <= d <= min(last, today))
    for own in (list(group) for _, group in groupby(days, bucket)):
        by = {d: factor(world, listing, d, today, cutoff) for d in own}
        start, end = own[0], own[-1]
        highs, lows = (
            [rows[d][n] / by[d] for d in own if rows[d][n] == rows[d][n]] for n in (2, 3)
        )
        returns = (
            return_(world, listing, start - 1, end, cutoff, total) for total in (False, True)
        )
        out[end] = (
            (rows[start][3] + 0.5) / by[start], max(highs, default=math.nan),
            min(lows, default=math.nan), rows[end][3] / by[end],
            sum(volume_of(d) * by[d] for d in own),
            *(math.nan if isinstance(r, str) else r for r in returns),
        )  # fmt: skip
    return out


def highest(world: World, listing: int, day: int, cutoff: int) -> float | str:
    """The highest high of the year, where the close is there."""
    now = close(world, listing, day, cutoff)
    if isinstance(now, str):
        return now
    found = []
    for d, row in all_rows(world, listing, cutoff).items():
        if day - 365 < d <= day:
            given = row[3] if math.isnan(row[2]) else row[2]
            if not math.isnan(given):
                found.append(given / factor(world, listing, d, day, cutoff))
    return max(found)


def paid(world: World, listing: int, day: int, cutoff: int) -> float | str:
    """Ordinary dividends of the year in the listing's currency."""
    now = close(world, listing, day, cutoff)
    if isinstance(now, str):
        return now
    total = 0.0
    for d in world.dividends:
        if (
            d.security == listing
            and not d.special
            and d.ex_date <= day
            and d.known <= cutoff < d.until
        ):
            total += in_listing(d, listing) / factor(world, listing, d.ex_date, day, cutoff)
    return "no_rate" if math.isnan(total) else total


def in_listing(d: Dividend, listing: int) -> float:
    target = (USD, EUR)[listing]
    return d.amount * float(rate_on(np.array(d.currency), np.array(target), np.array(d.ex_date), 0))


def return_(
    world: World, listing: int, start: int, day: int, cutoff: int, total: bool
) -> float | str:
    """M4: held day by day, with each dividend reinvested at the first close
    on or after its ex-date.
    """
    last, why = last_price(world, listing, day, cutoff)
    if last is None:
        return why
    first, before = last_price(world, listing, start, cutoff)
    if first is None:
        return "incomplete" if before == "not_known" else before
    if math.isnan(first[3]) or math.isnan(last[3]):
        return "not_reported"
    rows = all_rows(world, listing, cutoff)
    shares = 1.0  # held on the day looked at
    waiting = 0.0  # dividends a share of today, not reinvested yet
    for d in range(first[1] + 1, last[1] + 1):
        for s in world.splits:
            if s.owner == listing and s.day == d and s.known <= cutoff < s.until:
                shares, waiting = shares * s.factor, waiting / s.factor
        for x in world.dividends:
            if total and x.security == listing and x.ex_date == d and x.known <= cutoff < x.until:
                waiting += in_listing(x, listing)
        if d in rows and not math.isnan(rows[d][3]):
            shares, waiting = shares * (1 + waiting / rows[d][3]), 0.0
    value = shares * last[3] / first[3]
    for d_ in world.delistings:
        if d_.listing == listing and d_.known <= cutoff and start < d_.day <= day:
            if math.isnan(d_.final_return):
                return "not_known"
            value *= 1 + d_.final_return
    return "no_rate" if math.isnan(value) else value - 1


def market_value(world: World, listing: int, day: int, cutoff: int) -> float | str:
    """M5 of a company with one class, in its listing's currency."""
    price = close(world, listing, day, cutoff)
    if isinstance(price, str):
        return price
    known = [
        (s[1], s[2], n, s)
        for n, s in enumerate(world.shares)
        if s[0] == listing and s[1] <= day and s[2] <= cutoff
    ]
    if not known:
        return "not_known"
    newest = max(known)[3]
    return price * newest[3] * factor(world, listing, newest[1], day, cutoff)
