"""Mappings that people say; runs that can be paused and told apart; schedules, digests, deliveries."""

from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

_STATEMENTS = """
CREATE TABLE mappings (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  source TEXT NOT NULL, tag TEXT NOT NULL, template TEXT, item TEXT NOT NULL, sign INTEGER NOT NULL,
  power INTEGER NOT NULL, unit TEXT, who TEXT NOT NULL, why TEXT NOT NULL);
ALTER TABLE runs ADD COLUMN asked TEXT NOT NULL DEFAULT '{}';
ALTER TABLE runs ADD COLUMN batch INTEGER;
ALTER TABLE runs ADD COLUMN requests INTEGER NOT NULL DEFAULT 0;
ALTER TABLE runs ADD COLUMN bytes INTEGER NOT NULL DEFAULT 0;
ALTER TABLE runs ADD COLUMN schedule INTEGER;
ALTER TABLE outcomes ADD COLUMN batch INTEGER;
CREATE TABLE source_state (source TEXT NOT NULL, name TEXT NOT NULL, value TEXT NOT NULL,
  PRIMARY KEY (source, name));
CREATE TABLE unmapped (document INTEGER NOT NULL REFERENCES documents (number), tag TEXT NOT NULL,
  company INTEGER NOT NULL REFERENCES companies (number), PRIMARY KEY (document, tag));
CREATE INDEX unmapped_by_tag ON unmapped (tag);
CREATE TABLE schedules (id INTEGER NOT NULL PRIMARY KEY, name TEXT NOT NULL UNIQUE, asked TEXT NOT NULL,
  timing TEXT NOT NULL, notify TEXT NOT NULL, who TEXT NOT NULL, paused BOOLEAN NOT NULL, created_at BIGINT NOT NULL,
  next_at BIGINT);
CREATE TABLE digests (run INTEGER NOT NULL PRIMARY KEY REFERENCES runs (id), made_at BIGINT NOT NULL,
  content TEXT NOT NULL);
CREATE TABLE deliveries (id INTEGER NOT NULL PRIMARY KEY, run INTEGER NOT NULL REFERENCES runs (id),
  channel TEXT NOT NULL, target TEXT NOT NULL, state TEXT NOT NULL, reason TEXT NOT NULL, tries INTEGER NOT NULL,
  ended_at BIGINT NOT NULL)
"""


# Each batch's own row is written last. Until then rows point to a batch that is not there, and whenever a row is
# written that others may point to, SQLite looks for those: by an index, not a scan.
_BY_BATCH = ("facts", "documents", "companies", "attributes", "securities", "listings", "identifiers", "members",
             "mappings", "items", "decisions", "lists", "list_notes", "sources")  # fmt: skip

_BY_PARENT = {
    "facts": ("document",),
    "attributes": ("company",),
    "identifiers": ("company", "security"),
    "securities": ("company",),
    "listings": ("security",),
    "members": ("list", "company"),
    "decisions": ("company",),
    "list_notes": ("list",),
    "unmapped": ("company",),
}


def upgrade() -> None:
    for statement in _STATEMENTS.split(";"):
        op.execute(statement.strip())
    for table in ("mappings",):
        for verb in ("UPDATE", "DELETE"):
            op.execute(
                f"CREATE TRIGGER {table}_no_{verb.lower()} BEFORE {verb} ON {table} "
                f"BEGIN SELECT RAISE(ABORT, 'the ledger is append-only: {table} takes no {verb}'); END"
            )
    op.execute("DROP INDEX facts_by_company")  # `facts_same` begins with the same columns
    for table in _BY_BATCH:
        op.execute(f"CREATE INDEX {table}_by_batch ON {table} (batch)")
    for table, columns in _BY_PARENT.items():
        for column in columns:
            op.execute(f"CREATE INDEX {table}_of_{column} ON {table} ({column})")
