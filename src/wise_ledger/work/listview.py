"""A list looked at: its members on a day with chosen figures, and the versions it went through."""

from dataclasses import dataclass

from wise_ledger.core.answers.cells import Cell, Column
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.identity.matching import Matcher, Policy
from wise_ledger.core.screening.figures import figures
from wise_ledger.core.screening.screen import Verdict, screen
from wise_ledger.core.time.instants import DAY, micros
from wise_ledger.core.time.periods import day
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store import listreading
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.listreading import ListInfo, ListVersion
from wise_ledger.work import lists
from wise_ledger.work.currencies import in_currency
from wise_ledger.work.desk import Desk
from wise_ledger.work.match import CompanyShown, shown


@dataclass(frozen=True)
class Member:
    """A member with its cells in the order of the columns; `periods` are their fiscal labels."""

    company: CompanyShown
    weight: float | None
    cells: tuple[Cell, ...]
    periods: tuple[str | None, ...]


@dataclass(frozen=True)
class ListView:
    """The members of a list on a day, by name;
    of `unknown` more the filter says neither yes nor no.
    """

    info: ListInfo
    batch: int
    columns: tuple[Column, ...]
    members: tuple[Member, ...]
    unknown: int


def view(
    desk: Desk,
    viewpoint: Viewpoint,
    name: str,
    *,
    where: str | None = None,
    show: tuple[str, ...] = (),
    with_inactive: bool = True,
) -> ListView:
    """The members of a list on a day, all or those of whom the rule `where` is true,
    with the expressions `show`.

    Raises `NotFound` for the list and `ExpressionError` for the rule or an expression.
    """
    snapshot, cutoff = desk.snapshots.of(viewpoint), viewpoint.cutoff
    ledger, today = desk.ledger, cutoff // DAY
    info = lists.find_list(ledger, name, snapshot.batch)
    weights = lists.weights(ledger, snapshot, name, cutoff)
    numbers = sorted(weights)
    unknown = 0
    if where is not None:
        judged = screen(snapshot.view, where, numbers, viewpoint).rows
        unknown = sum(j.verdict is Verdict.UNKNOWN for j in judged)
        numbers = [j.company for j in judged if j.verdict is Verdict.PASS]
    table = figures(snapshot.view, show, numbers, in_currency(snapshot, viewpoint))
    matcher = Matcher(snapshot.universe, today, Policy(frozenset({"ordinary"}), ever=True))
    found = []
    for number, cells in zip(numbers, table.rows, strict=True):
        company = shown(snapshot, matcher.candidate(number, ""), today)
        if with_inactive or company.active:
            labels = (
                None if c.end is None else snapshot.label(number, day(c.end), cutoff) for c in cells
            )
            found.append(Member(company, weights.get(number), cells, tuple(labels)))
    found.sort(key=lambda m: m.company.name)
    return ListView(info, snapshot.batch, table.columns, tuple(found), unknown)


@dataclass(frozen=True)
class VersionShown:
    """A version of a list, its companies by name."""

    version: ListVersion
    joined: tuple[str, ...]
    left: tuple[str, ...]


def versions(ledger: Ledger, snapshots: Snapshots, name: str) -> list[VersionShown]:
    """Every change of a list, the newest first: who, when, who came and who
    left; raises `NotFound`.
    """
    lists.find_list(ledger, name)
    snapshot = snapshots.at()
    with ledger.database.read() as connection:
        found = listreading.history(connection, name)

    def names(numbers: tuple[int, ...], at: int) -> tuple[str, ...]:
        return tuple(sorted(snapshot.name(n, at) for n in numbers))

    return [
        VersionShown(
            v, names(v.joined, micros(v.recorded_at)), names(v.left, micros(v.recorded_at))
        )
        for v in found
    ]
