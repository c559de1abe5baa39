"""What a source without filings answers where filings are asked for."""

from collections.abc import Collection
from datetime import date

from wise_ledger.core.records.records import CompanyRecord
from wise_ledger.sources.errors import damaged
from wise_ledger.sources.protocol import FilingRecord, FilingsFound


class NoFilings:
    """An adapter of a source that has other things to give."""

    title: str
    has_no: tuple[str, ...] = ("statements",)

    def filings(
        self,
        company: CompanyRecord,
        known: Collection[str],
        mark: str | None = None,
        since: date | None = None,
    ) -> FilingsFound:
        """None: it has no filings."""
        return FilingsFound([], None)

    def read(self, key: str, raw: bytes, year_end: int, template: str | None) -> FilingRecord:
        """There are no documents of this source."""
        raise damaged(f"{self.title} {key}", raw[:40], "this source has no documents")
