"""Writing one batch: rows gathered table by table, duplicates left out (T8)."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from itertools import compress
from typing import Any, NamedTuple, TypeVar

import numpy as np
from sqlalchemy import Connection, delete, select

from wise_ledger.core.errors import Problem
from wise_ledger.core.identity.company_id import company_id, stable_id
from wise_ledger.core.quality.checks import Finding
from wise_ledger.core.quality.held import Held
from wise_ledger.core.records import checking, kinds
from wise_ledger.core.records.columns import RecordColumns
from wise_ledger.core.records.figures import Figures
from wise_ledger.core.records.recordkind import RecordKind
from wise_ledger.core.records.records import (
    AttributeRecord,
    DocumentRecord,
    FactRecord,
    IdentifierRecord,
    ListRecord,
    RateRecord,
    ReceiptRatioRecord,
    SecurityRecord,
    SplitRecord,
)
from wise_ledger.core.time.instants import as_instant, micros
from wise_ledger.core.time.periods import as_date, day
from wise_ledger.store import examining, tables
from wise_ledger.store.blocks import BlockWriter, with_known_at
from wise_ledger.store.chain import ContentHash
from wise_ledger.store.decisions import DecisionWriter
from wise_ledger.store.factwriting import FactWriter
from wise_ledger.store.listreading import list_numbers
from wise_ledger.store.mapreading import KeptDocument, kept_documents
from wise_ledger.store.naming import all_listings
from wise_ledger.store.operations import Outcome, add_outcomes, remember, set_run
from wise_ledger.store.packing import Packed, pack
from wise_ledger.store.recordwriting import RecordWriter
from wise_ledger.store.rowwriting import Column, insert_columns, insert_rows
from wise_ledger.store.statetables import unmapped
from wise_ledger.store.tables import (
    LEDGER,
    companies,
    documents,
    identifiers,
    listings,
    lists,
    securities,
)

# the numbers of the company and the document, and the figure
OfCompany = tuple[int, int, FactRecord]


class ListingOf(NamedTuple):
    """A listing's number, and the days from which and until which it stands."""

    number: int
    since: int
    until: int


R = TypeVar("R")


class BatchWriter(DecisionWriter):
    """Takes what belongs into one batch; what the ledger already has, unchanged, is left out."""

    def __init__(self, connection: Connection, number: int, recorded_at: int) -> None:
        super().__init__(connection, number)
        self.recorded_at = recorded_at
        self._securities: dict[tuple[int, str], int] = {}
        self._content = ContentHash()
        self._records = RecordWriter(connection, number, self._reserve, self._content)
        self._facts = FactWriter(connection, number, self.item, self._content)
        self._blocks = BlockWriter(connection, number, recorded_at, self._reserve, self._content)
        self.refused: dict[int | None, list[Problem]] = {}  # by company, or of none

    def _passing(self, kind: RecordKind, records: Iterable[R], company: int | None) -> list[R]:
        """The records that may be kept; the others are noted as refused."""
        given, now = list(records), as_instant(self.recorded_at)
        if kind.all_pass(given, now):
            return given
        good, wrong = checking.passing(given, kind.problems, now)
        if wrong:
            self.refused.setdefault(company, []).extend(wrong)
        return good

    def add(
        self, kind: RecordKind, records: Iterable[Any], *, of: int | None = None, **references: Any
    ) -> int:
        """Records of a kind, of what the references point to; how many say anything new (T8).

        A reference is a number, or a list with one for each record. What is refused is noted for
        the company `of`.
        """
        given = list(records)
        passing = self._passing(kind, given, of)
        if len(passing) < len(given):  # what points elsewhere goes along with its record
            kept = {id(r) for r in passing}
            there = [id(r) in kept for r in given]
            references = {
                name: list(compress(ref, there)) if isinstance(ref, list) else ref
                for name, ref in references.items()
            }
        added = self._records.add(kind, tables.metadata.tables[kind.name], passing, **references)
        self._rows += added
        return added

    def add_columns(self, source: int, rows: RecordColumns) -> int:
        """Rows of a kind that is kept as columns; how many say anything new (T8).

        What may not be kept is refused.
        """
        wrong = rows.kind.problems(rows, as_instant(self.recorded_at))
        if wrong:
            self.refused.setdefault(None, []).extend(w.problem for w in wrong)
            rows = rows.where(np.delete(np.arange(len(rows)), [w.row for w in wrong]))
        rows = with_known_at(self._connection, self.number, rows)
        added = self._blocks.add(source, rows)
        self._records.hashed.add(tables.blocks.name)
        self._rows += added
        return added

    def refuse(self, company: int | None, problem: Problem) -> None:
        """Note that something was not kept, of a company or of none."""
        self.refused.setdefault(company, []).append(problem)

    def securities_of(self, source: int) -> dict[str, int]:
        """Every security that the source knows by a key of its own."""
        t = securities.c
        return {
            r.key: r.number
            for r in self._connection.execute(select(t.key, t.number).where(t.source == source))
        }

    def listings_of(self, source: int) -> dict[tuple[str, str], list[ListingOf]]:
        """The listings of the source's securities, by its key of the security and the venue."""
        key = {number: k for k, number in self.securities_of(source).items()}
        out: dict[tuple[str, str], list[ListingOf]] = {}
        for x in all_listings(self._connection, self.number):
            if x.security in key:
                own = ListingOf(x.number, x.span.since, x.span.until)
                out.setdefault((key[x.security], x.mic), []).append(own)
        return out

    def list_numbers(self) -> Mapping[str, int]:
        """The number of each list by name."""
        return list_numbers(self._connection)

    def series_texts(self, source: int) -> dict[tuple[int, str], str]:
        """What a source said last of each series: by number and name."""
        t = tables.series_attributes
        rows = self._connection.execute(
            select(t.c.series, t.c.name, t.c.value).where(t.c.source == source).order_by(t.c.id)
        )
        return {(r.series, r.name): r.value for r in rows}

    def known_company(
        self, source: int, scheme: str, key: str, lei: str | None = None
    ) -> int | None:
        """The company that the source knows by this key, or that any source knows by this LEI."""
        named = "SELECT company FROM identifiers WHERE scheme = ? AND value = ?"
        found = self._driver.execute(f"{named} AND source = ?", (scheme, key, source)).fetchone()
        if found is None and lei:
            found = self._driver.execute(named, ("lei", lei)).fetchone()
        return None if found is None else int(found[0])

    def company(
        self, source: int, scheme: str, key: str, since: int, lei: str | None = None
    ) -> int:
        """The company that the source knows by this key, or others by this LEI;
        a new one gets a number and an id.
        """
        number = self.known_company(source, scheme, key)
        if number is not None:
            return number
        number = self.known_company(source, scheme, key, lei)
        if number is None:
            number = self._take(companies)
            self._insert(companies, [{"number": number, "id": company_id(number)}])
        named = [IdentifierRecord(scheme, key, as_date(since))]
        references = {"company": number, "source": source, "security": None}
        self._rows += self._records.add(kinds.IDENTIFIERS, identifiers, named, **references)
        return number

    def companies_of(self, source: int, scheme: str) -> dict[str, int]:
        """Every company that the source knows by a key of its own."""
        same = (identifiers.c.scheme == scheme) & (identifiers.c.source == source)
        return {r.value: r.company for r in self._connection.execute(
            select(identifiers.c.value, identifiers.c.company).where(same))}  # fmt: skip

    def document(self, source: int, record: DocumentRecord) -> int:
        """The number of a document, found by the hash of its bytes."""
        return self.documents(source, [record])[0]

    def documents(
        self, source: int, records: Sequence[DocumentRecord], packed: Sequence[Packed] | None = None
    ) -> list[int]:
        """The numbers of documents, found by the hashes of their bytes; new ones are kept.

        `packed` are their bytes where they were packed beforehand.
        """
        asked = [r.sha256 for r in records]
        known: dict[str, int] = {}
        for begin in range(0, len(asked), _AT_ONCE):
            some = asked[begin : begin + _AT_ONCE]
            marks = ", ".join("?" for _ in some)
            known |= self._driver.execute(
                f"SELECT sha256, number FROM documents WHERE sha256 IN ({marks})", some
            )
        rows = []
        for n, record in enumerate(records):
            if record.sha256 in known:
                continue
            known[record.sha256] = self._take(documents)
            row = {
                "number": known[record.sha256],
                "source": source,
                "sha256": record.sha256,
                "key": record.key,
            }
            row |= {"title": record.title, "kind": record.kind, "media_type": record.media_type}
            row["published_at"] = (
                None if record.published_at is None else micros(record.published_at)
            )
            row["content"], row["unpacked_size"] = (
                pack(record.content) if packed is None else packed[n]
            )
            rows.append(row)
        self._insert(documents, rows)
        return [known[sha256] for sha256 in asked]

    def add_facts(
        self, company: int, source: int, records: Sequence[tuple[int, FactRecord]]
    ) -> int:
        """Add facts, each with its document's number; returns how many were new (T8)."""
        return self.add_facts_of(
            source, [(company, document, record) for document, record in records]
        )

    def add_facts_of(self, source: int, records: Sequence[OfCompany]) -> int:
        """Add facts, each with the numbers of its company and document;
        returns how many were new (T8).
        """
        companies, documents, facts = zip(*records, strict=True) if records else ((), (), ())
        return self.add_figures(source, companies, documents, Figures.of(facts))

    def add_figures(
        self, source: int, companies: Sequence[int], documents: Sequence[int], figures: Figures
    ) -> int:
        """Add figures, of a company and out of a document each, given by number;
        returns how many were new (T8).
        """
        before = self._facts.added
        bases = self._facts.add(source, *self._passing_facts(companies, documents, figures))
        added = self._facts.added - before
        self._rows += added
        table = tables.share_bases
        self._insert(
            table,
            [{"id": self._take(table), "fact": fact, "basis_date": day(d)} for fact, d in bases],
        )
        return added

    def _passing_facts(
        self, companies: Sequence[int], documents: Sequence[int], figures: Figures
    ) -> tuple[Sequence[int], Sequence[int], Figures]:
        now = as_instant(self.recorded_at)
        if checking.all_pass(figures, now):
            return companies, documents, figures
        passes = []
        for company, record in zip(companies, figures, strict=True):
            problem = next(checking.of_fact(record, now), None)
            passes.append(problem is None)
            if problem is not None:
                self.refuse(company, replace(problem, at=f"{record.item}, {problem.at}"))
        return (
            list(compress(companies, passes)),
            list(compress(documents, passes)),
            figures.where(passes),
        )

    def add_attributes(self, company: int, source: int, records: Sequence[AttributeRecord]) -> None:
        """Add what a source says of a company; without a publication instant,
        known at the end of its day (T9).
        """
        self.add(kinds.ATTRIBUTES, records, of=company, company=company, source=source)

    def add_securities(self, company: int, source: int, records: Sequence[SecurityRecord]) -> None:
        """Add a company's instruments and where they are listed; known by the source's keys."""
        for record in records:
            same = (securities.c.source == source) & (securities.c.key == record.key)
            known = self._connection.execute(
                select(securities.c.number, securities.c.ratio).where(same)
            ).first()
            number = None if known is None else int(known.number)
            if (
                known is not None
                and record.ratio
                and record.ratio != self._ratio_of(known.number, known.ratio)
            ):
                since = record.ratio_from or as_instant(self.recorded_at).date()
                ratio = ReceiptRatioRecord(since, record.ratio)
                self.add(kinds.RECEIPT_RATIOS, [ratio], of=company, security=number, source=source)
            if number is None:
                number = self._take(securities)
                row = {
                    "company": company,
                    "key": record.key,
                    "type": record.type,
                    "title": record.title,
                }
                row |= {"ratio": record.ratio, "source": source}
                self._insert(securities, [{"number": number, "id": stable_id("se", number), **row}])
            self._securities[source, record.key] = number
            rows = [
                {
                    "security": number,
                    "symbol": r.symbol,
                    "mic": r.mic,
                    "currency": r.currency,
                    "valid_from": day(r.valid_from),
                    "valid_to": None if r.valid_to is None else day(r.valid_to),
                    "main": r.primary,
                    "source": source,
                }
                for r in self._passing(kinds.LISTINGS, record.listings, company)
            ]
            self._add_new(listings, rows, security=number, source=source)
            if record.splits:
                self.add_splits(source, number, record.splits, company)

    def _ratio_of(self, security: int, first: float | None) -> float | None:
        """How many ordinary shares a receipt stands for, as said last."""
        t = tables.receipt_ratios.c
        query = (
            select(t.ratio).where(t.security == security).order_by(t.valid_from.desc(), t.id.desc())
        )
        last = self._connection.execute(query.limit(1)).scalar()
        return first if last is None else float(last)

    def add_splits(
        self, source: int, security: int, records: Sequence[SplitRecord], company: int | None = None
    ) -> int:
        """Splits of a security, those given last unchanged left out (T8). How many were new."""
        return self.add(kinds.SPLITS, records, of=company, security=security, source=source)

    def add_identifiers(
        self, company: int, source: int, records: Sequence[IdentifierRecord]
    ) -> None:
        """Add what named a company, and when."""
        for security in dict.fromkeys(r.security_key for r in records):
            own = [r for r in records if r.security_key == security]
            number = None if security is None else self._securities[source, security]
            self.add(
                kinds.IDENTIFIERS, own, of=company, company=company, source=source, security=number
            )

    def add_list(self, source: int, record: ListRecord, numbers: dict[str, int]) -> None:
        """Add a list and its stays; `numbers` gives companies by the source's keys."""
        number = self._named(
            lists, "name", record.name, {"title": record.title, "rule": record.rule}
        )
        companies = [numbers[m.company_key] for m in record.members]
        self.add(kinds.MEMBERS, record.members, list=number, company=companies, source=source)

    @property
    def facts_added(self) -> int:
        """How many facts are new so far."""
        return self._facts.added

    def new_facts_of(self, company: int) -> Held:
        """The facts of a company, those of this batch marked as new."""
        new = self._facts.new_of(company)
        return examining.held(self._connection, company, self.number, self._facts.first, new)

    def template_of(self, company: int) -> str | None:
        """The template that was said of a company last."""
        return examining.template_of(self._connection, company)

    def add_findings(self, found: Sequence[Finding]) -> None:
        """Keep what checks found (Q1)."""
        if not found:
            return
        table, count = tables.findings, len(found)
        ids = np.arange(count) + self._reserve(table, count)
        of_each = zip(*((f.fact, f.check, f.hard, f.detail) for f in found), strict=True)
        columns: list[Column] = [ids, [self.number] * count, *of_each]  # in the table's order
        insert_columns(self._connection, table, columns)
        self._content.add_columns(table, columns)
        self._records.hashed.add(table.name)
        self._rows += count

    def add_rates(self, source: int, records: Iterable[RateRecord]) -> int:
        """Rates of a source; one that it gave last with the same value is left out (T8).

        How many were new.
        """
        return self.add(kinds.RATES, records, source=source)

    def add_unmapped(self, company: int, tags_of: Iterable[tuple[int, Iterable[str]]]) -> None:
        """Remember the tags of documents that have no item; no part of the
        ledger, but written with it.
        """
        rows = [(document, tag, company) for document, tags in tags_of for tag in sorted(set(tags))]
        insert_rows(self._connection, unmapped, rows, "IGNORE")

    def forget_unmapped(self, document: int, tags: Iterable[str]) -> None:
        """These tags of a document have an item now."""
        same = (unmapped.c.document == document) & unmapped.c.tag.in_(sorted(tags))
        self._connection.execute(delete(unmapped).where(same))

    def kept_documents(self, source: str, tag: str | None) -> tuple[int, Iterator[KeptDocument]]:
        """The documents of a source with an unmapped tag, all of them without
        one: how many, and each in turn.
        """
        return kept_documents(self._connection, source, tag)

    def note_outcome(self, run: int, outcome: Outcome, now: datetime) -> None:
        """Keep what became of a company in a run, in the same transaction as what it brought."""
        add_outcomes(self._connection, run, [outcome], now)

    def remember(self, source: str, marks: dict[str, str]) -> None:
        """Remember up to where a source was asked, in the same transaction as what it gave."""
        remember(self._connection, source, marks)

    def describes(self, run: int) -> None:
        """This batch, if anything is new in it, holds the companies and lists of a run."""
        if self.anything_new:
            set_run(self._connection, run, batch=self.number)

    def content(self) -> ContentHash:
        """The hash over all rows of this batch: of facts as they were written,
        of the rest as it stands in the file.
        """
        content = self._content
        for table in LEDGER:
            if table.name in self._firsts and table.name not in self._records.hashed:
                key = table.primary_key.columns.values()[0]
                names = ", ".join(f'"{c.name}"' for c in table.columns)
                query = (
                    f"SELECT {names} FROM {table.name} WHERE {key.name} >= ? ORDER BY {key.name}"
                )
                content.add(table, self._driver.execute(query, (self._firsts[table.name],)))
        return content


_AT_ONCE = 500  # values in one IN
