"""Rows may stand before their batch, whose row is written last: foreign keys to it are looked at
when the transaction ends.

Before, each transaction said so by a pragma, after which SQLite compiles every statement again.
What the tables hold does not change, so that their definitions are written anew and not their rows.
"""

from alembic import op

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None

_KEY = "REFERENCES batches (number)"


def upgrade() -> None:
    version = op.get_bind().exec_driver_sql("PRAGMA schema_version").scalar_one()
    op.execute("PRAGMA writable_schema = ON")
    op.execute(
        f"UPDATE sqlite_master SET sql = replace(sql, '{_KEY}', '{_KEY} DEFERRABLE INITIALLY DEFERRED')"
        " WHERE type = 'table'"
    )
    # Whoever has the file open reads the definitions again.
    op.execute(f"PRAGMA schema_version = {version + 1}")
    op.execute("PRAGMA writable_schema = RESET")
