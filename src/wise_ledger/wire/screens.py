"""Screens on the wire."""

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from wise_ledger.wire.figures import Cell, Reason

Verdict = Literal["pass", "fail", "unknown"]
# Named here, since inside a model that has a field `list` the word means that field.
LeaveOut = list[Literal["assumed"]]


class ScreenRequest(BaseModel):
    """A rule over a list, as known on a date (its end, UTC) or at an instant."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [{"rule": "operating_income / revenue > 15%", "list": "first-look", "known_on": "2023-06-30"}]
        },
    )

    rule: str
    list: str
    known_on: str = Field(description="YYYY-MM-DD, or an instant with its time zone")
    recorded_by: int | None = Field(None, description="ignore every batch after this one")
    leave_out: LeaveOut = Field([], description="facts whose publication date was assumed")
    currency: str | None = Field(None, description="ISO 4217: show amounts in it, and rank by it")
    hindsight: bool = Field(False, description="also say which figures are restated later")


class Column(BaseModel):
    """A side of a comparison, shown beside the verdict."""

    expression: str
    unit: str
    percent: bool = Field(description="it was compared with a percent")


class ScreenedCompany(BaseModel):
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


class Counts(BaseModel):
    """How many of each verdict."""

    passed: int
    failed: int
    unknown: int


Columns = list[Column]
Companies = list[ScreenedCompany]


class ScreenAnswer(BaseModel):
    """Every company of the list: those who pass first, then those who fail, then the unknown."""

    rule: str
    list: str
    list_title: str
    known_on: datetime
    recorded_by: int | None
    batch: int
    counts: Counts
    columns: Columns
    companies: Companies
