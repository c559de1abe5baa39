"""Screen a list by a rule, as known on a date."""

from dataclasses import dataclass
from datetime import datetime

from wise_ledger.core.answers.cells import Cell, Column
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.screening.screen import Judged, Verdict, screen
from wise_ledger.core.time.periods import day
from wise_ledger.engine.snapshots import Snapshot
from wise_ledger.work import lists
from wise_ledger.work.currencies import in_currency
from wise_ledger.work.desk import Desk


@dataclass(frozen=True)
class ScreenedCompany:
    """A company with its verdict and figures; `periods` are fiscal labels, one a cell."""

    id: str
    name: str
    symbol: str | None
    industry: str | None
    template: str | None
    judged: Judged
    periods: tuple[str | None, ...]


@dataclass(frozen=True)
class ScreenAnswer:
    """All companies of the list, in order of their names within each verdict."""

    rule: str
    list: str
    list_title: str
    known_on: datetime
    batch: int
    columns: tuple[Column, ...]
    companies: tuple[ScreenedCompany, ...]


_ORDER = {Verdict.PASS: 0, Verdict.FAIL: 1, Verdict.UNKNOWN: 2}


def run_screen(desk: Desk, viewpoint: Viewpoint, rule: str, list_name: str) -> ScreenAnswer:
    """Who of a list passes, fails, or is unknown."""
    snapshot = desk.snapshots.of(viewpoint)
    info = lists.find_list(desk.ledger, list_name)
    cutoff = viewpoint.cutoff
    members = lists.members(desk.ledger, snapshot, list_name, cutoff)
    screened = screen(snapshot.view, rule, members, in_currency(snapshot, viewpoint))
    companies = [_company(snapshot, judged, cutoff) for judged in screened.rows]
    companies.sort(key=lambda c: (_ORDER[c.judged.verdict], c.name))
    return ScreenAnswer(
        rule, info.name, info.title, viewpoint.known_on, snapshot.batch, screened.columns, tuple(companies)
    )


def _company(snapshot: Snapshot, judged: Judged, cutoff: int) -> ScreenedCompany:
    number = judged.company

    def label(cell: Cell) -> str | None:
        return None if cell.end is None else snapshot.label(number, day(cell.end), cutoff)

    return ScreenedCompany(
        snapshot.ids[number],
        snapshot.name(number, cutoff),
        snapshot.symbol(number, cutoff),
        snapshot.attributes.of(number, "industry", cutoff),
        snapshot.attributes.of(number, "template", cutoff),
        judged,
        tuple(label(c) for c in judged.cells),
    )
