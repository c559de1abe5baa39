"""Collect from a source into the ledger: one batch for the companies and lists, then one for each company.

A company's filings go in together or not at all, and a filing that the ledger has is not asked for again: a
collection that was cut off at any point is finished by running it again.
"""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime

from wise_ledger.core.errors import LedgerError, Problem
from wise_ledger.core.facts.items import ITEMS, unit_fits
from wise_ledger.core.facts.records import CompanyRecord, FactRecord
from wise_ledger.core.fiscal.periods import day
from wise_ledger.sources.errors import SourceBusy, SourceDamaged, SourceError, SourceRefused, bad_figure
from wise_ledger.sources.protocol import FilingRecord, Source
from wise_ledger.store import listreading, reading
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.operations import Outcome
from wise_ledger.work import lists

Report = Callable[[Outcome, int], None]


@dataclass
class Collection:
    """One collection; `report` is told each outcome and how many companies there are."""

    ledger: Ledger
    source: Source
    report: Report
    stopped: Callable[[], bool] = lambda: False

    def run(self, list_name: str | None, done: set[str]) -> None:
        """Collect every company, or those of a list; subjects in `done` had their outcome before."""
        companies = self.source.companies()
        numbers = self._describe(companies)
        if list_name is not None:
            companies = self._of_list(companies, numbers, list_name)
        with self.ledger.database.read() as connection:
            known = reading.known_documents(connection, self.source.name)
        for company in companies:
            if self.stopped():
                return
            if company.key not in done:
                self.report(self._company(company, numbers[company.key], known), len(companies))

    def _describe(self, companies: list[CompanyRecord]) -> dict[str, int]:
        """Companies, attributes, identifiers and lists, in one batch; company numbers by the source's keys."""
        listed = self.source.lists()
        with self.ledger.batch("collection", f"companies and lists of {self.source.title}") as batch:
            source = batch.source(self.source.name, self.source.title)
            numbers = {}
            for record in companies:
                since = min((day(a.valid_from) for a in record.attributes), default=0)
                number = batch.company(source, self.source.name, record.key, since)
                batch.add_attributes(number, source, record.attributes)
                batch.add_securities(number, source, record.securities)
                batch.add_identifiers(number, source, record.identifiers)
                numbers[record.key] = number
            for entry in listed:
                strangers = [m.company_key for m in entry.members if m.company_key not in numbers]
                if strangers:
                    raise SourceDamaged(
                        Problem(f"list {entry.name}", strangers[0], "a member is no company of the source", "")
                    )
                batch.add_list(source, entry, numbers)
        return numbers

    def _of_list(self, companies: list[CompanyRecord], numbers: dict[str, int], name: str) -> list[CompanyRecord]:
        """Everybody who ever stood on the list: a study of the past needs them all."""
        lists.find_list(self.ledger, name)
        with self.ledger.database.read() as connection:
            ever = {s.company for s in listreading.stays(connection, name, self.ledger.last_batch())}
        return [c for c in companies if numbers[c.key] in ever]

    def _company(self, company: CompanyRecord, number: int, known: set[str]) -> Outcome:
        before = self.source.tries
        try:
            filings = list(self.source.filings(company, known))
            for filing in filings:
                check_filing(filing)
            added = self._store(company, number, filings) if filings else 0
        except (SourceRefused, SourceBusy):
            raise  # this holds for every company: the run ends, and says so once
        except SourceError as error:
            return Outcome(company.key, company.name, "failed", in_one_sentence(error), 0, self.source.tries - before)
        unmapped = sorted({tag for filing in filings for tag in filing.unmapped})
        reason = f"tags without an item: {', '.join(unmapped)}" if unmapped else ""
        state = "stored" if added else "unchanged"
        return Outcome(company.key, company.name, state, reason, added, self.source.tries - before)

    def _store(self, company: CompanyRecord, number: int, filings: list[FilingRecord]) -> int:
        with self.ledger.batch("collection", f"filings of {company.name} from {self.source.title}") as batch:
            source = batch.source(self.source.name, self.source.title)
            records: list[tuple[int, FactRecord]] = []
            for filing in filings:
                document = batch.document(source, filing.document)
                records += [(document, fact) for fact in filing.facts]
            return batch.add_facts(number, source, records)


def check_filing(filing: FilingRecord) -> None:
    """Refuse what cannot be a figure of its item (Q1): a unit of another kind, a period that has not ended."""
    for fact in filing.facts:
        at = f"{filing.document.title}, {fact.item}, {fact.place}"
        item = ITEMS[fact.item]
        if not unit_fits(item, fact.unit):
            raise bad_figure(at, fact.unit, f"{item.code} is {item.unit}, which this unit is not")
        if fact.published_at < datetime.combine(fact.period_end, datetime.min.time(), UTC):
            raise bad_figure(at, fact.published_at.date(), "it was published before its period ended")


def in_one_sentence(error: LedgerError) -> str:
    """An error as the reason of an outcome."""
    problem = error.problems[0]
    return f"{problem.problem}: {problem.value} ({problem.at}); {problem.mend}"
