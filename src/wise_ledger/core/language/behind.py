"""Of the figures behind an expression: since when they stand as they do,
and whether they were restated.
"""

from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.catalogue.items import Item
from wise_ledger.core.language.plan import Quote, Step, leaves, on_dates
from wise_ledger.core.market.market import PRICE_FIELDS, Market
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import NO_END, Days, shift_months
from wise_ledger.core.timelines.asof import standing
from wise_ledger.core.timelines.keys import Instants, Rows, make_keys
from wise_ledger.core.timelines.lineage import UNKNOWN, story
from wise_ledger.core.timelines.merge import gather
from wise_ledger.core.timelines.timeline import Timeline


class Ground(Protocol):
    """What is asked here of what an evaluation stands on."""

    @property
    def market(self) -> Market:
        """Prices of listings."""

    def timeline(self, item: Item, form: str, first: bool, currency: int | None = None) -> Timeline:
        """The item's figures of one form."""


@dataclass(frozen=True, eq=False)
class Behind:
    """For each company and cut-off; `known_at` is UNKNOWN where nothing says."""

    restated: NDArray[np.bool_]  # by the cut-off
    restated_later: NDArray[np.bool_]
    known_at: NDArray[np.int64]  # since when they all stand as they do


def behind(ground: Ground, step: Step, companies: Rows, ends: Days, cutoffs: Instants) -> Behind:
    """Of the figures of a step, which is read at the period ends given, (companies, cut-offs)."""
    shape = ends.shape
    by_then = np.zeros(shape, np.bool_)
    later = by_then.copy()
    known_at = np.full(shape, UNKNOWN, np.int64)
    known = (ends != NO_END).ravel()
    company, at = np.repeat(companies, shape[1]), np.tile(cutoffs, shape[0])
    for leaf in dict.fromkeys(leaves(step)):
        timeline = ground.timeline(leaf.item, leaf.form, leaf.first)
        own = shift_months(np.where(known, ends.ravel(), 0).astype(np.int32), -leaf.months)
        rows = np.where(known, standing(timeline, make_keys(company, own), at), -1)
        found = story(timeline, rows.reshape(shape))
        by_then |= found.restated
        later |= found.restated_later
        known_at = np.maximum(known_at, found.since)
    if any(isinstance(part, Quote) and part.name in PRICE_FIELDS for part in on_dates(step)):
        known_at = np.maximum(known_at, _prices_known_at(ground.market, companies, cutoffs))
    return Behind(by_then, later, known_at)


def _prices_known_at(market: Market, companies: Rows, cutoffs: Instants) -> NDArray[np.int64]:
    """Since when the last price of each company stands."""
    listing = market.listed.of_companies.read(companies, cutoffs)
    at = np.broadcast_to(cutoffs, listing.shape)
    row = market.quoted(listing, at // DAY, at).row
    return gather(market.prices.rows["known_at"], row.ravel(), UNKNOWN).reshape(listing.shape)
