"""Items that people register."""

from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

_TABLE = """
CREATE TABLE item_definitions (id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),
  item INTEGER NOT NULL REFERENCES items (number), title TEXT NOT NULL, nature TEXT NOT NULL, unit TEXT NOT NULL,
  definition TEXT NOT NULL, told_by TEXT NOT NULL, stale_after INTEGER, who TEXT NOT NULL)
"""


def upgrade() -> None:
    op.execute(_TABLE.strip())
    for verb in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER item_definitions_no_{verb.lower()} BEFORE {verb} ON item_definitions "
            f"BEGIN SELECT RAISE(ABORT, 'the ledger is append-only: item_definitions takes no {verb}'); END"
        )
    op.execute("CREATE INDEX item_definitions_by_batch ON item_definitions (batch)")
    op.execute("CREATE INDEX item_definitions_of_item ON item_definitions (item)")
