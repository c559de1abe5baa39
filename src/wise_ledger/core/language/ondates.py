"""Evaluate what lives on dates: market fields, returns,
and anything read on other dates than the cut-offs.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.arithmetic import subtracted
from wise_ledger.core.catalogue.items import Item
from wise_ledger.core.estimates.estimates import Estimates
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.conversion import Converter
from wise_ledger.core.language.plan import (
    AtEnd,
    Before,
    Estimate,
    Quote,
    Return,
    Sampled,
    Step,
    Surprise,
)
from wise_ledger.core.language.scope import Scope
from wise_ledger.core.market.market import Market
from wise_ledger.core.market.value import MarketValue, ShareCounts
from wise_ledger.core.money.currencies import NO_CURRENCY, currency_code
from wise_ledger.core.money.rates import RateTable, last_day
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import NO_END, Days, shift_months
from wise_ledger.core.timelines.asof import standing
from wise_ledger.core.timelines.keys import Instants, Rows, make_keys
from wise_ledger.core.timelines.merge import gather
from wise_ledger.core.timelines.timeline import Timeline

Whole = NDArray[np.int64]
_LONG_AGO = -200_000  # a day before any split
_HALF = 2


class Ground(Protocol):
    """What is asked here of what an evaluation stands on."""

    @property
    def market(self) -> Market:
        """Prices, dividends and splits of listings."""

    @property
    def share_counts(self) -> ShareCounts:
        """Shares outstanding of securities."""

    @property
    def rates(self) -> RateTable:
        """Rates between currencies."""

    def field(self, name: str, members: Rows, cutoffs: Instants) -> Values:
        """An attribute of the companies at the cut-offs."""

    @property
    def estimates(self) -> Estimates:
        """What analysts expected."""

    def reported_ends(self, item: Item) -> Timeline:
        """The period ends of the item as reported, as values, by the nominal end they are for."""


class Asking(Protocol):
    """An evaluation at other cut-offs."""

    def run(self, step: Step) -> tuple[Values, Days]:
        """The values of a plan, and its period ends."""


@dataclass(frozen=True)
class Samples:
    """The days that were sampled, ascending, and the value of each as it went into the function: on
    the share basis of the cut-off, in one currency, into which that of so many was converted.
    """

    days: Whole
    values: NDArray[np.float64]  # NaN where there is no rate
    currency: NDArray[np.int16]
    converted: int


class OnDates:
    """Evaluates for companies x ascending cut-offs;
    `at` gives an evaluation of the same companies at others.
    """

    def __init__(
        self,
        ground: Ground,
        members: Rows,
        cutoffs: Instants,
        at: Callable[..., Asking],
        targets: Instants | None,
        currency: int | None = None,
    ) -> None:
        self._ground = ground
        self._currency = currency  # in which amounts of several currencies meet
        self._members = members
        self._cutoffs = cutoffs
        self._at = at
        # the later dates whose periods estimates are for; the cut-offs' own without
        self._targets = targets
        self._shape = (len(members), len(cutoffs))

    def value(self, step: Step, scope: Scope) -> Values:
        """The values of a step of this kind."""
        match step:
            case Quote():
                return self._quote(step, scope)
            case Return():
                return self._return(step)
            case Estimate():
                how = step.measure, step.horizon, step.statistic
                currency = estimated_in(self._ground, self._members, self._cutoffs)
                return self._ground.estimates.estimate(
                    *how, self._members, self._cutoffs, currency, self._targets
                )
            case Surprise():
                asked = (
                    step.measure,
                    step.how,
                    self._members,
                    self._cutoffs,
                    estimated_in(self._ground, self._members, self._cutoffs),
                )
                return self._ground.estimates.surprise(*asked, step.kind or None)
            case Before():
                earlier = step.span.before(self._cutoffs)
                # An estimate is for the target period of the later date, so each has its own.
                values = self._at(
                    earlier, self._cutoffs if self._targets is None else self._targets
                ).run(step.operand)[0]
                there = np.broadcast_to(earlier, self._shape)
                return self._on_basis(
                    step, values, there, np.broadcast_to(self._cutoffs, self._shape)
                )
            case Sampled():
                return self._sampled(step)
            case AtEnd():
                return self._at_end(step, scope)
        raise AssertionError(step)

    # ---- market fields

    def _quote(self, step: Quote, scope: Scope) -> Values:
        market = self._ground.market
        if step.name != "market_value":
            return market.field(step.name, self._members, self._cutoffs, per_share=scope.per_share)
        into = reporting_currency(self._ground, self._members, self._cutoffs)
        value = MarketValue(market, self._ground.share_counts)
        return value.of(self._members, self._cutoffs, into, self._shares_outstanding)

    def _shares_outstanding(self) -> Values:
        return self._at(self._cutoffs).run(plan("shares_outstanding"))[0]

    def _return(self, step: Return) -> Values:
        market, days = self._ground.market, self._cutoffs // DAY
        start = step.span.days_before(days)
        own = market.returns(self._members, start, self._cutoffs, total=step.total)
        if step.over is None:
            return own
        other = market.list_returns(step.over, start, self._cutoffs, total=step.total)
        reason = np.where(own.reason != 0, own.reason, np.broadcast_to(other.reason, self._shape))
        return replace(
            own, value=subtracted(own.value, other.value), reason=reason.astype(np.uint8)
        )

    # ---- other dates

    def _basis(self, instants: Whole) -> NDArray[np.float64]:
        """How many shares one of long ago became by each instant, as known
        then, (companies, instants).
        """
        market = self._ground.market
        main = market.listed.main_ordinary
        owner = (
            main[np.minimum(self._members, len(main) - 1)]
            if len(main)
            else np.full(len(self._members), -1)
        )
        receipt = market.listed.of_companies.read(self._members, instants)
        security = np.where(owner[:, None] >= 0, owner[:, None], market.listed.security[receipt])
        at = np.broadcast_to(instants, security.shape)
        return market.splits.between(security, np.full(security.shape, _LONG_AGO), at // DAY, at)

    def _on_basis(self, step: Step, values: Values, there: Whole, here: Whole) -> Values:
        """Values of the instants `there` on the share basis of `here`;
        both of the shape of the values.

        What is a share's moves against splits, numbers of shares move with them (M3).
        """
        if not step.unit.shares:
            return values
        moments, which = np.unique(
            np.concatenate([there.ravel(), here.ravel()]), return_inverse=True
        )
        basis = self._basis(moments)
        row = np.arange(len(self._members))[:, None]
        then, now = (
            which[: there.size].reshape(there.shape),
            which[there.size :].reshape(here.shape),
        )
        return replace(
            values, value=values.value * (basis[row, now] / basis[row, then]) ** step.unit.shares
        )

    def _sampled(self, step: Sampled) -> Values:
        """Over the days of the span up to each date: price days of the listing, else weekdays."""
        assert step.function.window is not None
        first, moments, values = self._every_day(step)
        samples = self._counted(step, moments, values)
        basis = self._basis(moments) if step.unit.shares else None
        out = np.full(self._shape, np.nan)
        few = np.ones(self._shape, np.bool_)
        none = np.ones(self._shape, np.bool_)
        currency = np.full(self._shape, NO_CURRENCY, np.int16)
        lacks = np.zeros(self._shape, np.bool_)
        marks = np.zeros(self._shape, np.uint8)
        for n, (begin, cutoff) in enumerate(
            zip(first.tolist(), self._cutoffs.tolist(), strict=True)
        ):
            own = _window(moments, begin, cutoff)
            sampled = samples.of_each(partial(np.take, indices=own, axis=1))
            seen, lacks[:, n] = self._in_one_currency(step, sampled, moments[own])
            window = np.where(seen.there, seen.value, np.nan).T
            if basis is not None:
                here = basis[:, np.searchsorted(moments, cutoff)]
                window = window * ((here[:, None] / basis[:, own]) ** step.unit.shares).T
            count = (~np.isnan(window)).sum(axis=0)
            times = (moments[own] // DAY - cutoff // DAY) / 365
            with np.errstate(all="ignore"):
                found = step.function.window(
                    np.where(count > 0, window, 0.0), times.astype(np.float64)
                )
            weekdays = int(_weekday(np.arange(begin, cutoff // DAY + 1)).sum())
            few[:, n] = (_HALF * count < weekdays) | (count < step.function.samples)
            none[:, n] = count == 0
            out[:, n] = np.where(count > 0, found, np.nan)
            currency[:, n] = _newest_currency(seen)
            marks[:, n] = np.bitwise_or.reduce(np.where(seen.there, seen.marks, 0), axis=1)
        last = values.reason[:, np.searchsorted(moments, self._cutoffs)]
        why = np.where(last != 0, last, np.uint8(Reason.INCOMPLETE))
        reason = np.where(
            none, why, np.where(few, np.uint8(Reason.INCOMPLETE), np.uint8(Reason.NONE))
        )
        result = Values(out, reason.astype(np.uint8), marks, currency)
        return result.missing_where(lacks, Reason.NO_RATE).finite()

    def _every_day(self, step: Sampled) -> tuple[Whole, Whole, Values]:
        """The first day of each cut-off's span, the instants at which days of the spans are looked
        at, and what a sampled function's operand is at each.
        """
        days = self._cutoffs // DAY
        first = step.span.days_before(days) + 1
        every = np.unique(
            np.concatenate([np.arange(a, b) for a, b in zip(first, days, strict=True)])
        )
        moments = np.unique(np.concatenate([(every + 1) * DAY - 1, self._cutoffs]))
        return first, moments, self._at(moments).run(step.operand)[0]

    def _counted(self, step: Sampled, moments: Whole, values: Values) -> Values:
        """Those of days that are sampled."""
        counts = (
            self._has_price(moments)
            if step.priced
            else np.broadcast_to(_weekday(moments // DAY), values.value.shape)
        )
        return values.missing_where(~counts, Reason.INCOMPLETE)

    def samples(self, step: Sampled) -> Samples | None:
        """The days that were sampled for the first cell; None where there was none."""
        first, moments, values = self._every_day(step)
        own = _window(moments, int(first[0]), int(self._cutoffs[0]))
        counted = self._counted(step, moments, values)
        own = own[counted.there[0, own]]
        if not len(own):
            return None
        sampled = counted.of_each(partial(np.take, indices=own, axis=1))
        met, _ = self._in_one_currency(step, sampled, moments[own])
        converted = int((met.currency[0] != sampled.currency[0]).sum())
        value = np.where(met.there, met.value, np.nan)
        there = np.broadcast_to(moments[own], value.shape)
        here = np.full_like(there, self._cutoffs[0])
        met = self._on_basis(step, replace(met, value=value), there, here)
        return Samples(moments[own] // DAY, met.value[0], met.currency[0], converted)

    def _in_one_currency(
        self, step: Step, samples: Values, moments: Instants
    ) -> tuple[Values, NDArray[np.bool_]]:
        """The samples of each company in the currency asked for, else that of its newest, where
        they are in several: each at the rate of its own day (M2); and for whom one has no rate.
        """
        money = samples.there & (samples.currency != NO_CURRENCY)
        newest = _newest_currency(samples)
        several = (money & (samples.currency != newest[:, None])).any(axis=1)
        if not several.any():
            return samples, several
        into = newest if self._currency is None else np.full_like(newest, self._currency)
        target = np.where(several[:, None], into[:, None], samples.currency)
        converter = Converter(lambda: self._ground.rates, moments)
        found = converter.convert(step, samples, converter.today(len(newest)), target)
        return found, np.asarray((samples.there & ~found.there).any(axis=1))

    def price_days(self, instants: Whole) -> Whole:
        """The day of each company's last price at instants, (companies, instants); theirs where it
        has none.
        """
        there, day = self._last_price(instants)
        return np.where(there, day, last_day(instants)).astype(np.int64)

    def _has_price(self, instants: Whole) -> NDArray[np.bool_]:
        """Whether each company's listing has a price of the very day of each instant."""
        there, day = self._last_price(instants)
        return np.asarray(there & (day == instants // DAY))

    def _last_price(self, instants: Whole) -> tuple[NDArray[np.bool_], Whole]:
        """Whether each company's listing has a price at instants, and of which day the last is."""
        market = self._ground.market
        listing = market.listed.of_companies.read(self._members, instants)
        at = np.broadcast_to(instants, listing.shape)
        found = market.quoted(listing, at // DAY, at)
        return found.row >= 0, market.day_of(found)

    def period_end(self, step: AtEnd, scope: Scope) -> Days:
        """The period end as reported that a step is read on,
        the latest where figures differ; NO_END where none is.
        """
        known = (scope.ends != NO_END).ravel()
        nominal = shift_months(
            np.where(known, scope.ends.ravel(), 0).astype(np.int32), -step.months
        )
        keys = make_keys(np.repeat(self._members, self._shape[1]), nominal)
        at = np.tile(self._cutoffs, self._shape[0])
        out = np.where(known, nominal, NO_END)
        found = np.full(len(keys), NO_END, np.int64)
        for item in dict.fromkeys(leaf.item for leaf in scope.leaves):
            ends = self._ground.reported_ends(item)
            rows = np.where(known, standing(ends, keys, at), -1)
            found = np.maximum(
                found, np.where(rows >= 0, gather(ends.value, rows, 0), NO_END).astype(np.int64)
            )
        out = np.where(found != NO_END, found, out)
        return np.asarray(out.reshape(self._shape), np.int32)

    def _at_end(self, step: AtEnd, scope: Scope) -> Values:
        """Read on each cell's own period end."""
        ends = self.period_end(step, scope)
        there = np.minimum(
            (ends.astype(np.int64) + 1) * DAY - 1, np.broadcast_to(self._cutoffs, self._shape)
        )
        moments, which = np.unique(there, return_inverse=True)
        found = self._at(moments).run(step.operand)[0]
        row, column = np.arange(len(self._members))[:, None], which.reshape(self._shape)
        values = found.of_each(lambda array: array[row, column])
        values = self._on_basis(step, values, there, np.broadcast_to(self._cutoffs, self._shape))
        none = np.where(scope.reason != 0, scope.reason, np.uint8(Reason.NOT_KNOWN))
        reason = np.where(
            ends == NO_END, none, np.where(scope.reason != 0, scope.reason, values.reason)
        )
        return replace(values, reason=reason.astype(np.uint8))


def reporting_currency(ground: Ground, members: Rows, cutoffs: Instants) -> Whole:
    """In which currency each company reports as known at each cut-off, (companies, cut-offs);
    else that of its listing.
    """
    reported = ground.field("currency", members, cutoffs)
    own = ground.market.listed.currency[ground.market.listed.of_companies.read(members, cutoffs)]
    codes = {
        word: currency_code(word) for word in set(reported.value.ravel().tolist()) if len(word) == 3
    }
    codes_of = np.vectorize(lambda word: codes.get(word, -1), otypes=[np.int16])(reported.value)
    return np.where(reported.there & (codes_of >= 0), codes_of, own).astype(np.int64)


def estimated_in(ground: Ground, members: Rows, cutoffs: Instants) -> Whole:
    """In which currency each company's estimates are reckoned (E2): the one it reports in, where
    none is known that of the newest contribution.
    """
    own = reporting_currency(ground, members, cutoffs)
    if (own < 0).any():
        own = np.where(own < 0, ground.estimates.stated_in(members, cutoffs), own)
    return own


def _window(moments: Whole, begin: int, cutoff: int) -> Whole:
    """Which of the instants are samples of a span that begins on a day and ends at a cut-off: the
    day of the cut-off is sampled at the cut-off, not at its end.
    """
    within = (moments >= (begin + 1) * DAY - 1) & (moments <= cutoff)
    return np.flatnonzero(within & ((moments // DAY < cutoff // DAY) | (moments == cutoff)))


def _weekday(days: Whole) -> NDArray[np.bool_]:
    return np.asarray((days + 3) % 7 < 5)  # 1970-01-01 was a Thursday


def _newest_currency(samples: Values) -> NDArray[np.int16]:
    """The currency of each company's newest amount that is there."""
    money = samples.there & (samples.currency != NO_CURRENCY)
    if not money.size:
        return np.full(len(money), NO_CURRENCY, np.int16)
    newest = money.shape[1] - 1 - money[:, ::-1].argmax(axis=1)
    found = samples.currency[np.arange(len(money)), newest]
    return np.where(money.any(axis=1), found, np.int16(NO_CURRENCY))
