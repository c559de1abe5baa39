"""What checks found, and what people said of it."""

from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

_TABLES = """
CREATE TABLE findings (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  fact INTEGER NOT NULL REFERENCES facts (id), "check" TEXT NOT NULL, hard BOOLEAN NOT NULL, detail TEXT NOT NULL);
CREATE TABLE verdicts (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  fact INTEGER NOT NULL REFERENCES facts (id), accepted BOOLEAN NOT NULL, who TEXT NOT NULL, why TEXT NOT NULL)
"""


def upgrade() -> None:
    for statement in _TABLES.split(";"):
        op.execute(statement.strip())
    for table in ("findings", "verdicts"):
        for verb in ("UPDATE", "DELETE"):
            op.execute(
                f"CREATE TRIGGER {table}_no_{verb.lower()} BEFORE {verb} ON {table} "
                f"BEGIN SELECT RAISE(ABORT, 'the ledger is append-only: {table} takes no {verb}'); END"
            )
        op.execute(f"CREATE INDEX {table}_by_batch ON {table} (batch)")
        op.execute(f"CREATE INDEX {table}_of_fact ON {table} (fact)")
