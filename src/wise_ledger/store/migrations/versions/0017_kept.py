"""Measures and questions that people keep."""

from alembic import op

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for table in ("measures", "questions"):
        op.execute(
            f"CREATE TABLE {table} (id INTEGER NOT NULL PRIMARY KEY,"
            " batch INTEGER NOT NULL REFERENCES batches (number), name TEXT NOT NULL, title TEXT NOT NULL,"
            " description TEXT NOT NULL, content TEXT NOT NULL, archived BOOLEAN NOT NULL, who TEXT NOT NULL)"
        )
        for verb in ("UPDATE", "DELETE"):
            op.execute(
                f"CREATE TRIGGER {table}_no_{verb.lower()} BEFORE {verb} ON {table} "
                f"BEGIN SELECT RAISE(ABORT, 'the ledger is append-only: {table} takes no {verb}'); END"
            )
        op.execute(f"CREATE INDEX {table}_by_batch ON {table} (batch)")
