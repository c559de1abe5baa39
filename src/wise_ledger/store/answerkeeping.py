"""What calls with an `Idempotency-Key` were answered: by the digest of who asked and their key."""

from typing import Any

from sqlalchemy import Connection, delete, select

from wise_ledger.store.rowwriting import insert_rows
from wise_ledger.store.statetables import answers


def find_answer(connection: Connection, key: bytes, now: int) -> Any:
    """The row of a key whose time is not over; None where there is none."""
    kept = select(answers).where(answers.c.key == key, answers.c.kept_until >= now)
    return connection.execute(kept).one_or_none()


def keep_answer(
    connection: Connection,
    key: bytes,
    asked: bytes,
    answer: tuple[int, str, bytes],
    kept_until: int,
) -> None:
    """Keep one, in the place of what was kept of the same key."""
    insert_rows(connection, answers, [(key, asked, *answer, kept_until)], "REPLACE")


def let_go_of_answers(connection: Connection, now: int, most: int) -> None:
    """Forget those whose time is over, and of the others all but the newest."""
    newest = select(answers.c.key).order_by(answers.c.kept_until.desc()).limit(most)
    connection.execute(
        delete(answers).where((answers.c.kept_until < now) | answers.c.key.not_in(newest))
    )
