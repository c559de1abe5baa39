"""Market value of companies over their classes of shares (M5)."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values, choose
from wise_ledger.core.dated.series import DatedSeries
from wise_ledger.core.dated.versions import NEVER
from wise_ledger.core.market.market import Market
from wise_ledger.core.money.rates import at_rate
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.timelines.keys import Mark

Whole = NDArray[np.int64]
Numbers = NDArray[np.float64]
Reasons = NDArray[np.uint8]
STALE = 550  # days that a number of shares may be old


@dataclass(frozen=True, eq=False)
class ShareCounts:
    """Shares outstanding of securities, each on the share basis of its own date."""

    series: DatedSeries = field(default_factory=lambda: DatedSeries.of([]))  # entity: security
    shares: Numbers = field(default_factory=lambda: np.empty(0))


@dataclass(frozen=True, eq=False)
class ClassValue:
    """One class of shares of each company at each cut-off, (companies, cut-offs): close times
    shares outstanding, where it counts (`there`).
    """

    there: NDArray[np.bool_]
    listing: Whole  # whose close it is
    price: Numbers  # in `paid_in`
    paid_in: Whole
    rate: Numbers  # of the currency asked for, for one of `paid_in`
    marks: Reasons
    shares: Numbers
    count: Whole  # the row of the share counts; -1 where the item serves
    no_price: Reasons  # why there is no close
    no_shares: Reasons

    @property
    def reason(self) -> Reasons:
        """Why there is no value, a rate apart."""
        return np.where(self.no_price != 0, self.no_price, self.no_shares).astype(np.uint8)

    @property
    def value(self) -> Numbers:
        """In the currency asked for; NaN without a rate."""
        return at_rate(self.price * self.shares, self.rate)


@dataclass(frozen=True, eq=False)
class MarketValue:
    """Reckons market values out of a market and the share counts known."""

    market: Market
    counts: ShareCounts

    def of(
        self,
        members: Whole,
        cutoffs: Whole,
        currency: Whole,
        item: Callable[[], Values] | None = None,
    ) -> Values:
        """M5: over the ordinary securities of each company close times shares outstanding,
        in `currency` (per cell).

        A class whose first listing is later, and of whose shares nothing is known yet, does not
        count yet (T9). `item` gives the item `shares_outstanding`, which serves a company with a
        single class and no counts of its own.
        """
        shape = (len(members), len(cutoffs))
        total, marks = np.zeros(shape), np.zeros(shape, np.uint8)
        reason, counted = np.zeros(shape, np.uint8), np.zeros(shape, np.bool_)
        for one in self.classes(members, cutoffs, currency, item):
            reason = np.where(one.there & (reason == 0), one.reason, reason)
            total = np.where(one.there, total + one.value, total)
            marks = np.where(one.there, marks | one.marks, marks).astype(np.uint8)
            counted |= one.there
        if not counted.all():
            why = self._main(members, cutoffs).reason
            why = np.where(why != 0, why, np.uint8(Reason.NOT_KNOWN))
            reason = np.where(counted, reason, why)
        out = Values(total, reason.astype(np.uint8), marks, currency.astype(np.int16))
        return out.missing_where(np.isnan(total), Reason.NO_RATE)

    def classes(
        self,
        members: Whole,
        cutoffs: Whole,
        currency: Whole,
        item: Callable[[], Values] | None = None,
    ) -> list[ClassValue]:
        """The classes of shares behind the market value of each company, as for `of`."""
        shape = (len(members), len(cutoffs))
        days, at = (np.broadcast_to(c, shape).astype(np.int64) for c in (cutoffs // DAY, cutoffs))
        classes = self._classes(members)
        known = [self._known(classes[:, n : n + 1], at) for n in range(classes.shape[1])]
        single = np.sum(known, axis=0) == 1
        reported = item() if item is not None and single.any() else None
        out = []
        for n in range(classes.shape[1]):
            security = np.broadcast_to(classes[:, n : n + 1], shape)
            one = self._class(security, members, cutoffs, currency)
            count, shares, why_not = self._outstanding(security, days, at)
            if reported is not None:
                alone = single & (why_not == Reason.NOT_KNOWN)
                shares = np.where(alone, reported.value, shares)
                why_not = np.where(alone, reported.reason, why_not)
            there, no_shares = known[n] & one.there, why_not.astype(np.uint8)
            out.append(replace(one, there=there, shares=shares, count=count, no_shares=no_shares))
        return out

    def _main(self, members: Whole, cutoffs: Whole) -> Values:
        """The close of each company's primary listing, for one ordinary share."""
        return self.market.field("close", members, cutoffs, per_share=True)

    def _classes(self, members: Whole) -> Whole:
        """The ordinary securities of each company, (companies, classes), the
        main one first; -1 fills up.
        """
        own = [self._ordinary.get(int(m), []) for m in members]
        out = np.full((len(members), max((len(o) for o in own), default=0) or 1), -1, np.int64)
        for n, numbers in enumerate(own):
            out[n, : len(numbers)] = numbers
        return out

    @cached_property
    def _ordinary(self) -> dict[int, list[int]]:
        out: dict[int, list[int]] = {}
        for s in self.market.listed.securities.values():
            if s.type == "ordinary":
                out.setdefault(s.company, []).append(s.number)
        main = self.market.listed.main_ordinary
        return {c: sorted(own, key=lambda s: (s != main[c], s)) for c, own in out.items()}

    def _known(self, security: Whole, at: Whole) -> NDArray[np.bool_]:
        """Where each security is one of its company's: there since its first listing or the first
        number of its shares; always, where neither says since when.
        """
        since = self._since
        return np.asarray((security >= 0) & (since[security] <= at))

    @cached_property
    def _since(self) -> Whole:
        """By security the instant from which it is known; of the number -1 it is never."""
        size = len(self.market.listed.company)
        listed = np.full(size, NEVER)
        for x in self.market.listed.listings.values():
            listed[x.security] = min(listed[x.security], x.span.since * DAY)
        out = np.where(listed == NEVER, 0, listed)
        np.minimum.at(out, self.counts.series.entity, self.counts.series.at)
        out[-1] = NEVER
        return out

    def _class(
        self, security: Whole, members: Whole, cutoffs: Whole, currency: Whole
    ) -> ClassValue:
        """A class without its shares: its close, and where it is not gone.

        One that is not listed has the price of the company's receipt, else of its primary listing.
        """
        shape = security.shape
        days, at = (np.broadcast_to(c, shape).astype(np.int64) for c in (cutoffs // DAY, cutoffs))
        listing = self.market.listed.of_securities.each(security, at)
        own = self.market.price("close", listing, days, at)
        unlisted = (security >= 0) & (listing < 0)
        value, paid_in, why = own.value, own.currency.astype(np.int64), own.reason
        if unlisted.any():
            main, (receipt, held) = self._main(members, cutoffs), self._receipt(members, cutoffs)
            of_main = self.market.listed.of_companies.read(members, cutoffs)
            instead = choose(receipt.there, receipt, main)
            listing = np.where(unlisted, np.where(receipt.there, held, of_main), listing)
            value = np.where(unlisted, instead.value, value)
            paid_in = np.where(unlisted, instead.currency, paid_in).astype(np.int64)
            why = np.where(unlisted, instead.reason, why)
        gone = ~unlisted & (own.reason == Reason.INACTIVE)
        rate = np.ones(shape)
        move = np.asarray((paid_in != currency) & (why == 0))
        if move.any():
            rate[move] = self.market.rate_on(
                paid_in[move], currency[move].astype(np.int64), days[move], at[move]
            )
        mark = np.where(unlisted, np.uint8(Mark.APPROXIMATE), np.uint8(0))
        return ClassValue(
            there=np.asarray(~gone),
            listing=listing,
            price=value,
            paid_in=paid_in,
            rate=rate,
            marks=mark,
            shares=np.full(shape, np.nan),
            count=np.full(shape, -1),
            no_price=why.astype(np.uint8),
            no_shares=np.zeros(shape, np.uint8),
        )

    def _receipt(self, members: Whole, cutoffs: Whole) -> tuple[Values, Whole]:
        """The price of each company's receipt for one ordinary share, and its listing."""
        first = self.market.listed.first_receipt
        receipt = first[np.minimum(members, len(first) - 1)]
        security = np.broadcast_to(receipt[:, None], (len(members), len(cutoffs)))
        at = np.broadcast_to(cutoffs, security.shape)
        listing = self.market.listed.of_securities.each(security, at)
        found = self.market.price("close", listing, at // DAY, at)
        value = found.value / self.market.listed.ratio_at(listing, at)
        return replace(found, value=value), listing

    def _outstanding(
        self, security: Whole, days: Whole, cutoffs: Whole
    ) -> tuple[Whole, Numbers, Reasons]:
        """The row of each security's number of shares, that number on the basis of its day,
        and why it is not known.
        """
        row = self.counts.series.each(security, cutoffs)
        on = (
            np.where(row >= 0, self.counts.series.date[row], 0)
            if len(self.counts.shares)
            else np.zeros(row.shape, int)
        )
        count = (
            np.where(row >= 0, self.counts.shares[row], np.nan)
            if len(self.counts.shares)
            else np.full(row.shape, np.nan)
        )
        shares = count * self.market.splits.between(security, on.astype(np.int64), days, cutoffs)
        reason = np.where(
            row < 0, Reason.NOT_KNOWN, np.where(days - on > STALE, Reason.STALE, Reason.NONE)
        )
        return row, shares, reason.astype(np.uint8)
