"""What calls with an `Idempotency-Key` were answered, for a day."""

from alembic import op

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "CREATE TABLE answers (key BLOB NOT NULL PRIMARY KEY, asked BLOB NOT NULL,"
        " status INTEGER NOT NULL, headers TEXT NOT NULL, body BLOB NOT NULL,"
        " kept_until BIGINT NOT NULL)"
    )
