"""Venues and what they are called; rates may say when they were published, a split may be taken back."""

from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None

_TABLES = {
    "venues": """
CREATE TABLE venues (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  mic TEXT NOT NULL, name TEXT NOT NULL, country TEXT NOT NULL, time_zone TEXT NOT NULL, "close" TEXT NOT NULL,
  valid_from INTEGER NOT NULL, source INTEGER NOT NULL REFERENCES sources (number))
""",
    "venue_words": """
CREATE TABLE venue_words (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  word TEXT NOT NULL, mic TEXT, who TEXT NOT NULL)
""",
}


def upgrade() -> None:
    op.execute("ALTER TABLE rates ADD COLUMN published_at BIGINT")
    for table, made in _TABLES.items():
        op.execute(made.strip())
        for verb in ("UPDATE", "DELETE"):
            op.execute(
                f"CREATE TRIGGER {table}_no_{verb.lower()} BEFORE {verb} ON {table} "
                f"BEGIN SELECT RAISE(ABORT, 'the ledger is append-only: {table} takes no {verb}'); END"
            )
        op.execute(f"CREATE INDEX {table}_by_batch ON {table} (batch)")
    # A constraint is taken out of a table's text without touching its rows (https://sqlite.org/lang_altertable.html).
    version = op.get_bind().exec_driver_sql("PRAGMA schema_version").scalar()
    op.execute("PRAGMA writable_schema = ON")
    op.get_bind().exec_driver_sql(
        "UPDATE sqlite_master SET sql = replace(sql, 'ratio FLOAT NOT NULL', 'ratio FLOAT')"
        " WHERE type = 'table' AND name = 'splits'"
    )
    op.execute(f"PRAGMA schema_version = {int(version or 0) + 1}")
    op.execute("PRAGMA writable_schema = OFF")
