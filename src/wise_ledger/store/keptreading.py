"""Reading what people keep under names: sheets, measures, questions."""

from typing import Any

from sqlalchemy import Connection, select

from wise_ledger.core.records.kinds import RecordKind
from wise_ledger.store import tables


def kept(connection: Connection, kind: RecordKind, batch: int) -> list[Any]:
    """Every version of everything of a kind, in order of recording, with its batch and when that was recorded."""
    t, b = tables.metadata.tables[kind.name], tables.batches
    query = select(t, b.c.recorded_at).join(b, b.c.number == t.c.batch).where(t.c.batch <= batch).order_by(t.c.id)
    return list(connection.execute(query))
