"""Facts take half the room: packed documents, one lean index by company in the place of two wide ones.

The rows of a batch lie together, since ids are given out in order: they are found by their ids, without an index by
batch. A batch's own row comes last, so that every new row it points to would be searched for in all facts: they no
longer declare what they point to, the hash chain holds them together. What makes two facts the same (T8) is looked up
by the one writer there is.
"""

from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None

_POINTS = (
    "batch INTEGER NOT NULL REFERENCES batches (number)",
    "document INTEGER NOT NULL REFERENCES documents (number)",
)


def upgrade() -> None:
    op.execute("ALTER TABLE documents ADD COLUMN unpacked_size INTEGER")
    for index in ("facts_same", "facts_by_batch", "facts_of_document"):
        op.execute(f"DROP INDEX IF EXISTS {index}")
    op.execute("CREATE INDEX facts_of_company ON facts (company, period_end)")
    # A constraint is taken out of a table's text without touching its rows (https://sqlite.org/lang_altertable.html).
    version = op.get_bind().exec_driver_sql("PRAGMA schema_version").scalar()
    op.execute("PRAGMA writable_schema = ON")
    for declared in _POINTS:
        plain = declared.partition(" REFERENCES")[0]
        op.get_bind().exec_driver_sql(
            "UPDATE sqlite_master SET sql = replace(sql, ?, ?) WHERE type = 'table' AND name = 'facts'",
            (declared, plain),
        )
    op.execute(f"PRAGMA schema_version = {int(version or 0) + 1}")
    op.execute("PRAGMA writable_schema = OFF")
