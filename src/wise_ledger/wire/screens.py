"""Screens on the wire."""

from typing import Literal

from pydantic import ConfigDict, Field

from wise_ledger.wire.figures import SEEN_HEADS, Cell, Column, Reason, apart, flat, flat_heads
from wise_ledger.wire.model import Model
from wise_ledger.wire.rows import Rows, asked, context_of
from wise_ledger.wire.viewpoint import CellViewpoint, SeenOfCompanies

Verdict = Literal["pass", "fail", "unknown"]
Words = list[str]
Verdicts = list[Verdict]


class ScreenRequest(CellViewpoint):
    """A rule over a list, over companies named, or over everybody, as seen from a viewpoint."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [
                {
                    "rule": "operating_income / revenue > 15%",
                    "list": "first-look",
                    "known_on": "2023-06-30",
                }
            ]
        },
    )

    rule: str
    list: str | None = Field(
        None, description="without a list and companies: everybody active then"
    )
    companies: Words = Field([], description="in the place of a list, by any identifier")
    show: Words = Field([], description="more columns, such as margin: operating_income / revenue")
    sort: str | None = Field(
        None, description="a column; - before it for the highest first, within each verdict"
    )
    only: Verdicts = Field([], description="only companies of these verdicts; all are counted")


class ScreenedCompany(Model):
    """A company of the list with its verdict; `cells` stand in the order of the columns."""

    company: str
    name: str
    symbol: str | None
    industry: str | None = Field(description="ISIC Rev. 4 division")
    industry_title: str | None
    template: str | None = Field(description="industrial, bank or insurer")
    verdict: Verdict
    reason: Reason | None = Field(description="why the verdict is unknown")
    cells: list[Cell]


class Counts(Model):
    """How many of each verdict."""

    passed: int
    failed: int
    unknown: int


class Condition(Model):
    """One of the conditions that a rule joins by `and`, judged by itself."""

    expression: str
    passed: int
    failed: int
    unknown: int
    reason: Reason | None = Field(description="the commonest one of the unknown")
    of_reason: int = Field(description="how many have that reason")


Conditions = list[Condition]
Columns = list[Column]
Companies = list[ScreenedCompany]


class ScreenAnswer(SeenOfCompanies):
    """Every company of the list: those who pass first, then those who fail, then the unknown."""

    rule: str
    list: str | None
    list_title: str = Field(description="of the list; or in words whom it is about")
    counts: Counts
    conditions: Conditions = Field(
        [], description="each by itself, where the rule joins several by `and`"
    )
    columns: Columns
    companies: Companies

    @property
    def flat_columns(self) -> Columns:
        """The columns under the heads that they have in a table."""
        return apart(self.columns, (*SEEN_HEADS, *SCREEN_ABOUT))

    def rows(self) -> Rows:
        """One row a company, as every export has it. Hindsight has no place in an export (T9)."""
        columns = self.flat_columns
        rows = (
            {
                **{name: getattr(company, name) for name in SCREEN_ABOUT},
                **flat(columns, company.cells),
            }
            for company in self.companies
        )
        context = context_of(self, "columns", "companies", "conditions") | {
            "show": [c.name for c in self.columns]
        }
        return asked(context, SEEN_HEADS, (*SCREEN_ABOUT, *flat_heads(columns)), rows)


SCREEN_ABOUT = (
    "company",
    "name",
    "symbol",
    "industry",
    "industry_title",
    "template",
    "verdict",
    "reason",
)
