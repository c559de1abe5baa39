"""The tables of the ledger.

Days are counted from 1970-01-01, instants in microseconds since then, UTC.
"""

from sqlalchemy import (
    BigInteger,
    Boolean,
    Column,
    Float,
    ForeignKey,
    Index,
    Integer,
    LargeBinary,
    MetaData,
    Table,
    Text,
    UniqueConstraint,
)

from wise_ledger.core.records import kinds
from wise_ledger.store.kindtables import batch_column, table_of

metadata = MetaData()


def _company() -> Column[int]:
    return Column("company", Integer, ForeignKey("companies.number"), nullable=False)


def _source() -> Column[int]:
    return Column("source", Integer, ForeignKey("sources.number"), nullable=False)


# One atomic write each, numbered without gaps; `hash` covers the row and the batch before it.
batches = Table(
    "batches",
    metadata,
    Column("number", Integer, primary_key=True),
    Column("recorded_at", BigInteger, nullable=False),
    Column("kind", Text, nullable=False),
    Column("note", Text, nullable=False),
    Column("rows", Integer, nullable=False),
    Column("content", Text, nullable=False),
    Column("previous", Text, nullable=False),
    Column("hash", Text, nullable=False),
)

sources = Table(
    "sources",
    metadata,
    Column("number", Integer, primary_key=True),
    batch_column(),
    Column("name", Text, nullable=False, unique=True),
    Column("title", Text, nullable=False),
)

items = Table(
    "items",
    metadata,
    Column("number", Integer, primary_key=True),
    batch_column(),
    Column("code", Text, nullable=False, unique=True),
)

companies = Table(
    "companies",
    metadata,
    Column("number", Integer, primary_key=True),
    batch_column(),
    Column("id", Text, nullable=False, unique=True),
)

documents = Table(
    "documents",
    metadata,
    Column("number", Integer, primary_key=True),
    batch_column(),
    _source(),
    Column("sha256", Text, nullable=False, unique=True),
    Column("key", Text, nullable=False),
    Column("title", Text, nullable=False),
    Column("kind", Text, nullable=False),
    Column("media_type", Text, nullable=False),
    Column("published_at", BigInteger),
    Column("content", LargeBinary, nullable=False),
    Column("unpacked_size", Integer),  # bytes of the content where it lies packed, see packing.py
    Index("documents_by_key", "source", "key"),
)

# What a source sends again unchanged is the same fact (T8): the one writer
# looks it up by company and period.
facts = Table(
    "facts",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("batch", Integer, nullable=False),  # looked up by ids, see factids.py
    Column("position", Integer, nullable=False),
    Column("company", Integer, nullable=False),
    Column("item", Integer, nullable=False),
    Column("basis", Text, nullable=False),
    Column("period_start", Integer),
    Column("period_end", Integer, nullable=False),
    Column("declared_end", Integer),
    Column("fiscal_period", Text),
    Column("value", Float),
    Column("reported", Text, nullable=False),
    Column("scale", Integer, nullable=False),
    Column("unit", Text, nullable=False),
    Column("published_at", BigInteger, nullable=False),
    Column("assumed", Boolean, nullable=False),
    Column("source", Integer, nullable=False),
    Column("document", Integer, nullable=False),
    Column("place", Text, nullable=False),
    Index("facts_by_item", "item", "batch"),
    Index("facts_of_company", "company", "period_end"),
)

# By number. It is not declared, since SQLite would look it up for every row: who writes facts makes
# sure of each number once, and `verify` looks again.
FACTS_POINT_TO = {"company": companies, "item": items, "source": sources, "document": documents}

attributes = table_of(kinds.ATTRIBUTES, metadata)

identifiers = table_of(
    kinds.IDENTIFIERS, metadata, Index("identifiers_by_value", "scheme", "value")
)

securities = Table(
    "securities",
    metadata,
    Column("number", Integer, primary_key=True),
    batch_column(),
    _company(),
    Column("id", Text, nullable=False, unique=True),
    Column("key", Text, nullable=False),
    Column("type", Text, nullable=False),
    Column("title", Text, nullable=False),
    Column("ratio", Float),
    _source(),
    UniqueConstraint("source", "key"),
)

listings = Table(
    "listings",
    metadata,
    Column("number", Integer, primary_key=True),
    batch_column(),
    Column("security", Integer, ForeignKey("securities.number"), nullable=False),
    Column("id", Text, nullable=False, unique=True),
    Column("symbol", Text, nullable=False),
    Column("mic", Text, nullable=False),
    Column("currency", Text, nullable=False),
    Column("valid_from", Integer, nullable=False),
    Column("valid_to", Integer),
    Column("main", Boolean, nullable=False),
    _source(),
)

# What a person said a term means; a later row for the same term counts, one
# without company takes it back.
decisions = Table(
    "decisions",
    metadata,
    Column("id", Integer, primary_key=True),
    batch_column(),
    Column("term", Text, nullable=False),
    Column("company", Integer, ForeignKey("companies.number")),
    Column("who", Text, nullable=False),
    Column("why", Text, nullable=False),
)

lists = Table(
    "lists",
    metadata,
    Column("number", Integer, primary_key=True),
    batch_column(),
    Column("name", Text, nullable=False, unique=True),
    Column("title", Text, nullable=False),
    Column("rule", Text),  # who is on it, where it is kept by a rule
)

# What is said about a list; the last row counts.
list_notes = Table(
    "list_notes",
    metadata,
    Column("id", Integer, primary_key=True),
    batch_column(),
    Column("list", Integer, ForeignKey("lists.number"), nullable=False),
    Column("title", Text, nullable=False),
    Column("description", Text, nullable=False),
    Column("archived", Boolean, nullable=False),
    Column("who", Text, nullable=False),
)

members = table_of(kinds.MEMBERS, metadata)

# What a tag of a source means, beside the mapping that ships; the last row
# for a tag and template counts.
mappings = Table(
    "mappings",
    metadata,
    Column("id", Integer, primary_key=True),
    batch_column(),
    Column("source", Text, nullable=False),
    Column("tag", Text, nullable=False),
    Column("template", Text),
    Column("item", Text, nullable=False),
    Column("sign", Integer, nullable=False),
    Column("power", Integer, nullable=False),
    Column("unit", Text),
    Column("who", Text, nullable=False),
    Column("why", Text, nullable=False),
)

# Items that people register; the last row of an item counts.
item_definitions = Table(
    "item_definitions",
    metadata,
    Column("id", Integer, primary_key=True),
    batch_column(),
    Column("item", Integer, ForeignKey("items.number"), nullable=False),
    Column("title", Text, nullable=False),
    Column("nature", Text, nullable=False),
    Column("unit", Text, nullable=False),
    Column("definition", Text, nullable=False),
    Column("told_by", Text, nullable=False),  # where its figures come from, in words
    Column("stale_after", Integer),  # days
    Column("who", Text, nullable=False),
)

# What a check found wrong with a fact (Q1); a hard one keeps it from being used.
findings = Table(
    "findings",
    metadata,
    Column("id", Integer, primary_key=True),
    batch_column(),
    Column("fact", Integer, ForeignKey("facts.id"), nullable=False),
    Column("check", Text, nullable=False),
    Column("hard", Boolean, nullable=False),
    Column("detail", Text, nullable=False),
)

# What a person said of a fact in quarantine (Q2); the last word counts.
verdicts = Table(
    "verdicts",
    metadata,
    Column("id", Integer, primary_key=True),
    batch_column(),
    Column("fact", Integer, ForeignKey("facts.id"), nullable=False),
    Column("accepted", Boolean, nullable=False),
    Column("who", Text, nullable=False),
    Column("why", Text, nullable=False),
)

# Which source goes before which, as people said; the last row of an item and company counts.
source_orders = Table(
    "source_orders",
    metadata,
    Column("id", Integer, primary_key=True),
    batch_column(),
    Column("item", Text),
    Column("company", Integer, ForeignKey("companies.number")),
    # names, parted by blanks; none takes an earlier word back
    Column("sources", Text, nullable=False),
    Column("who", Text, nullable=False),
    Column("why", Text, nullable=False),
)

# The limits that people set, in days; the last row of a name and source counts.
limits = Table(
    "limits",
    metadata,
    Column("id", Integer, primary_key=True),
    batch_column(),
    Column("name", Text, nullable=False),
    Column("source", Integer, ForeignKey("sources.number")),  # none: of all
    Column("days", Integer),  # none takes an earlier word back
    Column("who", Text, nullable=False),
    Column("why", Text, nullable=False),
)

rates = table_of(kinds.RATES, metadata)  # units of quote for one base

splits = table_of(kinds.SPLITS, metadata)

venues = table_of(kinds.VENUES, metadata)

venue_words = table_of(kinds.VENUE_WORDS, metadata)  # by which people also call venues

dividends = table_of(kinds.DIVIDENDS, metadata)  # a share

delistings = table_of(kinds.DELISTINGS, metadata)

shares = table_of(kinds.SHARES, metadata)  # outstanding

# on prices, levels and rates in quarantine
market_verdicts = table_of(kinds.MARKET_VERDICTS, metadata)

series = Table(  # economic ones, by key
    "series",
    metadata,
    Column("number", Integer, primary_key=True),
    batch_column(),
    Column("key", Text, nullable=False, unique=True),
)

series_bases = Table(  # what an index is 100 for, such as 2015=100
    "series_bases",
    metadata,
    Column("number", Integer, primary_key=True),
    batch_column(),
    Column("base", Text, nullable=False, unique=True),
)

series_attributes = table_of(kinds.SERIES_ATTRIBUTES, metadata)

# What people keep under names.
series_sheets = table_of(kinds.SERIES_SHEETS, metadata)
measures = table_of(kinds.MEASURES, metadata)
questions = table_of(kinds.QUESTIONS, metadata)

receipt_ratios = table_of(kinds.RECEIPT_RATIOS, metadata)  # that are others than the first

contributors = Table(  # to estimates: houses of analysts
    "contributors",
    metadata,
    Column("number", Integer, primary_key=True),
    batch_column(),
    Column("name", Text, nullable=False, unique=True),
)

# The share basis (M3) of the few facts whose source states it; the others'
# is that of their publication.
share_bases = Table(
    "share_bases",
    metadata,
    Column("id", Integer, primary_key=True),
    batch_column(),
    Column("fact", Integer, ForeignKey("facts.id"), nullable=False),
    Column("basis_date", Integer, nullable=False),
)

# Records that are kept as columns, so many rows of one kind, source and
# batch in each: see blocks.py.
blocks = Table(
    "blocks",
    metadata,
    Column("id", Integer, primary_key=True),
    batch_column(),
    Column("kind", Text, nullable=False),
    _source(),
    Column("low", Integer, nullable=False),  # of what they are: the least number, and the greatest
    Column("high", Integer, nullable=False),
    Column("first_day", Integer, nullable=False),
    Column("last_day", Integer, nullable=False),
    Column("rows", Integer, nullable=False),
    Column("sha256", Text, nullable=False),  # of the payload
    Column("payload", LargeBinary, nullable=False),
    Index("blocks_by_kind", "kind", "batch"),
)

# Append-only, and every row belongs to a batch. In the order of the hash.
LEDGER = (
    sources, items, companies, documents, facts, attributes, securities, listings, identifiers, lists, members,
    decisions, list_notes, mappings, item_definitions, findings,
    verdicts, source_orders, rates, splits, share_bases, venues, venue_words, blocks,
    dividends, delistings, shares, contributors, market_verdicts,
    series, series_bases, series_attributes, series_sheets, receipt_ratios, measures, questions,
    limits,
)  # fmt: skip

# Rows are looked for by what they point to whenever that is written: a batch's own row comes last.
for _table in LEDGER:
    if _table is not facts:
        Index(f"{_table.name}_by_batch", _table.c.batch)
for _column in (
    attributes.c.company,
    identifiers.c.company,
    identifiers.c.security,
    securities.c.company,
    listings.c.security,
    members.c.list,
    members.c.company,
    decisions.c.company,
    list_notes.c.list,
    item_definitions.c.item,
    findings.c.fact,
    verdicts.c.fact,
    source_orders.c.company,
    splits.c.security,
    share_bases.c.fact,
    dividends.c.security,
    delistings.c.listing,
    shares.c.security,
    series_attributes.c.series,
    receipt_ratios.c.security,
):
    Index(f"{_column.table.name}_of_{_column.name}", _column)
