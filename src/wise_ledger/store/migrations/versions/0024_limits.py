"""Limits that people set: when a figure is stale, the lags of assumed publications and the like."""

from alembic import op

revision = "0024"
down_revision = "0023"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "CREATE TABLE limits (id INTEGER NOT NULL PRIMARY KEY,"
        " batch INTEGER NOT NULL REFERENCES batches (number) DEFERRABLE INITIALLY DEFERRED,"
        " name TEXT NOT NULL, source INTEGER REFERENCES sources (number), days INTEGER,"
        " who TEXT NOT NULL, why TEXT NOT NULL)"
    )
    for verb in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER limits_no_{verb.lower()} BEFORE {verb} ON limits "
            f"BEGIN SELECT RAISE(ABORT, 'the ledger is append-only: limits takes no {verb}'); END"
        )
    op.execute("CREATE INDEX limits_by_batch ON limits (batch)")
