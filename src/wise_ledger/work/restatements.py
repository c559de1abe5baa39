"""The log of restatements: what was told anew, of one company or of many."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np

from wise_ledger.core.facts.instants import micros
from wise_ledger.core.fiscal.labels import Period
from wise_ledger.core.fiscal.periods import day
from wise_ledger.core.market.splits import ROUNDING, ShareBasis
from wise_ledger.store import restating
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.restating import Change
from wise_ledger.work import lists
from wise_ledger.work.snapshots import Snapshot, Snapshots


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
    ledger: Ledger,
    snapshots: Snapshots,
    known_on: datetime,
    since: datetime,
    *,
    company: str | None = None,
    list_name: str | None = None,
    item: str | None = None,
    least: float = 0.0,
    limit: int = 200,
) -> Log:
    """What was told anew from `since` to `known_on`, of a company, of who ever was on a list, or of all.

    `least` leaves out changes of fewer percent; withdrawals always count. Raises `NotFound`.
    """
    snapshot = snapshots.at()
    numbers: set[int] | None = None
    if company is not None:
        numbers = {snapshot.number(company)}
    elif list_name is not None:
        numbers = set(lists.weights(ledger, snapshot, list_name, micros(known_on)))
    with ledger.database.read() as connection:
        told = restating.of_companies(connection, numbers, micros(since), micros(known_on), snapshot.batch)
    changes = on_share_basis(snapshot, told, micros(known_on))
    items = snapshot.view.items
    changes = [
        c for c in changes
        if (item is None or c.item == item) and (c.percent is None or abs(c.percent) >= least) and c.item in items
    ]  # fmt: skip
    calendar = snapshot.view.calendar
    out = []
    for c in changes[:limit]:
        period = Period(c.period_start, c.period_end)
        label = calendar.label(c.company, day(period.nominal_end), period.span)
        name = snapshot.name(c.company, micros(known_on))
        out.append(Restatement(snapshot.ids[c.company], name, label, items[c.item].title, c))
    return Log(tuple(out), len(changes), snapshot.batch)


def on_share_basis(snapshot: Snapshot, changes: Sequence[Change], cutoff: int) -> list[Change]:
    """Per-share values and share counts on the share basis of the cut-off, without what a split alone explains (M3)."""
    splits = snapshot.view.splits
    bases = {unit: ShareBasis.of(splits, unit) for unit in ("money_per_share", "shares")} if splits else {}
    out = []
    for c in changes:
        basis = bases.get("money_per_share" if c.unit.endswith("/shares") else c.unit)
        if basis is None:
            out.append(c)
            continue
        at = np.array([*c.instants, cutoff], np.int64)
        upto = basis.upto(np.full(len(at), c.company, np.int64), at)
        moved = upto[-1] / upto[:-1]
        told = zip((c.old, c.new, c.original, c.latest), moved.tolist(), strict=True)
        old, new, original, latest = (None if v is None else v * factor for v, factor in told)
        same = old is not None and new is not None and abs(new - old) <= ROUNDING * abs(old)
        if not (same and moved[0] != moved[1]):
            out.append(replace(c, old=old, new=new, original=original, latest=latest))
    return out
