"""Tokens that end, and when each was last used."""

from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE tokens ADD COLUMN expires_at BIGINT")
    op.execute("ALTER TABLE tokens ADD COLUMN last_used_at BIGINT")
