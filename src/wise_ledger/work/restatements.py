"""The log of restatements: what was told anew, of one company or of many."""

from dataclasses import dataclass
from datetime import datetime

from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.fiscal.labels import Period
from wise_ledger.core.time.instants import micros
from wise_ledger.core.time.periods import day
from wise_ledger.store import restating
from wise_ledger.store.restating import Change
from wise_ledger.work import lists
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
) -> Log:
    """What was restated from `since` to the cut-off, of a company, of who ever was on a list, or of all.

    `least` leaves out changes of fewer percent; withdrawals always count. Raises `NotFound`.
    """
    snapshot, ledger, known_on = desk.snapshots.of(viewpoint), desk.ledger, viewpoint.known_on
    numbers: set[int] | None = None
    if company is not None:
        numbers = {snapshot.number(company, viewpoint.cutoff)}
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
        label = calendar.label(c.company, day(period.nominal_end), micros(known_on), period.span)
        name = snapshot.name(c.company, micros(known_on))
        out.append(Restatement(snapshot.ids[c.company], name, label, items[c.item].title, c))
    return Log(tuple(out), len(changes), snapshot.batch)
