"""Estimates of companies as known on a date: periods, who is in a consensus,
its walk, announcements.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.catalogue.items import Nature
from wise_ledger.core.errors import Problem, bad_input
from wise_ledger.core.estimates.contributions import MEASURES, QUARTER, YEAR
from wise_ledger.core.estimates.estimates import Estimates
from wise_ledger.core.estimates.expected import ExpectedAnnouncement, expected_announcements
from wise_ledger.core.estimates.known import EstimateRows
from wise_ledger.core.estimates.ofcompany import (
    Announced,
    Expectation,
    Mean,
    Opinion,
    Supplied,
    announced_between,
    consensus_of,
    expectations,
    opinions,
    supplied,
    walk,
)
from wise_ledger.core.language.view import estimates_on
from wise_ledger.core.money.currencies import currency_name
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.time.instants import DAY, end_of_day, micros, start_of_day
from wise_ledger.core.time.periods import as_date
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.work.currencies import in_currency
from wise_ledger.work.desk import Desk
from wise_ledger.work.estimatecurrency import EstimateCurrencies
from wise_ledger.work.whom import read_whom

KINDS = {YEAR: "fy", QUARTER: "q"}
_STEPS = 60  # points of a walk
_BACK, _AHEAD = 30, 60  # days of a calendar


@dataclass(frozen=True)
class CompanyEstimates:
    """What is expected of a company in one measure; `labels` of the period ends,
    `houses` of contributors.
    """

    company: str
    name: str
    symbol: str | None
    measure: str
    unit: str
    currency: str | None
    periods: list[Expectation]
    chosen: Expectation | None
    opinions: list[Opinion]
    supplied: list[Supplied]
    walk_days: list[date]
    walk: dict[str, list[float | None]]
    walk_reasons: list[str | None]
    labels: dict[tuple[int, int], str]
    houses: Sequence[str]
    sources: Sequence[str]
    max_age: int  # days that a contribution stands
    batch: int


@dataclass(frozen=True)
class CalendarEntry:
    """A period that was announced, or is expected to be: `state` is
    announced, expected, assumed or overdue.
    """

    company: str
    name: str
    symbol: str | None
    label: str
    kind: int
    end: int
    at: int
    state: str
    mean: float | None
    count: float | None
    reason: str | None  # why there is no mean, of what was announced no surprise
    announced: Announced | None
    currency: str | None


@dataclass(frozen=True)
class Calendar:
    """What companies announced and are expected to announce between two
    dates, both included, in that order.
    """

    entries: list[CalendarEntry]
    measure: str
    first: date
    last: date
    batch: int
    failed: tuple[Problem, ...] = ()  # companies that were named and are not found


@dataclass(frozen=True)
class Announcements:
    """What companies announced between two dates, both included."""

    # with company id, name, symbol, period label
    rows: list[tuple[Announced, str, str, str | None, str]]
    measure: str
    first: date
    last: date
    max_age: int  # days that a contribution stands
    batch: int
    failed: tuple[Problem, ...] = ()  # companies that were named and are not found


def read_measure(snapshot: Snapshot, text: str) -> str:
    """The item that a measure of estimates is tied to; raises `BadInput`."""
    code = MEASURES.get(text, text)
    item = snapshot.view.items.get(code)
    if item is None or item.nature is not Nature.FLOW:
        known = [*MEASURES, *snapshot.view.estimates.measures]
        raise bad_input("measure", text, "nothing of this name is estimated", mend_for(text, known))
    return code


def read_estimates(
    desk: Desk,
    viewpoint: Viewpoint,
    company: str,
    measure: str = "eps",
    period: str | None = None,
    max_age: int | None = None,
) -> CompanyEstimates:
    """A company's periods, the newest first; of the one named by its label,
    else the first not announced, more.

    A contribution stands for `max_age` days at most, without it for those of the limit that stands.
    Raises `BadInput` and `NotFound`.
    """
    snapshot = desk.snapshots.of(viewpoint)
    in_currency(snapshot, viewpoint)
    number, cutoff = snapshot.number(company, viewpoint.cutoff), viewpoint.cutoff
    code = read_measure(snapshot, measure)
    currencies = EstimateCurrencies(snapshot, viewpoint, [number])
    own, currency = currencies.own[number], currencies.shown[number]
    rows = snapshot.view.plain.given_estimates()
    stands = _stands(snapshot, max_age)
    estimates = _estimates(snapshot, rows.only(code, number), stands)
    found = expectations(estimates, code, number, cutoff, own)
    periods = [currencies.expectation(number, e) for e in found]
    labels = {
        (e.kind, e.end): snapshot.target_label(number, e.end, cutoff, e.kind) for e in periods
    }
    chosen = _chosen(periods, labels, period)
    contributors: list[Opinion] = []
    given: list[Supplied] = []
    days: list[date] = []
    walked: dict[str, list[float | None]] = {}
    lacks: list[str | None] = []
    if chosen is not None:
        period_of = code, chosen.kind, number, chosen.end, cutoff, own
        rate = currencies.rate(number, chosen.announced.at if chosen.announced else None)
        contributors = [
            o.shown_in(currency, rate) for o in opinions(estimates, rows, *period_of, stands)
        ]
        given = [s.shown_in(rate) for s in supplied(estimates, rows, *period_of)]
        last = min(cutoff // DAY, chosen.announced.at // DAY if chosen.announced else cutoff // DAY)
        first = min(last, chosen.end - (540 if chosen.kind == YEAR else 200))
        steps = np.unique(np.linspace(first, last, _STEPS).astype(np.int64))
        at = np.minimum((steps + 1) * DAY - 1, cutoff)
        if chosen.announced:  # the last point is what was expected the instant before
            at = np.minimum(at, chosen.announced.at - 1)
        rates = np.array([currencies.rate(number, at_) for at_ in at.tolist()])
        walked, lacks = walk(estimates, code, chosen.kind, number, chosen.end, at, own, rates)
        days = [as_date(int(d)) for d in steps]
    return CompanyEstimates(
        snapshot.ids[number],
        snapshot.name(number, cutoff),
        snapshot.symbol(number, cutoff),
        measure,
        snapshot.view.items[code].unit,
        currency_name(currency),
        periods,
        chosen,
        contributors,
        given,
        days,
        walked,
        lacks,
        labels,
        rows.houses,
        rows.sources,
        stands,
        snapshot.batch,
    )


def _stands(snapshot: Snapshot, max_age: int | None) -> int:
    """How many days a contribution stands: as asked, else as the limit is set (E2)."""
    return snapshot.view.limits.days("estimate_stands") if max_age is None else max_age


def _estimates(snapshot: Snapshot, rows: EstimateRows, max_age: int) -> Estimates:
    """Those that the language reads, or of some rows alone where
    contributions shall stand for another time.
    """
    if max_age == _stands(snapshot, None):
        return snapshot.view.estimates
    return estimates_on(snapshot.view, rows, max_age)


def _chosen(
    periods: list[Expectation], labels: dict[tuple[int, int], str], period: str | None
) -> Expectation | None:
    if period is not None:
        found = next((e for e in periods if labels[e.kind, e.end] == period), None)
        if found is None:
            problem = "nothing was expected of this period by then"
            raise bad_input("period", period, problem, mend_for(period, labels.values()))
        return found
    waiting = [e for e in periods if e.announced is None and e.values["count"]]
    return min(
        waiting, key=lambda e: (e.kind == QUARTER, e.end), default=periods[0] if periods else None
    )


def read_announcements(
    desk: Desk,
    viewpoint: Viewpoint,
    since: date | None,
    until: date | None,
    list_name: str | None = None,
    companies: Sequence[str] = (),
    measure: str = "eps",
    max_age: int | None = None,
) -> Announcements:
    """What a list's members, companies or everybody announced from a day to a
    day, both included.
    """
    snapshot = desk.snapshots.of(viewpoint)
    in_currency(snapshot, viewpoint)
    code, today = read_measure(snapshot, measure), as_date(viewpoint.cutoff // DAY)
    last = min(until or today, today)
    first = since or last - timedelta(365)
    if last < first:
        raise bad_input(
            "end",
            last,
            f"it is before the start, {first}",
            "swap the two dates, or ask for earlier ones",
        )
    whom = read_whom(desk, snapshot, viewpoint.cutoff, list_name, companies)
    currencies = EstimateCurrencies(snapshot, viewpoint, whom.numbers)
    stands = _stands(snapshot, max_age)
    estimates = _estimates(snapshot, snapshot.view.plain.given_estimates().only(code), stands)
    found = announced_between(
        estimates, code, set(whom.numbers), micros(start_of_day(first)),
        min(micros(end_of_day(last)), viewpoint.cutoff), currencies.own,
    )  # fmt: skip
    rows = [
        (
            a, snapshot.ids[a.company], snapshot.name(a.company, viewpoint.cutoff),
            snapshot.symbol(a.company, viewpoint.cutoff),
            snapshot.target_label(a.company, a.end, viewpoint.cutoff, a.kind),
        )
        for a in map(currencies.announced, found)
    ]  # fmt: skip
    return Announcements(rows, measure, first, last, stands, snapshot.batch, whom.failed)


def read_calendar(
    desk: Desk,
    viewpoint: Viewpoint,
    since: date | None,
    until: date | None,
    list_name: str | None = None,
    companies: Sequence[str] = (),
    measure: str = "eps",
) -> Calendar:
    """What a list's members, companies or everybody announced, and are expected to,
    between two days, both included.

    A month back and two ahead without the days. Raises `BadInput`.
    """
    snapshot = desk.snapshots.of(viewpoint)
    in_currency(snapshot, viewpoint)
    code, cutoff = read_measure(snapshot, measure), viewpoint.cutoff
    today = as_date(cutoff // DAY)
    first, last = since or today - timedelta(_BACK), until or today + timedelta(_AHEAD)
    if last < first:
        raise bad_input(
            "end",
            last,
            f"it is before the start, {first}",
            "swap the two dates, or ask for earlier ones",
        )
    whom = read_whom(desk, snapshot, cutoff, list_name, companies)
    currencies = EstimateCurrencies(snapshot, viewpoint, whom.numbers)
    begin, stop = micros(start_of_day(first)), micros(end_of_day(last))
    estimates = snapshot.view.estimates
    announced = announced_between(
        estimates, code, set(whom.numbers), begin, min(stop, cutoff), currencies.own
    )
    announced = [currencies.announced(a) for a in announced]
    rows = snapshot.view.plain.given_estimates().expected
    waiting = [
        e
        for e in expected_announcements(estimates, rows, whom.numbers, cutoff)
        if begin <= e.at <= stop
    ]
    means = consensus_of(
        estimates, code, [(e.company, e.kind, e.end) for e in waiting], cutoff, currencies.own
    )

    def entry(of: Announced | ExpectedAnnouncement, state: str, mean: Mean) -> CalendarEntry:
        n = of.company
        return CalendarEntry(
            snapshot.ids[n],
            snapshot.name(n, cutoff),
            snapshot.symbol(n, cutoff),
            snapshot.target_label(n, of.end, cutoff, of.kind),
            of.kind,
            of.end,
            of.at,
            state,
            mean.value,
            mean.count,
            mean.reason,
            of if isinstance(of, Announced) else None,
            currency_name(currencies.shown[n]),
        )

    entries = [
        entry(a, "announced", Mean(a.expected["mean"], a.expected["count"], a.reason))
        for a in announced
    ]
    for e, mean in zip(waiting, means, strict=True):
        state = "overdue" if e.at <= cutoff else "expected" if e.stated else "assumed"
        entries.append(entry(e, state, mean.shown_in(currencies.rate(e.company))))
    return Calendar(
        sorted(entries, key=lambda e: (e.at, e.name)),
        measure,
        first,
        last,
        snapshot.batch,
        whom.failed,
    )
