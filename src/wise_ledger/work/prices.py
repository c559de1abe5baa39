"""Prices of listings over a range of days, and how the members of a list stand on the market."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, timedelta
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.cells import mark_names
from wise_ledger.core.answers.reasons import CODES, Reason
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.errors import BadInput, Problem, bad_input
from wise_ledger.core.identity.universe import Listing
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.evaluate import Evaluation
from wise_ledger.core.market.bars import FREQUENCIES, Bars, Standing, bars_of, standing_of
from wise_ledger.core.market.market import Market as PriceData
from wise_ledger.core.money.currencies import currency_code, currency_name
from wise_ledger.core.money.rates import last_day
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import as_date, day
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.work import NotFound, lists
from wise_ledger.work.currencies import in_currency
from wise_ledger.work.desk import Desk
from wise_ledger.work.named import listings_named, primary_listing
from wise_ledger.work.whom import read_whom

Whole = NDArray[np.int64]
MOST_BARS = 5_000_000  # in one answer
_SPARK = 60  # closes of a sparkline


@dataclass(frozen=True)
class Range:
    """Which days are asked for, both ends included, and in what bars; raises `BadInput`."""

    first: date | None = None
    last: date | None = None
    frequency: str = "day"
    adjusted: bool = True
    returns: bool = True

    def __post_init__(self) -> None:
        if self.frequency not in FREQUENCIES:
            mend = mend_for(self.frequency, FREQUENCIES)
            raise bad_input("frequency", self.frequency, "there are no bars of this length", mend)
        if self.first is not None and self.last is not None and self.last < self.first:
            raise bad_input(
                "end", self.last, f"it is before the start, {self.first}", "swap the two dates"
            )


@dataclass(frozen=True, eq=False)
class Priced:
    """A listing whose prices are shown, with its company;
    `since` is the first day with a price known then.
    """

    company: str
    name: str
    listing: str
    symbol: str
    currency: str
    since: date | None


@dataclass(frozen=True, eq=False)
class Prices:
    """Bars of several listings from a day to a day; what could not be found, with its problem.

    `bars_of(own)` gives those of some of the listings, each `place` one of these; `bars` all of
    them.
    """

    listings: tuple[Priced, ...]
    bars_of: Callable[[slice], Bars]
    first: date
    last: date
    batch: int
    failed: tuple[Problem, ...] = ()

    @cached_property
    def bars(self) -> Bars:
        """Those of all listings."""
        return self.bars_of(slice(None))


def read_prices(
    desk: Desk,
    viewpoint: Viewpoint,
    asked: Range,
    list_name: str | None = None,
    names: Sequence[str] = (),
) -> Prices:
    """The prices of listings, or of companies' primary listings, named by
    anything, or of a list's members.
    """
    snapshot = desk.snapshots.of(viewpoint)
    market, cutoff = snapshot.view.market, viewpoint.cutoff
    today = cutoff // DAY
    found, failed = _listings(desk, snapshot, viewpoint, list_name, names)
    if not found and failed:
        raise BadInput(*failed)
    last = min(today, day(asked.last)) if asked.last else today
    first = day(asked.first) if asked.first else day(as_date(last) - timedelta(365))
    if first > today:
        raise bad_input(
            "start", as_date(first), "nothing is known of these days yet", f"it is {as_date(today)}"
        )
    numbers = np.array([x.number for x in found], np.int64)
    if len(numbers) * max(1, last - first) * 5 // 7 > MOST_BARS:
        raise bad_input(
            "start",
            as_date(first),
            f"these are more than {MOST_BARS:,} prices",
            "ask for fewer at once",
        )

    in_currency(snapshot, viewpoint)
    into = None if viewpoint.currency is None else currency_code(viewpoint.currency)

    def bars(own: slice) -> Bars:
        span = first, last, cutoff, asked.frequency
        out = bars_of(market, numbers[own], *span, adjusted=asked.adjusted, returns=asked.returns)
        return out if into is None else _converted(market, numbers[own], out, into, cutoff)

    listings = _priced(snapshot, found, cutoff, viewpoint.currency)
    return Prices(listings, bars, as_date(first), as_date(last), snapshot.batch, tuple(failed))


def _listings(
    desk: Desk,
    snapshot: Snapshot,
    viewpoint: Viewpoint,
    list_name: str | None,
    names: Sequence[str],
) -> tuple[list[Listing], list[Problem]]:
    """The listings asked for, and what names none: of companies and securities the primary ones as
    the language has them (M4), else by day of the cut-off, else whom it named last.
    """
    if list_name is None and not names:
        raise bad_input(
            "companies", "", "nobody is named", "name a list, or companies such as AGK@ZALD"
        )
    today, found, failed = viewpoint.cutoff // DAY, dict[int, Listing](), list[Problem]()
    if list_name is not None:
        whom = read_whom(desk, snapshot, viewpoint.cutoff, list_name, names)
        chosen = snapshot.view.market.listed.of_companies.read(
            np.array(whom.numbers, np.int64), _one(viewpoint.cutoff)
        )
        for company, number in zip(whom.numbers, chosen[:, 0].tolist(), strict=True):
            if number >= 0:
                found[number] = snapshot.listing[number]
            else:
                name = snapshot.name(company, viewpoint.cutoff)
                failed.append(
                    Problem(
                        "companies",
                        name,
                        "it was listed nowhere on that day",
                        "ask for a later day",
                    )
                )
        return list(found.values()), failed
    look = listings_named(snapshot)
    for text in names:
        try:
            named = look(text)
            several = len(named) > 1
            primary = primary_listing(snapshot, text, viewpoint.cutoff) if several else None
        except (BadInput, NotFound) as error:
            failed.append(error.problems[0])
            continue
        if primary is None:
            on = (
                [n for n in named if n.span.holds(today)]
                or [n for n in named if n.span.since <= today]
                or named
            )
            primary = on[0].number
        found[primary] = snapshot.listing[primary]
    return list(found.values()), failed


def _one(cutoff: int) -> np.ndarray[tuple[int], np.dtype[np.int64]]:
    return np.array([cutoff], np.int64)


def _converted(market: PriceData, listings: Whole, bars: Bars, into: int, cutoff: int) -> Bars:
    """Prices at the rate of their own day, NaN where there is none (M2); returns stay those of the
    listing's currency (M4).
    """
    rate = _rates(market, listings[bars.place], bars.day, into, cutoff)
    names = ("open", "high", "low", "close")
    lacks = np.isnan(rate) & (bars.reason == 0)
    reason = np.where(lacks, np.uint8(Reason.NO_RATE), bars.reason)
    return replace(bars, reason=reason, **{n: getattr(bars, n) * rate for n in names})


def _rates(
    market: PriceData, listings: Whole, days: Whole, into: int, cutoff: int
) -> NDArray[np.float64]:
    """The rates of days from the currency of listings, as known at a cut-off; NaN for none."""
    own = market.listed.currency[listings].astype(np.int64)
    to, at = np.full(len(own), into, np.int64), np.full(len(own), cutoff)
    return market.rate_on(own, to, np.minimum(days, last_day(at)), at)


def _priced(
    snapshot: Snapshot, found: Sequence[Listing], cutoff: int, currency: str | None
) -> tuple[Priced, ...]:
    companies = [snapshot.universe.company_of(x) for x in found]
    names = snapshot.names(companies, cutoff)
    since = snapshot.view.market.prices.first_known(
        np.array([x.number for x in found], np.int64), cutoff
    )
    ids = snapshot.listing_ids
    return tuple(
        Priced(
            snapshot.ids[company], name, ids[x.number], f"{x.symbol}@{x.mic}",
            currency or x.currency,
            None if first is None else as_date(first),
        )
        for x, company, name, first in zip(found, companies, names, since, strict=True)
    )  # fmt: skip


@dataclass(frozen=True, eq=False)
class ListLevels:
    """The levels of a list, a day each; NaN where there is none."""

    title: str
    day: np.ndarray[tuple[int], np.dtype[np.int64]]
    level: np.ndarray[tuple[int], np.dtype[np.float64]]
    total_return_level: np.ndarray[tuple[int], np.dtype[np.float64]]
    first: date
    last: date
    batch: int


def read_levels(desk: Desk, viewpoint: Viewpoint, asked: Range, list_name: str) -> ListLevels:
    """The levels of a list from a day to a day, both included, as known at
    the cut-off; raises `NotFound`.
    """
    snapshot = desk.snapshots.of(viewpoint)
    info = lists.find_list(desk.ledger, list_name, snapshot.batch)
    market, today = snapshot.view.market, viewpoint.cutoff // DAY
    last = min(today, day(asked.last)) if asked.last else today
    first = day(asked.first) if asked.first else day(as_date(last) - timedelta(365))
    days, rows = np.empty(0, np.int64), np.empty(0, np.int64)
    levels, number = market.levels, market.lists.get(list_name, -1)
    if levels is not None and number >= 0:
        slots = levels.within(number, first, last)
        rows = levels.standing(slots, np.full(len(slots), viewpoint.cutoff))
        days, rows = levels.day[slots][rows >= 0], rows[rows >= 0]
    columns = [
        np.empty(0) if levels is None else levels.read(n, rows)
        for n in ("level", "total_return_level")
    ]
    return ListLevels(
        info.title, days, columns[0], columns[1], as_date(first), as_date(last), snapshot.batch
    )


@dataclass(frozen=True)
class Traded:
    """A company on the market: its last close and how far that moved, as fractions;
    None where there is none.
    """

    company: str
    name: str
    symbol: str | None
    currency: str | None
    date: date | None
    close: float | None
    reason: str | None
    changes: dict[str, float | None]
    market_value: float | None
    market_value_currency: str | None
    market_value_reason: str | None
    market_value_marks: list[str]
    closes: list[float] = field(default_factory=list)  # the last ones, for a sparkline


@dataclass(frozen=True)
class Market:
    """How companies stand on the market; `title` is that of whom it is about,
    `failed` who is not found.
    """

    companies: tuple[Traded, ...]
    title: str
    batch: int
    failed: tuple[Problem, ...]


CHANGES = ("day", "week", "month", "year", "year_to_date")


def read_market(
    desk: Desk, viewpoint: Viewpoint, list_name: str | None = None, names: Sequence[str] = ()
) -> Market:
    """How a list's members, companies or everybody stand on the market.

    Raises `BadInput` and `NotFound`.
    """
    snapshot = desk.snapshots.of(viewpoint)
    in_currency(snapshot, viewpoint)
    whom = read_whom(desk, snapshot, viewpoint.cutoff, list_name, names)
    market, cutoff = snapshot.view.market, viewpoint.cutoff
    members, at = np.array(whom.numbers, np.int64), _one(cutoff)
    listing = (
        market.listed.of_companies.read(members, at)[:, 0]
        if len(members)
        else np.empty(0, np.int64)
    )
    standing = standing_of(market, listing, cutoff)
    value, _ = Evaluation(snapshot.view, members, at, currency=viewpoint.currency).run(
        plan("market_value")
    )
    closes = bars_of(
        market, listing, cutoff // DAY - 2 * _SPARK, cutoff // DAY, cutoff, returns=False
    )
    close, reason = standing.close, standing.reason
    if viewpoint.currency is not None:
        into = currency_code(viewpoint.currency)
        closes = _converted(market, listing, closes, into, cutoff)
        close = close * _rates(market, listing, standing.day, into, cutoff)
        lacks = (reason == 0) & np.isnan(close)
        reason = np.where(lacks, np.uint8(Reason.NO_RATE), reason)
    begin = np.searchsorted(closes.place, np.arange(len(listing) + 1))
    out = []
    for n, number in enumerate(whom.numbers):
        why, why_value = reason[n], value.reason[n, 0]
        own = snapshot.listing.get(int(listing[n]))
        spark = closes.close[begin[n] : begin[n + 1]][-_SPARK:]
        out.append(
            Traded(
                snapshot.ids[number],
                snapshot.name(number, cutoff),
                f"{own.symbol}@{own.mic}" if own else None,
                (viewpoint.currency or own.currency) if own else None,
                None if standing.reason[n] else as_date(int(standing.day[n])),
                None if why else float(close[n]),
                CODES[why],
                _changes(standing, n),
                None if why_value else float(value.value[n, 0]),
                currency_name(int(value.currency[n, 0])),
                CODES[why_value],
                mark_names(int(value.marks[n, 0])) if not why_value else [],
                [] if why else [float(c) for c in spark[~np.isnan(spark)]],
            )
        )
    return Market(tuple(out), whom.title, snapshot.batch, whom.failed)


def _changes(standing: Standing, n: int) -> dict[str, float | None]:
    found = (
        standing.day_change,
        standing.week,
        standing.month,
        standing.year,
        standing.year_to_date,
    )
    return {
        name: None if standing.reason[n] or np.isnan(column[n]) else float(column[n])
        for name, column in zip(CHANGES, found, strict=True)
    }
