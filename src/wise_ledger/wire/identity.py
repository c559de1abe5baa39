"""Companies, listings and matches on the wire."""

from collections import Counter
from collections.abc import Callable, Mapping
from datetime import date
from typing import Any, ClassVar, Literal, Self, get_args

from pydantic import ConfigDict, Field

from wise_ledger.wire.figures import DocumentInfo
from wise_ledger.wire.model import Model, Number
from wise_ledger.wire.rows import Rows, Tabled, context_of

SecurityType = Literal["ordinary", "preference", "depositary_receipt", "fund", "unit", "warrant"]
MatchOutcome = Literal["matched", "ambiguous", "renamed", "inactive", "invalid", "not_found"]


class ListingInfo(Model):
    """A security traded at a venue; dates include both ends, None where open."""

    id: str
    symbol: str
    mic: str
    currency: str
    security: str
    security_type: SecurityType
    valid_from: date | None
    valid_to: date | None
    primary: bool


class CompanyInfo(Model):
    """A company as it was on the day asked for."""

    id: str
    name: str
    country: str | None
    seat: str | None
    industry: str | None = Field(description="ISIC Rev. 4 division")
    industry_title: str | None
    website: str | None
    description: str | None
    active: bool
    score: float = Field(
        description="how like the term, 1 the same; 0 where nothing was searched for"
    )
    why: str = Field(description="what it was found by")
    listings: list[ListingInfo]


class TermAsked(Model):
    """A term with what is known beside it."""

    text: str
    venue: str | None = Field(None, description="MIC")
    country: str | None = Field(None, description="ISO 3166 alpha-2")


class MatchRequest(Model):
    """Names, symbols and identifiers, matched as of a date."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [{"terms": ["AGK@ZALD", "Pellam Tide Power plc"], "on": "2024-03-31"}]
        },
    )

    terms: list[str | TermAsked]
    on: str = Field(description="YYYY-MM-DD")
    types: list[SecurityType] = ["ordinary"]
    all_listings: bool = Field(False, description="all listings, not the primary one alone")
    ever: bool = Field(False, description="companies and symbols of any time, not only of the date")
    to: list[str] = Field([], description="schemes to map to: isin, sedol, lei, symbol, company, …")
    recorded_by: Number | None = None


class TermsRead(Model):
    """The terms of a file, to be matched; `column` is the one they were taken from."""

    columns: list[str]
    column: str | None
    terms: list[TermAsked]
    notes: list[str]


class MatchRow(Model):
    """What became of one term."""

    term: str
    scheme: str
    outcome: MatchOutcome
    company: CompanyInfo | None
    candidates: list[CompanyInfo]
    notes: list[str]
    repair: list[str] = Field(
        description="identifiers that a slip could have made of it, as scheme:value"
    )
    decided: str | None = Field(description="who decided it, and why")
    codes: list[str | None] = Field(description="in the order of `to`")


class MatchAnswer(Model):
    """One row for each term, in the order given."""

    on: date
    batch: int
    to: list[str]
    counts: dict[MatchOutcome, int]
    rows: list[MatchRow]

    @classmethod
    def of(cls, found: Mapping[str, Any]) -> Self:
        """What was found, as plain values, with its outcomes counted."""
        outcomes = Counter(row["outcome"] for row in found["rows"])
        return cls.model_validate(
            {**found, "counts": {o: outcomes[o] for o in get_args(MatchOutcome)}}
        )

    def table(self) -> Rows:
        """One row a term, in order: what became of it, whom it means, the
        codes asked for, notes and who decided.
        """
        rows = [
            {
                "term": row.term,
                "outcome": row.outcome,
                "scheme": row.scheme,
                "company": row.company.id if row.company else None,
                "name": row.company.name if row.company else None,
                "country": row.company.country if row.company else None,
                "listing": _symbols(row.company) if row.company else None,
                "score": row.company.score if row.company else None,
                **dict(zip(self.to, row.codes, strict=True)),
                "notes": "; ".join(row.notes),
                "repair": " ".join(row.repair),
                "candidates": "; ".join(f"{c.name} ({c.score:.2f})" for c in row.candidates),
                "decided": row.decided,
            }
            for row in self.rows
        ]
        return Rows((*_MATCHED, *self.to, *_NOTED), rows, context_of(self, "rows"))


_MATCHED = ("term", "outcome", "scheme", "company", "name", "country", "listing", "score")
_NOTED = ("notes", "repair", "candidates", "decided")


class DecisionRequest(Model):
    """What a person says a term means; without a company an earlier word is taken back."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [
                {"term": "Marlow Shipping", "company": "MRL@ZBRE", "who": "Ada", "why": "seat"}
            ]
        },
    )

    term: str
    company: str | None
    who: str
    why: str = ""


class Decision(Model):
    """A decision as kept."""

    term: str
    company: str | None
    name: str | None
    who: str
    why: str
    batch: int
    stands: bool


class Decisions(Model):
    """Every decision, the newest first."""

    decisions: list[Decision]


def _symbols(of: "CompanyInfo | SecurityInfo") -> str:
    return " ".join(f"{x.symbol}@{x.mic}" for x in of.listings)


class Companies(Tabled):
    """Companies found; says whether inactive ones are among them."""

    part = "companies"
    without = ("description",)
    made: ClassVar = {"listings": _symbols}
    id_of = "company"

    companies: list[CompanyInfo]
    total: int
    with_inactive: bool
    on: date
    batch: int
    next: str | None = Field(None, description="the cursor of the next page, where there is one")


class SpanInfo(Model):
    """A name, identifier or attribute value with its dates, both included; None where open."""

    kind: str
    value: str
    of: str | None
    valid_from: date | None
    valid_to: date | None


class Holding(Model):
    """What the ledger holds of an item for a company."""

    item: str
    facts: int
    first_period_end: date
    last_period_end: date
    last_published: date


class CompanyPage(Model):
    """All there is to know about a company, as known on a date."""

    company: CompanyInfo
    known_on: date
    batch: int
    ended: date | None
    end_cause: str | None
    names: list[SpanInfo]
    identifiers: list[SpanInfo]
    attributes: list[SpanInfo]
    listings: list[ListingInfo]
    holdings: list[Holding]
    documents: list[DocumentInfo]


class VenueCount(Model):
    """Listings and companies at a venue, of one security type."""

    mic: str
    name: str | None = Field(description="as a source or file describes it; none where nobody did")
    country: str | None
    time_zone: str | None
    close: str | None = Field(description="HH:MM of its own clock")
    also_called: list[str] = Field(
        description="words that people taught, such as the suffix of its symbols"
    )
    security_type: SecurityType
    listings: int
    companies: int


class VenueWord(Model):
    """What a venue is also called; without a venue the word is taken back."""

    model_config = {
        "json_schema_extra": {"examples": [{"word": ".ALD", "mic": "ZALD", "who": "ada"}]}
    }

    word: str = Field(min_length=1, max_length=100)
    mic: str | None
    who: str = Field(min_length=1, max_length=200)


class Venues(Tabled):
    """Every venue by security type on a day."""

    part = "venues"

    on: date
    batch: int
    venues: list[VenueCount]


def _of_listing(name: str) -> Callable[["ListedCompany"], object]:
    return lambda row: row.listing.model_dump(mode="json")[name]


_OF_A_LISTING = ("security_type", "currency", "valid_from", "valid_to", "primary")


class ListedCompany(Model):
    """A listing with its company."""

    company: str
    name: str
    country: str | None
    active: bool
    listing: ListingInfo


class Listings(Tabled):
    """Listings of a day, or all there ever were."""

    part = "listings"
    without = ("listing",)
    made: ClassVar = {
        "symbol": lambda r: f"{r.listing.symbol}@{r.listing.mic}",
        **{name: _of_listing(name) for name in _OF_A_LISTING},
        "listing": lambda r: r.listing.id,
        "security": lambda r: r.listing.security,
    }

    on: date | None
    batch: int
    listings: list[ListedCompany]


class SecurityInfo(Model):
    """An instrument with its company and its listings on the day."""

    id: str
    company: str
    name: str
    type: SecurityType
    title: str
    ratio: float | None
    listings: list[ListingInfo]


class Securities(Tabled):
    """Securities of all companies."""

    part = "securities"
    made: ClassVar = {"listings": _symbols}
    id_of = "security"

    on: date
    batch: int
    securities: list[SecurityInfo]
