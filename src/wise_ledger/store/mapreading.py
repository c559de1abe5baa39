"""Reading what people said of a source's tags, the tags nobody did,
and the documents to read again.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from sqlalchemy import Connection, func, select

from wise_ledger.core.records.records import TagMeaning
from wise_ledger.store.packing import unpack
from wise_ledger.store.statetables import unmapped
from wise_ledger.store.tables import attributes, documents, facts, mappings, sources


@dataclass(frozen=True)
class UnmappedTag:
    """A tag without an item: in how many documents and of how many companies,
    and one company's number.
    """

    tag: str
    documents: int
    companies: int
    example: int


@dataclass(frozen=True)
class KeptDocument:
    """A document with what is needed to read it again:
    its company's fiscal year end and template.
    """

    document: int
    key: str
    content: bytes
    company: int
    year_end: int
    template: str | None


def rules(connection: Connection, source: str) -> list[TagMeaning]:
    """What people said; of one tag and template the last word."""
    rows = connection.execute(
        select(mappings).where(mappings.c.source == source).order_by(mappings.c.id)
    )
    found = {
        (r.tag, r.template): TagMeaning(r.tag, r.item, r.sign, r.power, r.unit, r.template)
        for r in rows
    }
    return list(found.values())


def unmapped_tags(connection: Connection, source: str) -> list[UnmappedTag]:
    """The tags of a source without an item, the most frequent first."""
    query = (
        select(
            unmapped.c.tag,
            func.count().label("documents"),
            func.count(unmapped.c.company.distinct()).label("companies"),
            func.min(unmapped.c.company).label("example"),
        )
        .join(documents, documents.c.number == unmapped.c.document)
        .join(sources, sources.c.number == documents.c.source)
        .where(sources.c.name == source)
        .group_by(unmapped.c.tag)
        .order_by(func.count().desc(), unmapped.c.tag)
    )
    return [
        UnmappedTag(r.tag, r.documents, r.companies, r.example) for r in connection.execute(query)
    ]


def kept_documents(
    connection: Connection, source: str, tag: str | None
) -> tuple[int, Iterator[KeptDocument]]:
    """The documents of a source with an unmapped tag, all of them without one: how many,
    and one after the other.
    """
    if tag is None:
        of = select(facts.c.document, facts.c.company).distinct().subquery()
    else:
        of = select(unmapped.c.document, unmapped.c.company).where(unmapped.c.tag == tag).subquery()
    query = (
        select(documents.c.number, documents.c.key, of.c.company)
        .join(of, of.c.document == documents.c.number)
        .join(sources, sources.c.number == documents.c.source)
        .where(sources.c.name == source)
        .order_by(documents.c.number)
    )
    latest: dict[tuple[int, str], str] = {}
    about = select(attributes).where(attributes.c.name.in_(("fiscal_year_end", "template")))
    for row in connection.execute(about.order_by(attributes.c.valid_from, attributes.c.id)):
        latest[row.company, row.name] = row.value
    rows = connection.execute(query).all()

    def each() -> Iterator[KeptDocument]:
        packed = select(documents.c.content, documents.c.unpacked_size)
        for number, key, company in rows:
            content = unpack(*connection.execute(packed.where(documents.c.number == number)).one())
            year_end = int(latest.get((company, "fiscal_year_end"), 12))
            yield KeptDocument(
                number, key, content, company, year_end, latest.get((company, "template"))
            )

    return len(rows), each()
