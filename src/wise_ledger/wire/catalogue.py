"""The catalogue on the wire."""

from datetime import date
from typing import ClassVar, Literal

from pydantic import ConfigDict, Field

from wise_ledger.wire.model import Model
from wise_ledger.wire.rows import Tabled


class Item(Model):
    """One kind of figure."""

    code: str
    title: str
    statement: str
    nature: Literal["flow", "stock", "observation"]
    unit: str
    definition: str
    templates: list[str]
    indent: int = Field(default=0, description="how deep it stands in its statement")
    synonyms: list[str] = []
    source: str = Field(default="", description="of a registered item, where its figures come from")
    stale_after: int | None = Field(
        default=None, description="of an observation, days after which it is stale"
    )


class NewItem(Model):
    """An item of one's own; it stands in the statement `other`."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [
                {
                    "code": "disclosure_score",
                    "title": "Disclosure score",
                    "unit": "pure",
                    "source": "Kestrel pages, read every quarter",
                    "stale_after": 200,
                    "who": "Ada",
                }
            ]
        }
    )

    code: str = Field(description="small letters, digits and _; what expressions call it")
    title: str
    nature: Literal["flow", "stock", "observation"] = "observation"
    unit: str = Field(description="money, money_per_share, shares, pure or count")
    definition: str = ""
    source: str = Field(description="where its figures come from")
    stale_after: int | None = Field(
        default=None, description="days; of an observation 400 unless given"
    )
    who: str


class Catalogue(Tabled):
    """The items, and the functions and attributes that an expression may use."""

    part = "items"

    items: list[Item]
    attributes: list[str]
    functions: dict[str, str] = Field(description="how each is called, and what it does")
    currencies: list[str] = Field(default=[], description="that amounts can be shown in")


class Coverage(Model):
    """How often an item is filled (Q3)."""

    companies: int
    share: float = Field(description="of the companies whose template has the line, 0 to 1")
    facts: int
    first: date = Field(description="the first period end")
    last: date


class CatalogueValue(Model):
    """What an entry is for the company asked about, as known now."""

    value: float | str | None
    reason: str | None
    currency: str | None
    period_end: date | None


class CatalogueEntry(Model):
    """Something that can be asked for."""

    kind: Literal["item", "attribute", "market", "function", "series", "measure"]
    name: str
    title: str
    call: str = Field(description="how it is written in an expression")
    meaning: str
    unit: str
    statement: str
    nature: str
    templates: list[str]
    synonyms: list[str]
    score: float = Field(description="100 for what was asked for word by word")
    found_by: str = Field(description="the name, synonym or meaning that it was found by")
    coverage: Coverage | None
    value: CatalogueValue | None


class CatalogueSearch(Tabled):
    """What a search of the catalogue gave, the best first."""

    part = "entries"
    without = ("call", "coverage", "templates")
    made: ClassVar = {
        "companies": lambda e: e.coverage and e.coverage.companies,
        "share": lambda e: e.coverage and e.coverage.share,
        "since": lambda e: e.coverage and e.coverage.first,
        "value": lambda e: e.value and e.value.value,
        "reason": lambda e: e.value and e.value.reason,
        "currency": lambda e: e.value and e.value.currency,
    }

    entries: list[CatalogueEntry]
    total: int = Field(description="also those that the limit leaves out")
    company: str | None = Field(description="whose values stand beside")
    batch: int
    next: str | None = Field(None, description="the cursor of the next page, where there is one")


class YearCount(Model):
    """How many companies have an item for a period that ends in a year."""

    year: int
    companies: int


class SourceTag(Model):
    """A source's tag that means the item."""

    source: str
    tag: str
    template: str | None


class Line(Model):
    """A line of a sum: 1 is added, -1 taken away."""

    item: str
    sign: Literal[1, -1]


class Neighbour(Model):
    """An item that is easily taken for this one."""

    item: str
    title: str
    meaning: str


class Spread(Model):
    """How current values lie, in one currency or unit;
    twelve bins between the 5th and the 95th percentile.
    """

    currency: str | None
    companies: int
    least: float
    lower_quartile: float
    median: float
    upper_quartile: float
    greatest: float
    bins: list[int]


class ItemPage(Model):
    """All there is to know about an item."""

    item: Item
    coverage: Coverage | None
    years: list[YearCount]
    tags: list[SourceTag]
    adds_to: list[Line]
    made_of: list[Line]
    neighbours: list[Neighbour]
    spreads: list[Spread]
    batch: int
