"""Extracts: what was asked for, how far it is, and until when its file is kept."""

from typing import Any

from sqlalchemy import Connection, delete, insert, select, update

from wise_ledger.store.statetables import extracts


def add_extract(connection: Connection, **values: Any) -> None:
    """Keep a new one."""
    connection.execute(insert(extracts).values(**values))


def set_extract(connection: Connection, id_: str, **values: Any) -> None:
    """Say how far one is."""
    connection.execute(update(extracts).where(extracts.c.id == id_).values(**values))


def drop_extract(connection: Connection, id_: str) -> None:
    """Forget one."""
    connection.execute(delete(extracts).where(extracts.c.id == id_))


def all_extracts(connection: Connection) -> list[Any]:
    """All of them, the newest first."""
    return list(
        connection.execute(select(extracts).order_by(extracts.c.asked_at.desc(), extracts.c.id))
    )
