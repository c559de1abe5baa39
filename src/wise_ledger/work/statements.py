"""Statements of companies as known on a date."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime

import numpy as np

from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.catalogue.items import Item, Nature
from wise_ledger.core.errors import Problem, bad_input
from wise_ledger.core.fiscal.zeros import TOTALS as IMPLIED_BY
from wise_ledger.core.money.currencies import currency_code
from wise_ledger.core.money.splits import ShareBasis
from wise_ledger.core.nearest import check_name
from wise_ledger.core.records.facts import FactColumns
from wise_ledger.core.statements.sheet import Sheet
from wise_ledger.core.statements.statement import FREQUENCIES, TOTALS, Laid, Show, lay_out
from wise_ledger.core.time.periods import day
from wise_ledger.core.timelines.versions import nominal_ends
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.store import examining, reading
from wise_ledger.work import NotFound
from wise_ledger.work.catalogue import STATEMENTS
from wise_ledger.work.currencies import in_currency, read_currency
from wise_ledger.work.desk import Desk
from wise_ledger.work.whom import read_whom

LINES = ("filled", "template", "all")


MOST_COMPANIES = 1000  # at once


@dataclass(frozen=True)
class Statement:
    """A company's statement, and all that says how it was asked."""

    company: str
    name: str
    symbol: str | None
    template: str | None
    statement: str
    frequency: str
    show: str
    known_on: datetime
    batch: int
    laid: Laid
    basis: str
    bases: tuple[str, ...]  # what else there is


@dataclass(frozen=True)
class Shape:
    """What of a statement is asked for, and how it is laid out;
    raises `BadInput` for words that there are not.

    `lines` chooses those with a figure, all of the company's template, or all of the catalogue; a
    line that the template does not have says `not_applicable`. Figures on another `basis` than the
    consolidated one, such as a segment's, stand apart and are never mixed with others. `periods`
    keeps the newest, of those that end from `start` to `end`, both included.
    """

    statement: str
    frequency: str
    first_reported: bool = False
    as_reported: bool = False
    show: str = "amounts"
    periods: int | None = None
    lines: str = "filled"
    basis: str = reading.CONSOLIDATED
    start: date | None = None
    end: date | None = None

    def __post_init__(self) -> None:
        for at, known in (
            ("statement", (*STATEMENTS, "all")),
            ("frequency", tuple(FREQUENCIES)),
            ("show", tuple(Show)),
            ("lines", LINES),
        ):
            check_name(at, getattr(self, at), known)
        if self.start is not None and self.end is not None and self.end < self.start:
            raise bad_input(
                "end", self.end, f"it is before the start, {self.start}", "swap the two dates"
            )


def read_statement(desk: Desk, viewpoint: Viewpoint, company: str, shape: Shape) -> Statement:
    """A statement at a cut-off: every period there is, or the newest.

    Raises `BadInput` and `NotFound`.
    """
    return _open(desk, desk.snapshots.of(viewpoint), viewpoint, company, shape)[1]()


def _open(
    desk: Desk, snapshot: Snapshot, viewpoint: Viewpoint, company: str, shape: Shape
) -> tuple[Sheet, Callable[[], Statement]]:
    """The sheet of a company, and what lays it out:
    the figures of several sheets may be formed together before.
    """
    statement = shape.statement
    number, cutoff = snapshot.number(company, viewpoint.cutoff), viewpoint.cutoff
    template = snapshot.attributes.of(number, "template", cutoff)
    # An observation is dated by when it was seen (F14): it has no period to stand under.
    figures = [i for i in snapshot.view.items.values() if i.nature is not Nature.OBSERVATION]
    wanted = [i for i in figures if statement in ("all", i.statement)]
    if shape.lines == "template":
        wanted = [i for i in wanted if template is None or template in i.templates]
    with desk.ledger.database.read() as connection:
        limits = snapshot.view.limits
        others = reading.other_bases(connection, number, snapshot.batch, cutoff, limits)
    if shape.basis != reading.CONSOLIDATED and shape.basis not in others:
        mend = f"write {', '.join((reading.CONSOLIDATED, *others))}"
        raise bad_input("basis", shape.basis, "the company reported nothing on it by then", mend)
    sheet, facts = sheet_of(desk, snapshot, viewpoint, number, statement, basis=shape.basis)

    def lay() -> Statement:
        laid = lay_out(
            sheet,
            wanted,
            shape.frequency,
            in_currency(snapshot, viewpoint),
            _reported_ends(facts, sheet, wanted, cutoff),
            first=shape.first_reported,
            as_reported=shape.as_reported,
            show=Show(shape.show),
            periods=shape.periods,
            within=(
                None if shape.start is None else day(shape.start),
                None if shape.end is None else day(shape.end),
            ),
            every_line=shape.lines != "filled",
            flags=_flags(desk, snapshot),
        )
        return Statement(
            snapshot.ids[number],
            snapshot.name(number, cutoff),
            snapshot.symbol(number, cutoff),
            template,
            statement,
            shape.frequency,
            shape.show,
            viewpoint.known_on,
            snapshot.batch,
            laid,
            shape.basis,
            tuple(others),
        )

    return sheet, lay


@dataclass(frozen=True)
class Statements:
    """Statements of several companies, in order; `failed` says what could not be given,
    each by the name it had.
    """

    statements: tuple[Statement, ...]
    failed: tuple[Problem, ...]
    batch: int


def read_statements(
    desk: Desk, viewpoint: Viewpoint, list_name: str | None, companies: Sequence[str], shape: Shape
) -> Statements:
    """Statements of a list's members, by name, or of companies named;
    one that is unknown fails alone.

    Raises `BadInput` for a wrong question, or too many companies.
    """
    snapshot, cutoff = desk.snapshots.of(viewpoint), viewpoint.cutoff
    if list_name is None and not companies:
        raise bad_input("companies", "", "nobody is named", "name a list, or companies")
    if list_name is not None:
        whom = read_whom(desk, snapshot, cutoff, list_name, companies)
        companies = [
            snapshot.ids[n] for n in sorted(whom.numbers, key=lambda n: snapshot.name(n, cutoff))
        ]
    if len(companies) > MOST_COMPANIES:
        mend = f"ask for at most {MOST_COMPANIES} at once"
        raise bad_input("companies", len(companies), "these are too many companies", mend)
    opened: list[tuple[Sheet, Callable[[], Statement]]] = []
    failed = []
    for company in companies:
        try:
            opened.append(_open(desk, snapshot, viewpoint, company, shape))
        except NotFound as error:
            failed.append(replace(error.problems[0], value=company))
    if len(opened) > 1:
        Sheet.form_together([sheet for sheet, _ in opened])
    return Statements(tuple(lay() for _, lay in opened), tuple(failed), snapshot.batch)


def _flags(desk: Desk, snapshot: Snapshot) -> dict[int, tuple[str, ...]]:
    """The checks that found something soft, or something a person accepted, by fact."""

    def read() -> dict[int, tuple[str, ...]]:
        with desk.ledger.database.read() as connection:
            return examining.checks_by_fact(connection, snapshot.batch)

    return desk.snapshots.once(f"checks of facts at {snapshot.batch}", read)


def sheet_of(
    desk: Desk,
    snapshot: Snapshot,
    viewpoint: Viewpoint,
    number: int,
    statement: str,
    *,
    basis: str = reading.CONSOLIDATED,
) -> tuple[Sheet, FactColumns]:
    """The figures of a statement of one company, with the totals that others are read by.

    All lines of the statement are read, whatever is shown of them: they say whether it was known at
    all (N).
    """
    view = snapshot.view
    items = view.items
    lines = [
        i.code
        for i in items.values()
        if statement in ("all", i.statement) and i.nature is not Nature.OBSERVATION
    ]
    codes = list(dict.fromkeys([*lines, *IMPLIED_BY, *TOTALS.values()]))
    with desk.ledger.database.read() as connection:
        facts = reading.facts_of_company(
            connection,
            number,
            codes,
            snapshot.batch,
            with_assumed=viewpoint.with_assumed,
            basis=basis,
        )
        facts = view.limits.published(facts).known(None, True, view.quarantined)
    places = (
        np.stack([view.preference.ranks(code, number) for code in codes])
        if view.preference
        else None
    )
    asked = read_currency(snapshot, viewpoint.currency)
    sheet = Sheet(
        [items[c] for c in codes],
        facts,
        view.calendar.of_rows(number, len(codes)),
        view.templates.of_rows(number, len(codes)),
        places=places,
        rates=lambda: view.rates,
        currency=None if asked is None else currency_code(asked),
        basis=ShareBasis.of_rows(
            view.splits, number, [items[c].unit for c in codes], view.share_bases
        ),
        flagged=view.flagged,
        marks_out=view.marks_out,
    )
    return sheet, facts


def _reported_ends(
    facts: FactColumns, sheet: Sheet, wanted: Sequence[Item], cutoff: int
) -> dict[int, tuple[int, int]]:
    """For each nominal end of the lines wanted the end as reported last,
    and the first publication of any figure.
    """
    codes = {i.code for i in wanted}
    of = np.array([i.code in codes for i in sheet.items], np.bool_)
    keep = (facts.at <= cutoff) & of[facts.company] if len(facts) else np.zeros(0, np.bool_)
    facts = facts.where(keep)
    nominal = nominal_ends(facts)
    out: dict[int, tuple[int, int]] = {}
    order = np.argsort(facts.at, kind="stable")
    for end, own, at in zip(
        nominal[order].tolist(), facts.end[order].tolist(), facts.at[order].tolist(), strict=True
    ):
        out[end] = (own, out[end][1] if end in out else at)
    return out
