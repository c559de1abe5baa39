"""Reading one state of the ledger: companies, attributes, lists, documents, facts by id."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime

import numpy as np
from sqlalchemy import Connection, func, select

from wise_ledger.core.catalogue.items import Item, Nature
from wise_ledger.core.dated.attributes import Attribute
from wise_ledger.core.money.currencies import currency_of
from wise_ledger.core.records.facts import DTYPES, FactColumns
from wise_ledger.core.records.limits import Limits
from wise_ledger.core.records.records import CONSOLIDATED
from wise_ledger.core.time.instants import as_instant
from wise_ledger.core.time.periods import ABSENT, as_date
from wise_ledger.core.timelines.preference import Preference, SourceOrder
from wise_ledger.store import tables
from wise_ledger.store.limitreading import published_column
from wise_ledger.store.packing import unpack
from wise_ledger.store.tables import (
    attributes,
    companies,
    documents,
    facts,
    identifiers,
    item_definitions,
    items,
    sources,
)
from wise_ledger.store.texts import out_of_one_text


@dataclass(frozen=True)
class Document:
    """A document without its bytes."""

    sha256: str
    key: str
    title: str
    kind: str
    media_type: str
    published_at: datetime | None
    source: str
    batch: int
    size: int


@dataclass(frozen=True)
class Fact:
    """One fact, as a person would read it."""

    id: int
    item: str
    period_start: date | None
    period_end: date
    value: float | None
    reported: str
    scale: int
    unit: str
    published_at: datetime
    assumed: bool
    source: str
    batch: int
    place: str
    document: Document


def company_ids(connection: Connection, batch: int) -> list[str]:
    """Ids by number of the companies that there were as of a batch."""
    query = select(companies.c.id).where(companies.c.batch <= batch)
    return [r.id for r in connection.execute(query.order_by(companies.c.number))]


def attribute_versions(connection: Connection) -> list[Attribute]:
    """Every version of every attribute, in order of recording."""
    query = select(attributes).order_by(attributes.c.id)
    return [
        Attribute(r.company, r.name, r.value, r.valid_from, r.published_at, r.batch)
        for r in connection.execute(query)
    ]


def source_names(connection: Connection) -> list[str]:
    """Source names by number, which is also the order of preference."""
    return [r.name for r in connection.execute(select(sources.c.name).order_by(sources.c.number))]


def registered_items(connection: Connection, batch: int) -> dict[str, Item]:
    """The items that people registered up to a batch, by code; of one given twice the last word."""
    query = select(item_definitions, items.c.code).join_from(item_definitions, items)
    found = connection.execute(
        query.where(item_definitions.c.batch <= batch).order_by(item_definitions.c.id)
    )
    return {
        r.code: Item(
            r.code,
            r.title,
            "other",
            Nature(r.nature),
            r.unit,
            r.definition,
            stale_after=r.stale_after,
            source=r.told_by,
        )
        for r in found
    }


def other_bases(
    connection: Connection, company: int, batch: int, cutoff: int, limits: Limits
) -> list[str]:
    """On what a company reported beside the plain consolidated ones,
    up to a batch and an instant.
    """
    same = (
        (facts.c.company == company)
        & (facts.c.batch <= batch)
        & (published_column(limits) <= cutoff)
    )
    query = select(facts.c.basis).distinct().where(same, facts.c.basis != CONSOLIDATED)
    return sorted(connection.execute(query).scalars())


def facts_of_company(
    connection: Connection,
    company: int,
    codes: Sequence[str],
    batch: int,
    *,
    with_assumed: bool = True,
    basis: str = CONSOLIDATED,
) -> FactColumns:
    """A company's facts of some items up to a batch;
    in the company column stands the place of the item in `codes`.
    """
    number = {
        r.code: r.number
        for r in connection.execute(select(items).where(items.c.code.in_(list(codes))))
    }
    place = {number[code]: n for n, code in enumerate(codes) if code in number}
    if not place:
        return FactColumns.empty()
    marks = ", ".join("?" for _ in place)
    # Plain rows from the driver, by the index that begins with the company: a statement waits for
    # this.
    query = (
        "SELECT item, coalesce(period_start, ?), period_end, coalesce(declared_end, ?), published_at, batch, position,"
        " source, value, unit, assumed, id FROM facts"
        f" WHERE company = ? AND item IN ({marks}) AND batch <= ? AND basis = ?"
    )
    if not with_assumed:
        query += " AND NOT assumed"
    driver = connection.connection.driver_connection
    assert driver is not None
    rows = driver.execute(query, (ABSENT, ABSENT, company, *place, batch, basis)).fetchall()
    if not rows:
        return FactColumns.empty()
    by_name = dict(zip(DTYPES, zip(*rows, strict=True), strict=True))
    units = {unit: currency_of(unit) for unit in set(by_name["currency"])}
    return FactColumns.of(
        {
            **by_name,
            "company": [place[n] for n in by_name["company"]],
            "value": [np.nan if v is None else v for v in by_name["value"]],
            "currency": [units[u] for u in by_name["currency"]],
        }
    )


def source_orders(connection: Connection, batch: int, names: Sequence[str]) -> list[SourceOrder]:
    """What people said of the order of sources up to a batch, in the order they said it."""
    number = {name: n for n, name in enumerate(names)}
    query = select(tables.source_orders).where(tables.source_orders.c.batch <= batch)
    return [
        SourceOrder(
            r.item, r.company, tuple(number[n] for n in out_of_one_text(r.sources) if n in number)
        )
        for r in connection.execute(query.order_by(tables.source_orders.c.id))
    ]


def preference(connection: Connection, batch: int) -> Preference:
    """Which source goes before which, as people said up to a batch (T5)."""
    names = source_names(connection)
    return Preference(source_orders(connection, batch, names), len(names))


def share_bases(connection: Connection, batch: int) -> dict[int, int]:
    """The day on whose shares a fact is stated, where its source states it, up to a batch."""
    t = tables.share_bases
    return {
        r.fact: r.basis_date
        for r in connection.execute(select(t.c.fact, t.c.basis_date).where(t.c.batch <= batch))
    }


def find_document(connection: Connection, address: str) -> Document | None:
    """A document by the hash of its bytes, or by an unambiguous beginning of it."""
    query = _documents().where(documents.c.sha256.startswith(address, autoescape=True)).limit(2)
    found = connection.execute(query).all()
    return _document(found[0]) if len(found) == 1 else None


def document_bytes(connection: Connection, sha256: str) -> bytes:
    """The raw bytes as the source sent them."""
    query = select(documents.c.content, documents.c.unpacked_size).where(
        documents.c.sha256 == sha256
    )
    return unpack(*connection.execute(query).one())


def known_documents(connection: Connection, source: str) -> set[str]:
    """The source's own keys of the documents that the ledger has."""
    query = select(documents.c.key).join_from(documents, sources).where(sources.c.name == source)
    return {r.key for r in connection.execute(query)}


def companies_of_source(connection: Connection, source: str) -> dict[str, tuple[int, str]]:
    """Number and newest name of every company known by a source's own key,
    in the order of the keys.
    """
    named = select(attributes.c.company, attributes.c.value).where(attributes.c.name == "name")
    names = {
        r.company: r.value
        for r in connection.execute(named.order_by(attributes.c.valid_from, attributes.c.id))
    }
    query = select(identifiers.c.value, identifiers.c.company).where(identifiers.c.scheme == source)
    rows = connection.execute(query.order_by(identifiers.c.value))
    return {r.value: (r.company, names.get(r.company, r.value)) for r in rows}


def documents_by_company(connection: Connection, source: str) -> dict[int, int]:
    """How many documents of a source the ledger has of each company."""
    query = (
        select(facts.c.company, func.count(facts.c.document.distinct()).label("n"))
        .join_from(facts, sources, facts.c.source == sources.c.number)
        .where(sources.c.name == source)
        .group_by(facts.c.company)
    )
    return {r.company: r.n for r in connection.execute(query)}


def facts_by_id(connection: Connection, ids: Iterable[int], limits: Limits) -> dict[int, Fact]:
    """Facts with their documents; publications that are assumed are so by these limits."""
    query = (
        _documents()
        .add_columns(
            facts.c.id,
            items.c.code.label("item"),
            facts.c.period_start,
            facts.c.period_end,
            facts.c.value,
            facts.c.reported,
            facts.c.scale,
            facts.c.unit,
            published_column(limits).label("fact_published_at"),
            facts.c.assumed,
            facts.c.batch.label("fact_batch"),
            facts.c.place,
        )
        .join(facts, facts.c.document == documents.c.number)
        .join(items, items.c.number == facts.c.item)
        .where(facts.c.id.in_(list(ids)))
    )
    return {
        r.id: Fact(
            r.id,
            r.item,
            None if r.period_start is None else as_date(r.period_start),
            as_date(r.period_end),
            r.value,
            r.reported,
            r.scale,
            r.unit,
            as_instant(r.fact_published_at),
            r.assumed,
            r.source,
            r.fact_batch,
            r.place,
            _document(r),
        )
        for r in connection.execute(query)
    }


def holdings(
    connection: Connection, company: int, cutoff: int, batch: int, limits: Limits
) -> list[tuple[str, int, date, date, date]]:
    """Item, facts, first and last period end, and last publication
    of what was known of a company, as recorded by a batch.
    """
    published = published_column(limits)
    known = published <= cutoff, facts.c.batch <= batch
    query = (
        select(
            items.c.code,
            func.count().label("facts"),
            func.min(facts.c.period_end).label("first"),
            func.max(facts.c.period_end).label("last"),
            func.max(published).label("published"),
        )
        .join_from(facts, items, facts.c.item == items.c.number)
        .where(facts.c.company == company, *known)
        .group_by(items.c.number)
        .order_by(items.c.number)
    )
    return [
        (r.code, r.facts, as_date(r.first), as_date(r.last), as_instant(r.published).date())
        for r in connection.execute(query)
    ]


def documents_of(
    connection: Connection, company: int, cutoff: int, batch: int, limits: Limits, most: int = 200
) -> list[Document]:
    """The documents that a company's facts known by a cut-off come from, the newest first,
    as recorded by a batch.
    """
    known = published_column(limits) <= cutoff, facts.c.batch <= batch
    from_them = select(facts.c.document).where(facts.c.company == company, *known)
    query = (
        _documents()
        .where(documents.c.number.in_(from_them))
        .order_by(documents.c.published_at.desc())
        .limit(most)
    )
    return [_document(r) for r in connection.execute(query)]


def published_by_month(
    connection: Connection, numbers: set[int] | None, limits: Limits
) -> list[tuple[str, int]]:
    """How many facts became public in each month, of some companies or of all."""
    month = func.strftime("%Y-%m", published_column(limits) / 1_000_000, "unixepoch")
    query = (
        select(month.label("month"), func.count().label("facts"))
        .select_from(facts)
        .group_by("month")
        .order_by("month")
    )
    if numbers is not None:
        query = query.where(facts.c.company.in_(numbers))
    return [(r.month, r.facts) for r in connection.execute(query)]


def newest_publication(connection: Connection, limits: Limits) -> datetime | None:
    """The latest publication instant of any fact."""
    found = connection.execute(
        select(func.max(published_column(limits))).select_from(facts)
    ).scalar()
    return None if found is None else as_instant(found)


def _documents():  # type: ignore[no-untyped-def]  # a Select whose row type nobody reads
    return select(
        documents.c.sha256,
        documents.c.key,
        documents.c.title,
        documents.c.kind,
        documents.c.media_type,
        documents.c.published_at,
        documents.c.batch,
        func.coalesce(documents.c.unpacked_size, func.length(documents.c.content)).label("size"),
        sources.c.name.label("source"),
    ).join_from(documents, sources)


def _document(row) -> Document:  # type: ignore[no-untyped-def]
    published = None if row.published_at is None else as_instant(row.published_at)
    return Document(
        row.sha256,
        row.key,
        row.title,
        row.kind,
        row.media_type,
        published,
        row.source,
        row.batch,
        row.size,
    )
