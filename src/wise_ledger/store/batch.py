"""Writing one batch: rows gathered table by table, duplicates left out (T8)."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import Connection, Table, func, insert, select

from wise_ledger.core.facts.instants import end_of_day, micros
from wise_ledger.core.facts.records import (
    AttributeRecord,
    DocumentRecord,
    FactRecord,
    IdentifierRecord,
    ListRecord,
    SecurityRecord,
)
from wise_ledger.core.fiscal.periods import day
from wise_ledger.core.identity.company_id import company_id, stable_id
from wise_ledger.store import tables
from wise_ledger.store.chain import ContentHash
from wise_ledger.store.tables import (
    LEDGER,
    attributes,
    companies,
    decisions,
    documents,
    facts,
    identifiers,
    list_notes,
    listings,
    lists,
    members,
    securities,
)

Row = dict[str, Any]


class BatchWriter:
    """Takes what belongs into one batch; what the ledger already has, unchanged, is left out."""

    def __init__(self, connection: Connection, number: int, recorded_at: int) -> None:
        self.number = number
        self.recorded_at = recorded_at
        self._connection = connection
        self._next: dict[str, int] = {}
        self._firsts: dict[str, int] = {}
        self._numbers: dict[tuple[str, str], int] = {}
        self._securities: dict[tuple[int, str], int] = {}
        self.facts_added = 0

    def source(self, name: str, title: str) -> int:
        """The number of a source, new or known."""
        return self._named(tables.sources, "name", name, {"title": title})

    def item(self, code: str) -> int:
        """The number of an item, new or known."""
        return self._named(tables.items, "code", code, {})

    def company(self, source: int, scheme: str, key: str, since: int) -> int:
        """The company that the source knows by this key; a new one is given a number and an id."""
        found = self._connection.execute(
            select(identifiers.c.company).where(
                identifiers.c.scheme == scheme, identifiers.c.value == key, identifiers.c.source == source
            )
        ).scalar()
        if found is not None:
            return int(found)
        number = self._take(companies)
        self._insert(companies, [{"number": number, "id": company_id(number)}])
        row = {"company": number, "scheme": scheme, "value": key, "valid_from": since, "valid_to": None}
        self._insert(identifiers, [{"id": self._take(identifiers), **row, "source": source}])
        return number

    def document(self, source: int, record: DocumentRecord) -> int:
        """The number of a document, found by the hash of its bytes."""
        values = {
            "source": source,
            "key": record.key,
            "title": record.title,
            "kind": record.kind,
            "media_type": record.media_type,
            "published_at": None if record.published_at is None else micros(record.published_at),
            "content": record.content,
        }
        return self._named(documents, "sha256", record.sha256, values)

    def add_facts(self, company: int, source: int, records: Sequence[tuple[int, FactRecord]]) -> int:
        """Add facts, each with its document's number; returns how many were new (T8)."""
        known = {
            tuple(row)
            for row in self._connection.execute(
                select(*(facts.c[name] for name in _SAME)).where(facts.c.company == company, facts.c.source == source)
            )
        }
        rows = []
        for document, record in records:
            row = _fact_row(company, source, document, self.item(record.item), record)
            same = tuple(row[name] for name in _SAME)
            if same in known:
                continue
            known.add(same)
            row |= {"id": self._take(facts), "position": self.facts_added + len(rows)}
            rows.append(row)
        self._insert(facts, rows)
        self.facts_added += len(rows)
        return len(rows)

    def add_attributes(self, company: int, source: int, records: Sequence[AttributeRecord]) -> None:
        """Add what a source says of a company; without a publication instant, known at the end of its day (T9)."""
        rows = [
            {
                "company": company,
                "name": r.name,
                "value": r.value,
                "valid_from": day(r.valid_from),
                "published_at": micros(r.published_at or end_of_day(r.valid_from)),
                "source": source,
            }
            for r in records
        ]
        self._add_new(attributes, rows, company=company, source=source)

    def add_securities(self, company: int, source: int, records: Sequence[SecurityRecord]) -> None:
        """Add a company's instruments and where they are listed; known by the source's keys."""
        for record in records:
            same = (securities.c.source == source) & (securities.c.key == record.key)
            number = self._connection.execute(select(securities.c.number).where(same)).scalar()
            if number is None:
                number = self._take(securities)
                row = {"company": company, "key": record.key, "type": record.type, "title": record.title}
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
                for r in record.listings
            ]
            self._add_new(listings, rows, security=number, source=source)

    def add_decision(self, term: str, company: int | None, who: str, why: str) -> None:
        """What a person says a term means; without a company an earlier word is taken back."""
        row = {"id": self._take(decisions), "term": term, "company": company, "who": who, "why": why}
        self._insert(decisions, [row])

    def add_identifiers(self, company: int, source: int, records: Sequence[IdentifierRecord]) -> None:
        """Add what named a company, and when."""
        rows = [
            {
                "company": company,
                "scheme": r.scheme,
                "value": r.value,
                "valid_from": day(r.valid_from),
                "valid_to": None if r.valid_to is None else day(r.valid_to),
                "security": None if r.security_key is None else self._securities[source, r.security_key],
                "source": source,
            }
            for r in records
        ]
        self._add_new(identifiers, rows, company=company, source=source)

    def add_list(self, source: int, record: ListRecord, numbers: dict[str, int]) -> None:
        """Add a list and its stays; `numbers` gives companies by the source's keys."""
        number = self._named(lists, "name", record.name, {"title": record.title, "rule": record.rule})
        rows = [
            {
                "list": number,
                "company": numbers[m.company_key],
                "valid_from": day(m.valid_from),
                "valid_to": None if m.valid_to is None else day(m.valid_to),
                "weight": m.weight,
                "source": source,
            }
            for m in record.members
        ]
        # Of one stay told twice the later word counts, so only what it says already is left out.
        said = self._connection.execute(select(members).where(members.c.list == number).order_by(members.c.id))
        newest = {(r.company, r.valid_from): (r.valid_to, r.weight, r.source) for r in said}
        new = []
        for row in rows:
            stay, word = (row["company"], row["valid_from"]), (row["valid_to"], row["weight"], row["source"])
            if newest.get(stay) != word:
                new.append({"id": self._take(members), **row})
                newest[stay] = word
        self._insert(members, new)

    def add_list_note(self, name: str, title: str, description: str, archived: bool, who: str) -> None:
        """Say anew what a list is called and about, and whether it is archived."""
        number = self._named(lists, "name", name, {"title": title})
        row = {"list": number, "title": title, "description": description, "archived": archived, "who": who}
        self._insert(list_notes, [{"id": self._take(list_notes), **row}])

    def content(self) -> ContentHash:
        """The hash over all rows of this batch, as they stand in the file."""
        content = ContentHash()
        for table in LEDGER:
            if table.name in self._firsts:
                key = table.primary_key.columns.values()[0]
                rows = self._connection.execute(select(table).where(key >= self._firsts[table.name]).order_by(key))
                content.add(table, rows)
        return content

    def _named(self, table: Table, column: str, value: str, rest: Row) -> int:
        if (table.name, value) not in self._numbers:
            found = self._connection.execute(select(table.c.number).where(table.c[column] == value)).scalar()
            if found is None:
                found = self._take(table)
                self._insert(table, [{"number": found, column: value, **rest}])
            self._numbers[table.name, value] = found
        return self._numbers[table.name, value]

    def _add_new(self, table: Table, rows: list[Row], **where: int) -> None:
        if not rows:
            return
        names = list(rows[0])
        same = [table.c[name] == value for name, value in where.items()]
        known = {tuple(r) for r in self._connection.execute(select(*(table.c[n] for n in names)).where(*same))}
        new = [r for r in rows if tuple(r.values()) not in known]
        if table is listings:
            keys = [self._take(table) for _ in new]
            self._insert(table, [{"number": k, "id": stable_id("li", k), **r} for k, r in zip(keys, new, strict=True)])
        else:
            self._insert(table, [{"id": self._take(table), **r} for r in new])

    def _take(self, table: Table) -> int:
        """The next number of a table's key; they are given out here, so that a batch is the same wherever written."""
        name = table.name
        if name not in self._next:
            key = table.primary_key.columns.values()[0]
            highest = self._connection.execute(select(func.max(key))).scalar()
            self._next[name] = self._firsts[name] = (-1 if highest is None else highest) + 1
        self._next[name] += 1
        return self._next[name] - 1

    def _insert(self, table: Table, rows: list[Row]) -> None:
        if rows:
            self._connection.execute(insert(table), [{**row, "batch": self.number} for row in rows])


# T8: what makes two facts the same.
_SAME = (
    "company", "item", "source", "basis", "period_start", "period_end", "value", "unit", "published_at",
)  # fmt: skip


def _fact_row(company: int, source: int, document: int, item: int, record: FactRecord) -> Row:
    def days(value: Any) -> int | None:
        return None if value is None else day(value)

    def instant(value: datetime) -> int:
        return micros(value)

    return {
        "company": company,
        "item": item,
        "basis": record.basis,
        "period_start": days(record.period_start),
        "period_end": day(record.period_end),
        "declared_end": days(record.declared_end),
        "fiscal_period": record.fiscal_period,
        "value": record.value,
        "reported": record.reported,
        "scale": record.scale,
        "unit": record.unit,
        "published_at": instant(record.published_at),
        "assumed": record.assumed,
        "source": source,
        "document": document,
        "place": record.place,
    }
