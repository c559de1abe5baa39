"""Statements of companies as known on a date."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np

from wise_ledger.core.errors import bad_input
from wise_ledger.core.facts.columns import FactColumns
from wise_ledger.core.facts.instants import micros
from wise_ledger.core.facts.items import Item, Nature
from wise_ledger.core.facts.versions import nominal_ends
from wise_ledger.core.market.splits import ShareBasis
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.statements.sheet import Sheet
from wise_ledger.core.statements.statement import FREQUENCIES, TOTALS, Laid, Show, lay_out
from wise_ledger.store import examining, reading
from wise_ledger.store.ledger import Ledger
from wise_ledger.work.catalogue import STATEMENTS
from wise_ledger.work.currencies import read_currency
from wise_ledger.work.snapshots import Snapshot, Snapshots

LINES = ("filled", "template", "all")
_BESIDE = ("revenue", "total_assets", "shareholders_equity")  # needed for shares, and for implied zeros (F13)


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


def read_statement(
    ledger: Ledger,
    snapshots: Snapshots,
    company: str,
    statement: str,
    frequency: str,
    known_on: datetime,
    *,
    recorded_by: int | None = None,
    first_reported: bool = False,
    as_reported: bool = False,
    show: str = "amounts",
    periods: int | None = None,
    lines: str = "filled",
    with_assumed: bool = True,
    currency: str | None = None,
    basis: str = reading.CONSOLIDATED,
) -> Statement:
    """A statement at a cut-off: every period there is, or the newest `periods`. Raises `BadInput` and `NotFound`.

    `lines` chooses those with a figure, all of the company's template, or all of the catalogue; a line that the
    template does not have says `not_applicable`. Amounts come in `currency`, without one as reported (M2). Figures on
    another `basis` than the consolidated one, such as a segment's, stand apart and are never mixed with others.
    """
    for at, value, known in (
        ("statement", statement, (*STATEMENTS, "all")), ("frequency", frequency, tuple(FREQUENCIES)),
        ("show", show, tuple(Show)), ("lines", lines, LINES),
    ):  # fmt: skip
        if value not in known:
            mend = mend_for(value, known) or f"write {', '.join(known)}"
            raise bad_input(at, value, "there is none of this name", mend)
    snapshot = snapshots.at(recorded_by, with_assumed=with_assumed)
    number, cutoff = snapshot.number(company), micros(known_on)
    template = snapshot.attributes.of(number, "template", cutoff)
    # An observation is dated by when it was seen (F14): it has no period to stand under.
    told = [i for i in snapshot.view.items.values() if i.nature is not Nature.OBSERVATION]
    wanted = [i for i in told if statement in ("all", i.statement)]
    if lines == "template":
        wanted = [i for i in wanted if template is None or template in i.templates]
    with ledger.database.read() as connection:
        others = reading.other_bases(connection, number, snapshot.batch, cutoff)
    if basis != reading.CONSOLIDATED and basis not in others:
        mend = f"write {', '.join((reading.CONSOLIDATED, *others))}"
        raise bad_input("basis", basis, "the company told nothing on it by then", mend)
    sheet, facts = sheet_of(ledger, snapshot, number, wanted, template, with_assumed=with_assumed, basis=basis)
    laid = lay_out(
        sheet, wanted, frequency, cutoff, _reported_ends(facts, sheet, wanted, cutoff), first=first_reported,
        as_reported=as_reported, show=Show(show), periods=periods, every_line=lines != "filled", template=template,
        flags=_flags(ledger, snapshots, snapshot), currency=read_currency(snapshot, currency),
    )  # fmt: skip
    return Statement(
        snapshot.ids[number], snapshot.name(number, cutoff), snapshot.symbol(number, cutoff), template, statement,
        frequency, show, known_on, snapshot.batch, laid, basis, tuple(others),
    )  # fmt: skip


def _flags(ledger: Ledger, snapshots: Snapshots, snapshot: Snapshot) -> dict[int, tuple[str, ...]]:
    """The checks that found something soft, or something a person accepted, by fact."""

    def read() -> dict[int, tuple[str, ...]]:
        with ledger.database.read() as connection:
            return examining.checks_by_fact(connection, snapshot.batch)

    return snapshots.once(f"checks of facts at {snapshot.batch}", read)


def sheet_of(
    ledger: Ledger,
    snapshot: Snapshot,
    number: int,
    wanted: Sequence[Item],
    template: str | None,
    *,
    with_assumed: bool = True,
    basis: str = reading.CONSOLIDATED,
) -> tuple[Sheet, FactColumns]:
    """The figures of some items of one company, with the totals that others are read by."""
    items = snapshot.view.items
    codes = list(dict.fromkeys([*(i.code for i in wanted), *_BESIDE, *TOTALS.values()]))
    with ledger.database.read() as connection:
        facts = reading.facts_of_company(
            connection, number, codes, snapshot.batch, with_assumed=with_assumed, basis=basis
        )
        facts = facts.known(None, True, snapshot.view.quarantined)
    if snapshot.view.preference and len(facts):
        ranks = np.stack([snapshot.view.preference.ranks(code, number) for code in codes])
        facts = replace(facts, source=ranks[facts.company, facts.source])
    view = snapshot.view
    calendar = view.calendar.of_rows(number, len(codes))
    shares = ShareBasis.of_rows(view.splits, number, [items[c].unit for c in codes], view.share_bases)
    sheet = Sheet(
        [items[c] for c in codes], facts, calendar, view.sources, template, lambda: view.rates, shares, view.flagged
    )
    return sheet, facts


def _reported_ends(facts: FactColumns, sheet: Sheet, wanted: Sequence[Item], cutoff: int) -> dict[int, tuple[int, int]]:
    """For each nominal end of the lines wanted the end as reported last, and the first publication of any figure."""
    codes = {i.code for i in wanted}
    of = np.array([i.code in codes for i in sheet.items], np.bool_)
    keep = (facts.at <= cutoff) & of[facts.company] if len(facts) else np.zeros(0, np.bool_)
    facts = facts.where(keep)
    nominal = nominal_ends(facts)
    out: dict[int, tuple[int, int]] = {}
    order = np.argsort(facts.at, kind="stable")
    for end, own, at in zip(nominal[order].tolist(), facts.end[order].tolist(), facts.at[order].tolist(), strict=True):
        out[end] = (own, out[end][1] if end in out else at)
    return out
