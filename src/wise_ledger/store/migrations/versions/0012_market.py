"""Dividends, delistings and shares outstanding."""

from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None

_HEAD = "id INTEGER NOT NULL PRIMARY KEY, batch INTEGER NOT NULL REFERENCES batches (number)"
_SOURCE = "source INTEGER NOT NULL REFERENCES sources (number)"
_SECURITY = "security INTEGER NOT NULL REFERENCES securities (number)"
_TABLES = {
    "dividends": ("security", f"""
CREATE TABLE dividends ({_HEAD}, {_SECURITY}, ex_date INTEGER NOT NULL, amount FLOAT, currency TEXT,
  kind TEXT NOT NULL, published_at BIGINT, {_SOURCE})"""),
    "delistings": ("listing", f"""
CREATE TABLE delistings ({_HEAD}, listing INTEGER NOT NULL REFERENCES listings (number), date INTEGER NOT NULL,
  cause TEXT NOT NULL, final_return FLOAT, published_at BIGINT, {_SOURCE})"""),
    "shares": ("security", f"""
CREATE TABLE shares ({_HEAD}, {_SECURITY}, date INTEGER NOT NULL, shares_outstanding FLOAT NOT NULL,
  published_at BIGINT, {_SOURCE})"""),
}  # fmt: skip


def upgrade() -> None:
    for table, (owner, made) in _TABLES.items():
        op.execute(made.strip())
        for verb in ("UPDATE", "DELETE"):
            op.execute(
                f"CREATE TRIGGER {table}_no_{verb.lower()} BEFORE {verb} ON {table} "
                f"BEGIN SELECT RAISE(ABORT, 'the ledger is append-only: {table} takes no {verb}'); END"
            )
        op.execute(f"CREATE INDEX {table}_by_batch ON {table} (batch)")
        op.execute(f"CREATE INDEX {table}_of_{owner} ON {table} ({owner})")
