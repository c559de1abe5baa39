"""The market as known: prices, returns, windows and market value of companies at cut-offs (M3 to
M5).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.arithmetic import added, quotient
from wise_ledger.core.dated.versions import NEVER
from wise_ledger.core.market.factors import Factors
from wise_ledger.core.market.payouts import Dividend, Payouts, RateOn
from wise_ledger.core.market.prices import Last, Prices
from wise_ledger.core.market.whose import Delisting, Listed
from wise_ledger.core.market.windows import Windows
from wise_ledger.core.money.currencies import NO_CURRENCY
from wise_ledger.core.quality.doubts import Doubt
from wise_ledger.core.records.columnkinds import PRICES
from wise_ledger.core.records.columns import RecordColumns
from wise_ledger.core.time.instants import DAY

Whole = NDArray[np.int64]
Numbers = NDArray[np.float64]
Reasons = NDArray[np.uint8]

PRICE_FIELDS = ("open", "high", "low", "close", "volume")


@dataclass(frozen=True, eq=False)
class Market:
    """All market data of one state of the ledger."""

    prices: Prices
    listed: Listed
    splits: Factors  # of securities
    dividends: Sequence[Dividend] = ()
    delistings: Sequence[Delisting] = ()
    levels: Prices | None = None  # of lists
    lists: Mapping[str, int] = field(default_factory=dict)  # their numbers by name
    rate_on: RateOn = lambda source, target, day, at: np.where(source == target, 1.0, np.nan)
    doubts: Sequence[Doubt] = ()  # rows that cannot be, also those that a person accepted (Q2)

    @classmethod
    def empty(cls) -> Self:
        """Of nothing."""
        nothing = RecordColumns.of(PRICES, batch=np.empty(0, np.int32))
        return cls(Prices.of(nothing), Listed.of((), ()), Factors.of(()))

    # ---- prices

    def quoted(self, listing: Whole, days: Whole, cutoffs: Whole) -> Last:
        """The last prices of listings on or before days, as known at cut-offs; all of one shape."""
        found = self.prices.last(listing, days, cutoffs)
        if not self.delistings:
            return found
        ended = self.ended(listing, cutoffs)[0] < days
        reason = np.where(ended, np.uint8(Reason.INACTIVE), found.reason).astype(np.uint8)
        return Last(np.where(ended, -1, found.row), np.where(ended, -1, found.slot), reason)

    def day_of(self, found: Last) -> Whole:
        """The day of each last price, 0 where there is none."""
        if not len(self.prices):
            return np.zeros(found.slot.shape, np.int64)
        return np.where(found.slot >= 0, self.prices.day[np.maximum(found.slot, 0)], 0)

    def _of_companies(self, members: Whole, cutoffs: Whole) -> tuple[Whole, Whole, Whole]:
        """Listing, day and cut-off of every cell, (companies, dates)."""
        listing = self.listed.of_companies.read(members, cutoffs)
        days = np.broadcast_to(cutoffs // DAY, listing.shape).astype(np.int64)
        return listing, days, np.broadcast_to(cutoffs, listing.shape)

    def field(
        self, name: str, members: Whole, cutoffs: Whole, *, per_share: bool = False
    ) -> Values:
        """A market field of companies (down) at cut-offs (across),
        on the share basis of each cut-off.

        `per_share` divides what is of a receipt by the ordinary shares it stands for: beside
        per-share items (M4).
        """
        listing, days, at = self._of_companies(members, cutoffs)
        if name in PRICE_FIELDS:
            values = self.price(name, listing, days, at)
        elif name == "dividend_12mo":
            values = self.windows.dividends(
                self.price("close", listing, days, at), listing, days, at
            )
        else:
            values = self.windows.extreme(
                name, self.price("close", listing, days, at), listing, days, at
            )
        if per_share and name != "volume":
            values = Values(
                values.value / self.listed.ratio_at(listing, at),
                values.reason,
                values.marks,
                values.currency,
            )
        return values

    def price(self, name: str, listing: Whole, days: Whole, cutoffs: Whole) -> Values:
        """A field of the last price of listings on or before days,
        adjusted for the splits known at the cut-offs.
        """
        found = self.quoted(listing, days, cutoffs)
        given = self.prices.read(name, found.row)
        factor = self._split(listing, self.day_of(found), days, cutoffs)
        value = given * factor if name == "volume" else given / factor
        reason = np.where(
            (found.reason == 0) & np.isnan(given), np.uint8(Reason.NOT_REPORTED), found.reason
        )
        currency = (
            np.full(listing.shape, NO_CURRENCY, np.int16)
            if name == "volume"
            else self.listed.currency[listing]
        )
        return Values.known(value, reason.astype(np.uint8), currency=currency)

    def _split(self, listing: Whole, after: Whole, upto: Whole, cutoffs: Whole) -> Numbers:
        return self.splits.between(self.listed.security[listing], after, upto, cutoffs)

    # ---- delistings

    @cached_property
    def _ends(self) -> tuple[Whole, Whole, Numbers]:
        """By listing of whose end one thing was said: its day, since when
        that is known, the final return.
        """
        size = len(self.listed.currency)
        day, known, final = np.full(size, NEVER), np.full(size, NEVER), np.full(size, np.nan)
        for d in self.delistings:
            if d.listing not in self._ended_several:
                day[d.listing], known[d.listing], final[d.listing] = d.day, d.known, d.final_return
        return day, known, final

    @cached_property
    def _ended_several(self) -> frozenset[int]:
        """Listings of whose end more was said than once."""
        seen = [d.listing for d in self.delistings]
        return frozenset(x for x in seen if seen.count(x) > 1) | {
            d.listing for d in self.delistings if d.until != NEVER
        }

    def ended(self, listing: Whole, cutoffs: Whole) -> tuple[Whole, Numbers]:
        """The day on which each listing ended as known at a cut-off,
        far ahead where it did not; its final return.
        """
        day, known, final = (column[listing] for column in self._ends)
        there = (listing >= 0) & (known <= cutoffs)
        out, return_ = np.where(there, day, NEVER), np.where(there, final, np.nan)
        for d in self.delistings:
            if d.listing in self._ended_several:
                own = (listing == d.listing) & (d.known <= cutoffs) & (cutoffs < d.until)
                out, return_ = np.where(own, d.day, out), np.where(own, d.final_return, return_)
        return out, return_

    # ---- returns

    @cached_property
    def windows(self) -> Windows:
        """What a year of prices held."""
        return Windows(self.prices, self.listed, self.splits, self.payouts)

    @cached_property
    def payouts(self) -> Payouts:
        """Dividends beside the prices they are reinvested at."""
        return Payouts(self.dividends, self.prices, self.splits, self.listed, self.rate_on)

    def returns(self, members: Whole, start: Whole, cutoffs: Whole, *, total: bool) -> Values:
        """The return of each company's primary listing from `start` (days) to
        the cut-offs' own days, a fraction.

        The listing is the one primary on the later date; `start` has one day for each cut-off.
        """
        listing, days, at = self._of_companies(members, cutoffs)
        return self.returns_of(
            listing, np.broadcast_to(start, listing.shape).astype(np.int64), days, at, total=total
        )

    def returns_of(
        self, listing: Whole, start: Whole, days: Whole, cutoffs: Whole, *, total: bool
    ) -> Values:
        """The return of listings between the last closes on or before two days,
        as known at cut-offs; one shape.
        """
        first, last = self.quoted(listing, start, cutoffs), self.quoted(listing, days, cutoffs)
        growth = self._growth(listing, first, last, cutoffs, total)
        before = np.where(
            first.reason == Reason.NOT_KNOWN, np.uint8(Reason.INCOMPLETE), first.reason
        )
        reason = np.where(last.reason != 0, last.reason, before)
        unknown = np.isnan(growth) & (reason == 0)
        if unknown.any():
            without_price = np.isnan(self.prices.read("close", first.row)) | np.isnan(
                self.prices.read("close", last.row)
            )
            why = np.where(without_price, np.uint8(Reason.NOT_REPORTED), np.uint8(Reason.NO_RATE))
            reason = np.where(unknown, why, reason)
        if self.delistings:
            ended, final = self.ended(listing, cutoffs)
            # The final return is earned on the delisting's day, after the close.
            over = (ended <= days) & (ended > start)
            growth = np.where(over, growth * (1 + final), growth)
            # What the later end is missing goes before a rate of what was paid in between.
            may = (reason == 0) | (reason == Reason.NO_RATE)
            reason = np.where(may & over & np.isnan(final), np.uint8(Reason.NOT_KNOWN), reason)
        return Values.known(added(growth, -1), reason.astype(np.uint8))

    def _growth(
        self, listing: Whole, first: Last, last: Last, cutoffs: Whole, total: bool
    ) -> Numbers:
        """What a holding became from one close to another, before a final return."""
        index, plain = self._index(total), self._plain_listings(total)
        if not len(index):
            return np.full(listing.shape, np.nan)
        with np.errstate(all="ignore"):
            out = np.asarray(index[last.slot] / index[first.slot])
        if not plain.all():
            odd = np.nonzero(~plain[listing] & (first.slot >= 0) & (last.slot >= 0))
            own, at, a, b = (
                listing[odd],
                cutoffs[odd],
                self.day_of(first)[odd],
                self.day_of(last)[odd],
            )
            begin, end = (self.prices.read("close", x.row[odd]) for x in (first, last))
            slow = end / begin * self._split(own, a, b, at)
            out[odd] = slow * self.payouts.growth(own, a, b, at) if total else slow
        return out

    @cached_property
    def _indices(self) -> dict[bool, Numbers]:
        return {}

    def _index(self, total: bool) -> Numbers:
        """Of each slot what a share held since the first became worth:
        of listings that no cut-off sees otherwise.
        """
        if total not in self._indices:
            prices = self.prices
            close = prices.column("close")[prices.row[prices.begin[:-1]]]
            out = close * self.splits.upto(self.listed.security[prices.listing], prices.day)
            if total:
                out *= self.payouts.running(prices.listing, prices.day)
            self._indices[total] = out
        return self._indices[total]

    def _plain_listings(self, total: bool) -> NDArray[np.bool_]:
        """By listing: whether its index shows its growth."""
        if total in self._plain_by:
            return self._plain_by[total]
        out = np.ones(len(self.listed.currency), np.bool_)
        settled = self.prices.settled_listings[:-1]
        out[: len(settled)] = settled
        out &= ~np.isin(self.listed.security, list(self.splits.late_owners))
        if total:
            out[list(self.payouts.odd)] = False
        self._plain_by[total] = out
        return out

    @cached_property
    def _plain_by(self) -> dict[bool, NDArray[np.bool_]]:
        return {}

    def list_returns(self, name: str, start: Whole, cutoffs: Whole, *, total: bool) -> Values:
        """The return of a list's own level between the last ones on or before
        two days, one for each cut-off.
        """
        number = np.full(len(cutoffs), self.lists.get(name, -1), np.int64)
        levels, days = self.levels, cutoffs // DAY
        if levels is None:
            nothing = np.full((1, len(cutoffs)), np.nan)
            return Values.known(nothing, np.full(nothing.shape, Reason.NOT_KNOWN, np.uint8))
        column = "total_return_level" if total else "level"
        a, b = levels.last(number, start, cutoffs), levels.last(number, days, cutoffs)
        begin, end = (levels.read(column, x.row) for x in (a, b))
        before = np.where(a.reason == Reason.NOT_KNOWN, np.uint8(Reason.INCOMPLETE), a.reason)
        reason = np.where(b.reason != 0, b.reason, before)
        reason = np.where(
            (reason == 0) & (np.isnan(begin) | np.isnan(end)), np.uint8(Reason.NOT_REPORTED), reason
        )
        return Values.known(
            added(quotient(end, begin), -1)[None, :], reason.astype(np.uint8)[None, :]
        )
