"""Facts no longer declare what they point to: it is looked up once for each number that a batch names, not row by row.

Whoever writes them makes sure of it, and `verify` does so again.
"""

from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None


def upgrade() -> None:
    # A constraint is taken out of a table's text without touching its rows (https://sqlite.org/lang_altertable.html).
    bind = op.get_bind()
    version = bind.exec_driver_sql("PRAGMA schema_version").scalar()
    bind.exec_driver_sql("PRAGMA writable_schema = ON")
    for table in ("companies", "items", "sources"):
        bind.exec_driver_sql(
            "UPDATE sqlite_master SET sql = replace(sql, ?, '') WHERE type = 'table' AND name = 'facts'",
            (f" REFERENCES {table} (number)",),
        )
    bind.exec_driver_sql(f"PRAGMA schema_version = {int(version or 0) + 1}")
    bind.exec_driver_sql("PRAGMA writable_schema = OFF")
