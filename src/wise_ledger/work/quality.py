"""Quality: what checks found, the quarantine and what people said of it,
how a list is filled (Q1 to Q3).
"""

from collections import Counter
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from wise_ledger.core.catalogue.items import Item
from wise_ledger.core.errors import Problem, bad_input
from wise_ledger.core.fiscal.labels import Period
from wise_ledger.core.nearest import check_name
from wise_ledger.core.quality import coverage
from wise_ledger.core.quality.beforehand import Beforehand
from wise_ledger.core.quality.checks import CHECKS, examine
from wise_ledger.core.time.instants import micros
from wise_ledger.core.time.periods import day
from wise_ledger.core.timelines.places import Grid
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store import examining
from wise_ledger.store.batch import BatchWriter
from wise_ledger.store.examining import Listed
from wise_ledger.store.ledger import Ledger
from wise_ledger.words import counted
from wise_ledger.work import NotFound, lists

STATES = ("quarantined", "accepted", "rejected", "flagged")


def examine_new(
    batch: BatchWriter,
    companies: Iterable[int],
    items: Mapping[str, Item],
    beforehand: Beforehand | None = None,
) -> None:
    """Check what a batch brought of some companies, and keep what is found with it; `beforehand` is
    what was found in just these figures, where it holds.
    """
    for company in companies:
        held, template = batch.new_facts_of(company), batch.template_of(company)
        found = beforehand.of(held, template) if beforehand else None
        batch.add_findings(examine(items, held, template) if found is None else found)


@dataclass(frozen=True)
class Shown:
    """A finding as people read it; `state` is quarantined, accepted, rejected or flagged."""

    company: str
    name: str
    title: str
    period: str
    state: str
    listed: Listed


@dataclass(frozen=True)
class Quality:
    """Findings, counted by check, company and source before filters and limit took any away."""

    shown: tuple[Shown, ...]
    total: int
    by_check: dict[str, int]
    by_state: dict[str, int]
    by_company: tuple[tuple[str, str, int], ...]  # id, name, findings; the most first
    by_source: dict[str, int]
    batch: int


def check_filters(check: str | None, checks: Collection[str], state: str | None) -> None:
    """Refuse a check or a state to narrow by that is none."""
    if check is not None:
        check_name("check", check, checks)
    if state is not None:
        check_name("state", state, STATES)


def overview(
    ledger: Ledger,
    snapshots: Snapshots,
    *,
    check: str | None = None,
    state: str | None = None,
    company: str | None = None,
    list_name: str | None = None,
    source: str | None = None,
    limit: int = 200,
    skip: int = 0,
) -> Quality:
    """What checks found, of one company, of a list's members of today or of all.

    Raises `BadInput`, `NotFound`.
    """
    check_filters(check, CHECKS, state)
    snapshot = snapshots.at()
    numbers: set[int] | None = None
    if company is not None:
        numbers = {snapshot.number(company)}
    elif list_name is not None:
        numbers = set(lists.weights(ledger, snapshot, list_name, micros(ledger.now())))
    found = [f for f in _listed(ledger, snapshots) if numbers is None or f.company in numbers]
    by_company = Counter(f.company for f in found)
    kept = [
        f for f in found
        if check in (None, f.check) and state in (None, _state(f)) and source in (None, f.source)
    ]  # fmt: skip
    return Quality(
        tuple(_shown(snapshot, f) for f in kept[skip : skip + limit]),
        len(kept),
        dict(Counter(f.check for f in found).most_common()),
        dict(Counter(_state(f) for f in found)),
        tuple(
            (snapshot.ids[n], snapshot.newest_name(n), count)
            for n, count in by_company.most_common(20)
        ),
        dict(Counter(f.source for f in found).most_common()),
        snapshot.batch,
    )


def _listed(ledger: Ledger, snapshots: Snapshots) -> list[Listed]:
    """All findings of now, read once for every batch."""

    def read() -> list[Listed]:
        with ledger.database.read() as connection:
            return examining.listed(connection, ledger.last_batch())

    return snapshots.once("findings", read)


def _state(found: Listed) -> str:
    if not found.hard:
        return "flagged"
    return "quarantined" if found.accepted is None else "accepted" if found.accepted else "rejected"


def _shown(snapshot: Snapshot, found: Listed) -> Shown:
    item = snapshot.view.items.get(found.item)
    period = Period(found.period_start, found.period_end)
    label = snapshot.view.calendar.label(
        found.company, day(period.nominal_end), micros(found.published_at), period.span
    )
    title = item.title if item else found.item
    return Shown(
        snapshot.ids[found.company],
        snapshot.newest_name(found.company),
        title,
        label,
        _state(found),
        found,
    )


def decide(
    ledger: Ledger, snapshots: Snapshots, facts: Sequence[int], accept: bool, who: str, why: str
) -> tuple[int, int]:
    """Accept or reject facts in quarantine, in one batch: how many, and the batch.

    Raises `BadInput`, `NotFound`.
    """
    for at, value in (("who", who), ("why", why)):
        if not value.strip():
            raise bad_input(
                at,
                "",
                "it is empty",
                "say who decides" if at == "who" else "say what was looked at",
            )
    if not facts:
        raise bad_input("facts", "", "none is named", "name facts in quarantine by their numbers")
    hard = {f.fact for f in _listed(ledger, snapshots) if f.hard}
    for fact in facts:
        if fact not in hard:
            raise NotFound(
                Problem("facts", str(fact), "this fact is not in quarantine", "see those that are")
            )
    note = f"{counted(len(facts), 'fact')} {'accepted' if accept else 'rejected'} by {who.strip()}"
    with ledger.batch("quarantine", note) as batch:
        for fact in dict.fromkeys(facts):
            batch.add_verdict(fact, accept, who.strip(), why.strip())
    return len(set(facts)), ledger.last_batch()


@dataclass(frozen=True)
class Matrix:
    """How many members of a list have each item for a period that ends in each year."""

    list: str
    members: int
    years: tuple[int, ...]
    rows: tuple["MatrixRow", ...]
    batch: int


@dataclass(frozen=True)
class MatrixRow:
    """An item: how many members have it by year, of those whose template has the line."""

    item: str
    title: str
    members: int
    companies: tuple[int, ...]


def matrix(
    ledger: Ledger, snapshots: Snapshots, list_name: str, statement: str | None = None
) -> Matrix:
    """The coverage matrix of a list, its members of today (Q3); raises `NotFound`."""
    snapshot, now = snapshots.at(), micros(ledger.now())
    view, members = (
        snapshot.view,
        np.array(sorted(lists.weights(ledger, snapshot, list_name, now)), np.int64),
    )
    wanted = [i for i in view.items.values() if statement in (None, i.statement)]
    by_item = {i.code: found for i in wanted if (found := coverage.by_year(view.facts(i), members))}
    years = tuple(sorted({year for counts in by_item.values() for year in counts}))
    now_of_members = Grid(members, np.array([now], np.int64), view.companies)
    rows = tuple(
        MatrixRow(
            i.code,
            i.title,
            int(view.applicable(i, now_of_members).sum()),
            tuple(by_item[i.code].get(y, 0) for y in years),
        )
        for i in wanted
        if i.code in by_item
    )
    return Matrix(list_name, len(members), years, rows, snapshot.batch)
