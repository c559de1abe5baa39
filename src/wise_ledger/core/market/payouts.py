"""Dividends: what they add to a return (M4), and what was paid in a year."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.arithmetic import added
from wise_ledger.core.dated.versions import NEVER
from wise_ledger.core.market.factors import Factor, Factors, places
from wise_ledger.core.market.prices import Prices
from wise_ledger.core.market.whose import Listed
from wise_ledger.core.money.rates import at_rate
from wise_ledger.core.time.instants import DAY

Whole = NDArray[np.int64]
Numbers = NDArray[np.float64]
RateOn = Callable[[Whole, Whole, Whole, Whole], Numbers]  # source and target currency, day, instant


@dataclass(frozen=True)
class Dividend:
    """`amount` of `currency` a share of `security`, without it from `ex_date` on;
    known until another replaced it.
    """

    security: int
    ex_date: int
    amount: float
    currency: int
    special: bool
    known: int
    until: int = NEVER


@dataclass(frozen=True, eq=False)
class Payouts:
    """The dividends of all securities, beside the prices they are reinvested at."""

    dividends: Sequence[Dividend]
    prices: Prices
    splits: Factors  # of securities
    listed: Listed
    rate_on: RateOn

    @cached_property
    def _close(self) -> Numbers:
        return self.prices.column("close")

    @cached_property
    def _by_listing(self) -> dict[int, list[Dividend]]:
        of: dict[int, list[Dividend]] = {}
        for dividend in sorted(self.dividends, key=lambda d: d.ex_date):
            of.setdefault(dividend.security, []).append(dividend)
        priced = set(np.unique(self.prices.listing).tolist())
        return {x.number: of[x.security] for x in self.listed.listings.values()
                if x.security in of and x.number in priced}  # fmt: skip

    @cached_property
    def _settled(self) -> tuple[Factors, frozenset[int]]:
        """The factors of listings of which everything was known in time,
        and the listings of which it was not.
        """
        factors: list[Factor] = []
        odd: set[int] = set()
        for number, dividends in self._by_listing.items():
            moving = int(self.listed.security[number]) in self.splits.late_owners
            own = None if moving else self._plain(number, dividends)
            if own is None:
                odd.add(number)
            else:
                factors += own
        return Factors.of(factors), frozenset(odd)

    @property
    def odd(self) -> frozenset[int]:
        """Listings of which a dividend, or what it is reinvested at, was known late or replaced."""
        return self._settled[1]

    def running(self, listings: Whole, days: Whole) -> Numbers:
        """What reinvestment multiplied a holding by up to each day,
        of listings that are not odd.
        """
        return self._settled[0].upto(listings, days)

    def _plain(self, listing: int, dividends: Sequence[Dividend]) -> list[Factor] | None:
        """What each reinvestment multiplies a holding by;
        None where cut-offs could see it otherwise.
        """
        ex = np.array([d.ex_date for d in dividends], np.int64)
        owner = np.full(len(ex), listing, np.int64)
        slot = np.searchsorted(self.prices.key, places(owner, ex), "left")
        there = slot < len(self.prices)
        there[there] = self.prices.listing[slot[there]] == listing
        if not there.any():
            return []
        dividends = [d for d, t in zip(dividends, there, strict=True) if t]
        ex, slot, owner = ex[there], slot[there], owner[there]
        row = self.prices.row[self.prices.begin[slot]]
        close, day = self._close[row], self.prices.day[slot]
        since = self.prices.at[self.prices.begin[slot]]
        amounts = self._amounts(listing, dividends, day, since)
        late = any(d.until != NEVER for d in dividends) or bool(
            (np.array([d.known for d in dividends]) > since).any()
        )
        if late or not self.prices.settled[slot].all() or not np.isfinite(amounts / close).all():
            return None
        paid = {int(d): 0.0 for d in day}
        price = dict(zip(day.tolist(), close.tolist(), strict=True))
        for d, amount in zip(day.tolist(), amounts.tolist(), strict=True):
            paid[d] += amount
        return [Factor(listing, d, 1 + paid[d] / price[d], d * DAY) for d in paid]

    def _amounts(
        self, listing: int, dividends: Sequence[Dividend], day: Whole, at: Whole
    ) -> Numbers:
        """In the listing's currency at the ex-date's rate, a share of the day of reinvestment."""
        ex = np.array([d.ex_date for d in dividends], np.int64)
        currency = np.array([d.currency for d in dividends], np.int64)
        target = np.full(len(ex), self.listed.currency[listing], np.int64)
        rate = self.rate_on(currency, target, ex, at)
        security = np.full(len(ex), self.listed.security[listing], np.int64)
        split = self.splits.between(security, ex, day, at)
        return at_rate(np.array([d.amount for d in dividends], np.float64), rate) / split

    def growth(self, listings: Whole, after: Whole, upto: Whole, cutoffs: Whole) -> Numbers:
        """What reinvestment multiplies a holding by from one close's day to another's,
        as known at each cut-off.

        All are of one shape. A NaN is a dividend in a currency without a rate.
        """
        factors, odd = self._settled
        out = factors.between(listings, after, upto, cutoffs)
        for listing in odd & set(np.unique(listings).tolist()):
            own = listings == listing
            out[own] = self._brute(listing, after[own], upto[own], cutoffs[own])
        return out

    def _brute(self, listing: int, after: Whole, upto: Whole, cutoffs: Whole) -> Numbers:
        """Dividend by dividend, each as it was known at each cut-off."""
        out, paid, at_day = np.ones(len(after)), np.zeros(len(after)), np.full(len(after), -NEVER)
        price = np.ones(len(after))
        for dividend in self._by_listing[listing]:
            counts = (
                (dividend.known <= cutoffs)
                & (cutoffs < dividend.until)
                & (dividend.ex_date > after)
            )
            slot, close = self._first_close(listing, dividend.ex_date, upto, cutoffs)
            counts &= slot >= 0
            if not counts.any():
                continue
            day = np.where(counts, self.prices.day[np.maximum(slot, 0)], 0)
            amount = np.full(len(after), np.nan)
            for d in np.unique(day[counts]).tolist():  # few: the first close after the ex-date
                cells = counts & (day == d)
                moments, which = np.unique(cutoffs[cells], return_inverse=True)
                several = [dividend] * len(moments)
                amount[cells] = self._amounts(listing, several, np.full(len(moments), d), moments)[
                    which
                ]
            fresh = counts & (day != at_day)  # dividends of one day are summed first
            out = np.where(fresh, out * (1 + paid / price), out)
            paid = np.where(fresh, amount, np.where(counts, paid + amount, paid))
            price = np.where(fresh, close, price)
            at_day = np.where(counts, day, at_day)
        return np.asarray(out * (1 + paid / price))

    def _first_close(
        self, listing: int, day: int, upto: Whole, cutoffs: Whole
    ) -> tuple[Whole, Numbers]:
        """The first slot on or after a day, up to another, that has a close
        at each cut-off; -1 where none has.
        """
        place = np.int64(
            np.searchsorted(
                self.prices.key, places(np.array([listing]), np.array([day]))[0], "left"
            )
        )
        slot = np.full(len(upto), -1, np.int64)
        close = np.full(len(upto), np.nan)
        waiting = np.ones(len(upto), np.bool_)
        while waiting.any() and place < len(self.prices) and self.prices.listing[place] == listing:
            waiting &= self.prices.day[place] <= upto
            row = self.prices.standing(np.full(len(upto), place), cutoffs)
            found = waiting & (row >= 0) & ~np.isnan(self._close[np.maximum(row, 0)])
            slot = np.where(found, place, slot)
            close = np.where(found, self._close[np.maximum(row, 0)], close)
            waiting &= ~found
            place += 1
        return slot, close

    @cached_property
    def _ordinary(self) -> tuple[Whole, list[Dividend]]:
        own = sorted(
            (d for d in self.dividends if not d.special), key=lambda d: (d.security, d.ex_date)
        )
        security, day = (
            np.array([d.security for d in own], np.int64),
            np.array([d.ex_date for d in own], np.int64),
        )
        return places(security, day), own

    def paid_within(
        self, securities: Whole, after: Whole, upto: Whole, cutoffs: Whole, currency: Whole
    ) -> Numbers:
        """Ordinary dividends a share with an ex-date after one day, up to another,
        on the last day's share basis.

        In `currency`, each at its ex-date's rate; 0 where none was paid. All are of one shape.
        """
        key, dividends = self._ordinary
        out = np.zeros(securities.shape)
        if not dividends:
            return out
        low, high = (
            np.searchsorted(key, places(securities, days), "right") for days in (after, upto)
        )
        most = int((high - low).max(initial=0))
        columns = {
            n: np.array([getattr(d, n) for d in dividends])
            for n in ("ex_date", "amount", "currency", "known", "until")
        }
        for n in range(most):
            place = np.minimum(low + n, len(dividends) - 1)
            counts = (
                (low + n < high)
                & (columns["known"][place] <= cutoffs)
                & (cutoffs < columns["until"][place])
            )
            cells = np.flatnonzero(counts.ravel())
            at = place.ravel()[cells]
            ex, moment = columns["ex_date"][at].astype(np.int64), cutoffs.ravel()[cells]
            rate = self.rate_on(
                columns["currency"][at].astype(np.int64), currency.ravel()[cells], ex, moment
            )
            split = self.splits.between(securities.ravel()[cells], ex, upto.ravel()[cells], moment)
            paid = at_rate(columns["amount"][at], rate) / split
            out.ravel()[cells] = added(out.ravel()[cells], paid)
        return out
