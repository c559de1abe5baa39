"""What people say of prices, levels and rates in quarantine."""

from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        """
CREATE TABLE market_verdicts (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  kind TEXT NOT NULL, subject TEXT NOT NULL, date INTEGER NOT NULL, accepted BOOLEAN NOT NULL, who TEXT NOT NULL,
  why TEXT NOT NULL)
""".strip()
    )
    for verb in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER market_verdicts_no_{verb.lower()} BEFORE {verb} ON market_verdicts "
            f"BEGIN SELECT RAISE(ABORT, 'the ledger is append-only: market_verdicts takes no {verb}'); END"
        )
    op.execute("CREATE INDEX market_verdicts_by_batch ON market_verdicts (batch)")
