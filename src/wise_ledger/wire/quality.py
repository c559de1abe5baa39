"""Quality on the wire: findings, the quarantine, coverage."""

from datetime import date, datetime
from typing import Literal

from pydantic import ConfigDict, Field

from wise_ledger.wire.model import Model, Number
from wise_ledger.wire.rows import Rows, Tabled, context_of

Day = date  # where a field is called date itself
State = Literal["quarantined", "accepted", "rejected", "flagged"]


class Finding(Model):
    """What a check found wrong with a figure, and what was said of it."""

    fact: int = Field(description="the number to decide by")
    check: str
    state: State
    detail: str
    company: str
    name: str
    item: str
    title: str
    period: str
    period_end: date
    value: float | None
    unit: str
    reported: str
    scale: int
    published_at: datetime
    source: str
    document: str
    sha256: str
    place: str
    who: str | None
    why: str | None


class CompanyFindings(Model):
    """A company with many findings."""

    company: str
    name: str
    findings: int


class QualityAnswer(Tabled):
    """Findings, hard ones first; the counts are of all before filters."""

    part = "findings"

    findings: list[Finding]
    total: int = Field(description="those that pass the filters, also beyond the limit")
    by_check: dict[str, int]
    by_state: dict[str, int]
    by_company: list[CompanyFindings]
    by_source: dict[str, int]
    checks: dict[str, str] = Field(description="what each check looks at")
    batch: int
    next: str | None = Field(None, description="the cursor of the next page, where there is one")


class QuarantineDecision(Model):
    """Accept or reject figures in quarantine; a rejected one stays listed and unused."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [
                {
                    "facts": [4711],
                    "accept": False,
                    "who": "Ada",
                    "why": "thousands reported as units",
                }
            ]
        }
    )

    facts: list[Number]
    accept: bool
    who: str
    why: str


class Decided(Model):
    """How many were decided, and in which batch."""

    facts: int
    batch: int


class MarketFinding(Model):
    """A price, level, rate, split or dividend that cannot be or looks odd,
    and what was said of it.
    """

    kind: Literal["prices", "levels", "rates", "splits", "dividends"]
    subject: str = Field(description="SYMBOL@MIC, a list, a pair of currencies")
    company: str | None
    name: str | None
    date: date
    state: State
    check: str
    detail: str
    value: float
    beside: float = Field(description="the last good one before it; the price beside a dividend")
    beside_date: Day | None
    source: str | None
    who: str | None
    why: str | None


MarketFindings = list[MarketFinding]


class MarketQualityAnswer(Tabled):
    """Findings about the market, those in quarantine first;
    the counts are of all before filters.
    """

    part = "findings"

    findings: MarketFindings
    total: int = Field(description="those that pass the filters, also beyond the limit")
    by_check: dict[str, int]
    by_state: dict[str, int]
    checks: dict[str, str] = Field(description="what each check looks at")
    batch: int
    next: str | None = Field(None, description="the cursor of the next page, where there is one")


class MarketRow(Model):
    """A row in quarantine."""

    kind: Literal["prices", "levels", "rates"]
    subject: str = Field(description="SYMBOL@MIC, a list, a pair of currencies")
    date: date


MarketRows = list[MarketRow]


class MarketDecision(Model):
    """Accept or reject market rows in quarantine; a rejected one stays listed and unused."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [
                {
                    "rows": [{"kind": "prices", "subject": "EXW@ZALD", "date": "2024-03-28"}],
                    "accept": True, "who": "Ada", "why": "a consolidation, hundred to one",
                }
            ]
        }
    )  # fmt: skip

    rows: MarketRows
    accept: bool
    who: str
    why: str


class MarketDecided(Model):
    """How many were decided, and in which batch."""

    rows: int
    batch: int


class CoverageRow(Model):
    """An item, and how many companies have it in each year."""

    item: str
    title: str
    members: int = Field(description="those whose template has the line")
    companies: list[int]


class CoverageMatrix(Tabled):
    """How a list is filled: items down, years across."""

    part = "items"

    years: list[int]
    items: list[CoverageRow]
    members: int
    batch: int
    list: str

    def rows(self) -> Rows:
        """One row an item, a column a year."""
        years = [str(y) for y in self.years]
        about = ("item", "title", "members")
        rows = (
            {**{n: getattr(r, n) for n in about}, **dict(zip(years, r.companies, strict=True))}
            for r in self.items
        )
        return Rows((*about, *years), rows, context_of(self, "items", "years"))
