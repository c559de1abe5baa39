"""What calls with a key were answered, kept for a day: a call that is made again after a restart
makes nothing twice either.
"""

import json
from datetime import timedelta
from typing import NamedTuple

from wise_ledger.core.time.instants import micros
from wise_ledger.store import answerkeeping as keeping
from wise_ledger.store.ledger import Ledger

KEPT, MOST = timedelta(days=1), 1_000  # for how long, and how many


class Answered(NamedTuple):
    """An answer, and the digest of the call that it is to."""

    asked: bytes
    status: int
    headers: dict[str, str]
    body: bytes


def find(ledger: Ledger, key: bytes) -> Answered | None:
    """What was answered to a key within a day."""
    with ledger.database.read() as connection:
        row = keeping.find_answer(connection, key, micros(ledger.now()))
    return row and Answered(row.asked, row.status, json.loads(row.headers), row.body)


def keep(ledger: Ledger, key: bytes, answered: Answered) -> None:
    """Keep what was answered; what is older than a day is let go."""
    answer = answered.status, json.dumps(answered.headers), answered.body
    with ledger.database.write() as connection:
        keeping.keep_answer(connection, key, answered.asked, answer, micros(ledger.now() + KEPT))
        keeping.let_go_of_answers(connection, micros(ledger.now()), MOST)
