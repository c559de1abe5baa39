"""The log of restatements: what was restated, of one company or of many."""

from dataclasses import dataclass, replace
from datetime import datetime
from math import isnan

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.catalogue.items import Item
from wise_ledger.core.fiscal.labels import Period
from wise_ledger.core.money.currencies import currency_code
from wise_ledger.core.money.rates import amount_at, last_day, rate_of
from wise_ledger.core.time.instants import as_instant, micros
from wise_ledger.core.time.periods import ABSENT, as_date, day
from wise_ledger.core.timelines.changes import Changes
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.store import restating
from wise_ledger.store.restating import Change
from wise_ledger.work import lists
from wise_ledger.work.currencies import in_currency
from wise_ledger.work.desk import Desk
from wise_ledger.work.sharebasis import on_share_basis


@dataclass(frozen=True)
class Restatement:
    """A change with the company's name and the label of its period."""

    company: str
    name: str
    period: str
    title: str
    change: Change


@dataclass(frozen=True)
class Log:
    """The newest first; `total` counts those that a limit left out too."""

    entries: tuple[Restatement, ...]
    total: int
    batch: int


def log(
    desk: Desk,
    viewpoint: Viewpoint,
    since: datetime,
    *,
    company: str | None = None,
    list_name: str | None = None,
    item: str | None = None,
    least: float = 0.0,
    limit: int = 200,
    skip: int = 0,
) -> Log:
    """What was restated from `since` to the cut-off, of a company, of who
    ever was on a list, or of all.

    `least` leaves out changes of fewer percent; withdrawals always count. Raises `NotFound`.
    """
    snapshot, ledger, until = desk.snapshots.of(viewpoint), desk.ledger, viewpoint.cutoff
    in_currency(snapshot, viewpoint)
    numbers: set[int] | None = None
    if company is not None:
        numbers = {snapshot.number(company, until)}
    elif list_name is not None:
        numbers = set(lists.weights(ledger, snapshot, list_name, until))
    chosen = None if numbers is None else np.array(sorted(numbers), np.int64)
    changes = [
        change
        for i in snapshot.view.items.values()
        if item in (None, i.code)
        for change in _of_item(snapshot, i, micros(since), until, chosen)
        if change.percent is None or abs(change.percent) >= least
    ]
    changes.sort(key=lambda c: (-c.instants[1], c.company, c.item, c.period_end))
    first = changes[skip : skip + limit]
    with ledger.database.read() as connection:
        filed = restating.filed_in(connection, [c.fact for c in first])
    out = []
    for c in first:
        by = filed[c.fact]
        shown = replace(c, document=by.document, sha256=by.sha256, source=by.source, unit=by.unit)
        period = Period(c.period_start, c.period_end)
        if viewpoint.currency is not None:
            shown = _converted(snapshot, shown, period, viewpoint.currency, until)
        label = snapshot.view.calendar.label(c.company, day(period.nominal_end), until, period.span)
        title = snapshot.view.items[c.item].title
        out.append(
            Restatement(
                snapshot.ids[c.company], snapshot.name(c.company, until), label, title, shown
            )
        )
    return Log(tuple(out), len(changes), snapshot.batch)


def _converted(
    snapshot: Snapshot, change: Change, period: Period, currency: str, cutoff: int
) -> Change:
    """An amount in another currency, at the mean rate of its nominal period, else that of its end
    (M2); as it is where there is no rate, which its unit says.
    """
    own, slash, per = change.unit.partition("/")
    if len(own) != 3 or own == currency:
        return change
    known = int(last_day(np.array([cutoff]))[0])
    start = None if period.nominal_start is None else day(period.nominal_start)
    codes = currency_code(own), currency_code(currency)
    rate = rate_of(snapshot.view.rates, *codes, start, min(day(period.nominal_end), known), cutoff)
    names = ("old", "new", "original", "latest")
    given = {n: v for n in names if (v := getattr(change, n)) is not None}
    amounts = {n: amount_at(v, rate) for n, v in given.items()}
    if any(isnan(v) for v in amounts.values()):
        return change
    return replace(change, unit=f"{currency}{slash}{per}", **amounts)


def _of_item(
    snapshot: Snapshot, item: Item, since: int, until: int, companies: NDArray[np.int64] | None
) -> list[Change]:
    """The changes of one item, on the share basis of the cut-off (M3);
    their documents are read later.
    """
    facts = snapshot.view.facts(item)
    found = Changes.of(facts, since, until, companies)
    four = (found.before, found.now, found.original, found.latest)
    values = [[None if isnan(v) else v for v in facts.value[rows].tolist()] for rows in four]
    instants = zip(*(facts.at[rows].tolist() for rows in four), strict=True)
    now = facts.where(found.now)
    unit = {"money_per_share": "/shares", "shares": "shares"}.get(item.unit, "")
    starts = [None if s == ABSENT else as_date(s) for s in now.start.tolist()]
    changes = [
        Change(c, item.code, start, as_date(end), unit, *v, as_instant(at[1]), "", "", "", at, fact)
        for c, start, end, *v, at, fact in zip(
            now.company.tolist(),
            starts,
            now.end.tolist(),
            *values,
            instants,
            now.fact.tolist(),
            strict=True,
        )
    ]
    return on_share_basis(snapshot, changes, until) if unit else changes
