"""The tables of the service's own state, which is no part of the ledger and changes."""

from sqlalchemy import (
    BigInteger,
    Boolean,
    Column,
    ForeignKey,
    Index,
    Integer,
    LargeBinary,
    Table,
    Text,
    text,
)

from wise_ledger.store.tables import metadata

tokens = Table(
    "tokens",
    metadata,
    Column("id", Text, primary_key=True),
    Column("name", Text, nullable=False),
    Column("hash", Text, nullable=False),
    Column("created_at", BigInteger, nullable=False),
    Column("revoked_at", BigInteger),
    Column("expires_at", BigInteger),
    Column("last_used_at", BigInteger),
)

runs = Table(
    "runs",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("kind", Text, nullable=False),
    Column("source", Text, nullable=False),
    Column("list", Text),
    Column("request_key", Text, unique=True),  # the caller's Idempotency-Key
    Column("state", Text, nullable=False),
    Column("problem", Text),
    Column("total", Integer),
    Column("created_at", BigInteger, nullable=False),
    Column("ended_at", BigInteger),
    Column("asked", Text, nullable=False, server_default=text("'{}'")),  # JSON
    Column("batch", Integer),  # the one that described companies and lists
    Column("requests", Integer, nullable=False, server_default=text("0")),
    Column("bytes", Integer, nullable=False, server_default=text("0")),
    Column("schedule", Integer),
    Column("title", Text, nullable=False, server_default=text("''")),  # of what is no collection
    # of its total, where it has no outcomes
    Column("done", Integer, nullable=False, server_default=text("0")),
)

outcomes = Table(
    "outcomes",
    metadata,
    Column("run", Integer, ForeignKey("runs.id"), primary_key=True),
    Column("subject", Text, primary_key=True),
    Column("company", Text),
    Column("state", Text, nullable=False),
    Column("reason", Text, nullable=False),
    Column("facts", Integer, nullable=False),
    Column("tries", Integer, nullable=False),
    Column("ended_at", BigInteger, nullable=False),
    Column("batch", Integer),
)

# What is remembered of a source between runs: marks to ask from, requests of the day.
source_state = Table(
    "source_state",
    metadata,
    Column("source", Text, primary_key=True),
    Column("name", Text, primary_key=True),
    Column("value", Text, nullable=False),
)

# Tags of kept documents that no item is known for; derived from the documents.
unmapped = Table(
    "unmapped",
    metadata,
    Column("document", Integer, ForeignKey("documents.number"), primary_key=True),
    Column("tag", Text, primary_key=True),
    Column("company", Integer, ForeignKey("companies.number"), nullable=False),
    Index("unmapped_by_tag", "tag"),
)

schedules = Table(
    "schedules",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("name", Text, nullable=False, unique=True),
    Column("asked", Text, nullable=False),  # JSON
    Column("timing", Text, nullable=False),  # JSON
    Column("notify", Text, nullable=False),  # JSON
    Column("who", Text, nullable=False),
    Column("paused", Boolean, nullable=False),
    Column("created_at", BigInteger, nullable=False),
    Column("next_at", BigInteger),
)

extracts = Table(  # panels written to files
    "extracts",
    metadata,
    Column("id", Text, primary_key=True),
    Column("title", Text, nullable=False),
    Column("asked", Text, nullable=False),  # JSON
    Column("format", Text, nullable=False),
    Column("state", Text, nullable=False),
    Column("done", Integer, nullable=False),
    Column("total", Integer, nullable=False),
    Column("rows", Integer, nullable=False),
    Column("size", Integer, nullable=False),
    Column("problem", Text, nullable=False),
    Column("asked_at", BigInteger, nullable=False),
    Column("kept_until", BigInteger),
)

answers = Table(  # to calls with an Idempotency-Key
    "answers",
    metadata,
    Column("key", LargeBinary, primary_key=True),
    Column("asked", LargeBinary, nullable=False),
    Column("status", Integer, nullable=False),
    Column("headers", Text, nullable=False),  # JSON
    Column("body", LargeBinary, nullable=False),
    Column("kept_until", BigInteger, nullable=False),
)

digests = Table(
    "digests",
    metadata,
    Column("run", Integer, ForeignKey("runs.id"), primary_key=True),
    Column("made_at", BigInteger, nullable=False),
    Column("content", Text, nullable=False),  # JSON
)

deliveries = Table(
    "deliveries",
    metadata,
    Column("id", Integer, primary_key=True),
    Column("run", Integer, ForeignKey("runs.id"), nullable=False),
    Column("channel", Text, nullable=False),
    Column("target", Text, nullable=False),
    Column("state", Text, nullable=False),
    Column("reason", Text, nullable=False),
    Column("tries", Integer, nullable=False),
    Column("ended_at", BigInteger, nullable=False),
)

Index("unmapped_of_company", unmapped.c.company)
