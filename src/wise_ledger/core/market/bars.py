"""Bars: the prices of listings over stretches of days, as known at one cut-off (M4)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.market.factors import places
from wise_ledger.core.market.market import Market
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import shift_months

Whole = NDArray[np.int64]
Numbers = NDArray[np.float64]
FREQUENCIES = ("day", "week", "month", "quarter", "year")
_MONTHS = {"month": 1, "quarter": 3, "year": 12}


@dataclass(frozen=True, eq=False)
class Bars:
    """One entry a bar in every column, listings in the order asked for, days ascending.

    A bar stands under its last trading day; it is not `complete` where its stretch reaches beyond
    the range asked for or the cut-off. `factor` is what prices of that day were divided by for
    later splits; `change` the return of the price since the last close before the bar,
    `total_return` the same with dividends reinvested; `reason` why there is no close (N).
    """

    place: Whole  # of the listing among those asked for
    day: Whole
    open: Numbers
    high: Numbers
    low: Numbers
    close: Numbers
    volume: Numbers
    factor: Numbers
    change: Numbers
    total_return: Numbers
    complete: NDArray[np.bool_]
    reason: NDArray[np.uint8]

    def __len__(self) -> int:
        return len(self.day)


def bars_of(
    market: Market,
    listings: Whole,
    first: int,
    last: int,
    cutoff: int,
    frequency: str = "day",
    *,
    adjusted: bool = True,
    returns: bool = True,
) -> Bars:
    """The bars of listings from a day to a day, both included,
    as known at a cut-off and on its share basis.

    Without `adjusted` prices are as traded. Without `returns` these are left missing, which saves
    half the time.
    """
    prices = market.prices
    last = min(last, cutoff // DAY)
    low = np.searchsorted(prices.key, places(listings, np.full(len(listings), first)), "left")
    high = np.searchsorted(prices.key, places(listings, np.full(len(listings), last)), "right")
    count = np.maximum(high - low, 0)
    slots = _runs(low, count)
    place = np.repeat(np.arange(len(listings)), count)
    rows = prices.standing(slots, np.full(len(slots), cutoff))
    if not (known := rows >= 0).all():
        slots, rows, place = slots[known], rows[known], place[known]
    day = prices.day[slots] if len(prices) else np.empty(0, np.int64)
    own = listings[place]
    today = np.full(len(day), cutoff // DAY)
    factor = market.splits.between(
        market.listed.security[own], day, today, np.full(len(day), cutoff)
    )
    moved = adjusted and bool((factor != 1).any())
    columns = {name: prices.column(name)[rows] for name in ("open", "high", "low", "close")}
    columns |= {name: column / factor for name, column in columns.items()} if moved else {}
    volume = prices.column("volume")[rows] * (factor if moved else 1.0)
    if frequency == "day":  # a bar is a row
        start = end = np.arange(len(day))
        complete = np.ones(len(day), np.bool_)
        merged = columns
    else:
        bucket = _bucket(day, frequency)
        begin = np.ones(len(day), np.bool_)
        begin[1:] = (place[1:] != place[:-1]) | (bucket[1:] != bucket[:-1])
        start = np.flatnonzero(begin)
        end = np.append(start[1:], len(day))[: len(start)] - 1
        complete = _complete(day[end] if len(day) else day, frequency, first, last, cutoff)
        merged = {n: c[:0] for n, c in columns.items()}
        if len(start):
            merged = {
                "open": columns["open"][start],
                "high": np.fmax.reduceat(columns["high"], start),
                "low": np.fmin.reduceat(columns["low"], start),
                "close": columns["close"][end],
            }
            volume = np.add.reduceat(volume, start)  # none where some day does not say
        place, factor, own = place[end], factor[end], own[end]
    at = np.full(len(end), cutoff)
    change = total = np.full(len(end), np.nan)
    if returns and len(end):
        before = day[start] - 1
        price, with_dividends = (
            market.returns_of(own, before, day[end], at, total=t) for t in (False, True)
        )
        change, total = (np.where(r.there, r.value, np.nan) for r in (price, with_dividends))
    return Bars(
        place,
        day if frequency == "day" else day[end],
        merged["open"],
        merged["high"],
        merged["low"],
        merged["close"],
        volume,
        factor,
        change,
        total,
        complete,
        np.where(np.isnan(merged["close"]), np.uint8(Reason.NOT_REPORTED), np.uint8(0)),
    )


def _bucket(day: Whole, frequency: str) -> Whole:
    """Which stretch each day is in; a week belongs where its Sunday falls, and ends with it."""
    if frequency == "day":
        return day
    if frequency == "week":
        return (day + 3) // 7
    months = day.astype("M8[D]").astype("M8[M]").astype(np.int64)
    return np.asarray(months // _MONTHS[frequency])


def _runs(begin: Whole, count: Whole) -> Whole:
    """So many whole numbers from each beginning on, one run after the other."""
    step = np.ones(count.sum(), np.int64)
    some = count > 0
    first = (np.cumsum(count) - count)[some]
    step[first] = (
        np.diff(begin[some], prepend=0) - np.append(0, count[some][:-1] - 1) if len(first) else 0
    )
    return np.cumsum(step)


def last_days(first: int, last: int, frequency: str) -> Whole:
    """The last weekday of every stretch between two days, both included;
    of one not over the last there is.
    """
    every = np.arange(first, last + 1, dtype=np.int64)
    weekdays = every[(every + 3) % 7 < 5]
    days = weekdays if len(weekdays) else every
    bucket = _bucket(days, frequency)
    return np.asarray(days[np.append(bucket[1:] != bucket[:-1], True)])


def _ends(day: Whole, frequency: str) -> tuple[Whole, Whole]:
    """The first and the last day of the stretch, longer than a day, that each day is in."""
    if frequency == "week":
        monday = (day + 3) // 7 * 7 - 3
        return monday, monday + 6
    length = _MONTHS[frequency]
    month = _bucket(day, frequency) * length
    first = month.astype("M8[M]").astype("M8[D]").astype(np.int64)
    following = (month + length).astype("M8[M]").astype("M8[D]").astype(np.int64)
    return first, following - 1


def _complete(day: Whole, frequency: str, first: int, last: int, cutoff: int) -> NDArray[np.bool_]:
    begin, end = _ends(day, frequency)
    # the last weekday of the stretch: that day may be a holiday
    weekend = end - np.clip((end + 3) % 7 - 4, 0, 2)
    over = np.maximum(end, 0) * DAY <= cutoff
    return np.asarray((begin >= first) & (weekend <= last) & (over | (weekend * DAY <= cutoff)))


@dataclass(frozen=True, eq=False)
class Standing:
    """The last close of listings at a cut-off, and how far it moved: fractions,
    NaN where there is none.
    """

    day: Whole
    close: Numbers
    reason: NDArray[np.uint8]
    day_change: Numbers
    week: Numbers
    month: Numbers
    year: Numbers
    year_to_date: Numbers


def standing_of(market: Market, listings: Whole, cutoff: int) -> Standing:
    """The last close of each listing, and its changes: of a day to the close before it,
    the others to that of a date.

    Month and year go to the same day of an earlier one, the year to date to the last close of the
    year before.
    """
    today = cutoff // DAY
    days, at = np.full(len(listings), today), np.full(len(listings), cutoff)
    now = market.price("close", listings, days, at)
    found = market.quoted(listings, days, at)
    day = np.where(found.row >= 0, market.day_of(found), 0)

    def since(start: Whole) -> Numbers:
        change = market.returns_of(listings, start, days, at, total=False)
        return np.where(change.there, change.value, np.nan)

    ends = np.array([today], np.int32)
    month, year = (int(shift_months(ends, -n)[0]) for n in (1, 12))
    new_year = (
        int(np.array([today]).astype("M8[D]").astype("M8[Y]").astype("M8[D]").astype(np.int64)[0])
        - 1
    )
    spans = [np.full(len(listings), d) for d in (today - 7, month, year, new_year)]
    return Standing(day, now.value, now.reason, since(day - 1), *(since(s) for s in spans))
