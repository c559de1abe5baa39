"""Extracts: panels written to files that are kept for a time."""

from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        """
CREATE TABLE extracts (id TEXT NOT NULL PRIMARY KEY, title TEXT NOT NULL, asked TEXT NOT NULL, format TEXT NOT NULL,
  state TEXT NOT NULL, done INTEGER NOT NULL, total INTEGER NOT NULL, rows INTEGER NOT NULL, size INTEGER NOT NULL,
  problem TEXT NOT NULL, asked_at BIGINT NOT NULL, kept_until BIGINT)
""".strip()
    )
