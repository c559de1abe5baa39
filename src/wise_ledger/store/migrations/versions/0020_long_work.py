"""Long work that is no collection: what it is called, and how far it came."""

from alembic import op

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE runs ADD COLUMN title TEXT NOT NULL DEFAULT ''")
    op.execute("ALTER TABLE runs ADD COLUMN done INTEGER NOT NULL DEFAULT 0")
