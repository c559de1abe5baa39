"""Reading what names and describes economic series."""

from sqlalchemy import Connection, select

from wise_ledger.core.dated.attributes import Attribute
from wise_ledger.core.time.instants import DAY
from wise_ledger.store import tables


def series_keys(connection: Connection) -> tuple[str, ...]:
    """The keys of economic series, by number."""
    return tuple(
        connection.execute(select(tables.series.c.key).order_by(tables.series.c.number)).scalars()
    )


def series_bases(connection: Connection) -> tuple[str, ...]:
    """What indices are 100 for, by number."""
    return tuple(
        connection.execute(
            select(tables.series_bases.c.base).order_by(tables.series_bases.c.number)
        ).scalars()
    )


def series_attributes(connection: Connection, batch: int) -> list[Attribute]:
    """What is said of economic series, in order of recording: as attributes of their numbers."""
    t = tables.series_attributes
    rows = connection.execute(select(t).where(t.c.batch <= batch).order_by(t.c.id))
    return [
        Attribute(r.series, r.name, r.value, r.published_at // DAY, r.published_at, r.batch)
        for r in rows
    ]
