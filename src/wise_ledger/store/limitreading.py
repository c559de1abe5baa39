"""The limits that people set, and in SQL what they move."""

from collections.abc import Sequence
from typing import Any

from sqlalchemy import BigInteger, Connection, Row, literal_column, select

from wise_ledger.core.records.limits import Limits, LimitSaid
from wise_ledger.core.time.instants import DAY
from wise_ledger.store import tables


def limits_said(connection: Connection, batch: int) -> Sequence[Row[Any]]:
    """What people said of limits up to a batch, in the order they said it."""
    t = tables.limits
    return connection.execute(select(t).where(t.c.batch <= batch).order_by(t.c.id)).all()


def limits(connection: Connection, batch: int) -> Limits:
    """The limits that stand as of a batch (T7)."""
    said = limits_said(connection, batch)
    return Limits.of([LimitSaid(row.name, row.source, row.days) for row in said])


def published_at(limits: Limits, facts: str = "facts") -> str:
    """In SQL: when a row of `facts` was published, by these limits where that is assumed (T4).

    It says of rows what `Limits.published` says of columns.
    """
    at = f"{facts}.published_at"
    if not limits.moves:
        return at
    # A publication that is assumed is kept as the last instant of a day.
    kept_with = f"({at} + 1) / {DAY} - 1 - {facts}.period_end"
    cases = [f"WHEN NOT {facts}.assumed THEN 0"]
    for lag, source, days in reversed([*limits.shifts()]):  # a source's own go before those of all
        whose = "" if source is None else f" AND {facts}.source = {int(source)}"
        cases.append(f"WHEN {kept_with} = {int(lag)}{whose} THEN {int(days)}")
    return f"({at} + {DAY} * CASE {' '.join(cases)} ELSE 0 END)"


def published_column(limits: Limits) -> Any:
    """The same as a column of the facts."""
    return literal_column(published_at(limits), BigInteger)
