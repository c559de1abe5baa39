"""Rates between currencies."""

from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

_TABLE = """
CREATE TABLE rates (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  source INTEGER NOT NULL REFERENCES sources (number), base TEXT NOT NULL, quote TEXT NOT NULL, date INTEGER NOT NULL,
  rate FLOAT NOT NULL)
"""


def upgrade() -> None:
    op.execute(_TABLE.strip())
    for verb in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER rates_no_{verb.lower()} BEFORE {verb} ON rates "
            f"BEGIN SELECT RAISE(ABORT, 'the ledger is append-only: rates takes no {verb}'); END"
        )
    op.execute("CREATE INDEX rates_by_batch ON rates (batch)")
