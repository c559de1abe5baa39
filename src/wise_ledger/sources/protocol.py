"""What an adapter can give, each a small protocol:
an adapter has the methods of what its source has, and no others.

A new adapter is one module that fulfils `Source` and some of the protocols in `OFFERS`; it inherits
the tests of `tests/sources/contract.py`. One of a third party is found by the entry point group
`wise_ledger.sources`: a name, and a function that opens it.
"""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass
from datetime import date
from typing import Literal, Protocol, runtime_checkable

from wise_ledger.core.quality.beforehand import Beforehand
from wise_ledger.core.records.figures import Figures
from wise_ledger.core.records.records import (
    CompanyRecord,
    DocumentRecord,
    ListRecord,
    RateRecord,
    VenueRecord,
)
from wise_ledger.sources.mapping import TagMapping
from wise_ledger.sources.market import EstimatesFound, MarketFound
from wise_ledger.sources.pacing import Budget
from wise_ledger.sources.series import SeriesFound


@dataclass(frozen=True)
class FilingRecord:
    """A document and the facts in it; `unmapped` are the source's tags that have no item."""

    document: DocumentRecord
    facts: Figures
    unmapped: tuple[str, ...] = ()


@dataclass(frozen=True)
class CompaniesFound:
    """Companies that changed since a mark of the source (all without one),
    and the mark to ask from next time.
    """

    companies: list[CompanyRecord]
    mark: str | None
    filings: dict[str, int]  # how many filings the source has of each, where it says so
    since: str | None = None  # the mark that was asked from


@dataclass(frozen=True)
class ListsFound:
    """The source's lists; None where they are as they were at `etag`."""

    lists: list[ListRecord] | None
    mark: str | None


@dataclass(frozen=True)
class RatesFound:
    """Currency rates, and the mark to ask from next time."""

    rates: list[RateRecord]
    mark: str | None


@dataclass(frozen=True)
class VenuesFound:
    """What venues are called, where they are and when they close;
    None where nothing changed since the mark.
    """

    venues: list[VenueRecord] | None
    mark: str | None


@dataclass(frozen=True)
class FilingsFound:
    """New filings of a company, oldest first; `mark` to ask from next time;
    None where nothing changed.

    `beforehand` is what checks find in all of them, where there was time to look.
    """

    filings: list[FilingRecord] | None
    mark: str | None
    beforehand: Beforehand | None = None


class Source(Protocol):
    """A source of companies and their filings, and maybe of more.

    Every method raises `SourceError` and may be called by many threads.
    """

    name: str
    title: str
    budget: Budget
    mapping: TagMapping  # may be replaced before anything is asked

    @property
    def tries(self) -> int:
        """Requests made by this thread, those repeated included."""

    @property
    def requests(self) -> int:
        """Requests made in all."""

    @property
    def bytes(self) -> int:
        """Bytes that came over the line in all."""

    def companies(self, mark: str | None = None) -> CompaniesFound:
        """The companies that changed since a mark, all without one."""

    def filings(
        self,
        company: CompanyRecord,
        known: Collection[str],
        mark: str | None = None,
        since: date | None = None,
    ) -> FilingsFound:
        """The company's filings, without those whose document key is in
        `known` or published before `since`.
        """

    def read(self, key: str, raw: bytes, year_end: int, template: str | None) -> FilingRecord:
        """A kept document read again, by the mapping of now."""

    def calls(self, filings: int) -> int:
        """How many requests it takes to ask for so many filings of one company."""

    def close(self) -> None:
        """Let go of connections."""


@runtime_checkable
class GivesStatements(Protocol):
    """Filings that turn into documents and facts."""

    def filings(
        self,
        company: CompanyRecord,
        known: Collection[str],
        mark: str | None = None,
        since: date | None = None,
    ) -> FilingsFound:
        """See `Source`."""


@runtime_checkable
class GivesIdentifiers(Protocol):
    """What names companies, and when."""

    def companies(self, mark: str | None = None) -> CompaniesFound:
        """See `Source`."""


@runtime_checkable
class GivesAttributes(Protocol):
    """Companies come with what is said of them: country, industry, template, fiscal year end."""

    describes_companies: Literal[True]


@runtime_checkable
class GivesLists(Protocol):
    """Lists of companies, with their stays."""

    def lists(self, mark: str | None = None) -> ListsFound:
        """The lists that it keeps."""


@runtime_checkable
class GivesRates(Protocol):
    """Rates between currencies."""

    def rates(self, mark: str | None = None) -> RatesFound:
        """The rates published since a mark, all without one."""


@runtime_checkable
class GivesVenues(Protocol):
    """Venues where securities trade."""

    def venues(self, mark: str | None = None) -> VenuesFound:
        """The venues that it knows."""


@runtime_checkable
class GivesMarket(Protocol):
    """Prices of listings, and what is paid, counted and ended there."""

    def market_calls(self, mark: str | None = None) -> int:
        """How many requests it takes to ask for what changed since a mark; may cost one itself."""

    def market(self, mark: str | None = None) -> MarketFound:
        """What changed since a mark, all without one."""


@runtime_checkable
class GivesSeries(Protocol):
    """Economic series with their vintages."""

    def series(self, mark: str | None = None) -> SeriesFound:
        """What was released since a mark, all without one."""


@runtime_checkable
class GivesEstimates(Protocol):
    """What analysts expect, and what was announced."""

    def estimates(self, mark: str | None = None) -> EstimatesFound:
        """What became public since a mark, all without one."""


# What can be asked for, in the words of people, and what a source must be able to do for it.
OFFERS: Mapping[str, type] = {
    "statements": GivesStatements,
    "attributes": GivesAttributes,
    "identifiers": GivesIdentifiers,
    "lists": GivesLists,
    "rates": GivesRates,
    "venues": GivesVenues,
    "market": GivesMarket,
    "estimates": GivesEstimates,
    "series": GivesSeries,
}


def offers(source: object) -> tuple[str, ...]:
    """What a source gives, in the words of people.

    One that answers a call because every source must, and has nothing to say there, names it in
    `has_no`.
    """
    without: Collection[str] = getattr(source, "has_no", ())
    return tuple(
        name
        for name, protocol in OFFERS.items()
        if isinstance(source, protocol) and name not in without
    )


OpenSource = Callable[[], Source]
