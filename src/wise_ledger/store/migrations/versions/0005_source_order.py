"""Which source goes before which."""

from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

_TABLE = """
CREATE TABLE source_orders (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  item TEXT, company INTEGER REFERENCES companies (number), sources TEXT NOT NULL, who TEXT NOT NULL, why TEXT NOT NULL)
"""


def upgrade() -> None:
    op.execute(_TABLE.strip())
    for verb in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER source_orders_no_{verb.lower()} BEFORE {verb} ON source_orders "
            f"BEGIN SELECT RAISE(ABORT, 'the ledger is append-only: source_orders takes no {verb}'); END"
        )
    op.execute("CREATE INDEX source_orders_by_batch ON source_orders (batch)")
    op.execute("CREATE INDEX source_orders_of_company ON source_orders (company)")
