"""Panels on the wire: what is asked, what a column is, how it lies; extracts and kept questions."""

from collections.abc import Callable
from datetime import datetime
from typing import Any, ClassVar, Literal

from pydantic import ConfigDict, Field

from wise_ledger.wire.figures import Reason
from wise_ledger.wire.model import Model
from wise_ledger.wire.rows import Rows, Tabled, context_of
from wise_ledger.wire.viewpoint import SeenOfCompanies, Viewpoint

Words = list[str]
Beside = Literal["reason", "currency", "period_end", "known_at", "marks", "source"]
Besides = list[Beside]
Layout = Literal["wide", "tidy", "turned"]
_EXAMPLE: dict[str, Any] = {
    "list": "first-look", "dates": ["2015-12-31/2024-12-31 yearly"],
    "expressions": ["operating_margin", "growth_of_revenue: growth(revenue, 1y)"], "beside": ["reason"],
}  # fmt: skip


class PanelRequest(Viewpoint):
    """Measures of a list, of companies or of everybody, on dates or by fiscal period."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [_EXAMPLE]})

    expressions: Words = Field(
        description="measures or expressions, at most 500; name: expression names one"
    )
    list: str | None = Field(
        None, description="who was on it then; without a list and companies everybody active then"
    )
    companies: Words = Field([], description="any identifier")
    dates: Words = Field(
        [], description="dates, or ranges such as 2015-01-01/2024-12-31 monthly, both ends included"
    )
    periods: str | None = Field(
        None, description="in the place of dates: FY2015/FY2024, FY2020Q1/FY2024Q4, 2015/2024"
    )
    where: str | None = Field(
        None, description="a rule, judged per company and date: only rows where it is true"
    )
    lag: int = Field(
        0, description="days: use only what was known so long before each date", ge=0, le=3660
    )
    at_close: bool = Field(
        False, description="the cut-off is the close of each company's venue, not the day's end"
    )
    first_reported: bool = Field(False, description="figures as first reported")
    ahead: Words = Field(
        [], description="returns after each date: total 3mo, price 1y over a-list; they look ahead"
    )
    beside: Besides = Field([], description="what stands beside each value")
    layout: Layout = Field(
        "wide", description="a row a date and company; a row a value; dates across"
    )


class PanelColumn(Model):
    """A column of a panel."""

    name: str
    expression: str
    unit: str
    looks_ahead: bool = Field(description="it knows what came after its date")


class PanelPlan(SeenOfCompanies):
    """How large a panel is, before any of it is evaluated."""

    title: str
    columns: list[PanelColumn]
    companies: int
    dates: int
    rows: int = Field(description="before the condition")
    cells: int
    seconds: float = Field(description="that it takes, about")
    at_once: bool = Field(
        description="small enough to be answered at once; else ask for it as an extract"
    )


class Extreme(Model):
    """The lowest or highest value of a column."""

    company: str
    name: str
    date: str
    value: float


class ColumnSummary(Model):
    """How a column lies: `quantiles` are the least, 5, 25, 50, 75, 95 % and the greatest."""

    name: str
    expression: str
    unit: str
    cells: int
    filled: int
    reasons: dict[Reason, int] = Field(
        description="of the cells without a value, the commonest first"
    )
    quantiles: list[float]
    lowest: Extreme | None
    highest: Extreme | None


Columns = list[PanelColumn]
Summaries = list[ColumnSummary]
Records = list[dict[str, Any]]


class PanelAnswer(SeenOfCompanies):
    """The first rows of a panel, and how its columns lie."""

    title: str
    list: str | None
    columns: Columns
    companies: int
    dates: Words = Field(description="or periods")
    heads: Words = Field(description="the columns of the table, in their order")
    records: Records
    total: int | None = Field(description="rows in all; none where only the first were evaluated")
    unknown: dict[Reason, int] = Field(
        description="rows of which the condition is neither true nor false"
    )
    summary: Summaries = []

    def rows(self) -> Rows:
        """The table as it came."""
        return Rows(
            self.heads, self.records, context_of(self, "records", "summary", "heads", "dates")
        )


QUANTILES = ("least", "p05", "p25", "median", "p75", "p95", "greatest")


def _quantile(place: int) -> Callable[[ColumnSummary], float | None]:
    def read(summary: ColumnSummary) -> float | None:
        return summary.quantiles[place] if summary.quantiles else None

    return read


def _missing(summary: ColumnSummary) -> str:
    return "; ".join(f"{reason} {count}" for reason, count in summary.reasons.items())


def _who(at: Extreme | None) -> str:
    return "" if at is None else f"{at.name} {at.date}"


def _lowest(summary: ColumnSummary) -> str:
    return _who(summary.lowest)


def _highest(summary: ColumnSummary) -> str:
    return _who(summary.highest)


class PanelSummary(SeenOfCompanies, Tabled):
    """How the columns of a panel lie; none of its rows."""

    part = "summary"
    without = ("reasons", "quantiles", "lowest", "highest")
    made: ClassVar = {
        "missing": _missing,
        **{name: _quantile(n) for n, name in enumerate(QUANTILES)},
        "lowest_is": _lowest,
        "highest_is": _highest,
    }

    title: str
    rows_found: int
    unknown: dict[Reason, int]
    summary: Summaries


class QuestionRequest(Model):
    """Keep a question: a panel, or a screen; new, or another version of one."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [{"kind": "panel", "title": "Margins", "who": "ada", "question": _EXAMPLE}]
        },
    )

    kind: Literal["panel", "screen"]
    title: str = ""
    description: str = ""
    question: dict[str, Any]
    who: str


class QuestionInfo(Model):
    """A kept question."""

    name: str
    kind: Literal["panel", "screen"]
    title: str
    description: str
    question: dict[str, Any]
    version: int
    who: str
    kept_at: datetime
    batch: int
    archived: bool


class Questions(Tabled):
    """Kept questions, or versions of one."""

    part = "questions"
    without = ("question",)

    questions: list[QuestionInfo]


class QuestionArchive(Model):
    """Archive a question, or bring it back."""

    model_config = ConfigDict(
        extra="forbid", json_schema_extra={"examples": [{"archived": True, "who": "ada"}]}
    )

    archived: bool = True
    who: str


class ExtractRequest(Model):
    """A panel written to a file that is kept for a time."""

    model_config = ConfigDict(
        extra="forbid", json_schema_extra={"examples": [{"panel": _EXAMPLE, "format": "parquet"}]}
    )

    panel: PanelRequest
    format: Literal["parquet", "arrow", "csv"] = "parquet"


class ExtractInfo(Model):
    """An extract: how far it is, and until when its file is kept."""

    id: str
    title: str
    format: str
    state: Literal["waiting", "running", "done", "stopped", "failed"]
    done: int = Field(description="dates")
    total: int
    rows: int
    size: int = Field(description="bytes")
    problem: str
    asked_at: datetime
    kept_until: datetime | None


class Extracts(Tabled):
    """Extracts, the newest first."""

    part = "extracts"

    extracts: list[ExtractInfo]
