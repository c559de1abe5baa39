"""Screen a list by a rule, as known on a date."""

from dataclasses import dataclass
from datetime import datetime

from wise_ledger.core.facts.instants import micros
from wise_ledger.core.fiscal.periods import day
from wise_ledger.core.screening.figures import Cell, Column
from wise_ledger.core.screening.screen import Judged, Verdict, screen
from wise_ledger.store.ledger import Ledger
from wise_ledger.work import lists
from wise_ledger.work.currencies import read_currency
from wise_ledger.work.snapshots import Snapshot, Snapshots


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


def run_screen(
    ledger: Ledger,
    snapshots: Snapshots,
    rule: str,
    list_name: str,
    known_on: datetime,
    *,
    recorded_by: int | None = None,
    with_assumed: bool = True,
    hindsight: bool = False,
    currency: str | None = None,
) -> ScreenAnswer:
    """Who of a list passes, fails, or is unknown, as known at a cut-off (T3) and as recorded by a batch (T7)."""
    snapshot = snapshots.at(recorded_by, with_assumed=with_assumed)
    info = lists.find_list(ledger, list_name)
    cutoff = micros(known_on)
    members = lists.members(ledger, snapshot, list_name, cutoff)
    screened = screen(
        snapshot.view, rule, members, cutoff, hindsight=hindsight, currency=read_currency(snapshot, currency)
    )
    companies = [_company(snapshot, judged, cutoff) for judged in screened.rows]
    companies.sort(key=lambda c: (_ORDER[c.judged.verdict], c.name))
    return ScreenAnswer(rule, info.name, info.title, known_on, snapshot.batch, screened.columns, tuple(companies))


def _company(snapshot: Snapshot, judged: Judged, cutoff: int) -> ScreenedCompany:
    number = judged.company

    def label(cell: Cell) -> str | None:
        return None if cell.end is None else snapshot.label(number, day(cell.end))

    return ScreenedCompany(
        snapshot.ids[number],
        snapshot.name(number, cutoff),
        snapshot.symbol(number, cutoff),
        snapshot.attributes.of(number, "industry", cutoff),
        snapshot.attributes.of(number, "template", cutoff),
        judged,
        tuple(label(c) for c in judged.cells),
    )
