"""The share basis of figures whose source states it."""

from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

_TABLE = """
CREATE TABLE share_bases (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  fact INTEGER NOT NULL REFERENCES facts (id), basis_date INTEGER NOT NULL)
"""


def upgrade() -> None:
    op.execute(_TABLE.strip())
    for verb in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER share_bases_no_{verb.lower()} BEFORE {verb} ON share_bases "
            f"BEGIN SELECT RAISE(ABORT, 'the ledger is append-only: share_bases takes no {verb}'); END"
        )
    op.execute("CREATE INDEX share_bases_by_batch ON share_bases (batch)")
    op.execute("CREATE INDEX share_bases_of_fact ON share_bases (fact)")
