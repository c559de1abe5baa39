"""Splits of securities."""

from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

_TABLE = """
CREATE TABLE splits (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  security INTEGER NOT NULL REFERENCES securities (number), ex_date INTEGER NOT NULL, ratio FLOAT NOT NULL,
  published_at BIGINT, source INTEGER NOT NULL REFERENCES sources (number))
"""


def upgrade() -> None:
    op.execute(_TABLE.strip())
    for verb in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER splits_no_{verb.lower()} BEFORE {verb} ON splits "
            f"BEGIN SELECT RAISE(ABORT, 'the ledger is append-only: splits takes no {verb}'); END"
        )
    op.execute("CREATE INDEX splits_by_batch ON splits (batch)")
    op.execute("CREATE INDEX splits_of_security ON splits (security)")
