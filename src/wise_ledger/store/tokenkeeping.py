"""Tokens as they are kept: their hashes, when they end, when they were last used."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import Connection, insert, select, update

from wise_ledger.core.time.instants import as_instant, micros
from wise_ledger.store.statetables import tokens


@dataclass(frozen=True)
class Token:
    """A token: whose it is, its hash, its life."""

    id: str
    name: str
    hash: str
    created_at: datetime
    expires_at: datetime | None = None
    revoked_at: datetime | None = None
    last_used_at: datetime | None = None

    def holds(self, now: datetime) -> bool:
        """Whether it opens the door."""
        return self.revoked_at is None and (self.expires_at is None or now < self.expires_at)


def add(connection: Connection, token: Token) -> None:
    """Keep a new token's hash."""
    ends = None if token.expires_at is None else micros(token.expires_at)
    values = {
        "id": token.id,
        "name": token.name,
        "hash": token.hash,
        "created_at": micros(token.created_at),
    }
    connection.execute(insert(tokens).values(**values, expires_at=ends))


def find(connection: Connection, id_: str) -> Token | None:
    """The token of this id."""
    row = connection.execute(select(tokens).where(tokens.c.id == id_)).first()
    return None if row is None else _read(row)


def every(connection: Connection) -> list[Token]:
    """All tokens, the newest first."""
    return [
        _read(row)
        for row in connection.execute(
            select(tokens).order_by(tokens.c.created_at.desc(), tokens.c.id)
        )
    ]


def revoke(connection: Connection, id_: str, now: datetime) -> None:
    """End a token, if it has not ended so before."""
    connection.execute(
        update(tokens)
        .where(tokens.c.id == id_, tokens.c.revoked_at.is_(None))
        .values(revoked_at=micros(now))
    )


def used(connection: Connection, last: Mapping[str, datetime]) -> None:
    """Keep when tokens were last used."""
    for id_, at in last.items():
        connection.execute(update(tokens).where(tokens.c.id == id_).values(last_used_at=micros(at)))


def _read(row: Any) -> Token:
    at = {n: None if getattr(row, n) is None else as_instant(getattr(row, n)) for n in _INSTANTS}
    return Token(row.id, row.name, row.hash, **at)


_INSTANTS = ("created_at", "expires_at", "revoked_at", "last_used_at")
