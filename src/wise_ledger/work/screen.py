"""Screen a list by a rule, as known on a date."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime

from wise_ledger.core.answers.cells import Cell, Column
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.errors import Problem, bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.screening.figures import figures
from wise_ledger.core.screening.screen import Condition, Judged, Verdict, screen
from wise_ledger.core.time.periods import day
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.work.currencies import in_currency
from wise_ledger.work.desk import Desk
from wise_ledger.work.whom import read_whom


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
    list: str | None
    list_title: str
    known_on: datetime
    batch: int
    columns: tuple[Column, ...]
    companies: tuple[ScreenedCompany, ...]
    counts: dict[Verdict, int]  # also of those that are not shown
    conditions: tuple[Condition, ...]
    failed: tuple[Problem, ...] = ()  # companies that were named and are not found


_ORDER = {Verdict.PASS: 0, Verdict.FAIL: 1, Verdict.UNKNOWN: 2}


def run_screen(
    desk: Desk,
    viewpoint: Viewpoint,
    rule: str,
    list_name: str | None = None,
    companies: Sequence[str] = (),
    *,
    show: Sequence[str] = (),
    sort: str | None = None,
    only: Collection[str] = (),
) -> ScreenAnswer:
    """Who of a list (or of companies named, or of everybody) passes, fails, or is unknown.

    `show` adds columns (`margin: operating_income / revenue`); `sort` names a column, `-` before it
    for the highest first, within each verdict; `only` keeps these verdicts. Raises `BadInput`,
    `ExpressionError` and `NotFound`.
    """
    snapshot, cutoff = desk.snapshots.of(viewpoint), viewpoint.cutoff
    whom, seen = (
        read_whom(desk, snapshot, cutoff, list_name, companies),
        in_currency(snapshot, viewpoint),
    )
    screened = screen(snapshot.view, rule, whom.numbers, seen)
    counts = {v: sum(r.verdict is v for r in screened.rows) for v in Verdict}
    rows = [r for r in screened.rows if not only or r.verdict.value in only]
    own = {c.name for c in screened.columns}
    more = figures(
        snapshot.view, [s for s in show if s.strip() not in own], [r.company for r in rows], seen
    )
    columns = (*screened.columns, *more.columns)
    if len({c.name for c in columns}) < len(columns):
        twice = next(c.name for c in more.columns if c.name in own)
        raise bad_input("show", twice, "the rule has a column of this name", "give it another name")
    found = [
        _company(snapshot, judged._replace(cells=(*judged.cells, *cells)), cutoff)
        for judged, cells in zip(rows, more.rows, strict=True)
    ]
    found.sort(key=lambda c: c.name)
    if sort is not None:
        found = _sorted(found, columns, sort)
    found.sort(key=lambda c: _ORDER[c.judged.verdict])
    about = (rule, whom.list, whom.title, viewpoint.known_on, snapshot.batch)
    return ScreenAnswer(*about, columns, tuple(found), counts, screened.conditions, whom.failed)


def _sorted(
    companies: list[ScreenedCompany], columns: Sequence[Column], sort: str
) -> list[ScreenedCompany]:
    """By a column, the lowest first or with `-` the highest; what is missing comes last.

    Amounts of several currencies are in no order (M2): raises `BadInput` for them, and for an
    unknown column.
    """
    name = sort.removeprefix("-").strip()
    place = next((n for n, c in enumerate(columns) if name in (c.name, c.expression)), None)
    if place is None:
        raise bad_input(
            "sort", sort, "there is no such column", mend_for(name, [c.name for c in columns])
        )
    there = [c for c in companies if c.judged.cells[place].value is not None]
    met = sorted({c.judged.cells[place].currency or "" for c in there})
    if len(met) > 1:
        problem, mend = (
            f"its amounts are in {', '.join(met)}",
            f"ask for one currency, such as {met[0]}",
        )
        raise bad_input("sort", sort, problem, mend)
    there.sort(key=lambda c: c.judged.cells[place].value, reverse=sort.startswith("-"))
    return there + [c for c in companies if c.judged.cells[place].value is None]


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
