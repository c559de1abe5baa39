"""What looks odd about prices, splits and dividends (Q1): such a row is used, and flagged."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.dated.versions import NEVER
from wise_ledger.core.market.market import Market
from wise_ledger.core.time.instants import DAY

Whole = NDArray[np.int64]
HOLE = 10  # days without a price, after which the last one is stale (M4)
_NEAR = 0.025  # of a jump from the ratio of a split
_LIKE = np.array([2, 3, 4, 5, 6, 7, 8, 10, 15, 20, 30, 50])
_STEADY = 0.2  # how far prices may move on a day, besides a split


@dataclass(frozen=True)
class Flag:
    """Something odd on a day of a listing: `check` is jump, split, dividend or hole."""

    check: str
    listing: int
    day: int
    source: int
    value: float
    beside: float
    detail: str


def market_flags(market: Market) -> list[Flag]:
    """All of them, by listing and day; as known now."""
    prices = market.prices
    if not len(prices):
        return []
    now = np.full(len(prices), NEVER - 1)
    row = prices.standing(np.arange(len(prices)), now)
    close, day, listing = prices.read("close", row), prices.day, prices.listing
    source = np.where(row >= 0, prices.rows["source"][np.maximum(row, 0)], 0)
    there = np.flatnonzero(~np.isnan(close))
    a, b = there[:-1], there[1:]
    same = listing[a] == listing[b]
    a, b = a[same], b[same]
    security = market.listed.security[listing[b]]
    split = market.splits.between(security, day[a], day[b], now[b])
    out: list[Flag] = []

    def flag(check: str, at: Whole, words: "list[str]") -> None:
        for n, detail in zip(at.tolist(), words, strict=True):
            out.append(
                Flag(
                    check,
                    int(listing[b[n]]),
                    int(day[b[n]]),
                    int(source[b[n]]),
                    float(close[b[n]]),
                    float(close[a[n]]),
                    detail,
                )
            )

    gap = day[b] - day[a]
    holes = np.flatnonzero(gap > HOLE)
    flag("hole", holes, [f"no price for {n - 1} days before it" for n in gap[holes].tolist()])
    fall = close[a] / close[b]
    for moved, words in ((fall, "{:g} new shares for 1"), (1 / fall, "1 new share for {:g}")):
        nearest = _LIKE[np.abs(np.log(moved[:, None] / _LIKE)).argmin(1)] if len(moved) else moved
        like = np.flatnonzero((split == 1) & (np.abs(moved / nearest - 1) < _NEAR))
        causes = [
            f"a split of {words.format(nearest[n])} would explain the jump, and none is known"
            for n in like
        ]
        flag("jump", like, causes)
    large = np.abs(np.log(split)) > np.log(1.5)
    still = large & (np.abs(np.log(fall)) < _STEADY)
    flag(
        "split",
        np.flatnonzero(still),
        [
            f"the split of {split[n]:g} for 1 is known, but prices did not move: they may be adjusted already"
            for n in np.flatnonzero(still)
        ],
    )
    turned = large & ~still & (np.abs(np.log(fall * split)) < _STEADY)
    flag("split", np.flatnonzero(turned), [
        f"prices moved the other way than a split of {split[n]:g} for 1: it may be upside down"
        for n in np.flatnonzero(turned)
    ])  # fmt: skip
    out += _dividends(market)
    return sorted(out, key=lambda f: (f.listing, f.day))


def _dividends(market: Market) -> list[Flag]:
    """Dividends above the last price before their ex-date."""
    given = [d for d in market.dividends if d.until == NEVER]
    if not given:
        return []
    day = np.array([d.ex_date - 1 for d in given], np.int64)
    at = np.full(len(given), NEVER - 1)
    security = np.array([d.security for d in given], np.int64)
    listing = market.listed.of_securities.each(security, (day + 1) * DAY - 1)
    close = market.prices.read("close", market.quoted(listing, day, at).row)
    out = []
    for n, d in enumerate(given):
        if (
            listing[n] >= 0
            and market.listed.currency[listing[n]] == d.currency
            and d.amount > close[n]
        ):
            detail = f"a dividend of {d.amount:g} is above the price before it"
            out.append(
                Flag("dividend", int(listing[n]), d.ex_date, -1, d.amount, float(close[n]), detail)
            )
    return out
