"""Figures on the wire: a cell has a value or a reason, never neither."""

from collections.abc import Collection, Iterator, Sequence
from datetime import date, datetime
from typing import Literal

from pydantic import Field

from wise_ledger.wire.model import Model, iso_text
from wise_ledger.wire.viewpoint import Mark, Seen

Reason = Literal[
    "not_applicable",
    "not_reported",
    "not_known",
    "withdrawn",
    "stale",
    "incomplete",
    "not_derivable",
    "not_meaningful",
    "zero_denominator",
    "no_rate",
    "inactive",
    "no_estimates",
]


class Cell(Model):
    """A figure of one company, in units of `currency` where it is money."""

    value: float | str | None = Field(
        description="a plain fraction for ratios: five percent is 0.05"
    )
    reason: Reason | None = Field(description="why there is no value")
    currency: str | None
    period: str | None = Field(description="fiscal label of the period end, such as FY2023Q1")
    period_end: date | None = Field(
        description="nominal end of the period that the figure is read at"
    )
    known_at: datetime | None = Field(None, description="since when it reads like this")
    marks: list[Mark]
    restated: bool = Field(description="a figure behind it had changed by the cut-off")
    restated_later: bool | None = Field(description="one changes afterwards; only with hindsight")


class Column(Model):
    """An expression shown as a column."""

    expression: str
    unit: str
    percent: bool = Field(description="it was compared with a percent")
    name: str = Field(
        description="the head of the column: a name that was given, else the expression"
    )

    def beside(self, kind: str) -> str:
        """The head of what goes with the figures: `margin.reason`, as in a panel."""
        return f"{self.name}.{kind}"


SEEN_HEADS = ("list", "known_on", "batch")  # before all else, how a table was asked
# of every figure, beside its value
BESIDE = ("reason", "currency", "period", "period_end", "known_at", "marks")


def apart(columns: Sequence[Column], taken: Collection[str]) -> list[Column]:
    """The columns under heads that nothing else of the table has: a second one is numbered.

    `taken` are the heads of what stands before them. Shown beside a company's name, `name: revenue`
    is headed `name_2`.
    """
    heads, out = set(taken), []
    for column in columns:
        named, n, part = column, 1, "_" if column.name.isidentifier() else " "
        while heads & set(flat_heads([named])):
            n += 1
            named = column.model_copy(update={"name": f"{column.name}{part}{n}"})
        heads |= set(flat_heads([named]))
        out.append(named)
    return out


def flat_heads(columns: Sequence[Column]) -> list[str]:
    """The heads of the columns as every export has them."""
    return [head for c in columns for head in (c.name, *(c.beside(kind) for kind in BESIDE))]


def flat(columns: Sequence[Column], cells: Sequence[Cell]) -> dict[str, object]:
    """A row of cells as every export has it: of each column the value, and
    what goes with it, in this order.
    """
    row: dict[str, object] = {}
    for column, cell in zip(columns, cells, strict=True):
        row[column.name] = cell.value
        more = {
            "reason": cell.reason,
            "currency": cell.currency,
            "period": cell.period,
            "period_end": cell.period_end,
            "known_at": cell.known_at and iso_text(cell.known_at),
            "marks": "; ".join([*cell.marks, *(["restated"] if cell.restated else [])]),
        }
        row |= {column.beside(kind): value for kind, value in more.items()}
    return row


class DocumentInfo(Model):
    """A document, without its bytes."""

    sha256: str
    key: str = Field(description="the source's own name for it")
    title: str
    kind: str
    media_type: str
    published_at: datetime | None
    source: str
    batch: int
    size: int = Field(description="bytes")


class FactInfo(Model):
    """One fact as recorded; `sign` is the part it plays in the figure above it."""

    sign: int
    item: str
    period_start: date | None
    period_end: date
    value: float | None
    reported: str = Field(description="as written in the document")
    scale: int = Field(description="power of ten of what was written")
    unit: str
    published_at: datetime
    assumed: bool
    source: str
    batch: int
    place: str = Field(description="JSON pointer into the document")
    tag: str | None = Field(default=None, description="what the source calls the figure")
    turned: bool = Field(default=False, description="the source counts it with the other sign")
    document: DocumentInfo


class Node(Model):
    """A figure in the tree under an input: a fact, or what it was formed from."""

    form: str = Field(description="how it was formed, in words")
    sign: int = Field(description="1 or -1: the part it plays in the figure above it")
    value: float | None
    currency: str | None = Field(default=None, description="of an amount")
    period_end: date
    fact: FactInfo | None
    parts: "list[Node]"


Because = Literal["split", "fiscal_year", "template", "rate"]


class Version(Model):
    """How a figure read from an instant on."""

    known_from: datetime
    value: float | None
    reason: Reason | None
    marks: list[Mark]
    standing: bool = Field(description="the one that counts at the cut-off")
    later: bool = Field(description="not yet known at the cut-off")
    because: Because | None = Field(
        default=None,
        description="where no document made it so: what became known; a split moves the share basis",
    )
    documents: list[DocumentInfo]


class Input(Model):
    """An input of the expression as it stood at the cut-off."""

    expression: str
    title: str
    unit: str
    value: float | None
    currency: str | None
    period_end: date
    period: str
    form: str = Field(description="how it was formed, in words")
    facts: list[FactInfo]
    tree: Node | None = Field(
        default=None, description="the same facts, as the figure was formed from them"
    )


class Conversion(Model):
    """A rate by which an amount was converted."""

    expression: str
    source: str
    target: str
    rate: float | None = Field(
        description="units of target for one of source; none where there is no rate"
    )
    start: date | None = Field(
        description="the mean of the rates from here to the end; none: the rate of the end"
    )
    end: date
    rates: int | None = Field(description="how many rates the mean is of")


class InputOnDate(Model):
    """An input that lives on dates as it stood at the cut-off: a price, a return, an estimate; or a
    part that one was reckoned of.
    """

    expression: str
    unit: str
    value: float | None
    reason: Reason | None
    currency: str | None
    day: date | None = Field(description="of a price, a dividend, a number of shares")
    known_at: datetime | None = Field(description="since when it is known, and reads like this")
    about: str = Field(
        description="where it stands: listing, day and source; period and number of contributors; "
        "as known on which day, where it was read on another"
    )
    parts: "list[InputOnDate]" = Field(
        default=[],
        description="what it was reckoned of: close and shares outstanding of a market value, "
        "closes and dividends of a return, contributions to an estimate, actual and expected mean "
        "of a surprise, all inputs of what was read on another day",
    )

    def each(self, within: str) -> Iterator[tuple["InputOnDate", str]]:
        """Itself and all its parts, each beside what it is a part of (`within`: of this one)."""
        yield self, within
        for part in self.parts:
            yield from part.each(self.expression)


class Explanation(Seen):
    """One figure, down to the documents."""

    company: str
    name: str
    symbol: str | None
    expression: str
    unit: str
    value: float | str | None
    reason: Reason | None
    currency: str | None
    marks: list[Mark]
    period: str | None
    period_end: date | None
    inputs: list[Input]
    conversions: list[Conversion] = Field(default=[])
    dated: list[InputOnDate] = Field(default=[])
    versions: list[Version]
