"""Measures on the wire: named expressions, what they mean, and files of them."""

from datetime import datetime

from pydantic import ConfigDict, Field

from wise_ledger.wire.model import Model, Number
from wise_ledger.wire.rows import Tabled


class MeasureInfo(Model):
    """A measure; `owner` is empty where it ships with the product."""

    name: str
    title: str
    subject: str
    subject_title: str
    formula: str
    meaning: str
    templates: list[str]
    source: str
    synonyms: list[str]
    owner: str
    version: int = Field(description="0 where it ships")
    batch: int


class Measures(Tabled):
    """Measures by subject, the shipped ones first."""

    part = "measures"
    without = ("subject_title",)

    measures: list[MeasureInfo]


class Meaning(Model):
    """What an expression means: read aloud, what it lives on, what it rests on,
    what a missing input does.
    """

    words: str
    canonical: str
    axis: str
    unit: str
    periods: list[str]
    items: list[str]
    fields: list[str] = Field(description="market fields and attributes")
    measures: list[str] = Field(description="that it rests on, those that these rest on too")
    series: list[str]
    templates: list[str] = Field(description="of companies that it can be of")
    missing: list[str] = Field(description="what a missing input does")
    sources: list[str] = Field(description="that have figures of its items")


class Example(Model):
    """A case reckoned by hand: inputs by expression, and the result."""

    given: dict[str, float]
    result: float


class MeasurePage(MeasureInfo):
    """All there is to know about a measure."""

    reads: Meaning | None = Field(
        description="none where it can no longer be used: `problem` says why"
    )
    problem: str
    used_by: list[str]
    kept_at: datetime | None
    archived: bool
    example: Example | None


class MeasureVersions(Tabled):
    """Every version of a measure, the newest first."""

    part = "versions"
    without = ("reads", "example", "subject_title")

    versions: list[MeasurePage]


class MeasureRequest(Model):
    """Keep a measure: new, or another version of one."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [
                {
                    "title": "Cash margin after plant",
                    "formula": "free_cash_flow / revenue",
                    "subject": "profitability",
                    "meaning": "Free cash flow for each unit of revenue.",
                    "who": "ada",
                }
            ]
        },
    )

    formula: str = Field(max_length=20_000)
    title: str = ""
    meaning: str = Field("", description="what it is, in a sentence")
    subject: str = "other"
    templates: list[str] = Field([], description="industrial, bank, insurer; without any, all")
    source: str = Field("", description="where the definition is from")
    synonyms: list[str] = []
    who: str


class MeasureArchive(Model):
    """Archive a measure, or bring it back."""

    model_config = ConfigDict(
        extra="forbid", json_schema_extra={"examples": [{"archived": True, "who": "ada"}]}
    )

    archived: bool = True
    who: str


class ExpressionAsked(Model):
    """An expression to look at; with `recorded_by` with the measures as of a batch (T7)."""

    model_config = ConfigDict(
        extra="forbid", json_schema_extra={"examples": [{"expression": "net_income/revenue>5%"}]}
    )

    expression: str = Field(max_length=20_000)
    recorded_by: Number | None = None


class Formatted(Model):
    """An expression in its canonical form."""

    expression: str


class Definitions(Model):
    """A file of definitions of measures, in YAML."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [
                {
                    "text": "- {name: my_margin, title: Mine, formula: net_income / revenue}",
                    "who": "ada",
                }
            ]
        },
    )

    text: str = Field(max_length=4_000_000)
    who: str


class DefinitionsKept(Model):
    """The measures of a file that were new, or that another version was kept of."""

    names: list[str]
