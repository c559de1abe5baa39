"""Whose prices a company's are, and its market value over classes (M4, M5),
against a plain search; nothing of later changes them (T9).
"""

import unittest
from dataclasses import dataclass, replace
from datetime import date
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.properties import examples
from wise_ledger.core.answers.reasons import CODES
from wise_ledger.core.dated.series import DatedSeries
from wise_ledger.core.identity.universe import FOREVER, Listing, Security, Stretch, Venue
from wise_ledger.core.market.closes import closing
from wise_ledger.core.market.factors import NEVER, Factors
from wise_ledger.core.market.market import Market
from wise_ledger.core.market.prices import Prices
from wise_ledger.core.market.value import MarketValue, ShareCounts
from wise_ledger.core.market.whose import Delisting, Listed
from wise_ledger.core.money.currencies import currency_code
from wise_ledger.core.records.columnkinds import PRICES
from wise_ledger.core.records.columns import RecordColumns
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import day as day_of

BEGIN, END = 18_000, 18_040
DAYS = list(range(BEGIN, END + 3, 3))
ORDINARY, RECEIPT = "ordinary", "depositary_receipt"
USD = currency_code("USD")


@dataclass(frozen=True)
class Issuer:
    """The securities, listings, prices and numbers of shares of one company."""

    securities: tuple[Security, ...]
    listings: tuple[Listing, ...]
    ends: tuple[Delisting, ...]
    prices: tuple[tuple[int, int, float, int], ...]  # listing, day, close, known
    counts: tuple[tuple[int, int, int, float], ...]  # security, day, known, number

    def market(self) -> tuple[Market, ShareCounts]:
        names = ("listing", "date", "close", "known_at")
        rows = RecordColumns.of(
            PRICES, **{n: [p[i] for p in self.prices] for i, n in enumerate(names)}
        )
        rows = rows.having(batch=np.arange(len(rows)))
        listed = Listed.of(self.securities, self.listings, self.ends)
        market = Market(
            Prices.of(rows.where(rows.order("batch"))), listed, Factors.of(()), (), self.ends
        )
        counts = np.array([c[3] for c in self.counts], np.float64)
        return market, ShareCounts(DatedSeries.of(c[:3] for c in self.counts), counts)

    def known(self, cutoff: int) -> "Issuer":
        """Without what became public after an instant."""
        listings = tuple(x for x in self.listings if x.span.since * DAY <= cutoff)
        had = {x.security for x in self.listings}
        has = {x.security for x in listings} | {c[0] for c in self.counts if c[2] <= cutoff}
        return Issuer(
            tuple(s for s in self.securities if s.number in has or s.number not in had),
            listings,
            tuple(
                replace(d, until=NEVER if d.until > cutoff else d.until)
                for d in self.ends
                if d.known <= cutoff and any(x.number == d.listing for x in listings)
            ),
            tuple(p for p in self.prices if p[3] <= cutoff),
            tuple(c for c in self.counts if c[2] <= cutoff),
        )

    # ---- the same by a plain search, at the end of a day

    def ended(self, listing: Listing, day: int) -> int:
        """The last day of a listing as known on a day."""
        cutoff = (day + 1) * DAY - 1
        known = [
            d.day for d in self.ends if d.listing == listing.number and d.known <= cutoff < d.until
        ]
        return min([listing.span.until, *known])

    def first(self, security: int) -> int:
        return min((x.span.since for x in self.listings if x.security == security), default=FOREVER)

    def of(self, securities: set[int], day: int) -> Listing | None:
        """The listing that stands for a company with these securities."""

        def rank(x: Listing) -> tuple[Any, ...]:
            until, ordinary = self.ended(x, day), self.securities[x.security].type == ORDINARY
            stands = day <= until
            own = (x.primary if stands else until, -x.span.since, -x.number)
            return (stands, ordinary, -self.first(x.security), -x.security, *own)

        begun = [x for x in self.listings if x.security in securities and x.span.since <= day]
        return max(begun, key=rank, default=None)

    def close(self, listing: Listing | None, day: int) -> float | str:
        if listing is None:
            return "not_known"
        cutoff = (day + 1) * DAY - 1
        if any(
            d.listing == listing.number and d.known <= cutoff < d.until and d.day < day
            for d in self.ends
        ):
            return "inactive"
        known = [
            (d, k, n, c)
            for n, (x, d, c, k) in enumerate(self.prices)
            if x == listing.number and d <= day and k <= cutoff
        ]
        if not known:
            return "not_known"
        return max(known)[3] if day - max(known)[0] <= 10 else "stale"

    def value(self, day: int) -> float | str:
        """M5, in dollars."""
        cutoff, total, counted, why = (day + 1) * DAY - 1, 0.0, 0, ""
        traded = {s.number for s in self.securities if s.type in (ORDINARY, RECEIPT)}
        main = self.of(traded, day)
        close = self.close(main, day)
        if main is not None and not isinstance(close, str):
            close /= self.securities[main.security].ratio or 1
        receipts = [x for x in self.listings if self.securities[x.security].type == RECEIPT]
        receipt = min(receipts, key=lambda x: (x.span.since, x.security), default=None)
        instead = close
        if receipt is not None:
            of_receipt = self.close(self.of({receipt.security}, day), day)
            if not isinstance(of_receipt, str):
                instead = of_receipt / (self.securities[receipt.security].ratio or 1)
        classes = [s.number for s in self.securities if s.type == ORDINARY]
        main_class = min(classes, key=lambda n: (self.first(n), n), default=None)
        for number in sorted(classes, key=lambda n: (n != main_class, n)):
            numbers = [
                (d, k, n, c)
                for n, (s, d, k, c) in enumerate(self.counts)
                if s == number and d <= day and k <= cutoff
            ]
            seen = any(s == number and k <= cutoff for s, _, k, _ in self.counts)
            if not (seen or self.first(number) <= day or self.first(number) == FOREVER):
                continue
            listing = self.of({number}, day)
            price = instead if listing is None else self.close(listing, day)
            if listing is not None and price == "inactive":
                continue
            counted += 1
            if isinstance(price, str) or not numbers:
                why = why or (price if isinstance(price, str) else "not_known")
                continue
            total += price * max(numbers)[3]
        if not counted:
            return close if isinstance(close, str) else "not_known"
        return why or total


@st.composite
def issuers(draw: Any) -> Issuer:
    days = st.integers(BEGIN, END)
    kinds = draw(
        st.lists(st.sampled_from([ORDINARY, ORDINARY, RECEIPT, "warrant"]), min_size=1, max_size=4)
    )
    securities = [
        Security(n, 0, k, ratio=2.0 if k == RECEIPT else None) for n, k in enumerate(kinds)
    ]
    listings: list[Listing] = []
    for n in range(len(kinds)):
        for _ in range(draw(st.integers(0, 2))):
            since = draw(st.sampled_from([BEGIN - 5, BEGIN - 5, BEGIN + 9, BEGIN + 20]))
            until = draw(st.sampled_from([FOREVER, FOREVER, since + 12]))
            span = Stretch(since, until)
            listings.append(
                Listing(len(listings), n, "A", "ZALD", "USD", span, draw(st.booleans()))
            )
    number = st.integers(0, max(len(listings) - 1, 0))

    def known(d: int) -> int:
        at: int = draw(st.sampled_from([d * DAY + 5, d * DAY + 5, (d + 14) * DAY]))
        return at

    ends = []
    for n in draw(st.sets(number, max_size=2)) if listings else ():
        d = draw(days)
        at = known(d)
        until = draw(st.sampled_from([NEVER, NEVER, at + 6 * DAY]))
        ends.append(Delisting(n, d, -0.5, at, until))
    prices = [
        (n, d, float(draw(st.integers(1, 9))), known(d))
        for n in range(len(listings))
        for d in range(BEGIN - 4, END, 7)
    ]
    counted = draw(
        st.lists(
            st.tuples(st.integers(0, len(kinds) - 1), days, st.sampled_from([10.0, 30.0])),
            max_size=5,
        )
    )
    counts = [(n, d, known(d), c) for n, d, c in counted]
    return Issuer(tuple(securities), tuple(listings), tuple(ends), tuple(prices), tuple(counts))


def answers(of: Issuer, days: list[int]) -> list[tuple[float | str, float | str]]:
    """Close and market value on each day."""
    market, counts = of.market()
    at, company = (np.array(days) + 1) * DAY - 1, np.array([0])
    in_dollars = np.full((1, len(days)), USD)
    found = (
        market.field("close", company, at),
        MarketValue(market, counts).of(company, at, in_dollars),
    )
    told = [
        [CODES[r] or float(v) for v, r in zip(f.value[0], f.reason[0], strict=True)] for f in found
    ]
    return list(zip(*told, strict=True))


class Whose(unittest.TestCase):
    @examples(150)
    @given(issuers())
    def test_close_and_market_value_are_those_of_a_plain_search_m4_m5(self, of: Issuer) -> None:
        traded = {s.number for s in of.securities if s.type in (ORDINARY, RECEIPT)}
        expected = [(of.close(of.of(traded, d), d), of.value(d)) for d in DAYS]
        self.assertEqual(answers(of, DAYS), expected)

    @examples(60)
    @given(issuers(), st.sampled_from(DAYS))
    def test_nothing_published_later_changes_them_t9(self, of: Issuer, day: int) -> None:
        self.assertEqual(answers(of, [day]), answers(of.known((day + 1) * DAY - 1), [day]))


class Closing(unittest.TestCase):
    def test_a_venue_closes_when_it_closed_on_that_day_t3_t9(self) -> None:
        versions = [
            Venue("ZALD", "A", "XA", "Etc/GMT-2", close, since=day_of(date(year, 1, 1)))
            for year, close in ((2015, "16:00"), (2020, "17:30"))
        ]
        days = np.array([day_of(date(y, 6, 1)) for y in (2014, 2019, 2021)])
        hours = (closing(versions, days) - days * DAY) / (DAY // 24)
        self.assertEqual(hours.tolist(), [14.0, 14.0, 15.5])
        self.assertEqual(closing((), days).tolist(), ((days + 1) * DAY - 1).tolist())
