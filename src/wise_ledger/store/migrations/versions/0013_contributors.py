"""Contributors to estimates."""

from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        """
CREATE TABLE contributors (number INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  name TEXT NOT NULL UNIQUE)
""".strip()
    )
    for verb in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER contributors_no_{verb.lower()} BEFORE {verb} ON contributors "
            f"BEGIN SELECT RAISE(ABORT, 'the ledger is append-only: contributors takes no {verb}'); END"
        )
    op.execute("CREATE INDEX contributors_by_batch ON contributors (batch)")
