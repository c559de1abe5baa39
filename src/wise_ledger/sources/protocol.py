"""What every adapter offers: companies, lists, and filings that turn into documents and facts.

A new adapter is one module that fulfils `Source`; it inherits the tests of `tests/sources/contract.py`. One of a third
party is found by the entry point group `wise_ledger.sources`: a name, and a function that opens it.
"""

from collections.abc import Callable, Collection
from dataclasses import dataclass
from datetime import date
from typing import Protocol

from wise_ledger.core.records.records import CompanyRecord, DocumentRecord, FactRecord, ListRecord, RateRecord
from wise_ledger.sources.mapping import TagMapping
from wise_ledger.sources.pacing import Budget

OFFERS = ("statements", "attributes", "identifiers", "lists", "rates")


@dataclass(frozen=True)
class FilingRecord:
    """A document and the facts in it; `unmapped` are the source's tags that have no item."""

    document: DocumentRecord
    facts: tuple[FactRecord, ...]
    unmapped: tuple[str, ...] = ()


@dataclass(frozen=True)
class CompaniesFound:
    """Companies that changed since a mark of the source (all without one), and the mark to ask from next time."""

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
class FilingsFound:
    """New filings of a company, oldest first; `mark` to ask from next time; None where nothing changed."""

    filings: list[FilingRecord] | None
    mark: str | None


class Source(Protocol):
    """A source of companies and their filings; every method raises `SourceError` and may be called by many threads."""

    name: str
    title: str
    offers: tuple[str, ...]
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

    def lists(self, mark: str | None = None) -> ListsFound:
        """The lists that it keeps."""

    def rates(self, mark: str | None = None) -> RatesFound:
        """The currency rates told since a mark, all without one."""

    def filings(
        self, company: CompanyRecord, known: Collection[str], mark: str | None = None, since: date | None = None
    ) -> FilingsFound:
        """The company's filings, without those whose document key is in `known` or published before `since`."""

    def read(self, key: str, raw: bytes, year_end: int, template: str | None) -> FilingRecord:
        """A kept document read again, by the mapping of now."""

    def calls(self, filings: int) -> int:
        """How many requests it takes to ask for so many filings of one company."""

    def close(self) -> None:
        """Let go of connections."""


OpenSource = Callable[[], Source]
