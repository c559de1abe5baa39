"""Ratios of receipts that are others than the first."""

from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        """
CREATE TABLE receipt_ratios (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  security INTEGER NOT NULL REFERENCES securities (number), valid_from INTEGER NOT NULL, ratio FLOAT NOT NULL,
  published_at BIGINT, source INTEGER NOT NULL REFERENCES sources (number))
""".strip()
    )
    for verb in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER receipt_ratios_no_{verb.lower()} BEFORE {verb} ON receipt_ratios "
            f"BEGIN SELECT RAISE(ABORT, 'the ledger is append-only: receipt_ratios takes no {verb}'); END"
        )
    for column in ("batch", "security"):
        name = "by_batch" if column == "batch" else "of_security"
        op.execute(f"CREATE INDEX receipt_ratios_{name} ON receipt_ratios ({column})")
