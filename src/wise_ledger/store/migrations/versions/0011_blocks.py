"""Records that are kept as columns, such as prices."""

from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        """
CREATE TABLE blocks (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  kind TEXT NOT NULL, source INTEGER NOT NULL REFERENCES sources (number), low INTEGER NOT NULL,
  high INTEGER NOT NULL, first_day INTEGER NOT NULL, last_day INTEGER NOT NULL, rows INTEGER NOT NULL,
  sha256 TEXT NOT NULL, payload BLOB NOT NULL)
""".strip()
    )
    for verb in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER blocks_no_{verb.lower()} BEFORE {verb} ON blocks "
            f"BEGIN SELECT RAISE(ABORT, 'the ledger is append-only: blocks takes no {verb}'); END"
        )
    op.execute("CREATE INDEX blocks_by_batch ON blocks (batch)")
    op.execute("CREATE INDEX blocks_by_kind ON blocks (kind, batch)")
