"""What every adapter offers: companies, lists, and filings that turn into documents and facts."""

from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass
from typing import Protocol

from wise_ledger.core.facts.records import CompanyRecord, DocumentRecord, FactRecord, ListRecord


@dataclass(frozen=True)
class FilingRecord:
    """A document and the facts in it; `unmapped` are the source's tags that have no item."""

    document: DocumentRecord
    facts: tuple[FactRecord, ...]
    unmapped: tuple[str, ...] = ()


class Source(Protocol):
    """A source of companies and their filings; every method raises `SourceError`."""

    name: str
    title: str
    tries: int  # requests made so far, those repeated included

    def companies(self) -> list[CompanyRecord]:
        """Every company that the source knows."""

    def lists(self) -> list[ListRecord]:
        """The lists that it keeps."""

    def filings(self, company: CompanyRecord, known: Collection[str]) -> Iterable[FilingRecord]:
        """The company's filings, oldest first, without those whose document key is in `known`."""

    def close(self) -> None:
        """Let go of connections."""


OpenSource = Callable[[], Source]
