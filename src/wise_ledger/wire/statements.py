"""Statements on the wire."""

from collections.abc import Sequence
from datetime import date, datetime
from typing import TYPE_CHECKING, Any, Literal

from pydantic import ConfigDict, Field

from wise_ledger.wire.columns import FIGURES, STATEMENT, STATEMENT_LEADING
from wise_ledger.wire.layout import Layout, laid
from wise_ledger.wire.model import Model, Number, iso_text
from wise_ledger.wire.rows import Rows, Tabled, asked, context_of
from wise_ledger.wire.tables import frame
from wise_ledger.wire.viewpoint import CellViewpoint, Seen, SeenOfCompanies
from wise_ledger.words import counted

if TYPE_CHECKING:
    import pandas as pd

Companies = list[str]


class StatementColumn(Model):
    """A period, oldest first."""

    label: str = Field(description="fiscal: FY2023Q2, TP2018 …")
    calendar: str = Field(description="the calendar quarter or year it belongs to")
    period_end: date = Field(description="as reported")
    nominal_end: date = Field(description="the month end that arithmetic uses")
    first_public_at: datetime = Field(description="when a figure of it first became public")
    currency: str | None = Field(description="of its amounts, but for those that say another")


class StatementCell(Model):
    """A figure, or the reason why there is none."""

    value: float | None
    reason: str | None = None
    marks: list[str] = Field(
        default=[], description="assumed, approximate, mixed_basis, implied, flagged"
    )
    formed: bool = Field(default=False, description="put together from other figures")
    restated: bool = Field(default=False, description="read differently at first")
    restated_later: bool | None = Field(
        default=None, description="reads differently after the cut-off; only if asked"
    )
    known_at: datetime | None = Field(default=None, description="since when it reads like this")
    flags: list[str] = Field(default=[], description="checks that found something about it")
    currency: str | None = Field(
        default=None, description="of the amount, where it is another than its column's"
    )


class StatementLine(Model):
    """A line of the catalogue with its cells, one a column."""

    item: str
    title: str
    statement: str
    unit: str
    nature: str = Field(description="flow or stock")
    indent: int
    applies: bool = Field(description="whether the company's template has the line")
    sign: int = Field(
        description="-1 where the line is taken from the subtotal that it belongs to, else 1"
    )
    of_which: bool = Field(description="it shows a part of another line, and enters no subtotal")
    cells: list[StatementCell]


class StatementAnswer(Seen):
    """A company's statement as known on a date;
    what is the same in all columns stands here once.
    """

    company: str
    name: str
    symbol: str | None
    template: str | None
    statement: str
    frequency: str
    show: str
    versions: str = Field(description="latest, or first reported")
    figures: str = Field(description="normalised, or as reported")
    currency: str | None = Field(description="of all amounts, where it is one")
    basis: str = Field(description="consolidated, or a part of the company such as a segment")
    bases: list[str] = Field(description="on what else it reported figures by then")
    columns: list[StatementColumn]
    lines: list[StatementLine]

    def rows(
        self, columns: Sequence[str] = (), layout: Layout = "tidy", sort: str = "oldest"
    ) -> Rows:
        """One row a figure, oldest first: the tidy form;
        `wide` has lines down and periods across, one value each.
        """
        amounts = self.show == "amounts"  # else fractions, of each line
        rows = [
            {
                "item": line.item,
                "title": line.title,
                "period": column.label,
                "calendar": column.calendar,
                "period_end": column.period_end,
                "known_at": cell.known_at and iso_text(cell.known_at),
                "value": cell.value,
                "reason": cell.reason,
                "unit": line.unit if amounts else "pure",
                "currency": cell.currency or column.currency
                if amounts and line.unit.startswith("money")
                else None,
                "marks": "; ".join(cell.marks),
                "flags": "; ".join(cell.flags),
                "formed": cell.formed,
                "restated": cell.restated,
                "sign": line.sign,
                "of_which": line.of_which,
                "first_public_at": iso_text(column.first_public_at),
            }
            for line in self.lines
            for column, cell in zip(self.columns, line.cells, strict=True)
        ]
        found = asked(context_of(self, "columns", "lines"), STATEMENT_LEADING, FIGURES, rows)
        return _arranged(found, ("item",), columns, layout, sort)


def _by_period(rows: Rows) -> list[dict[str, Any]]:
    """The rows, with the end beside a label that several periods of a company have:
    `odd 2023-05-31`.
    """
    ends: dict[tuple[str, str], set[date]] = {}
    for row in rows:
        ends.setdefault((row["company"], row["period"]), set()).add(row["period_end"])
    several = {period for (_, period), found in ends.items() if len(found) > 1}
    return [
        row | {"period": f"{row['period']} {row['period_end']}"}
        if row["period"] in several
        else row
        for row in rows
    ]


def _arranged(
    rows: Rows, down: tuple[str, ...], columns: Sequence[str], layout: Layout, sort: str
) -> Rows:
    """With the columns chosen, the newest first where that is asked for,
    or laid out as a grid of one of them.
    """
    if sort == "newest":
        kept = sorted(rows, key=lambda r: str(r["period_end"]), reverse=True)
        order = {
            key: n for n, key in enumerate(dict.fromkeys((r["company"], r["item"]) for r in rows))
        }
        kept.sort(key=lambda r: order[r["company"], r["item"]])
        rows = Rows(rows.columns, kept, rows.context)
    about = {*STATEMENT_LEADING, "item", "title", "period", "calendar", "period_end"}
    if layout != "tidy":
        value = next((c for c in columns if c not in about), "value")
        rows = Rows(rows.columns, _by_period(rows), rows.context)
        return laid(rows, layout, down=down, across="period", value=value)
    if not columns:
        return rows
    return Rows(columns, ({c: row[c] for c in columns} for row in rows), rows.context)


class StatementsRequest(CellViewpoint):
    """Statements of several companies: of a list, or named by any identifiers."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [{"companies": ["AGK@ZALD", "EMI@ZBRE"], "known_on": "2024-06-30"}]
        },
    )

    list: str | None = None
    companies: Companies = []
    statement: str = Field(
        "income", description="income, balance, cash_flow, per_share, share_count, other or all"
    )
    frequency: str = Field("annual", description="annual, half, quarter, trailing or cumulative")
    versions: Literal["latest", "first"] = Field(
        "latest", description="latest known, or first reported"
    )
    figures: Literal["normalised", "as_reported"] = Field(
        "normalised", description="as_reported leaves out what is formed of others"
    )
    show: str = Field("amounts", description="amounts, common_size or growth")
    periods: Number | None = Field(None, description="the newest so many of each")
    start: str | None = Field(None, description="YYYY-MM-DD: periods that end from then on")
    end: str | None = Field(None, description="YYYY-MM-DD, included")
    lines: str = Field("filled", description="filled, template or all")


class StatementsAnswer(SeenOfCompanies):
    """The statements in the order asked for, by name for a list."""

    statements: list[StatementAnswer]

    def rows(
        self, columns: Sequence[str] = (), layout: Layout = "tidy", sort: str = "oldest"
    ) -> Rows:
        """One row a figure: the tidy form of all of them;
        `wide` has companies and lines down, periods across.
        """
        parts = [s.rows() for s in self.statements]
        found = Rows(
            STATEMENT, (row for part in parts for row in part), context_of(self, "statements")
        )
        return _arranged(found, ("company", "name", "item"), columns, layout, sort)

    def frame(self) -> "pd.DataFrame":
        """One row a figure, with types."""
        return frame(self.rows())

    def __repr__(self) -> str:
        found = counted(len(self.statements), "statement")
        return f"<{found} known on {self.known_on:%Y-%m-%d}, {len(self.failed)} failed>"


class Restatement(Model):
    """A figure restated."""

    company: str
    name: str
    item: str
    title: str
    period: str
    period_start: date | None
    period_end: date
    unit: str
    old: float | None
    new: float | None = Field(description="without a value it was withdrawn")
    percent: float | None
    original: float | None = Field(description="its first version")
    latest: float | None = Field(description="the last one known by the cut-off")
    published_at: datetime
    document: str
    sha256: str
    source: str


class Restatements(Seen, Tabled):
    """The log, the newest first."""

    part = "restatements"

    restatements: list[Restatement]
    total: int = Field(description="also those that the limit leaves out")
    since: datetime
    next: str | None = Field(None, description="the cursor of the next page, where there is one")
