"""Lists of companies on the wire: what they are, who stands on them, how they changed."""

from datetime import datetime
from typing import Literal

from pydantic import ConfigDict, Field

from wise_ledger.wire.figures import SEEN_HEADS, Cell, Column, apart, flat, flat_heads
from wise_ledger.wire.identity import CompanyInfo
from wise_ledger.wire.model import Model
from wise_ledger.wire.rows import Rows, asked, context_of
from wise_ledger.wire.viewpoint import Seen

ListCombination = Literal["union", "intersection", "difference"]


class ListInfo(Model):
    """A list of companies."""

    name: str
    title: str
    companies: int = Field(description="how many ever stood on it by name")
    rule: str | None = Field(description="who stands on it, where it is kept by a rule")
    description: str
    archived: bool
    kept_by: str | None = Field(description="the source that keeps it, if one does")


class Lists(Model):
    """All lists."""

    lists: list[ListInfo]


class ListRequest(Model):
    """A list to keep: of companies named, out of other lists as they are on a day, or by a rule."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [
                {"name": "two-mills", "title": "Two mills", "companies": ["ISK@ZCAL"], "who": "Ada"}
            ]
        },
    )

    name: str
    title: str = ""
    companies: list[str] = []
    rule: str | None = Field(
        None, description='such as country == "XB" and active; holds on every date'
    )
    how: ListCombination | None = None
    lists: list[str] = []
    on: str | None = Field(None, description="the day of the other lists; by default today")
    until_ended: bool = False  # companies that are no more stand on it until they ended
    who: str


class ListChange(Model):
    """What changes about a list; what is left out stays."""

    model_config = ConfigDict(
        extra="forbid", json_schema_extra={"examples": [{"title": "Old mills", "who": "Ada"}]}
    )

    title: str | None = None
    description: str | None = None
    archived: bool | None = None
    add: list[str] = Field(
        [], description="companies that stand on it from today on, by any identifier"
    )
    remove: list[str] = Field([], description="companies that no longer do")
    who: str


class Member(CompanyInfo):
    """A company on a list; `cells` stand in the order of the columns."""

    weight: float | None = Field(description="as its keeper gives it, a plain fraction")
    cells: list[Cell]


class ListMembers(Seen):
    """A list and its members on a day; `unknown` counts those of whom the
    filter says neither yes nor no.
    """

    name: str
    title: str
    description: str
    archived: bool
    kept_by: str | None
    unknown: int
    with_inactive: bool = Field(description="whether companies no longer active are among them")
    columns: list[Column]
    members: list[Member]

    @property
    def flat_columns(self) -> list[Column]:
        """The columns under the heads that they have in a table."""
        return apart(self.columns, (*SEEN_HEADS, *MEMBER_ABOUT))

    def rows(self) -> Rows:
        """One row a company, as every export has it."""
        columns = self.flat_columns
        rows = [
            {
                "company": m.id,
                "name": m.name,
                "symbol": " ".join(f"{x.symbol}@{x.mic}" for x in m.listings) or None,
                "country": m.country,
                "industry": m.industry,
                "industry_title": m.industry_title,
                "seat": m.seat,
                "active": m.active,
                "weight": m.weight,
                **flat(columns, m.cells),
            }
            for m in self.members
        ]
        context = context_of(self, "columns", "members") | {
            "list": self.name,
            "show": [c.name for c in self.columns],
        }
        return asked(context, SEEN_HEADS, (*MEMBER_ABOUT, *flat_heads(columns)), rows)


MEMBER_ABOUT = (
    "company",
    "name",
    "symbol",
    "country",
    "industry",
    "industry_title",
    "seat",
    "active",
    "weight",
)


class ListVersion(Model):
    """One change of a list: companies that came and left by name, and what was said of it."""

    batch: int
    recorded_at: datetime
    who: str
    note: str
    joined: list[str]
    left: list[str]
    title: str | None
    description: str | None
    archived: bool | None


class ListVersions(Model):
    """Every change of a list, the newest first."""

    name: str
    versions: list[ListVersion]
