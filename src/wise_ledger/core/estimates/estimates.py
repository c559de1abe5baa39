"""Estimates of all companies as known: consensus by horizon,
surprise of the latest actual (E2 to E4).
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.dated.series import DatedSeries
from wise_ledger.core.estimates.consensus import Basis, consensus
from wise_ledger.core.estimates.contributions import (
    FOREVER,
    QUARTER,
    YEAR,
    Actuals,
    Contributions,
    target,
)
from wise_ledger.core.estimates.surprises import surprises
from wise_ledger.core.money.currencies import NO_CURRENCY
from wise_ledger.core.records.limits import LIMITS
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import month_of, shift_months
from wise_ledger.core.timelines.keys import key_company, key_end

Whole = NDArray[np.int64]
Numbers = NDArray[np.float64]
HORIZONS = ("q1", "q2", "fy1", "fy2", "fy3", "ntm")
# statistics that the next twelve months have
BLENDED = frozenset({"mean", "median", "high", "low"})
NEXT = 365  # days of the next twelve months
NOTHING = np.iinfo(np.int32).min


@dataclass(frozen=True, eq=False)
class Measure:
    """What is known of one measure: contributions and actuals by the kind of period,
    and its unit's power of shares.

    `since` is the instant from which on it is a measure of anybody's estimates:
    its figures announce no period before (E3, T9).
    """

    contributions: Mapping[int, Contributions]
    actuals: Mapping[int, Actuals]
    power: int = 0
    since: int = 0

    def announced(self, kind: int) -> Whole:
        """Since when each actual of a kind is one of an estimate."""
        return np.maximum(self.actuals[kind].announced, self.since)


@dataclass(frozen=True, eq=False)
class Estimates:
    """Estimates of all companies. `basis` makes a `Basis` of a power of shares.

    `year_end` gives the month in which each company's fiscal year ends as known at cut-offs,
    (companies, cut-offs). A surprise stands for `stale_after` days after its period's end (F12).
    """

    measures: Mapping[str, Measure]
    basis: Callable[[int], Basis]
    year_end: Callable[[Whole, Whole], Whole]
    stale_after: int = LIMITS["stale_after"].usual

    def estimate(
        self,
        measure: str,
        horizon: str,
        statistic: str,
        members: Whole,
        cutoffs: Whole,
        currency: Whole,
        of: Whole | None = None,
    ) -> Values:
        """The consensus of companies (down) at cut-offs (across),
        in `currency` cell by cell (E2, E3).

        `of` are the later dates whose target periods are meant, one a cut-off; the cut-offs' own
        without it.
        """
        later = cutoffs if of is None else of
        if horizon == "ntm":
            return self._next_twelve_months(measure, statistic, members, cutoffs, currency, later)
        kind, number = (QUARTER if horizon[0] == "q" else YEAR), int(horizon[-1])
        ends = self.period(kind, number, members, later)
        return self.consensus_for(measure, kind, statistic, members, ends, cutoffs, currency)

    def consensus_for(
        self,
        measure: str,
        kind: int,
        statistic: str,
        members: Whole,
        ends: Whole,
        cutoffs: Whole,
        currency: Whole,
    ) -> Values:
        """The consensus for the periods that end at `ends`, (companies, cut-offs);
        none where `ends` is `NOTHING`.
        """
        shape = ends.shape
        of = self.measures.get(measure)
        contributions = None if of is None else of.contributions.get(kind)
        counted = statistic in ("count", "raised", "cut")
        money = (np.full(shape, NO_CURRENCY) if counted else currency).astype(np.int16)
        if of is None or contributions is None:
            none = np.full(shape, Reason.NO_ESTIMATES, np.uint8)
            return Values.known(np.full(shape, np.nan), none, currency=money)
        keys = target(np.repeat(members, shape[1]), np.where(ends == NOTHING, 0, ends).ravel())
        at = np.tile(cutoffs, shape[0])
        found = consensus(
            contributions, self.basis(of.power), keys, at, currency.ravel(), (statistic,)
        )
        value, reason = (c.reshape(shape) for c in found.of(statistic))
        reason = np.where(ends == NOTHING, np.uint8(Reason.NO_ESTIMATES), reason)
        return Values.known(value, reason.astype(np.uint8), currency=money)

    def stated_in(self, members: Whole, cutoffs: Whole) -> Whole:
        """The currency of the newest contribution to any measure of each company as known at each
        cut-off, -1 without any: for companies of which no other is known.
        """
        series, currency = self._stated
        return np.append(currency, -1).astype(np.int64)[series.read(members, cutoffs)]

    @cached_property
    def _stated(self) -> tuple[DatedSeries, NDArray[np.int16]]:
        found = [c for m in self.measures.values() for c in m.contributions.values()]
        key = np.concatenate([np.empty(0, np.int64), *(c.key for c in found)])
        at = np.concatenate([np.empty(0, np.int64), *(c.at for c in found)])
        currency = np.concatenate([np.empty(0, np.int16), *(c.currency for c in found)])
        return DatedSeries(key_company(key), at // DAY, at), currency

    # ---- which period

    @cached_property
    def _announced(self) -> dict[int, DatedSeries]:
        """By kind: the periods of each company for which an actual of any
        measure is known, since when.
        """
        out = {}
        for kind in (YEAR, QUARTER):
            found = [m for m in self.measures.values() if kind in m.actuals]
            key = np.concatenate([np.empty(0, np.int64), *(m.actuals[kind].key for m in found)])
            at = np.concatenate([np.empty(0, np.int64), *(m.announced(kind) for m in found)])
            out[kind] = DatedSeries(key_company(key), key_end(key).astype(np.int64), at)
        return out

    def latest_announced(self, kind: int, members: Whole, cutoffs: Whole) -> Whole:
        """The end of the latest period announced of each company at each
        cut-off, `NOTHING` without any.
        """
        series = self._announced[kind]
        row = series.read(members, cutoffs)
        ends = np.append(series.date, NOTHING)
        return np.asarray(ends[row])

    def announced_at(self, kind: int, keys: Whole) -> Whole:
        """The instant at which an actual of any measure was first known for
        each target, `FOREVER` where never.
        """
        out = np.full(len(keys), FOREVER)
        for measure in self.measures.values():
            rows = measure.actuals[kind].rows(keys)
            out = np.minimum(out, np.append(measure.announced(kind), FOREVER)[rows])
        return out

    @cached_property
    def _expected(self) -> dict[int, tuple[Whole, Whole, Whole]]:
        """By kind: the targets of the contributions to any measure that are no withdrawals, and
        from when until when each stands, by target.
        """
        out = {}
        for kind in (YEAR, QUARTER):
            found = [
                m.contributions[kind] for m in self.measures.values() if kind in m.contributions
            ]
            given = [~np.isnan(c.value) for c in found]
            key, at, until = (
                np.concatenate(
                    [np.empty(0, np.int64)]
                    + [getattr(c, name)[own] for c, own in zip(found, given, strict=True)]
                )
                for name in ("key", "at", "until")
            )
            order = np.argsort(key, kind="stable")
            out[kind] = key[order], at[order], until[order]
        return out

    def period(self, kind: int, number: int, members: Whole, cutoffs: Whole) -> Whole:
        """The end of the `number`-th full period after the latest announced
        one (E3), (companies, cut-offs).

        Of a company without an actual the first is the earliest with estimates that stand then.
        """
        latest = self.latest_announced(kind, members, cutoffs)
        known = latest != NOTHING
        first = np.where(
            known,
            self._following(kind, latest, members, cutoffs),
            self._earliest(kind, members, cutoffs, latest),
        )
        there = first != NOTHING
        moved = shift_months(
            np.where(there, first, 0).ravel().astype(np.int32), kind * (number - 1)
        )
        return np.where(there, moved.reshape(first.shape).astype(np.int64), NOTHING)

    def _following(self, kind: int, latest: Whole, members: Whole, cutoffs: Whole) -> Whole:
        """The end of the first full period after one;
        after a change of year end that of the first new whole year.
        """
        ends = np.where(latest == NOTHING, 0, latest).astype(np.int32)
        after = shift_months(ends.ravel(), kind).reshape(ends.shape)
        if kind == YEAR:
            month = self.year_end(members, cutoffs)
            gap = np.where(
                month > 0, (month - month_of(after.ravel()).reshape(after.shape)) % 12, 0
            )
            for months in np.unique(gap[gap > 0]).tolist():
                own = gap == months
                after[own] = shift_months(after[own], months)
        return after.astype(np.int64)

    def _earliest(self, kind: int, members: Whole, cutoffs: Whole, latest: Whole) -> Whole:
        """The end of the earliest period with estimates of any measure that stand at each cut-off,
        of companies where the `latest` announced is not always known.
        """
        key, at, until = self._expected[kind]
        company, out = key_company(key), np.full((len(members), len(cutoffs)), NOTHING, np.int64)
        low, high = (
            np.searchsorted(company, members, "left"),
            np.searchsorted(company, members, "right"),
        )
        for n in np.flatnonzero((high > low) & (latest == NOTHING).any(axis=1)).tolist():
            own = slice(low[n], high[n])
            stands = (at[own, None] <= cutoffs) & (cutoffs < until[own, None])
            some = stands.any(axis=0)
            out[n, some] = key_end(key[own])[stands.argmax(axis=0)[some]]
        return out

    def _next_twelve_months(
        self,
        measure: str,
        statistic: str,
        members: Whole,
        cutoffs: Whole,
        currency: Whole,
        later: Whole,
    ) -> Values:
        """Each fiscal year's consensus by its days inside the 365 days after the later date."""
        first, second, weight = self.blended(members, later)
        there = first != NOTHING
        a = self.consensus_for(measure, YEAR, statistic, members, first, cutoffs, currency)
        b = self.consensus_for(
            measure,
            YEAR,
            statistic,
            members,
            second,
            cutoffs,
            currency,
        )
        # Of two years for which the same is expected it is that, to the last bit.
        blended = a.value + (1 - weight) * (b.value - a.value)
        value = np.select([weight >= 1, weight <= 0], [a.value, b.value], blended)
        reason = np.where(
            (weight > 0) & (a.reason != 0), a.reason, np.where(weight < 1, b.reason, np.uint8(0))
        )
        reason = np.where(there, reason, np.uint8(Reason.NO_ESTIMATES))
        return Values.known(value, reason.astype(np.uint8), currency=a.currency)

    def blended(self, members: Whole, cutoffs: Whole) -> tuple[Whole, Whole, Numbers]:
        """The ends of the two fiscal years in the 365 days after each cut-off, `NOTHING` where none
        is known, and the weight of the first: its part of these days.
        """
        first = self._year_running(members, cutoffs)
        there = first != NOTHING
        second = shift_months(np.where(there, first, 0).ravel().astype(np.int32), 12)
        weight = np.clip(first - (cutoffs // DAY)[None, :], 0, NEXT) / NEXT
        later = np.where(there, second.reshape(first.shape), NOTHING).astype(np.int64)
        return first, later, weight

    def _year_running(self, members: Whole, cutoffs: Whole) -> Whole:
        """The end of the fiscal year that holds the day after each cut-off, as known then."""
        month = self.year_end(members, cutoffs)
        latest = self.latest_announced(YEAR, members, cutoffs)
        earliest = self._earliest(YEAR, members, cutoffs, latest)
        anchor = np.where(latest != NOTHING, latest, earliest)
        some = anchor != NOTHING
        ending = (
            month_of(np.where(some, anchor, 0).ravel().astype(np.int32))
            .reshape(anchor.shape)
            .astype(np.int64)
        )
        month = np.where(month > 0, month, np.where(some, ending, 0))
        day = (cutoffs // DAY + 1)[None, :] + np.zeros(month.shape, np.int64)
        of_day = day.astype("M8[D]").astype("M8[M]").astype(np.int64)
        gap = (month - 1 - of_day % 12) % 12
        ends = (of_day + gap + 1).astype("M8[M]").astype("M8[D]").astype(np.int64) - 1
        return np.where(month > 0, ends, NOTHING)

    # ---- surprise

    def surprise(
        self,
        measure: str,
        how: str,
        members: Whole,
        cutoffs: Whole,
        currency: Whole,
        kind: int | None = None,
    ) -> Values:
        """E4: the latest actual less the consensus mean at the instant before it:
        `amount`, `relative`, `deviations`.

        Of a year and a quarter that end together the quarter, unless a kind is asked for.
        """
        shape = (len(members), len(cutoffs))
        of = self.measures.get(measure)
        ends, kinds, rows = self.latest_actual(of, members, cutoffs, kind)
        value = np.full(shape, np.nan)
        reason = np.full(shape, Reason.NO_ESTIMATES, np.uint8)
        if of is not None:
            for each in np.unique(kinds[kinds > 0]).tolist():
                cells = np.nonzero(kinds == each)
                value[cells], reason[cells] = self._surprised(
                    of, each, how, members, cutoffs, currency, ends, rows, cells
                )
        old = (cutoffs // DAY)[None, :] - ends > self.stale_after
        reason = np.where((ends != NOTHING) & old, np.uint8(Reason.STALE), reason)
        money = currency if how == "amount" else np.full(shape, NO_CURRENCY)
        return Values.known(value, reason.astype(np.uint8), currency=money.astype(np.int16))

    def latest_actual(
        self, of: Measure | None, members: Whole, cutoffs: Whole, kind: int | None = None
    ) -> tuple[Whole, Whole, Whole]:
        """Of the latest actual of a measure its period's end (`NOTHING` without one), kind and row,
        (companies, cut-offs): of a year and a quarter that end together the quarter's.
        """
        shape = (len(members), len(cutoffs))
        ends, kinds, rows = (np.full(shape, n, np.int64) for n in (NOTHING, 0, -1))
        for each in (YEAR, QUARTER) if kind is None else (kind,):
            if of is None or each not in of.actuals:
                continue
            latest = self._latest_of(of, each, members, cutoffs)
            keys = target(
                np.repeat(members, shape[1]), np.where(latest == NOTHING, 0, latest).ravel()
            )
            found = of.actuals[each].rows(keys).reshape(shape)
            take = (latest != NOTHING) & (latest >= ends)
            ends, kinds, rows = (
                np.where(take, latest, ends),
                np.where(take, each, kinds),
                np.where(take, found, rows),
            )
        return ends, kinds, rows

    def _latest_of(self, of: Measure, kind: int, members: Whole, cutoffs: Whole) -> Whole:
        key = of.actuals[kind].key
        series = DatedSeries(key_company(key), key_end(key).astype(np.int64), of.announced(kind))
        return np.asarray(np.append(series.date, NOTHING)[series.read(members, cutoffs)])

    def _surprised(
        self,
        of: Measure,
        kind: int,
        how: str,
        members: Whole,
        cutoffs: Whole,
        currency: Whole,
        ends: Whole,
        rows: Whole,
        cells: tuple[Whole, ...],
    ) -> tuple[Numbers, NDArray[np.uint8]]:
        contributions, row = of.contributions.get(kind), rows[cells]
        if contributions is None:
            none = np.full(len(row), Reason.NO_ESTIMATES, np.uint8)
            return np.full(len(row), np.nan), none
        keys, into = target(members[cells[0]], ends[cells]), currency[cells].astype(np.int64)
        at, basis = cutoffs[cells[1]], self.basis(of.power)
        return surprises(of.actuals[kind], contributions, basis, keys, row, at, into).of(how)
