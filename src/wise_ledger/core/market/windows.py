"""What a year of prices held: its highest and lowest price, and the dividends paid (M4)."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.market.factors import Factors, places
from wise_ledger.core.market.payouts import Payouts
from wise_ledger.core.market.prices import Prices
from wise_ledger.core.market.whose import Listed

Whole = NDArray[np.int64]
Numbers = NDArray[np.float64]
YEAR = 365  # days, the last one included


@dataclass(frozen=True, eq=False)
class Windows:
    """Windows that end on a day, each over the prices of one listing."""

    prices: Prices
    listed: Listed
    splits: Factors
    payouts: Payouts

    def extreme(
        self, name: str, now: Values, listing: Whole, days: Whole, cutoffs: Whole
    ) -> Values:
        """The highest high (`high_52w`) or the lowest low of the year to a day,
        the close where a day has none.

        Missing as the close of now is; all are of one shape.
        """
        value = np.full(listing.size, np.nan)
        cells = np.flatnonzero(now.there.ravel())
        if len(cells):
            listings, upto, at = (c.ravel()[cells] for c in (listing, days, cutoffs))
            last = self.prices.last(listings, upto, at).slot
            first = np.searchsorted(self.prices.key, places(listings, upto - YEAR), "right")
            value[cells] = self._extremes(name, listings, first, last, upto, at)
        return Values(value.reshape(listing.shape), now.reason, now.marks, now.currency)

    def _extremes(
        self, name: str, listing: Whole, first: Whole, last: Whole, days: Whole, at: Whole
    ) -> Numbers:
        """Over the slots from the first to the last, both included, on the share basis of a day."""
        highest = name == "high_52w"
        reduced = np.maximum if highest else np.minimum
        security = self.listed.security[listing]
        every = self._comparable(name)
        # Pairs of bounds: every other result is that between two windows, and of no interest.
        bounds = np.stack([first, last + 1], axis=1).ravel()
        out = reduced.reduceat(every, bounds)[::2] / self.splits.upto(security, days)
        odd = self.prices.unsettled_before[last + 1] > self.prices.unsettled_before[first]
        odd |= np.isin(security, list(self.splits.late_owners))
        for n in np.flatnonzero(odd).tolist():
            slots = np.arange(first[n], last[n] + 1)
            rows = self.prices.standing(slots, np.full(len(slots), at[n]))
            rows = rows[rows >= 0]
            own = np.full(len(rows), security[n])
            on = self.prices.rows["date"][rows].astype(np.int64)
            factor = self.splits.between(
                own, on, np.full(len(rows), days[n]), np.full(len(rows), at[n])
            )
            out[n] = (np.nanmax if highest else np.nanmin)(self._given(name)[rows] / factor)
        return np.asarray(out)

    def _given(self, name: str) -> Numbers:
        """The highs or lows of all rows, the close where there is none."""
        own = self.prices.column("high" if name == "high_52w" else "low")
        return np.where(np.isnan(own), self.prices.column("close"), own)

    @cached_property
    def _compared(self) -> dict[str, Numbers]:
        return {}

    def _comparable(self, name: str) -> Numbers:
        """The highs or lows of all slots as if no split had been; at last one that is neither."""
        if name not in self._compared:
            neither = -np.inf if name == "high_52w" else np.inf
            value = self._given(name)[self.prices.row[self.prices.begin[:-1]]]
            value = value * self.splits.upto(
                self.listed.security[self.prices.listing], self.prices.day
            )
            self._compared[name] = np.append(np.where(np.isnan(value), neither, value), neither)
        return self._compared[name]

    def dividends(self, now: Values, listing: Whole, days: Whole, cutoffs: Whole) -> Values:
        """Ordinary dividends of the year to a day by ex-date, 0 where none was paid;
        missing as the close of now is.
        """
        currency = self.listed.currency[listing].astype(np.int64)
        value = self.payouts.paid_within(
            self.listed.security[listing], days - YEAR, days, cutoffs, currency
        )
        out = Values(value, now.reason, now.marks, now.currency)
        return out.missing_where(np.isnan(value), Reason.NO_RATE)
