"""Made-up trading: the days of each venue, and the prices of a listing on them.

Prices follow what a company earns, at a multiple of its own that wanders, with the noise of days.
"""

import random
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from wise_ledger.standins.fernmark.cast import Cast
from wise_ledger.standins.fernmark.identity import VENUES

EPOCH = date(1970, 1, 1)
_DECIMALS = {"USD": 2, "EUR": 2, "JPY": 1}
_CLOSED = {  # month and day of each venue's holidays
    "ZALD": ((1, 1), (5, 1), (7, 9), (12, 25), (12, 26)),
    "ZBRE": ((1, 1), (1, 6), (5, 1), (10, 4), (12, 25), (12, 26)),
    "ZCAL": ((1, 1), (1, 2), (1, 3), (5, 3), (11, 23), (12, 31)),
}
Days = NDArray[np.int64]
Numbers = NDArray[np.float64]
_HOURS = {v["mic"]: (ZoneInfo(v["time_zone"]), v["close"]) for v in VENUES}


@dataclass(frozen=True)
class Traded:
    """A listing and all its trading days so far."""

    security: str
    mic: str
    days: Days  # since 1970-01-01
    columns: Mapping[str, Numbers]  # open, high, low, close, volume

    def upto(self, last: int) -> "Traded":
        """Without the days after one."""
        there = int(np.searchsorted(self.days, last, "right"))
        return Traded(
            self.security,
            self.mic,
            self.days[:there],
            {n: c[:there] for n, c in self.columns.items()},
        )


def day(value: str | date) -> int:
    """Days since 1970-01-01."""
    return ((date.fromisoformat(value) if isinstance(value, str) else value) - EPOCH).days


def trading_days(mic: str, first: int, last: int) -> Days:
    """The weekdays of a venue without its holidays."""
    days = np.arange(first, last + 1)
    months = days.astype("M8[D]").astype("M8[M]")
    month = months.astype(np.int64) % 12 + 1
    of_month = (days.astype("M8[D]") - months.astype("M8[D]")).astype(np.int64) + 1
    closed = np.zeros(len(days), np.bool_)
    for m, d in _CLOSED[mic]:
        closed |= (month == m) & (of_month == d)
    return days[((days + 3) % 7 < 5) & ~closed]


def last_close(mic: str, now: datetime) -> int:
    """The last day that a venue has closed by an instant."""
    zone, close = _HOURS[mic]
    there = now.astimezone(zone)
    hour, minute = (int(part) for part in close.split(":"))
    over = (there.hour, there.minute) >= (hour, minute)
    return day(there.date()) - (0 if over else 1)


@dataclass(frozen=True)
class Share:
    """What makes the price of an ordinary share: of each quarter its end,
    its earnings a share and its shares.
    """

    cast: Cast
    ends: Days
    worth: Numbers  # earnings a share of a year, as the market looks at them
    shares: Numbers
    net: Numbers  # of the quarter, in units of currency
    sales: Numbers
    first: int
    ended: tuple[str, str] | None


def share_of(
    cast: Cast, quarters: Sequence[Any], scale: int, first: int, ended: tuple[str, str] | None
) -> Share:
    """What makes the price of a company out of its quarters;
    of one without statements a walk about a price.
    """
    if not quarters:
        ends = np.array([first - 400, first + 20_000], np.int64)
        worth = 1.6 if cast.currency != "JPY" else 120.0
        ones = np.ones(2)
        return Share(
            cast, ends[:1], ones[:1] * worth, ones[:1] * 2e7, np.zeros(1), np.zeros(1), first, ended
        )
    revenue = np.array([q.flows["revenue"] for q in quarters], np.float64)
    net = np.array([q.flows["net"] for q in quarters], np.float64)
    shares = np.array([q.shares for q in quarters], np.float64)
    year = np.array([revenue[max(0, n - 3) : n + 1].mean() * 4 for n in range(len(quarters))])
    earned = np.array([net[max(0, n - 3) : n + 1].mean() * 4 for n in range(len(quarters))])
    # The market looks through a bad year: nobody is worth less than a share of what it sells.
    worth = np.maximum(earned, year * 0.03) * 10.0**scale / shares
    ends = np.array([day(q.end) for q in quarters], np.int64)
    return Share(cast, ends, worth, shares, net * 10.0**scale, revenue * 10.0**scale, first, ended)


def walk(seed: int, name: str, count: int, scale: float) -> Numbers:
    """A walk that is drawn back to nothing, one step a day."""
    rng = np.random.default_rng([seed, *name.encode()])
    steps = rng.normal(0.0, scale, count)
    out, now = np.empty(count), 0.0
    for n in range(count):
        now = 0.992 * now + steps[n]
        out[n] = now
    return out


def closes(share: Share, days: Days, seed: int, market: Numbers) -> Numbers:
    """The closes of an ordinary share on its old basis, before splits."""
    rng = random.Random(f"{seed}:multiple:{share.cast.key}")
    multiple, scale = rng.uniform(11, 22), rng.uniform(0.009, 0.018)
    # What a quarter earned is priced in from about its end on, on the way to its report.
    known = np.log(share.worth * multiple)
    base = np.interp(days, share.ends + 20, known)
    own = walk(seed, share.cast.key, len(days), scale)
    out = np.exp(base + own + rng.uniform(0.6, 1.3) * market)
    if share.ended is not None and share.ended[1] in ("bankruptcy", "liquidation"):
        left = np.clip((day(share.ended[0]) - days) / 330, 0, 1)  # falling for a year
        out *= 0.12 + 0.88 * left
    return np.asarray(out)


def columns_of(
    close: Numbers, currency: str, seed: list[int], traded: Numbers, split: Numbers
) -> dict[str, Numbers]:
    """Open, high, low and volume around closes; each from a generator of its own,
    so that days may be added. `split` are the new shares of a day for one of the day before.
    """

    def draw(column: int, spread: float) -> Numbers:
        return np.random.default_rng([*seed, column]).normal(0, spread, len(close))

    digits = _DECIMALS[currency]
    least = 10.0**-digits
    close = np.maximum(np.round(close, digits), least)
    before = np.concatenate([close[:1], close[:-1]]) / split
    open_ = np.maximum(np.round(before * (1 + draw(1, 0.004)), digits), least)
    top, bottom = np.maximum(open_, close), np.minimum(open_, close)
    high = np.round(top * (1 + np.abs(draw(2, 0.005))), digits)
    low = np.maximum(np.round(bottom * (1 - np.abs(draw(3, 0.005))), digits), least)
    volume = np.round(traded * np.exp(draw(4, 0.5)))
    return {
        "open": open_,
        "high": np.maximum(high, top),
        "low": np.minimum(low, bottom),
        "close": close,
        "volume": volume,
    }
