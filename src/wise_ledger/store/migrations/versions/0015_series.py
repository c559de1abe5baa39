"""Economic series, what is said of them, and kept sheets of them."""

from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None

_TABLES = {
    "series": "number INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),"
    " key TEXT NOT NULL UNIQUE",
    "series_bases": "number INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),"
    " base TEXT NOT NULL UNIQUE",
    "series_attributes": "id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),"
    " series INTEGER NOT NULL REFERENCES series (number), name TEXT NOT NULL, value TEXT NOT NULL,"
    " published_at BIGINT NOT NULL, source INTEGER NOT NULL REFERENCES sources (number)",
    "series_sheets": "id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number),"
    " name TEXT NOT NULL, title TEXT NOT NULL, description TEXT NOT NULL, content TEXT NOT NULL,"
    " archived BOOLEAN NOT NULL, who TEXT NOT NULL",
}


def upgrade() -> None:
    for table, columns in _TABLES.items():
        op.execute(f"CREATE TABLE {table} ({columns})")
        for verb in ("UPDATE", "DELETE"):
            op.execute(
                f"CREATE TRIGGER {table}_no_{verb.lower()} BEFORE {verb} ON {table} "
                f"BEGIN SELECT RAISE(ABORT, 'the ledger is append-only: {table} takes no {verb}'); END"
            )
        op.execute(f"CREATE INDEX {table}_by_batch ON {table} (batch)")
    op.execute("CREATE INDEX series_attributes_of_series ON series_attributes (series)")
